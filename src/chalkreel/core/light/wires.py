"""Wires: resistance, what they carry, the fuse that saves the thinnest, holes and grooves.

Copper 0.01724 Ω·mm²/m; varnish by IEC 60317; melting by Preece, On the heating effects of electric currents.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

# Ω per metre of 1 mm copper: r = 0.02195 / d².
_COPPER: Final = 0.02195
_MELTS_A: Final = 80.0  # times d^1.5
# Current that a wire carries for hours in a closed hull, A/mm².
_STEADY: Final = 5.0


@dataclass(frozen=True)
class WireKind:
    """A wire by its copper (equivalent solid diameter) and its outside, mm."""

    name: str
    copper_mm: float
    outside_mm: float

    @property
    def ohm_per_m(self) -> float:
        """Resistance of one metre."""
        return _COPPER / self.copper_mm**2

    @property
    def steady_ma(self) -> float:
        """What it carries for hours in a hull."""
        return 1000 * _STEADY * 0.7854 * self.copper_mm**2

    @property
    def melts_a(self) -> float:
        """About what melts it."""
        return float(_MELTS_A * self.copper_mm**1.5)


WIRES: Final[tuple[WireKind, ...]] = (
    WireKind("hair 0.05", 0.05, 0.06), WireKind("hair 0.08", 0.08, 0.095), WireKind("hair 0.1", 0.1, 0.12),
    WireKind("varnished 0.15", 0.15, 0.17), WireKind("varnished 0.2", 0.2, 0.22), WireKind("wrap 0.25", 0.255, 0.55),
    WireKind("0.05 mm²", 0.252, 0.8), WireKind("0.08 mm²", 0.32, 1.05), WireKind("0.14 mm²", 0.422, 1.2),
)  # fmt: skip
BY_NAME: Final[dict[str, WireKind]] = {w.name: w for w in WIRES}
# Resettable fuses that are sold, by the current they hold, mA.
FUSES_MA: Final = (50, 100, 200, 350, 500)


def usual_wire(ma: float) -> WireKind:
    """The wire that is planned where nobody named one: the thinnest from 0.1 mm on that carries so much for hours."""
    return next((w for w in WIRES[2:] if w.steady_ma >= ma), WIRES[-1])


def fuse_for(thinnest: WireKind, load_ma: float) -> float | None:
    """The smallest fuse (mA) that holds twice the load and trips, at four times that, below what melts the wire.

    None where no fuse does both: the wire is too thin for the load.
    """
    for fuse in FUSES_MA:
        if fuse >= 2 * load_ma:
            return float(fuse) if 4 * fuse / 1000 < thinnest.melts_a else None
    return None


def hole_mm(across_mm: float) -> float:
    """The drill, in steps of 0.1 mm, that lets a wire or bundle of so much across pass."""
    return math.ceil((across_mm + 0.2) * 10 - 1e-9) / 10


def groove_mm(outside_mm: float) -> tuple[float, float]:
    """Width and depth of a groove that takes a wire and the filler over it."""
    return round(outside_mm + 0.1, 2), round(outside_mm + 0.3, 2)
