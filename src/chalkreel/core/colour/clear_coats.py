"""Clear coats over white, silver or another ground: which clears in what ratio, and how many coats, make a colour.

A clear paint is known by the look of one coat of it over white. Light that crosses a clear film is only absorbed on its
way (Beer–Lambert; over white `layers` counts what is caught inside), so the ratio of the clears sets the hue and the
number of coats the depth.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import as_lab, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.finishing import fitted
from chalkreel.core.colour.kinds import COAT, Lab, Source
from chalkreel.core.colour.layers import Layer, LayerKind, ground_for, seen_through
from chalkreel.core.colour.mixing import Mixer, Sets, pot_lab, pot_of
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.recipe import Limits, Recipe, Search
from chalkreel.core.colour.spectra import BANDS
from chalkreel.core.errors import RefusedError, StoppedError

# The card under a swatch of a clear; what clear coats lie on, as it usually is.
CARD_LAB: Final[Lab] = (94.0, 0.0, 1.0)
WHITE_LAB: Final[Lab] = (91.0, 0.0, 1.0)
SILVER_LAB: Final[Lab] = (76.0, 0.0, 1.0)
# What dyes and fine transparent pigments scatter over a coat: next to nothing.
CLEAR_SCATTERING: Final = 0.003
# Of all light, the most that a ground is taken to send back.
BRIGHTEST: Final = 0.92
DEEPEST, DEPTHS = 8.0, 400
MOST_COATS: Final = 8
# Another coat must earn its evening, in ΔE00; so many choices are enough.
COAT_TROUBLE, MOST_CHOICES = 0.15, 8
STEP: Final = 0.01
# How far hands are apart in the thickness of a clear coat, and clears from what their swatch said (1 σ of a
# logarithm); how surely a swatch tells them, ΔE.
HAND_SIGMA, CLEAR_SIGMA, SWATCH_SIGMA = 0.3, 0.2, 1.0
# How far apart silvers are in what they send back to the eye, and white primers (1 σ of a logarithm).
GROUND_SIGMA: Final[dict[LayerKind, float]] = {"metal": 0.15, "primer": 0.05}


@dataclass(frozen=True, eq=False)
class ClearSwatch:
    """Drops by name, laid in so many coats over a ground, and the dry look of them."""

    drops: tuple[tuple[str, int], ...]
    coats: int
    ground: Layer
    lab: Lab


@dataclass(frozen=True, eq=False)
class ClearLessons:
    """The shelf as strips teach its clears, and how much brighter than thought what they lay on is, by its name."""

    shelf: tuple[Paint, ...]
    grounds: Mapping[str, float] = field(default_factory=dict)


def white_ground(lab: Lab = WHITE_LAB) -> Layer:
    """White primer; or card."""
    return Layer("white", "primer", lab=lab, sheen="matte")


def silver_ground(name: str = "silver", lab: Lab = SILVER_LAB) -> Layer:
    """A metal: what it throws back crosses the clear once more and is caught no longer."""
    return Layer(name, "metal", lab=lab, sheen="gloss")


def ground_of(name: str, shelf: tuple[Paint, ...]) -> Layer | None:
    """What clear coats lie on: white, silver, or a metallic paint of the shelf; None where there is no such paint."""
    if name == "white":
        return white_ground()
    if name == "silver":
        return silver_ground()
    metal = next((p for p in shelf if p.name == name), None)
    return silver_ground(name, as_lab(pot_lab(pot_of(((name, 1),), (metal,))))) if metal is not None else None


def clear_absorption(over_white: Array, coat: float, surface: float) -> Array:
    """K (36,) of a clear of which one coat over white is seen as `over_white` (36,)."""
    depths, seen = _over_white()
    wanted = over_white - surface
    # What is seen falls with depth; interpolation wants what rises.
    return np.array([np.interp(-wanted[band], -seen[:, band], depths) for band in range(BANDS)]) / coat


@cache
def _over_white() -> tuple[Array, Array]:
    """Depths K·X (N,) and how a glossy clear film of each is seen over white (N, 36)."""
    depths = DEEPEST * np.linspace(0.0, 1.0, DEPTHS) ** 2
    k = np.repeat(depths[:, None], BANDS, axis=1)
    return depths, seen_through(
        ground_for(white_ground(CARD_LAB)), k, np.full_like(k, CLEAR_SCATTERING * COAT), np.zeros(DEPTHS)
    )


def one_coat(paint: Paint) -> Lab:
    """How one coat of a clear looks over white."""
    return as_lab(ClearMixer((paint,), white_ground(CARD_LAB), (), 1).lab(np.zeros((1, 1), int), np.ones((1, 1)))[0])


class ClearMixer(Mixer):
    """Mixes of clears as so many coats of them look over a ground, and under further layers."""

    def __init__(self, paints: tuple[Paint, ...], ground: Layer, over: tuple[Layer, ...], coats: int) -> None:
        super().__init__(paints)
        self.ground, self.over, self.coats = ground, over, coats
        self._below = ground_for(ground)
        self._coat = np.array([p.coat for p in paints])

    def reflectance(self, sets: Sets, amounts: Array) -> Array:
        """Seen reflectance (N, 36)."""
        share = amounts / amounts.sum(axis=1, keepdims=True)
        thickness = self.coats * (share * self._coat[sets]).sum(axis=1)
        k, s = self.sums(sets, share)
        return seen_through(
            self._below, k * thickness[:, None], s * thickness[:, None], self.surfaces(sets, amounts), self.over
        )

    def lab_and_jacobian(self, sets: Sets, amounts: Array) -> tuple[Array, Array]:
        """L*a*b* (N, 3) and its change (N, 3, m) per unit of the logarithm of each amount, by small steps."""
        here = self.lab(sets, amounts)
        jacobian = np.empty((*amounts.shape[:1], 3, amounts.shape[1]))
        for m in range(amounts.shape[1]):
            moved = amounts.copy()
            moved[:, m] *= 1.0 + STEP
            jacobian[:, :, m] = (self.lab(sets, moved) - here) / np.log1p(STEP)
        return here, jacobian


class ClearSearch(Search):
    """The search of opaque mixes begins at the linear match of opaque films; this one at equal shares."""

    def start(self, sets: Sets) -> Array:
        """Amounts (N, m) to begin from."""
        return np.full(sets.shape, 1.0 / sets.shape[1])


def clears_of(shelf: tuple[Paint, ...], limits: Limits) -> tuple[Paint, ...]:
    """The clears that may be used, by name.

    Raises
    ------
    RefusedError
        There are none.
    """
    clears = tuple(p for p in shelf if p.clear and p.name not in limits.without and p.ml_left != 0.0)
    if not clears:
        raise RefusedError(
            "No clear paint is on the shelf: add one by the look of one coat of it over white, and call it clear there."
        )
    return tuple(sorted(clears, key=lambda p: p.name))


def find_clear_recipes(
    target_lab: Lab, shelf: tuple[Paint, ...], ground: Layer, over: tuple[Layer, ...], limits: Limits,
    progress: Callable[[float], bool],
) -> tuple[Recipe, ...]:  # fmt: skip
    """Drops of clears and their coats, the best compromise first; what takes more paints or coats is nearer.

    Raises
    ------
    RefusedError
        No clear may be used.
    StoppedError
        `progress` returned False.
    """
    clears = clears_of(shelf, limits)
    found: list[Recipe] = []
    for coats in range(1, MOST_COATS + 1):
        if not progress((coats - 1) / MOST_COATS):
            raise StoppedError
        search = ClearSearch(np.array(target_lab), ClearMixer(clears, ground, over, coats), limits)
        search.run(limits.paints, lambda _: progress(-1.0))
        found += [replace(recipe, coats=coats) for recipe in search.result()]
    found.sort(key=lambda r: r.delta_e + COAT_TROUBLE * (r.coats + len(r.drops)))
    return tuple(_worthy(found))[:MOST_CHOICES]


def _worthy(recipes: list[Recipe]) -> list[Recipe]:
    """Those that no other beats in nearness, paints and coats at once."""
    kept: list[Recipe] = []
    for one in recipes:
        if not any(r.delta_e <= one.delta_e and len(r.drops) <= len(one.drops) and r.coats <= one.coats for r in kept):
            kept.append(one)
    return kept


def predict_clear(
    drops: tuple[tuple[str, int], ...], coats: int, shelf: tuple[Paint, ...], ground: Layer, over: tuple[Layer, ...],
    target_lab: Lab,
) -> Recipe | None:  # fmt: skip
    """Given drops of clears in so many coats against a target; None where there is no look of them."""
    lab = clear_look(drops, coats, shelf, ground, over)
    if lab is None:
        return None
    return Recipe(drops, lab, float(delta_e_2000(np.array(lab), np.array(target_lab))), coats)


def clear_look(
    drops: tuple[tuple[str, int], ...], coats: int, shelf: tuple[Paint, ...], ground: Layer,
    over: tuple[Layer, ...] = (),
) -> Lab | None:  # fmt: skip
    """The look of drops of clears in so many coats; None where there are none or one is not on the shelf."""
    by_name = {p.name: p for p in shelf if p.clear}
    if not drops or any(name not in by_name for name, _ in drops):
        return None
    mixer = ClearMixer(tuple(by_name[name] for name, _ in drops), ground, over, coats)
    return as_lab(mixer.lab(np.arange(len(drops))[None], np.array([[float(count) for _, count in drops]]))[0])


def taught_clears(shelf: tuple[Paint, ...], swatches: tuple[ClearSwatch, ...]) -> ClearLessons:
    """The shelf with its clears as strong as swatches show them, and how bright what they lay on is.

    A hand that sprays thick counts for all clears. Those that were in a swatch are then known as well as from a card.
    """
    clears = {p.name: p for p in shelf if p.clear}
    known = tuple(s for s in swatches if s.drops and all(name in clears for name, _ in s.drops))
    if not known:
        return ClearLessons(shelf)
    used = sorted({name for s in known for name, _ in s.drops})
    grounds = {s.ground.name: s.ground for s in known}

    def taught(values: Array) -> tuple[dict[str, Paint], dict[str, float]]:
        own, below = values[1 : 1 + len(used)], values[1 + len(used) :]
        logs = dict(zip(used, own, strict=True))
        strong = {
            n: replace(p, absorption=p.absorption * np.exp(values[0] + logs.get(n, 0.0))) for n, p in clears.items()
        }
        return strong, {name: float(np.exp(log)) for name, log in zip(grounds, below, strict=True)}

    def misses(values: Array) -> Array:
        strong, bright = taught(values)
        paints = tuple(strong.values())
        return np.concatenate([_miss(s, paints, bright[s.ground.name]) for s in known]) / SWATCH_SIGMA

    sigma = np.array([HAND_SIGMA, *[CLEAR_SIGMA] * len(used), *[GROUND_SIGMA[g.kind] for g in grounds.values()]])
    strong, bright = taught(fitted(misses, np.zeros(len(sigma)), sigma))
    surer: dict[Source, Source] = {"guess": "card"}
    told = {n: replace(p, source=surer.get(p.source, p.source) if n in used else p.source) for n, p in strong.items()}
    return ClearLessons(tuple(told.get(p.name, p) for p in shelf), bright)


def brightened(ground: Layer, factor: float) -> Layer:
    """A ground that sends so much more light back, as far as a surface can."""
    xyz = xyz_of_lab(np.array(ground.lab))
    return replace(ground, lab=as_lab(lab_of_xyz(min(factor, BRIGHTEST / float(xyz[1])) * xyz)))


def _miss(swatch: ClearSwatch, clears: tuple[Paint, ...], bright: float) -> Array:
    mixer = ClearMixer(clears, brightened(swatch.ground, bright), (), swatch.coats)
    amounts = dict(swatch.drops)
    drops = np.array([[float(amounts.get(p.name, 0)) for p in clears]])
    return np.asarray(mixer.lab(np.arange(len(clears))[None], drops)[0] - swatch.lab)
