"""Mouse and keyboard tools: they gather points in stored pixels and know no widget."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class ToolKind:
    """How many points a tool gathers, whether it drags a rectangle, and what it asks for at each point.

    A tool with `least` may be ended with Enter once it has that many. One that `paints` gathers the whole path of
    a drag. `closing` says what ends one that offers points.
    """

    name: str
    count: int
    drags: bool
    prompts: tuple[str, ...]
    least: int = 0
    paints: bool = False
    closing: str = ""


RULER = ToolKind("Ruler", 2, False, ("Click one end of a length you know.", "Click its other end."))
LANDMARK = ToolKind("Landmark", 1, False, ("Click the landmark. Shift holds the snap off.",))
EDGE = ToolKind("Edge", 2, False, ("Click one end of a straight edge, or a landmark on it.", "Click its other end."))
RIM = ToolKind(
    "Rim", 24, False, ("Click five points or more round the rim; Enter when you have enough.",) * 24, least=5
)
FLAT = ToolKind(
    "Flat", 40, False, ("Click landmarks that lie in one plane; Enter when you have enough.",) * 40, least=3
)
_CLOSING = "Enter makes it a face, Shift+Enter one to cut out."
FACE = ToolKind(
    "Face",
    60,
    False,
    ("Click inside a flat, or landmarks in order round a flat piece of the skin.",)
    + (f"Click the next landmark round it. {_CLOSING}",) * 59,
    least=3,
    closing=_CLOSING,
)
STRAIGHT = ToolKind(
    "Bend", 40, False, ("Click along an edge that is straight in truth; Enter when done.",) * 40, least=3
)
REPEAT = ToolKind(
    "Repeat", 90, False, ("Click the same spot on each part round a rim; Enter when done.",) * 90, least=3
)
OUTLINE = ToolKind("Outline", 200, False, ("Click round the part; Enter closes the outline.",) * 200, least=3)
SPOT = ToolKind("Mark", 2, False, ("Click one end of the chip, hit or streak.", "Click its other end."))
ANGLE = ToolKind(
    "Angle",
    3,
    False,
    ("Click a landmark on one side.", "Click the landmark at the corner.", "Click one on the other side."),
)
SIZE = ToolKind("Size", 2, False, ("Click one end of the size you want.", "Click its other end."))
_CORNERS = ("first", "second", "third", "last")
RECTANGLE = ToolKind(
    "Plane",
    4,
    False,
    tuple(f"Click the {nth} corner of a true rectangle, going round it." for nth in _CORNERS),
)
PATCH = ToolKind("Patch", 2, True, ("Drag over a flat, evenly lit part of one surface.",) * 2)
NEUTRAL = ToolKind("Neutral", 2, True, ("Drag over something known to be grey or white, in the same light.",) * 2)
POLYGON = ToolKind(
    "Polygon", 60, False, ("Click round a flat, evenly lit part of one surface; Enter closes it.",) * 60, least=3
)
BRUSH = ToolKind("Brush", 2, True, ("Brush over one surface with the button held down.",) * 2, paints=True)
KNOWN = ToolKind("Known", 2, True, ("Drag over something whose colour you know, in the same light.",) * 2)
GLOW = ToolKind("Glow", 2, True, ("Drag a frame round a lit lamp, well into the dark round it.",) * 2)

KEYS_PROMPT = "Arrows nudge ¼ pixel, Enter places, Esc backs out."


# What points a click stands for, given those so far.
Meant = Callable[[Points, tuple[float, float]], Points]


class Gathering:
    """One tool at work: points come in one by one; `finished` gets them when they are delivered.

    With `meant` a first click may stand for several points, which are offered until the next click.
    """

    def __init__(self, kind: ToolKind, finished: Callable[[Points], object], meant: Meant | None = None) -> None:
        self.kind = kind
        self.points: list[tuple[float, float]] = []
        # Whether the points are what one click stands for, which the next one replaces.
        self.offered = False
        self._finished, self._meant = finished, meant

    @property
    def prompt(self) -> str:
        """What the next click is for."""
        words = self.kind.prompts[min(len(self.points), self.kind.count - 1)]
        if self.offered:
            words = f"A flat piece of {len(self.points)} corners: {self.kind.closing} Or click its corners one by one."
        return f"{words} Esc backs out." if self.kind.drags else f"{words} {KEYS_PROMPT}"

    def place(self, x: float, y: float) -> bool:
        """Take a point; True when it was the last.

        Raises
        ------
        RefusedError
            The tool has no use for it.
        """
        so_far = () if self.offered else tuple(self.points)
        found = self._meant(so_far, (x, y)) if self._meant is not None else ((x, y),)
        self.points, self.offered = [*so_far, *found], len(found) > 1
        return len(self.points) >= self.kind.count

    @property
    def ready(self) -> bool:
        """Whether it may end here."""
        return 0 < self.kind.least <= len(self.points)

    def deliver(self) -> None:
        """Hand over the points there are."""
        points, self.points, self.offered = tuple(self.points), [], False
        self._finished(points)

    def back(self) -> bool:
        """Take the last point back, or all that were offered; False when there was none."""
        if self.offered:
            self.points, self.offered = [], False
            return True
        if self.points:
            self.points.pop()
            return True
        return False
