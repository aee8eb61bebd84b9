"""Fibres from one lamp to many portholes: how much of its light each takes (Lambert's law of a power of the cosine)."""

from __future__ import annotations

import math
from typing import Final

# Acceptance of PMMA fibre: sin θ = numerical aperture 0.5.
ACCEPTS_RAD: Final = math.asin(0.5)
_ENDS: Final = 0.92  # two faces
_DB_PER_M: Final = 0.25
USABLE_MM: Final = 4.5  # of a 5 mm lamp's face
_FILL: Final = 0.7
# From so many candela a porthole looks lit at arm's length.
PORTHOLE_CD: Final = 0.001


def fibres_at_lamp(fibre_mm: float) -> int:
    """How many fibres a 5 mm lamp feeds."""
    return int(_FILL * (USABLE_MM / fibre_mm) ** 2)


def candela(lamp_cd: float, half_angle_deg: float, fibre_mm: float, length_mm: float) -> float:
    """On-axis candela at a fibre's end, of a lamp of so many candela and such a beam (half angle)."""
    power = math.log(0.5) / math.log(math.cos(math.radians(half_angle_deg)))
    lumen = 2 * math.pi * lamp_cd / (power + 1)
    taken = 1 - math.cos(ACCEPTS_RAD) ** (power + 1)
    kept = _ENDS * 10 ** (-_DB_PER_M * length_mm / 1e4)
    flux = lumen * taken * (fibre_mm / USABLE_MM) ** 2 * kept
    return float(flux / (math.pi * math.sin(ACCEPTS_RAD) ** 2))
