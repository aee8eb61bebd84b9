"""A sheet of lines, circles and words at true size, in mm, y up; written to files by `exchange`."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Final, Literal

from chalkreel.core.lengths import INCH_MM, LengthUnit

Point = tuple[float, float]
LineLayer = Literal["cut", "score", "mask", "outline", "dimension", "register"]
# Width of a letter over its height, as the shipped family sets it, on the wide side.
WORD_WIDTH = 0.8
# What hangs below the line, over the height of a capital.
DESCENDER = 0.3
# The bar that a print is checked by: its length and its words.
CHECK_BARS: Final[dict[LengthUnit, tuple[float, str]]] = {"mm": (100.0, "100 mm"), "inch": (4 * INCH_MM, "4 in")}
LAYERS: tuple[LineLayer, ...] = ("cut", "score", "mask", "outline", "dimension", "register")


@dataclass(frozen=True)
class Path:
    """A line through points."""

    points: tuple[Point, ...]
    layer: LineLayer
    closed: bool = False


@dataclass(frozen=True)
class Ring:
    """A circle."""

    centre: Point
    radius: float
    layer: LineLayer


@dataclass(frozen=True)
class Words:
    """Text that starts at a point, or is centred on it, so many mm high; `spare` text is left out where there is no
    room.
    """

    at: Point
    words: str
    height: float = 2.5
    centred: bool = False
    spare: bool = False

    def box(self, clear: float = 0.0) -> tuple[float, float, float, float]:
        """The room that it takes, with so much clear round it: (x0, y0, x1, y1)."""
        width = WORD_WIDTH * self.height * len(self.words)
        left = self.at[0] - (width / 2 if self.centred else 0.0)
        low = self.at[1] - DESCENDER * self.height
        return left - clear, low - clear, left + width + clear, self.at[1] + self.height + clear


@dataclass(frozen=True)
class Plate:
    """A picture file (PNG) laid under the lines: its lower left corner, width and height."""

    png: bytes
    corner: Point
    width: float
    height: float


@dataclass(frozen=True)
class Sheet:
    """Everything on one sheet; `unit` is what its bar is told in."""

    name: str
    paths: tuple[Path, ...] = ()
    rings: tuple[Ring, ...] = ()
    words: tuple[Words, ...] = ()
    unit: LengthUnit = "mm"
    plate: Plate | None = None

    def bounds(self) -> tuple[float, float, float, float]:
        """Least and greatest x and y: (x0, y0, x1, y1); all 0 for an empty sheet."""
        points = [p for path in self.paths for p in path.points]
        for ring in self.rings:
            (x, y), r = ring.centre, ring.radius
            points += [(x - r, y - r), (x + r, y + r)]
        for text in self.words:
            x0, y0, x1, y1 = text.box()
            points += [(x0, y0), (x1, y1)]
        if self.plate is not None:
            (x, y), plate = self.plate.corner, self.plate
            points += [(x, y), (x + plate.width, y + plate.height)]
        if not points:
            return 0.0, 0.0, 0.0, 0.0
        xs, ys = zip(*points, strict=True)
        return min(xs), min(ys), max(xs), max(ys)

    def moved(self, dx: float, dy: float) -> Sheet:
        """The same, shifted."""

        def shift(p: Point) -> Point:
            return p[0] + dx, p[1] + dy

        return Sheet(
            self.name,
            tuple(replace(path, points=tuple(map(shift, path.points))) for path in self.paths),
            tuple(replace(ring, centre=shift(ring.centre)) for ring in self.rings),
            tuple(replace(text, at=shift(text.at)) for text in self.words),
            self.unit,
            replace(self.plate, corner=shift(self.plate.corner)) if self.plate is not None else None,
        )


def merged(name: str, sheets: Iterable[Sheet]) -> Sheet:
    """Several sheets on one, where they are."""
    parts = tuple(sheets)
    return Sheet(
        name,
        tuple(p for s in parts for p in s.paths),
        tuple(r for s in parts for r in s.rings),
        tuple(w for s in parts for w in s.words),
    )


def in_rows(name: str, sheets: Iterable[Sheet], width: float = 190.0, gap: float = 8.0) -> Sheet:
    """Several sheets side by side in rows no wider than `width` where they allow it; a low one goes into the first row
    that has room for it.
    """
    rows: list[list[Sheet]] = []
    for sheet in sheets:
        _, low, _, high = sheet.bounds()
        fits = (row for row in rows
                if _row_width(row, gap) + gap + _width(sheet) <= width and high - low <= _row_height(row))  # fmt: skip
        row = next(fits, None)
        if row is None and rows and _row_width(rows[-1], gap) + gap + _width(sheet) <= width:
            row = rows[-1]
        if row is None:
            rows.append([sheet])
        else:
            row.append(sheet)
    placed, y = list[Sheet](), 0.0
    for row in rows:
        x = 0.0
        for sheet in row:
            x0, _, _, y1 = sheet.bounds()
            placed.append(sheet.moved(x - x0, y - y1))
            x += _width(sheet) + gap
        y -= _row_height(row) + gap
    return merged(name, placed)


def _width(sheet: Sheet) -> float:
    x0, _, x1, _ = sheet.bounds()
    return x1 - x0


def _row_width(row: list[Sheet], gap: float) -> float:
    return sum(map(_width, row)) + gap * (len(row) - 1)


def _row_height(row: list[Sheet]) -> float:
    return max(high - low for _, low, _, high in (sheet.bounds() for sheet in row))
