"""The world's axes by name."""

from __future__ import annotations

from typing import Literal

# Towards the bow, to port, up: x, y and z.
Axis = Literal["length", "beam", "height"]
AXES: tuple[Axis, ...] = ("length", "beam", "height")
