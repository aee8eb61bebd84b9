"""Flat lengths of what is bent, wrapped, scored or made into a box, each with its doubt and the way to do it.

Bend allowance: Oberg et al., *Machinery's Handbook*; strains of plastics: Crawford, *Plastics Engineering*.
Lengths are mm; `doubt_mm` is half of the 95 % interval.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from chalkreel.core.convert.kinds import Corner
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit, format_length

# Where the neutral line lies in a bend, as a share of the thickness: bent tightly, about as round as thick, heat bent.
K_TIGHT, K_EVEN, K_HEAT = 0.33, 0.42, 0.5
# How surely that is known.
K_DOUBT: Final = 0.08
# Strain in the outer fibre that strip bears cold, and with warmth.
COLD_STRAIN, WARM_STRAIN = 0.015, 0.2
# Sheets are within so much of their label, mm; a joint of glue adds up to GLUE_MM.
SHEET_SIGMA_MM, GLUE_MM = 0.02, 0.02
# A knife at a ruler is true to so much, mm (95 %).
CUTTING_MM: Final = 0.2


@dataclass(frozen=True)
class FlatLength:
    """What to cut, and how to bring it into its form."""

    mm: float
    doubt_mm: float
    way: str


@dataclass(frozen=True)
class BoxWall:
    """One wall of a box, with how often it is cut."""

    name: str
    length_mm: float
    height_mm: float
    count: int


def bent(
    legs_mm: tuple[float, float], radius_mm: float, thick_mm: float, angle_deg: float, unit: LengthUnit = "mm"
) -> FlatLength:
    """A sheet or strip bent once: legs measured outside, to where they would meet; inner radius; angle turned through.

    Raises
    ------
    RefusedError
        Sizes that make no bend.
    """
    if min(*legs_mm, thick_mm) <= 0 or radius_mm < 0 or not 0 < angle_deg < 170:
        raise RefusedError("A bend needs two legs and a thickness above nothing, and an angle between 0 and 170°.")
    turn = math.radians(angle_deg)
    k = K_TIGHT if radius_mm < thick_mm else K_EVEN if radius_mm <= 2 * thick_mm else K_HEAT
    back = 2 * (radius_mm + thick_mm) * math.tan(turn / 2)
    if back / 2 >= min(legs_mm):
        raise RefusedError("The legs are shorter than the bend itself.")
    length = sum(legs_mm) - back + turn * (radius_mm + k * thick_mm)
    doubt = math.hypot(turn * K_DOUBT * thick_mm, CUTTING_MM)
    if k == K_TIGHT:
        return FlatLength(length, doubt, scored(thick_mm, angle_deg, unit))
    how = "warm and fold" if k == K_EVEN else "heat and bend"
    return FlatLength(length, doubt, f"{how} round a rod Ø {format_length(2 * radius_mm, unit)}")


def scored(thick_mm: float, angle_deg: float, unit: LengthUnit = "mm") -> str:
    """How to score a sheet for a straight fold.

    Raises
    ------
    RefusedError
        No thickness or no angle.
    """
    if thick_mm <= 0 or not 0 < angle_deg < 180:
        raise RefusedError("A fold needs a thickness above nothing and an angle between 0 and 180°.")
    wide = 2 * max(0.0, thick_mm - 0.15) * math.tan(math.radians(angle_deg) / 2)
    shallow, deep, inside, across = (
        format_length(mm, unit) for mm in (0.4 * thick_mm, 0.6 * thick_mm, max(0.0, thick_mm - 0.15), wide)
    )
    return (
        f"fold away from a score {shallow} to {deep} deep, or towards a V {inside} deep and {across} wide; "
        "never on the side that is seen"
    )


def wrapped(diameter_mm: float, thick_mm: float, unit: LengthUnit = "mm") -> tuple[FlatLength, ...]:
    """Strip once round a cylinder; several thinner layers where one would break, the inner one first.

    Raises
    ------
    RefusedError
        Sizes that make no turn.
    """
    if diameter_mm <= 0 or thick_mm <= 0:
        raise RefusedError("A wrap needs a diameter and a thickness above nothing.")
    strain = thick_mm / (diameter_mm + thick_mm)
    layers = 1 if strain <= WARM_STRAIN else math.ceil(thick_mm * (1 - WARM_STRAIN) / (WARM_STRAIN * diameter_mm))
    each = thick_mm / layers
    way = "cold" if strain <= COLD_STRAIN else "warm: hot water for thin strip, else 95–105 °C"
    if layers > 1:
        way = f"laminated from {layers} strips of {format_length(each, unit)}, one after another"
    doubt = math.hypot(2 * math.pi * SHEET_SIGMA_MM, CUTTING_MM)
    return tuple(
        FlatLength(math.pi * (diameter_mm + (2 * layer - 1) * each), doubt, way) for layer in range(1, layers + 1)
    )


def box(length_mm: float, width_mm: float, height_mm: float, thick_mm: float, corner: Corner) -> tuple[BoxWall, ...]:
    """The walls of a closed box of these outer sizes, by the kind of its corners; bottom and lid lie on the walls.

    butt: the long walls run through, the ends stand between them. lap: each wall laps one neighbour. mitre: every wall
    keeps its outer size, its upright edges bevelled by 45°.

    Raises
    ------
    RefusedError
        A box that is smaller than its walls.
    """
    if thick_mm <= 0 or min(length_mm, width_mm, height_mm) <= 2 * thick_mm:
        raise RefusedError("A box must be larger each way than twice its walls.")
    less = {"butt": (0.0, 2 * thick_mm), "lap": (thick_mm, thick_mm), "mitre": (0.0, 0.0)}[corner]
    high = height_mm - 2 * thick_mm
    long, end = ("long wall, runs through", "end, between") if corner == "butt" else ("long wall", "end")
    return (
        BoxWall("top and bottom", length_mm, width_mm, 2), BoxWall(long, length_mm - less[0], high, 2),
        BoxWall(end, width_mm - less[1], high, 2),
    )  # fmt: skip


def corner_words(corner: Corner) -> str:
    """How a kind of corner is made."""
    return {
        "butt": "long walls run through, ends between them; a square bar behind each joint",
        "lap": "each wall covers the edge of the next, all the same way round",
        "mitre": "upright edges bevelled 45°, outer sizes stay",
    }[corner]
