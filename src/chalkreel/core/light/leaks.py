"""How light-proof a hull must be for the room it is shown in."""

from __future__ import annotations

import math
from typing import Final

# A leak is seen from so much of the hull's own brightness.
_SEEN: Final = 0.02
_REFLECTS: Final = 0.4
BARE_DENSITY_MM: Final = 0.8  # polystyrene, for each mm
BLACK_DENSITY: Final = 1.2  # a coat of about 20 µm
SILVER_DENSITY: Final = 2.5
USUAL_CD: Final = 0.09  # a white 0603 at 5 mA


def density_needed(room_lux: float, lamp_cd: float = USUAL_CD, away_mm: float = 20.0) -> float:
    """Optical density of the shell at which a lamp so far behind it is no longer seen through it."""
    inside = lamp_cd / (away_mm / 1000) ** 2
    through = _SEEN * _REFLECTS * room_lux / inside
    return max(0.0, -math.log10(through))


def coats(density: float, shell_mm: float = 1.0) -> tuple[str, ...]:
    """Coats inside that reach it, black first, then silver, which also throws the light back."""
    left = density - BARE_DENSITY_MM * shell_mm
    found: list[str] = []
    for name, each in (("black", BLACK_DENSITY), ("silver", SILVER_DENSITY), ("black", BLACK_DENSITY)):
        if left <= 0:
            break
        found.append(name)
        left -= each
    return tuple(found)
