"""A paint as the mixing arithmetic sees it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.arrays import Array
from chalkreel.core.colour.kinds import COAT, DROP_ML, Source
from chalkreel.core.colour.surface_terms import SURFACE
from chalkreel.core.materials import Medium, Sheen

# One standard deviation of the logarithm of a paint's strength, by where its K and S come from.
STRENGTH_SIGMA: Final[dict[Source, float]] = {"metered": 0.06, "card": 0.12, "stripe": 0.2, "guess": 0.45}
# How far off the first mix usually lands, in ΔE00, by the least known paint in it.
DOUBT: Final[dict[Source, float]] = {"metered": 0.5, "card": 1.2, "stripe": 2.0, "guess": 4.0}
# Carriers that mix in one cup. Enamels and oils share theirs; nothing else is proposed together, since a wrong
# guess curdles the pot; makers' own advice goes first.
_TOGETHER: Final[tuple[frozenset[Medium], ...]] = (frozenset({"enamel", "oil"}),)


@dataclass(frozen=True, eq=False)
class Paint:
    """K and S (36,) per drop, S relative to the shelf's white.

    `ml_left` None means plenty; `coat` is the thickness of one even coat where the white's S counts as 1.
    `surface` is the share of light that it scatters into the eye once dry (`surface_terms`).
    `clear` paints hide nothing; `metallic` ones are seen as a mirror.
    """

    name: str
    absorption: Array
    scattering: Array
    medium: Medium = "water acrylic"
    sheen: Sheen = "matte"
    source: Source = "metered"
    clear: bool = False
    metallic: bool = False
    drop_ml: float = DROP_ML
    price_per_ml: float = 0.0
    ml_left: float | None = None
    coat: float = COAT
    surface: float = SURFACE["matte"]

    @property
    def strength_sigma(self) -> float:
        """One σ of the logarithm of its strength."""
        return STRENGTH_SIGMA[self.source]


def may_mix(one: Medium, other: Medium) -> bool:
    """Whether two media may go into one cup."""
    return one == other or any({one, other} <= group for group in _TOGETHER)


def opaque_of(shelf: tuple[Paint, ...]) -> tuple[Paint, ...]:
    """The paints that an opaque mix may be made of: clear ones hide nothing, metallic ones are mirrors."""
    return tuple(paint for paint in shelf if not (paint.clear or paint.metallic))


def cup_of(shelf: tuple[Paint, ...], medium: Medium) -> tuple[Paint, ...]:
    """The paints of a shelf that may go into a cup of this medium."""
    return tuple(paint for paint in shelf if may_mix(paint.medium, medium))
