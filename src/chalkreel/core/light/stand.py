"""Whether a supply in its holder goes into the stand: three ways to lay it, and the door."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations
from typing import Final

from chalkreel.core.light.cells import Box, Cell, Supply

# Wires leave the holder at its end.
WIRE_END_MM: Final = 8.0


@dataclass(frozen=True)
class Fit:
    """The box as it lies (length, width, height); `spare` mm is what is left in the tightest direction.

    `fits` tells of the cavity, `comes_out` of the door; whether there is room to lift the cells out is not looked at.
    """

    box: Box
    spare: float
    fits: bool
    comes_out: bool


def holder_box(supply: Supply) -> Box:
    """The holder with its cells, mm; flat packs grow in width, rows lie on top of each other."""
    source = supply.source
    if not isinstance(source, Cell):
        return source.box
    length, width, height = source.box
    if supply.kind in ("AA cells", "AAA cells", "AA rechargeable"):
        return length, width * supply.cells, height * supply.rows
    if supply.kind == "button cell":
        return 13.0 + 3, 13.0, 5.4 * supply.cells + 6
    return length, width * supply.rows, height * supply.cells


def fit(supply: Supply, cavity: Box, door: tuple[float, float] | None = None) -> Fit:
    """The best of all ways to lay the holder into a cavity (length, width, height, mm).

    A door (mm) must let the two smaller sides of the holder as it lies pass.
    """
    best: Fit | None = None
    length, width, height = holder_box(supply)
    for a, b, c in sorted(set(permutations((length + WIRE_END_MM, width, height)))):
        box = (a, b, c)
        spare = min(room - side for room, side in zip(cavity, box, strict=True))
        small = sorted(box)[:2]
        out = door is None or (small[0] <= min(door) and small[1] <= max(door))
        found = Fit(box, spare, spare >= 0, out)
        if best is None or (found.fits, found.spare) > (best.fits, best.spare):
            best = found
    assert best is not None
    return best
