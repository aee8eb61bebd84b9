"""What is drawn over a still, as values (no Qt)."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Handle:
    """A mark that can be taken hold of: the entity and which of its marks, in stored pixels.

    A `ghost` is no mark yet: its entity is the landmark that is expected there.
    """

    entity_id: str
    index: int
    x_px: float
    y_px: float
    ghost: bool = False

    @property
    def key(self) -> tuple[str, int, bool]:
        """What stays the same while it is moved."""
        return self.entity_id, self.index, self.ghost

    def at(self, x_px: float, y_px: float) -> Handle:
        """The same mark elsewhere."""
        return replace(self, x_px=x_px, y_px=y_px)


@dataclass(frozen=True)
class Stroke:
    """A line through points in stored pixels, with a label near its middle and a cross at each point.

    A `spare` label is written only where it covers nothing else, not even a cross.
    """

    points: tuple[tuple[float, float], ...]
    colour: str
    label: str = ""
    closed: bool = False
    dashed: bool = False
    crosses: bool = True
    strong: bool = False
    spare: bool = False
