"""One colour for each surface from many unlike stills at once.

In the logarithm of cone responses (Bradford) a sample is surface + light of the still + shading. Turned into one
brightness axis and two chromatic ones, shading moves the brightness only, so chroma and hue are told far better than
lightness. Robust least squares (Cauchy weights; Huber 1981) over all stills and surfaces, each still weighted by its
own scatter (variance components; Rao 1970); a contrast (faded print) or a veil (haze, surface reflection) is given to
a still only where the likelihood gains far more by it than an information criterion asks: faint terms on every still
make all worse.
"""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.colour.channel_mixing import DARKEST, tells_mixing, unmixed
from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.joint_values import (
    AXES,
    TERMS,
    JointColours,
    Known,
    Seen,
    StillEstimate,
    SurfaceEstimate,
    Term,
    Vote,
)
from chalkreel.core.colour.still_light import BRADFORD, RGB_TO_CONES
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95

# One sample's own scatter on each axis (1 σ of a logarithm): shading; bounce and patchiness.
SHADING_SIGMA, CHROMA_SIGMA = 0.22, 0.03
# What a still can be believed to scatter at least and at most, as a factor of the above.
LEAST_FACTOR, MOST_FACTOR = 0.5, 6.0
# How far surfaces spread that nothing ties down; the light of a still is all but free.
SURFACE_SIGMA, LIGHT_SIGMA = 1.2, 10.0
CONTRAST_SIGMA, VEIL_SIGMA, MOST_VEIL = 0.35, 0.02, 0.2
# Beside a card that was turned to the light panels catch so much less (a logarithm); beside one that was not, as much.
# Either way give or take what more stills do not lessen: lightness never becomes surer than that (1 σ).
PANEL_SHADE: Final = -0.18
LEAST_SHADING: Final = 0.25
# A surface that shares a facet with a known one on some still is free of most of that.
LEAST_FACED: Final = 0.13
TUNING: Final = 2.4
ROUNDS: Final = 25
# An outlier's distance, in its own σ and in ΔE00.
FAR_SIGMA, FAR_DELTA_E = 2.5, 3.0
# What −2 log likelihood must fall by for a term (the Akaike criterion asks 2).
TERM_COST: Final = 25.0
FEWEST_SAMPLES: Final = 3


def joint_colours(
    samples: tuple[Seen, ...], known: tuple[Known, ...], stills: int, surfaces: int, trust: Array | None = None
) -> JointColours:
    """Estimate all surfaces and lights together; `trust` (stills,) multiplies the scatter expected of each still.

    Raises
    ------
    RefusedError
        No sample, or no surface of known colour anywhere.
    """
    if not samples:
        raise RefusedError("No still shows this surface yet. Sample it on a still.")
    if not known:
        raise RefusedError(
            "No still has a neutral or a known colour yet: mark a grey card, or a surface whose colour you know."
        )
    model = _Model(samples, known, stills, surfaces, np.ones(stills) if trust is None else trust)
    model.solve()
    model.choose_terms()
    return model.result()


class _Model:
    """Unknowns: three logarithms a surface, three a still, one a facet, and the terms some stills are given."""

    def __init__(
        self, samples: tuple[Seen, ...], known: tuple[Known, ...], stills: int, surfaces: int, trust: Array
    ) -> None:
        self.still = np.array([s.still for s in samples])
        self.surface = np.array([s.surface for s in samples])
        self.cones = np.maximum(np.stack([s.rgb for s in samples]) @ RGB_TO_CONES.T, DARKEST)
        self.stills, self.surfaces, self.known, self.trust = stills, surfaces, known, trust
        self.told_mixing = self._unmix()
        shared = [f"{s.still} {s.facet}" for s in samples]
        common = {key for s, key in zip(samples, shared, strict=True) if s.facet and shared.count(key) > 1}
        numbers = {key: n for n, key in enumerate(sorted(common))}
        self.facet = np.array([numbers.get(key, -1) for key in shared])
        self.facets = len(numbers)
        noise = np.stack([np.diag(AXES @ s.covariance @ AXES.T) for s in samples])
        alone = np.where(self.facet < 0, SHADING_SIGMA, 0.06)
        self.variance = np.stack([alone**2, *[np.full(len(samples), CHROMA_SIGMA**2)] * 2], axis=1) + noise / 4.0
        self.scatter = trust.copy()
        self.weight = np.ones(len(samples))
        self.contrast, self.veil = np.zeros(stills), np.zeros(stills)
        self.given: dict[int, Term] = {}
        self.rho = np.zeros((surfaces, 3))
        self.gain = np.zeros((stills, 3))
        self.shade = np.zeros(self.facets)
        lit = np.array([any(one.surface == s.surface for one in known) for s in samples])
        faced = {key for key, card in zip(shared, lit, strict=True) if card and key in common}
        turned = {s.still for s, known_one in zip(samples, lit, strict=True) if known_one and s.to_light}
        with_card = {s.still for s, known_one in zip(samples, lit, strict=True) if known_one}
        # A still without a card has no level of its own: it is taken like those that lend it theirs.
        shaded = [s.still in turned or (bool(turned) and s.still not in with_card) for s in samples]
        beside = np.array(shaded) & ~lit & np.array([key not in faced for key in shared])
        self.usual_shade = np.where(beside, PANEL_SHADE, 0.0)
        self.faced = {s.surface for s, key in zip(samples, shared, strict=True) if key in faced}
        self._start()

    def _unmix(self) -> npt.NDArray[np.int64]:
        """Take out of each still what its known colours tell of its camera's mixing; how many told it (stills,)."""
        truth = {one.surface: np.maximum(BRADFORD @ one.xyz, DARKEST) for one in self.known}
        known = np.array([surface in truth for surface in self.surface])
        grey = BRADFORD @ RGB_TO_XYZ @ np.ones(3)
        told = np.zeros(self.stills, np.int64)
        for still in range(self.stills):
            mine, anchors = self.still == still, known & (self.still == still)
            if not anchors.any():
                continue
            true = np.stack([truth[surface] for surface in self.surface[anchors]])
            if tells_mixing(true, grey):
                self.cones[mine] = unmixed(self.cones[mine], self.cones[anchors], true)
                told[still] = anchors.sum()
        return told

    def _start(self) -> None:
        """Mid grey surfaces; each still's light from its own mean."""
        grey = np.log(BRADFORD @ RGB_TO_XYZ @ np.full(3, 0.18))
        self.rho[:] = grey
        for one in self.known:
            self.rho[one.surface] = np.log(np.maximum(BRADFORD @ one.xyz, DARKEST))
        logs = np.log(self.cones) - self.rho[self.surface]
        for still in range(self.stills):
            mine = self.still == still
            if mine.any():
                self.gain[still] = np.median(logs[mine], axis=0)

    def predicted(self) -> Array:
        """Logarithms of the cone responses (N, 3)."""
        bright = self.rho[self.surface] + self.shade_of()[:, None] / np.sqrt(3.0)
        stretched = np.exp(self.contrast)[self.still][:, None] * bright
        veiled = np.log(np.exp(np.clip(stretched, -12, 3)) + self.veil[self.still][:, None])
        return np.asarray(self.gain[self.still] + veiled)

    def shade_of(self) -> Array:
        """Shading of each sample along the brightness axis (N,): what is usual, and its facet's own."""
        own = np.append(self.shade, 0.0)[self.facet] if self.facets else np.zeros(len(self.still))
        return np.asarray(own + np.sqrt(3.0) * self.usual_shade)

    def residuals(self) -> Array:
        """What the samples say beyond the model, on the three axes (N, 3)."""
        return np.asarray((np.log(self.cones) - self.predicted()) @ AXES.T)

    def solve(self) -> None:
        """Iterate: least squares, robust weights, scatter of each still."""
        for number in range(ROUNDS):
            moved = self._step()
            self._reweigh()
            if moved < 1e-4 and number > 3:
                break

    def _step(self) -> float:
        normal, pull = self._normal()
        step = np.linalg.solve(normal, pull)
        step = np.clip(step, -1.0, 1.0)
        s, g = 3 * self.surfaces, 3 * self.stills
        self.rho += step[:s].reshape(-1, 3)
        self.gain += step[s : s + g].reshape(-1, 3)
        self.shade += step[s + g : s + g + self.facets]
        for place, (still, term) in enumerate(self.given.items(), start=s + g + self.facets):
            if term == "contrast":
                self.contrast[still] = np.clip(self.contrast[still] + step[place], -1.2, 0.7)
            else:
                self.veil[still] = np.clip(self.veil[still] + step[place], 0.0, MOST_VEIL)
        return float(np.abs(step).max())

    def _normal(self) -> tuple[Array, Array]:
        """Normal equations of all unknowns with their priors."""
        s, g = 3 * self.surfaces, 3 * self.stills
        size = s + g + self.facets + len(self.given)
        residual = self.residuals()
        weight = self.weight[:, None] / (self.variance * self.scatter[self.still][:, None] ** 2)
        jacobian = self._surface_lean()
        # Columns of each sample: its surface (3), its still (3), its facet, its still's term.
        terms = np.full(self.stills, size)
        terms[list(self.given)] = s + g + self.facets + np.arange(len(self.given))
        columns = np.full((len(residual), 8), size)
        columns[:, 0:3] = 3 * self.surface[:, None] + np.arange(3)
        columns[:, 3:6] = s + 3 * self.still[:, None] + np.arange(3)
        columns[self.facet >= 0, 6] = s + g + self.facet[self.facet >= 0]
        columns[:, 7] = terms[self.still]
        sides = np.zeros((len(residual), 3, 8))
        sides[:, :, 0:3] = AXES[None] * jacobian[:, None, :]
        sides[:, :, 3:6] = AXES[None]
        sides[:, :, 6] = (jacobian / np.sqrt(3.0)) @ AXES.T
        sides[:, :, 7] = self._term_lean() @ AXES.T
        weighted = sides * weight[:, :, None]
        blocks = weighted.transpose(0, 2, 1) @ sides
        flat = columns[:, :, None] * (size + 1) + columns[:, None, :]
        normal = np.bincount(flat.ravel(), blocks.ravel(), (size + 1) ** 2).reshape(size + 1, size + 1)
        pull = np.bincount(columns.ravel(), (weighted.transpose(0, 2, 1) @ residual[..., None]).ravel(), size + 1)
        normal, pull = np.array(normal[:size, :size], np.float64), np.array(pull[:size], np.float64)
        precision, away = self._priors(size)
        return normal + precision, pull - precision @ away

    def _priors(self, size: int) -> tuple[Array, Array]:
        """Information (size, size) of the priors and how far each unknown is from its own now."""
        s, g = 3 * self.surfaces, 3 * self.stills
        precision, away = np.empty(size), np.zeros(size)
        grey = np.log(BRADFORD @ RGB_TO_XYZ @ np.full(3, 0.18))
        precision[:s], away[:s] = 1 / SURFACE_SIGMA**2, (self.rho - grey).ravel()
        for one in self.known:
            three = slice(3 * one.surface, 3 * one.surface + 3)
            away[three] = self.rho[one.surface] - np.log(np.maximum(BRADFORD @ one.xyz, DARKEST))
        precision[s : s + g], away[s : s + g] = 1 / LIGHT_SIGMA**2, self.gain.ravel()
        precision[s + g : s + g + self.facets] = 1 / SHADING_SIGMA**2
        away[s + g : s + g + self.facets] = self.shade
        for place, (still, term) in enumerate(self.given.items(), start=s + g + self.facets):
            precision[place] = 1 / (CONTRAST_SIGMA if term == "contrast" else VEIL_SIGMA) ** 2
            away[place] = self.contrast[still] if term == "contrast" else self.veil[still]
        matrix = np.diag(precision)
        for one in self.known:
            three = slice(3 * one.surface, 3 * one.surface + 3)
            matrix[three, three] = one.information
        return matrix, away

    def _surface_lean(self) -> Array:
        """Change of each predicted logarithm per unit of its surface's (N, 3)."""
        bright = self.rho[self.surface] + self.shade_of()[:, None] / np.sqrt(3.0)
        power = np.exp(self.contrast)[self.still][:, None]
        body = np.exp(np.clip(power * bright, -12, 3))
        return np.asarray(power * body / (body + self.veil[self.still][:, None]))

    def _term_lean(self, term: Term | None = None) -> Array:
        """Change of each predicted logarithm per unit of its still's term (N, 3)."""
        bright = self.rho[self.surface] + self.shade_of()[:, None] / np.sqrt(3.0)
        power = np.exp(self.contrast)[self.still][:, None]
        body = np.exp(np.clip(power * bright, -12, 3))
        under = body + self.veil[self.still][:, None]
        if term is None:
            contrast = np.array([self.given.get(t) == "contrast" for t in range(self.stills)])
            return np.asarray(np.where(contrast[self.still][:, None], power * bright * body / under, 1 / under))
        return np.asarray(power * bright * body / under if term == "contrast" else 1 / under)

    def _reweigh(self) -> None:
        """Robust weight of every sample, then the scatter of every still."""
        residual = self.residuals()
        for _ in range(2):
            scaled = (residual**2 / (self.variance * self.scatter[self.still][:, None] ** 2)).mean(axis=1)
            self.weight = 1.0 / (1.0 + scaled / TUNING**2)
            # Brightness scatters with shading, whatever the still is worth: chroma tells of the still.
            each = (residual[:, 1:] ** 2 / self.variance[:, 1:]).mean(axis=1)
            count = np.bincount(self.still, self.weight, self.stills)
            total = np.bincount(self.still, self.weight * each, self.stills)
            # Four samples' worth of the usual scatter, and what the fit has taken off the residuals.
            spent = np.bincount(self.still, minlength=self.stills)
            freedom = np.maximum(spent - 1.0, 0.3) / np.maximum(spent, 1.0)
            found = (total / freedom + 4.0 * self.trust**2) / (count + 4.0)
            self.scatter = np.clip(np.sqrt(found), LEAST_FACTOR, MOST_FACTOR)

    def choose_terms(self) -> None:
        """Give a still the one term that pays most for itself, again and again while one does."""
        for _ in range(self.stills):
            gains = {
                (still, term): float(promise)
                for term in TERMS
                for still, promise in enumerate(self._promises(term))
                if still not in self.given
            }
            best = max(gains, key=lambda key: gains[key], default=None)
            if best is None or gains[best] <= TERM_COST:
                return
            kept = (self.rho.copy(), self.gain.copy(), self.shade.copy(), self.scatter.copy(), self.weight.copy())
            before = self._cost()
            self.given[best[0]] = best[1]
            self.solve()
            if before - self._cost() <= TERM_COST or (best[1] == "veil" and self.veil[best[0]] <= 0.002):
                self.given.pop(best[0])
                self.contrast[best[0]] = self.veil[best[0]] = 0.0
                self.rho, self.gain, self.shade, self.scatter, self.weight = kept
                return

    def _promises(self, term: Term) -> Array:
        """Fall of the cost that a term promises for each still, its own light bending with it (Rao's score)."""
        jacobian = self._term_lean(term) @ AXES.T
        weight = self.weight[:, None] / self.variance
        total = self._per_still(weight)
        # What the still's own light takes up of it.
        jacobian = jacobian - (self._per_still(weight * jacobian) / np.maximum(total, 1e-9))[self.still]
        slope = self._per_still(weight * jacobian * self.residuals()).sum(axis=1)
        if term == "veil":
            slope = np.maximum(slope, 0.0)
        prior = 1 / (CONTRAST_SIGMA if term == "contrast" else VEIL_SIGMA) ** 2
        enough = np.bincount(self.still, minlength=self.stills) >= FEWEST_SAMPLES
        return np.asarray(enough * slope**2 / (self._per_still(weight * jacobian**2).sum(axis=1) + prior))

    def _per_still(self, values: Array) -> Array:
        """Sums (stills, 3) of values of the samples (N, 3)."""
        return np.stack([np.bincount(self.still, column, self.stills) for column in values.T], axis=1)

    def _cost(self) -> float:
        """Minus twice the logarithm of the likelihood, with Cauchy tails and every still's scatter."""
        spread = self.variance * self.scatter[self.still][:, None] ** 2
        scaled = (self.residuals() ** 2 / spread).mean(axis=1)
        precision, away = self._priors(3 * self.surfaces + 3 * self.stills + self.facets + len(self.given))
        return float(
            3 * (TUNING**2 * np.log1p(scaled / TUNING**2)).sum() + np.log(spread).sum() + away @ precision @ away
        )

    def result(self) -> JointColours:
        """Colours with errors, votes and lights."""
        normal, _ = self._normal()
        covariance = np.asarray(np.linalg.inv(normal), float)
        anchored = self._tied()
        surfaces = tuple(
            _estimate(
                self.rho[i],
                covariance[3 * i : 3 * i + 3, 3 * i : 3 * i + 3],
                bool(anchored[i]),
                self._least(i),
                i in self.faced,
            )
            for i in range(self.surfaces)
        )
        terms: dict[int, tuple[Term, ...]] = {still: (term,) for still, term in self.given.items()}
        stills = tuple(
            StillEstimate(np.exp(self.gain[t]), float(np.exp(self.contrast[t])), float(self.veil[t]),
                          float(self.scatter[t]), terms.get(t, ()), int(self.told_mixing[t]))
            for t in range(self.stills)
        )  # fmt: skip
        return JointColours(surfaces, self._votes(surfaces), stills)

    def _least(self, surface: int) -> float:
        """What more stills do not lessen of a surface's shading (1 σ of a logarithm)."""
        return 0.0 if self._known(surface) else LEAST_FACED if surface in self.faced else LEAST_SHADING

    def _known(self, surface: int) -> bool:
        return any(one.surface == surface for one in self.known)

    def _tied(self) -> npt.NDArray[np.bool_]:
        """Which surfaces are tied to a known one through shared stills."""
        reached = np.array([self._known(i) for i in range(self.surfaces)])
        for _ in range(self.stills + self.surfaces):
            lit = np.zeros(self.stills, bool)
            np.logical_or.at(lit, self.still, reached[self.surface])
            more = reached.copy()
            np.logical_or.at(more, self.surface, lit[self.still])
            if (more == reached).all():
                break
            reached = more
        return reached

    def _votes(self, surfaces: tuple[SurfaceEstimate, ...]) -> tuple[Vote, ...]:
        logs = np.log(self.cones) - self.gain[self.still]
        body = np.log(np.maximum(np.exp(np.clip(logs, -12, 3)) - self.veil[self.still][:, None], DARKEST))
        own = body / np.exp(self.contrast)[self.still][:, None] - self.shade_of()[:, None] / np.sqrt(3.0)
        lab = lab_of_cones(np.exp(own))
        joint = np.stack([s.lab for s in surfaces])[self.surface]
        apart = delta_e_2000(lab, joint)
        level = np.concatenate([joint[:, :1], lab[:, 1:]], axis=1)
        chroma = delta_e_2000(level, joint)
        worth = self.weight / self.scatter[self.still] ** 2
        share = worth / np.bincount(self.surface, worth, self.surfaces)[self.surface]
        residual = self.residuals()[:, 1:] / np.sqrt(self.variance[:, 1:])
        far = (np.abs(residual).max(axis=1) > FAR_SIGMA) & (chroma > FAR_DELTA_E)
        return tuple(
            Vote(lab[i], float(share[i]), float(apart[i]), float(chroma[i]), bool(far[i])) for i in range(len(lab))
        )


def lab_of_cones(cones: Array) -> Array:
    """L*a*b* (..., 3) of cone responses (..., 3)."""
    return lab_of_xyz(np.maximum(cones @ np.linalg.inv(BRADFORD).T, 1e-6))


def _estimate(rho: Array, covariance: Array, anchored: bool, shading: float, faced: bool) -> SurfaceEstimate:
    turned = AXES @ covariance @ AXES.T
    turned[0, 0] = max(turned[0, 0], 3.0 * shading**2)
    lab = lab_of_cones(np.exp(rho))
    values, vectors = np.linalg.eigh(AXES.T @ turned @ AXES)
    moves = vectors * np.sqrt(np.maximum(values, 0.0))
    moved = lab_of_cones(np.exp(rho + moves.T)) - lab
    sigma = np.sqrt((moved**2).sum(axis=0))
    reach = delta_e_2000(lab + NORMAL_95 * moved, lab)
    flat = moved.copy()
    flat[:, 0] = 0.0
    chroma = delta_e_2000(lab + NORMAL_95 * flat, lab)
    return SurfaceEstimate(
        lab, float(sigma[0]), float(np.hypot(sigma[1], sigma[2]) / np.sqrt(2.0)),
        float(np.sqrt((reach**2).sum())), float(np.sqrt((chroma**2).sum())), anchored, faced,
    )  # fmt: skip
