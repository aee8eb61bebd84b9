"""Side, top and front of the solved model in true proportion, with the sizes that were asked for.

Third-angle projection: the top view stands above the side view, the view from the bow to its left; the side is
port's, bow to the left.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.draft.labels import crosses, overlap
from chalkreel.core.draft.sheet import Path, Point, Ring, Sheet, Words, merged

GAP_MM = 14.0
RIM_POINTS = 72
TICK_MM = 1.6
OFFSET_MM, STACK_MM = 7.0, 3.0
CLEAR_MM, APART_MM, MOST_TRIES = 0.8, 5.5, 200
SMALLEST_MM = 1e-9
# Named places nearer than this share one ring.
NAMED_MM = 6.0
# Rows of the world's axes that run right and up in each view.
VIEWS: dict[str, tuple[tuple[float, float, float], tuple[float, float, float]]] = {
    "side": ((-1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "top": ((-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "front": ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
}
TRUE_SHARE = 0.985


@dataclass(frozen=True)
class Line3:
    """A straight edge between two points, mm at the drawing's scale; shown in all views, or in one.

    An `outer` one is drawn heavier.
    """

    a: tuple[float, float, float]
    b: tuple[float, float, float]
    view: str = ""
    outer: bool = False


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


@dataclass(frozen=True)
class Named3:
    """A place with words beside it, mm at the drawing's scale; one may be ringed."""

    at: tuple[float, float, float]
    words: str
    ringed: bool = False


def three_views(
    name: str, lines: tuple[Line3, ...], circles: tuple[Circle3, ...], points: tuple[tuple[float, float, float], ...],
    sizes: tuple[Size3, ...], named: tuple[Named3, ...] = (),
) -> Sheet:  # fmt: skip
    """The three views on one sheet, each size once, in the view that shows it truest; what is named, in all."""
    drawn = {}
    for view, (right, up) in VIEWS.items():
        axes = np.array([right, up])
        mine = tuple(size for size in sizes if _truest(size) == view)
        drawn[view] = merged(view, (_view(view, axes, lines, circles, points, mine), _named(axes, named)))
    side = drawn["side"]
    left, _, _, top = side.bounds()
    above = drawn["top"].moved(0.0, top + GAP_MM - drawn["top"].bounds()[1])
    front = drawn["front"].moved(left - GAP_MM - drawn["front"].bounds()[2], 0.0)
    return merged(name, (side, above, front))


def _view(
    name: str, axes: Array, lines: tuple[Line3, ...], circles: tuple[Circle3, ...],
    points: tuple[tuple[float, float, float], ...], sizes: tuple[Size3, ...],
) -> Sheet:  # fmt: skip
    lines = tuple(line for line in lines if line.view in ("", name))
    paths = [
        Path(tuple(_flat(axes, p) for p in (line.a, line.b)), "cut" if line.outer else "outline") for line in lines
    ]
    paths += [_rim(axes, circle) for circle in circles]
    used = {line.a for line in lines} | {line.b for line in lines}
    for point in points:
        if point not in used:
            x, y = _flat(axes, point)
            paths += [Path(((x - 1, y), (x + 1, y)), "register"), Path(((x, y - 1), (x, y + 1)), "register")]
    sheet = Sheet(name, tuple(paths))
    parts = [sheet, dimensioned(axes, sizes, sheet.bounds())]
    foot = merged("", parts).bounds()[1]
    parts.append(Sheet("", words=(Words((sheet.bounds()[0], foot - 6.0), name, 3.5),)))
    return merged(name, parts)


def dimensioned(axes: Array, sizes: Iterable[Size3], bounds: tuple[float, float, float, float]) -> Sheet:
    """Dimension lines of sizes round a view that takes up `bounds`, seen along `axes` (2, 3), right and up; short ones
    lie inmost.
    """
    x0, y0, x1, y1 = bounds
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    taken: list[tuple[Path, Words]] = []
    ordered = sorted(sizes, key=lambda size: float(np.linalg.norm(_span(size))))
    return merged("", [_dimension(axes, size, corners, taken) for size in ordered])


def is_true_in(axes: Array, size: Size3) -> bool:
    """Whether a view along `axes` (2, 3) hardly foreshortens a size."""
    line = _span(size)
    return bool(np.linalg.norm(axes @ line) >= TRUE_SHARE * np.linalg.norm(line))


def _named(axes: Array, named: tuple[Named3, ...]) -> Sheet:
    """A ring at each named place with its words beside it, the ringed one larger; those in one place stand in a row."""
    rings, words = [], []
    together: dict[Point, list[Named3]] = {}
    for one in named:
        x, y = _flat(axes, one.at)
        together.setdefault((round(x / NAMED_MM), round(y / NAMED_MM)), []).append(one)
    for group in together.values():
        at = _flat(axes, group[0].at)
        rings.append(Ring(at, 2.0, "score"))
        rings += [Ring(at, 8.0, "score")] * any(one.ringed for one in group)
        words.append(Words((at[0] + 3.0, at[1] + 2.0), ", ".join(one.words for one in group), 10.0))
    return Sheet("", (), tuple(rings), tuple(words))


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


def _dimension(axes: Array, size: Size3, corners: Array, taken: list[tuple[Path, Words]]) -> Sheet:
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
    for _ in range(MOST_TRIES):
        first = unit * float(unit @ a) + normal * out
        second = first + way
        line = Path((_pair(first), _pair(second)), "dimension")
        label = Words(_pair((first + second) / 2 - np.array([0.0, 1.1])), size.words, 2.4, centred=True)
        if not any(_collide(line, label, *other) for other in taken):
            break
        out += STACK_MM
    taken.append((line, label))
    paths = [line]
    for point, end in ((a, first), (other, second)):
        paths.append(Path((_pair(point + normal), _pair(end + normal * 1.2)), "dimension"))
        tick = (unit + normal) * TICK_MM / 2
        paths.append(Path((_pair(end - tick), _pair(end + tick)), "dimension"))
    return Sheet("", tuple(paths), (), (label,))


def _collide(line: Path, label: Words, other: Path, other_label: Words) -> bool:
    """Whether two dimensions could not be told apart: words over words, a line through words, or line on line."""
    box, other_box = label.box(CLEAR_MM), other_label.box(CLEAR_MM)
    if overlap(box, other_box) or crosses(*_ends(line), other_box) or crosses(*_ends(other), box):
        return True
    near = [min(_from_line(p, other) for p in line.points), min(_from_line(p, line) for p in other.points)]
    return min(near) < APART_MM


def _ends(line: Path) -> tuple[Point, Point]:
    return line.points[0], line.points[-1]


def _from_line(point: Point, line: Path) -> float:
    """How far a point lies from a stretch."""
    start, end = (np.array(p) for p in _ends(line))
    along = float(
        np.clip((np.array(point) - start) @ (end - start) / max(float((end - start) @ (end - start)), 1e-12), 0, 1)
    )
    return float(np.linalg.norm(np.array(point) - start - along * (end - start)))


def _pair(point: Array) -> Point:
    return float(point[0]), float(point[1])
