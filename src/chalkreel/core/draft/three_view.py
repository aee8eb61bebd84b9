"""Side, top and front of the solved model in true proportion, with the sizes that were asked for.

Third-angle projection: the top view stands above the side view, the view from the bow to its left; the side is
port's, bow to the left.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.draft.sheet import Path, Point, Sheet, Words, merged

GAP_MM = 14.0
RIM_POINTS = 72
TICK_MM = 1.6
OFFSET_MM, STACK_MM = 7.0, 6.0
SMALLEST_MM = 1e-9
# Rows of the world's axes that run right and up in each view.
VIEWS: dict[str, tuple[tuple[float, float, float], tuple[float, float, float]]] = {
    "side": ((-1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "top": ((-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "front": ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
}
TRUE_SHARE = 0.985


@dataclass(frozen=True)
class Line3:
    """A straight edge between two points, mm at the drawing's scale."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]


@dataclass(frozen=True)
class Circle3:
    """A circle by centre, unit normal and radius, mm at the drawing's scale."""

    centre: tuple[float, float, float]
    normal: tuple[float, float, float]
    radius: float


@dataclass(frozen=True)
class Size3:
    """A size between two points, with the words to write on it; `along` counts one axis only (0, 1, 2)."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]
    words: str
    along: int | None = None


def three_views(
    name: str, lines: tuple[Line3, ...], circles: tuple[Circle3, ...], points: tuple[tuple[float, float, float], ...],
    sizes: tuple[Size3, ...],
) -> Sheet:  # fmt: skip
    """The three views on one sheet, each size once, in the view that shows it truest."""
    drawn = {}
    for view, (right, up) in VIEWS.items():
        axes = np.array([right, up])
        mine = tuple(size for size in sizes if _truest(size) == view)
        drawn[view] = _view(view, axes, lines, circles, points, mine)
    side = drawn["side"]
    left, _, _, top = side.bounds()
    above = drawn["top"].moved(0.0, top + GAP_MM - drawn["top"].bounds()[1])
    front = drawn["front"].moved(left - GAP_MM - drawn["front"].bounds()[2], 0.0)
    return merged(name, (side, above, front))


def _view(
    name: str, axes: Array, lines: tuple[Line3, ...], circles: tuple[Circle3, ...],
    points: tuple[tuple[float, float, float], ...], sizes: tuple[Size3, ...],
) -> Sheet:  # fmt: skip
    paths = [Path(tuple(_flat(axes, p) for p in (line.a, line.b)), "outline") for line in lines]
    paths += [_rim(axes, circle) for circle in circles]
    used = {line.a for line in lines} | {line.b for line in lines}
    for point in points:
        if point not in used:
            x, y = _flat(axes, point)
            paths += [Path(((x - 1, y), (x + 1, y)), "register"), Path(((x, y - 1), (x, y + 1)), "register")]
    sheet = Sheet(name, tuple(paths))
    x0, y0, x1, y1 = sheet.bounds()
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    parts = [sheet]
    taken: list[tuple[float, float]] = []
    for size in sorted(sizes, key=lambda s: float(np.linalg.norm(_span(s)))):
        parts.append(_dimension(axes, size, corners, taken))
    foot = merged("", parts).bounds()[1]
    parts.append(Sheet("", words=(Words((x0, foot - 6.0), name, 3.5),)))
    return merged(name, parts)


def _flat(axes: Array, point: tuple[float, float, float]) -> Point:
    x, y = axes @ np.array(point)
    return float(x), float(y)


def _rim(axes: Array, circle: Circle3) -> Path:
    normal = np.array(circle.normal)
    first = np.cross(normal, [0.0, 0.0, 1.0] if abs(normal[2]) < 0.9 else [1.0, 0.0, 0.0])
    first = first / np.linalg.norm(first)
    turn = np.linspace(0.0, 2 * np.pi, RIM_POINTS, endpoint=False)[:, None]
    ring = np.array(circle.centre) + circle.radius * (np.cos(turn) * first + np.sin(turn) * np.cross(normal, first))
    return Path(tuple((float(x), float(y)) for x, y in ring @ axes.T), "outline", closed=True)


def _span(size: Size3) -> Array:
    line = np.array(size.b) - np.array(size.a)
    return np.asarray(line if size.along is None else line * np.eye(3)[size.along])


def _truest(size: Size3) -> str:
    """The first view in which the size is hardly foreshortened, else the one where it is least so."""
    line = _span(size)
    shares = {view: float(np.linalg.norm(np.array(axes) @ line)) for view, axes in VIEWS.items()}
    length = float(np.linalg.norm(line))
    return next((v for v, s in shares.items() if s >= TRUE_SHARE * length), max(shares, key=lambda v: shares[v]))


def _dimension(axes: Array, size: Size3, corners: Array, taken: list[tuple[float, float]]) -> Sheet:
    """A dimension line outside the view's corners (4, 2), with ticks and extension lines; short ones lie inmost."""
    a, other = (np.array(_flat(axes, point)) for point in (size.a, size.b))
    way = axes @ _span(size)
    length = float(np.linalg.norm(way))
    if length < SMALLEST_MM:
        return Sheet("")
    unit = way / length
    normal = np.array([-unit[1], unit[0]])
    if float(normal @ ((a + other) / 2 - corners.mean(axis=0))) < 0:
        normal = -normal
    out = float((corners @ normal).max()) + OFFSET_MM
    direction = round(math.atan2(normal[1], normal[0]), 2)
    # Words lie level, so upright dimension lines need more room beside each other.
    stack = STACK_MM * (1.0 + 2.0 * abs(float(unit[1])))
    while any(abs(direction - d) < 0.02 and abs(out - o) < stack * 0.9 for d, o in taken):
        out += stack
    taken.append((direction, out))
    first = unit * float(unit @ a) + normal * out
    second = first + way
    paths = [Path((_pair(first), _pair(second)), "dimension")]
    for point, end in ((a, first), (other, second)):
        paths.append(Path((_pair(point + normal), _pair(end + normal * 1.2)), "dimension"))
        tick = (unit + normal) * TICK_MM / 2
        paths.append(Path((_pair(end - tick), _pair(end + tick)), "dimension"))
    at = (first + second) / 2 - np.array([0.0, 1.1])
    return Sheet("", tuple(paths), (), (Words(_pair(at), size.words, 2.4, centred=True),))


def _pair(point: Array) -> Point:
    return float(point[0]), float(point[1])
