"""What is to be cut, what it is cut from, and where each piece lies."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Final

from chalkreel.core.errors import RefusedError

Point = tuple[float, float]
# No list of a model is longer, and no sheet or kerf larger.
MOST_PIECES: Final = 2_000
LARGEST_MM: Final = 3_000.0
LARGEST_KERF_MM: Final = 10.0


@dataclass(frozen=True)
class Piece:
    """An outline (mm, y up, any place) to be cut `count` times; `along_grain` allows only half turns on grained sheet.

    A `mirrored` piece is the mirror image of what is drawn: on sheet without a good face it may be laid either way.
    """

    key: str
    outline: tuple[Point, ...]
    count: int = 1
    along_grain: bool = False

    @property
    def area(self) -> float:
        """mm² of one."""
        return abs(signed_area(self.outline))

    @cached_property
    def size(self) -> tuple[float, float]:
        """Width and height of what is drawn."""
        xs, ys = zip(*self.outline, strict=True)
        return max(xs) - min(xs), max(ys) - min(ys)

    @cached_property
    def is_rectangle(self) -> bool:
        """Whether it fills its own frame."""
        width, height = self.size
        return self.area >= (1 - 1e-6) * width * height


@dataclass(frozen=True)
class StockSheet:
    """A sheet or offcut (mm, y up, from the origin): how many, whether it has a grain and one good face."""

    key: str
    outline: tuple[Point, ...]
    count: int = 1
    offcut: bool = False
    grained: bool = False
    one_face: bool = False

    @cached_property
    def size(self) -> tuple[float, float]:
        """Width and height."""
        xs, ys = zip(*self.outline, strict=True)
        return max(xs) - min(xs), max(ys) - min(ys)

    @cached_property
    def is_rectangle(self) -> bool:
        """Whether it is a whole rectangle."""
        width, height = self.size
        return abs(signed_area(self.outline)) >= (1 - 1e-6) * width * height


@dataclass(frozen=True)
class Placed:
    """One piece on one sheet: turned over first, then turned by `turn` degrees, then its frame's corner put at x, y."""

    piece: str
    x: float
    y: float
    turn: float
    over: bool
    outline: tuple[Point, ...]


@dataclass(frozen=True)
class Laid:
    """One sheet out of the stock with what is cut from it."""

    sheet: StockSheet
    placed: tuple[Placed, ...]


@dataclass(frozen=True)
class Layout:
    """All sheets in the order in which they are cut, and the keys of pieces for which there is no room, one each."""

    laid: tuple[Laid, ...]
    unplaced: tuple[str, ...] = ()

    @property
    def cut_area(self) -> float:
        """mm² of all pieces that are laid."""
        return sum(abs(signed_area(p.outline)) for laid in self.laid for p in laid.placed)

    @property
    def taken_area(self) -> float:
        """mm² taken from the stock: sheets wholly, the last of them only as far as it is used along one side."""
        areas = [abs(signed_area(laid.sheet.outline)) for laid in self.laid]
        return sum(areas[:-1]) + (_used(self.laid[-1]) if self.laid else 0.0)

    @property
    def waste(self) -> float:
        """Share of what is taken that becomes no piece."""
        return 1.0 - self.cut_area / self.taken_area if self.laid else 0.0

    @property
    def price(self) -> tuple[int, float, float]:
        """What makes one layout better than another, the least first: pieces left, new sheet, all sheet."""
        new = [laid for laid in self.laid if not laid.sheet.offcut]
        fresh = sum(abs(signed_area(laid.sheet.outline)) for laid in new[:-1]) + (_used(new[-1]) if new else 0.0)
        return len(self.unplaced), fresh, self.taken_area


def _used(laid: Laid) -> float:
    width, height = laid.sheet.size
    right = max((x for p in laid.placed for x, _ in p.outline), default=0.0)
    top = max((y for p in laid.placed for _, y in p.outline), default=0.0)
    return min(right * height, top * width, abs(signed_area(laid.sheet.outline)))


def signed_area(outline: tuple[Point, ...]) -> float:
    """mm², positive where the outline runs to the left."""
    after = (*outline[1:], outline[0])
    return 0.5 * sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(outline, after, strict=True))


def put(piece: Piece, x: float, y: float, turn: float = 0.0, over: bool = False) -> Placed:
    """A piece laid down with the lower left corner of its frame at x, y."""
    points = turned(piece.outline, turn, over)
    return Placed(piece.key, x, y, turn % 360, over, tuple((px + x, py + y) for px, py in points))


def turned(outline: tuple[Point, ...], turn: float, over: bool) -> tuple[Point, ...]:
    """An outline turned over, then round, with its frame's corner at the origin."""
    exact = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}
    c, s = exact.get(turn % 360, (math.cos(math.radians(turn)), math.sin(math.radians(turn))))
    flipped = [(-x if over else x, y) for x, y in outline]
    points = [(c * x - s * y, s * x + c * y) for x, y in flipped]
    left, low = min(x for x, _ in points), min(y for _, y in points)
    return tuple((x - left, y - low) for x, y in points)


def rectangle(width: float, height: float) -> tuple[Point, ...]:
    """A rectangle from the origin."""
    return ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))


def checked(pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], kerf_mm: float) -> None:
    """Refuse what cannot be laid out.

    Raises
    ------
    RefusedError
        Too many pieces, outlines that cross themselves or enclose nothing, a kerf that no blade has.
    """
    # Loaded with the first list: it is not needed to open a window.
    from shapely import Polygon  # noqa: PLC0415

    if not 0 <= kerf_mm <= LARGEST_KERF_MM:
        raise RefusedError(f"A cut is between 0 and {LARGEST_KERF_MM:g} mm wide.")
    count = sum(piece.count for piece in pieces)
    if count > MOST_PIECES:
        raise RefusedError(f"{count} pieces are more than can be laid out at once: {MOST_PIECES} is the most.")
    things: tuple[Piece | StockSheet, ...] = (*pieces, *sheets)
    for thing in things:
        points = [value for point in thing.outline for value in point]
        if len(thing.outline) < 3 or not all(math.isfinite(v) for v in points):
            raise RefusedError(f"“{thing.key}” has no outline that encloses anything.")
        polygon = Polygon(thing.outline)
        if not polygon.is_valid or polygon.area <= 0:
            raise RefusedError(f"The outline of “{thing.key}” crosses itself: nothing can be cut along it.")
        if max(thing.size) > LARGEST_MM:
            raise RefusedError(f"“{thing.key}” is more than {LARGEST_MM / 1000:g} m long.")
