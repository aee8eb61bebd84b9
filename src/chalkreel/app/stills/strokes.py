"""What is drawn over a still, as values (no Qt)."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Handle:
    """A mark that can be taken hold of: the entity and which of its marks, in stored pixels."""

    entity_id: str
    index: int
    x_px: float
    y_px: float


@dataclass(frozen=True)
class Stroke:
    """A line through points in stored pixels, with a label near its middle and a cross at each point."""

    points: tuple[tuple[float, float], ...]
    colour: str
    label: str = ""
    closed: bool = False
    dashed: bool = False
    crosses: bool = True
    strong: bool = False
