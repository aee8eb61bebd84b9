"""Shapes of stored pixels, by plain description."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class PixelShape:
    """Width of a stored pixel over its height."""

    name: str
    aspect: float


# Ratios for the full stored width (720 samples shown across the whole picture).
PIXEL_SHAPES: Final = (
    PixelShape("square pixels", 1.0),
    PixelShape("720 × 576 shown at 4:3", 16 / 15),
    PixelShape("720 × 576 shown at 16:9", 64 / 45),
    PixelShape("720 × 480 shown at 4:3", 8 / 9),
    PixelShape("720 × 480 shown at 16:9", 32 / 27),
)
SMALLEST_ASPECT: Final = 0.25
LARGEST_ASPECT: Final = 4.0


def likely_shapes(width: int, height: int) -> tuple[PixelShape, ...]:
    """The shapes worth asking about for a picture of this stored size."""
    return tuple(s for s in PIXEL_SHAPES[1:] if s.name.startswith(f"{width} × {height} "))
