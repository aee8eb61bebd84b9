"""K and S of a paint from what a camera saw of it: fields of a drawdown card, or a stripe over paper and black.

A photograph tells three numbers of a field, not 36. So log K and log S of all bands are fitted to the L*a*b* of all
fields at once, films of finite thickness over paper and over printed black among them (Kubelka 1948), held to be
smooth along the spectrum (Gauss–Newton with priors). Turning every field into a spectrum of its own first is
worse by half, since each of those spectra is smooth in another way.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import DARKEST, Constants, usual_scattering
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import COAT
from chalkreel.core.colour.kubelka_munk import film_over, ratio_of, reflectance_of
from chalkreel.core.colour.layers import STRAIGHT
from chalkreel.core.colour.mixing import lab_slope
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import BANDS, tristimulus_weights
from chalkreel.core.colour.surface_terms import internal, seen

# What a phone's reading of a field is good to, L*, a*, b* (1 σ): noise, streaks, unlike sensitivities.
READING: Final = np.array([1.0, 0.8, 0.8])
# How sharply log K and log S may bend from band to band (1 σ of the second difference), and how they may lean over
# the whole spectrum; chosen on two laboratories' shelves, seeds 14 to 17.
KINK_K, KINK_S, LEAN_K, LEAN_S = 0.15, 0.1, 1.5, 0.25
# How far S as a whole is trusted to be what paints of such a colour have (1 σ of its logarithm).
BELIEF: Final = 0.6
# One coat by hand or airbrush is so thick, give or take a factor of e^0.4.
COAT_SIGMA: Final = 0.4
LEAST_COAT, MOST_COAT = 0.2, 15.0
# What a film crossed straight may keep over diffuse light; without a bound a fit runs away with it.
MOST_GAIN: Final = 4.0
# A field that lies further than this from all others (ΔE00) is not of this paint, or not painted.
WRONG: Final = 6.0
ROUNDS, SHARES, ENOUGH = 30, (1.0, 0.5, 0.25, 0.1), 1e-3
# The step of the slopes; what is known is let move by no more than the other (1 σ of the logarithm).
STEP, PINNED = 1e-4, 1e-4
_BEND: Final = np.diff(np.eye(BANDS), n=2, axis=0)
_LEVEL: Final = np.full(BANDS, 1.0 / BANDS)
_LEAN: Final = np.linspace(-1.0, 1.0, BANDS) / float(np.square(np.linspace(-1.0, 1.0, BANDS)).sum())


@dataclass(frozen=True, eq=False)
class CameraField:
    """A dry field of paint as a camera saw it: L*a*b* (3,), and `share` of the paint in the shelf's white.

    It hides what is below, or is one coat over a `ground` of that reflectance.
    """

    lab: Array
    share: float = 1.0
    ground: float | None = None


def fit_fields(
    fields: tuple[CameraField, ...], white: Constants | None, surface: float, coat: float = COAT,
    coat_sigma: float = COAT_SIGMA,
) -> tuple[Constants, float]:  # fmt: skip
    """K and S of a paint, and how thick its coats are; without a `white` it is the white itself, whose S is 1.

    All coats over a ground are taken to be equally thick, near `coat`. Where no thickness explains them they are left
    out, as long as a field that hides is left.
    """
    model = _Model(fields, white, surface, coat, coat_sigma)
    model.solve()
    hiding = tuple(field for field in fields if field.ground is None)
    if hiding and any(model.misfit(field) > WRONG for field in fields if field.ground is not None):
        model = _Model(hiding, white, surface, coat, coat_sigma)
        model.solve()
    k, s = np.exp(model.values[:BANDS]), np.exp(model.values[BANDS:-1])
    return Constants(k, s, surface), float(np.exp(model.values[-1]))


def coat_of(fields: tuple[CameraField, ...], paint: Constants) -> tuple[float, float]:
    """The thickness of coats over a ground of a paint whose K and S are known, and one σ of its logarithm."""
    model = _known(fields, paint, None, COAT)
    model.prior[: 2 * BANDS, : 2 * BANDS] += np.eye(2 * BANDS) / PINNED**2
    normal = model.solve()
    return float(np.exp(model.values[-1])), float(np.linalg.inv(normal)[-1, -1] ** 0.5)


def misfits(fields: tuple[CameraField, ...], paint: Constants, white: Constants | None, coat: float) -> Array:
    """How far off (ΔE00) each field (N,) is from what K, S and coat foretell."""
    model = _known(fields, paint, white, coat)
    return np.array([model.misfit(field) for field in fields])


def tells_coat(fields: tuple[CameraField, ...], paint: Constants, coat: float) -> bool:
    """Whether coats over a ground look as one of that thickness does; one that hides is at least as thick as hides."""
    over = tuple(field for field in fields if field.ground is not None)
    return bool(over) and bool((misfits(over, paint, None, coat) <= WRONG).all())


def _known(fields: tuple[CameraField, ...], paint: Constants, white: Constants | None, coat: float) -> _Model:
    """The unknowns where K, S and coat are known."""
    model = _Model(fields, white, paint.surface, coat, COAT_SIGMA)
    model.values[:-1] = np.log(np.concatenate([paint.absorption, paint.scattering]))
    model.usual = model.values.copy()
    return model


class _Model:
    """Unknowns: log K (36), log S (36) and the logarithm of the coat."""

    def __init__(
        self, fields: tuple[CameraField, ...], white: Constants | None, surface: float, coat: float, sigma: float
    ) -> None:
        self.fields, self.white, self.surface = fields, white, surface
        opaque = [f for f in fields if f.ground is None] or list(fields)
        purest = max(opaque, key=lambda f: (f.share, f.ground or 0.0))
        inner = np.maximum(internal(smooth_spectrum(purest.lab), surface), DARKEST)
        usual = np.log(usual_scattering(inner)) if white is not None else np.zeros(BANDS)
        self.values = np.concatenate([np.log(ratio_of(inner)) + usual, usual, [np.log(coat)]])
        self.usual = np.concatenate([np.zeros(BANDS), usual, [np.log(coat)]])
        self.prior = np.zeros((2 * BANDS + 1, 2 * BANDS + 1))
        lean, level = np.outer(_LEAN, _LEAN), np.outer(_LEVEL, _LEVEL)
        smooth = _BEND.T @ _BEND
        self.prior[:BANDS, :BANDS] = smooth / KINK_K**2 + lean / LEAN_K**2
        held = smooth / KINK_S**2 + level / BELIEF**2 + lean / LEAN_S**2
        self.prior[BANDS:-1, BANDS:-1] = held if white is not None else np.eye(BANDS) / PINNED**2
        self.prior[-1, -1] = 1.0 / sigma**2

    def seen(self, field: CameraField, values: Array) -> Array:
        """Reflectance (36,) of a field."""
        k, s, coat = np.exp(values[:BANDS]), np.exp(values[BANDS:-1]), float(np.exp(values[-1]))
        if field.ground is not None:
            # What comes back from the ground crossed the film straight, which diffuse K overstates (`layers`).
            body, over = (seen(film_over(np.full(BANDS, ground), k, s, coat), self.surface)
                          for ground in (0.0, field.ground))  # fmt: skip
            gain = np.minimum(np.exp(STRAIGHT * k * coat * np.exp(-s * coat)), MOST_GAIN)
            return np.asarray(body + (over - body) * gain)
        if self.white is None or field.share == 1.0:
            return seen(reflectance_of(k / s), self.surface)
        paint, rest = field.share, 1.0 - field.share
        ratio = (paint * k + rest * self.white.absorption) / (paint * s + rest * self.white.scattering)
        return seen(reflectance_of(ratio), paint * self.surface + rest * self.white.surface)

    def misfit(self, field: CameraField) -> float:
        """How far off (ΔE00) a field is."""
        now = lab_of_xyz(self.seen(field, self.values) @ tristimulus_weights())
        return float(delta_e_2000(now, field.lab))

    def solve(self) -> Array:
        """Bring the unknowns to their best; the normal equations (73, 73) there."""
        cost = self._cost(self.values)
        for _ in range(ROUNDS):
            normal, pull = self.normal()
            step = np.linalg.solve(normal, pull)
            # A whole step may overshoot, most of all at the ends of the spectrum, of which a camera sees next to
            # nothing.
            for share in SHARES:
                values = np.clip(self.values + share * step, _LEAST, _MOST)
                if (better := self._cost(values)) < cost:
                    break
            gained, cost, self.values = cost - better, better, values
            if gained < ENOUGH:
                break
        return self.normal()[0]

    def _cost(self, values: Array) -> float:
        """What is minimised: squares of what the fields show beyond the unknowns, and of these beyond what is usual."""
        weights, away = tristimulus_weights(), values - self.usual
        seen_now = np.stack([self.seen(field, values) for field in self.fields]) @ weights
        beyond = (lab_of_xyz(seen_now) - np.stack([field.lab for field in self.fields])) / READING
        return float((beyond**2).sum() + away @ self.prior @ away)

    def normal(self) -> tuple[Array, Array]:
        """Normal equations (73, 73) and right side (73,) where the unknowns are."""
        normal = self.prior + STEP * np.eye(len(self.prior))
        pull = -self.prior @ (self.values - self.usual)
        weights = tristimulus_weights()
        for field in self.fields:
            now = self.seen(field, self.values)
            # Each band's K and S move that band alone, so one look with all of them moved gives every slope.
            by_k, by_s, by_coat = ((self.seen(field, self.values + move) - now) / STEP for move in _MOVES)
            xyz = now @ weights
            metric = lab_slope(xyz) / READING[:, None]
            sides = np.concatenate(
                [metric @ (by_k[:, None] * weights).T, metric @ (by_s[:, None] * weights).T,
                 (metric @ (by_coat @ weights))[:, None]], axis=1,
            )  # fmt: skip
            normal += sides.T @ sides
            pull += sides.T @ ((field.lab - lab_of_xyz(xyz)) / READING)
        return normal, pull


# Beyond what the K, S and coat of any paint are.
_LEAST: Final = np.repeat([-9.0, -6.0, np.log(LEAST_COAT)], (BANDS, BANDS, 1))
_MOST: Final = np.repeat([4.0, 1.2, np.log(MOST_COAT)], (BANDS, BANDS, 1))
_MOVES: Final = STEP * np.repeat(np.eye(3), (BANDS, BANDS, 1), axis=1)
