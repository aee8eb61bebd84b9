"""What can make the light of a lamp of a given size: a chip, a dome, a fibre, or a lit box with a masked window."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

# Length, width and height, mm.
SIZES: Final[dict[str, tuple[float, float, float]]] = {
    "0201": (0.6, 0.3, 0.25), "0402": (1.0, 0.5, 0.4), "0603": (1.6, 0.8, 0.6), "0805": (2.0, 1.25, 0.8),
    "1206": (3.2, 1.6, 1.1), "3 mm": (3.0, 3.0, 5.3), "5 mm": (5.0, 5.0, 8.6),
}  # fmt: skip
FIBRES_MM: Final = (0.25, 0.5, 0.75, 1.0)
_SHARE: Final = 0.7  # an emitter is no wider than this share of the lamp it plays
_SOLDER_MM: Final = 0.5
_DOME_LEGS: Final = 3.0  # bend of the legs, in diameters


@dataclass(frozen=True)
class Emitter:
    """Something that gives the light, and the depth it needs behind the skin, mm."""

    name: str
    depth_mm: float


def emitters_for(lamp_mm: float, diffuser_mm: float = 1.0) -> tuple[Emitter, ...]:
    """What suits a lamp of so many mm on the replica, the largest first; a fibre and a lit box where no lamp does."""
    room = _SHARE * lamp_mm
    lamps = [
        Emitter(name, size[2] + (_DOME_LEGS * size[0] if "mm" in name else _SOLDER_MM) + diffuser_mm)
        for name, size in SIZES.items()
        if max(size[:2]) <= room
    ]
    fibre = max((f for f in FIBRES_MM if f <= lamp_mm), default=None)
    # A fibre bends to ten times its thickness.
    others = [Emitter(f"fibre {fibre:g} mm", 10 * fibre)] if fibre else []
    return (*reversed(lamps), *others) or (Emitter("a lit box behind a masked window", 5.0),)
