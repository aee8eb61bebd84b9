"""View-model of the cut list (no Qt): sheets and bars at one scale, pieces and cuts in px, words of the list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.answers.cut_pieces import entry_of
from chalkreel.answers.cuts import CutGroup, CutRow, Cuts, SheetCuts
from chalkreel.core.convert.nest.bars import CutBar
from chalkreel.core.convert.nest.cuts import Box
from chalkreel.core.convert.nest.pieces import Laid, Point, rectangle
from chalkreel.core.figures import plural
from chalkreel.core.lengths import LengthUnit, format_length, rough_length
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.snapshot import Build

HEAD, GAP, BAR_H = 24.0, 18.0, 26.0
# A sheet takes at most this share of the width, so that offcuts find room beside it; a bar leaves room for its rest.
LARGEST_SHARE, BESIDE_BAR = 0.62, 120.0
MOST_PX_PER_MM: Final = 2.4


@dataclass(frozen=True)
class DrawnPiece:
    """One piece: its outline in px, what is written on it, and the entry of the list it belongs to."""

    piece_id: str
    outline: tuple[Point, ...]
    words: str
    small: str


@dataclass(frozen=True)
class DrawnField:
    """One sheet, offcut or bar in px: title, outline, pieces, what stays whole with its words, and cuts in order."""

    title: str
    group: int
    outline: tuple[Point, ...]
    pieces: tuple[DrawnPiece, ...]
    stays: tuple[tuple[tuple[Point, ...], str], ...] = ()
    cuts: tuple[tuple[Point, Point], ...] = ()
    left_words: str = ""


def drawn(build: Build, found: Cuts, width: float) -> tuple[tuple[DrawnField, ...], float]:
    """Everything that is cut, in rows that wide, and the height it takes."""
    scale = _scale(found, width)
    fields: list[DrawnField] = []
    x = y = row = 0.0
    for number, group in enumerate(found.groups):
        for laid, sheet in zip(group.layout.laid if group.layout else (), group.sheets, strict=True):
            wide, high = laid.sheet.size[0] * scale, HEAD + laid.sheet.size[1] * scale
            if x and x + wide > width:
                x, y, row = 0.0, y + row + GAP, 0.0
            fields.append(_sheet(build, found, number, laid, sheet, scale, (x, y + HEAD)))
            x, row = x + max(wide, 150.0) + GAP, max(row, high)
        for bar in group.bars.bars if group.bars else ():
            if row:
                y, x, row = y + row + GAP, 0.0, 0.0
            fields.append(_bar(build, found, number, group, bar, scale, y + HEAD))
            y += HEAD + BAR_H + 8.0
    return tuple(fields), y + row


def _scale(found: Cuts, width: float) -> float:
    """px for one mm, the same for all."""
    longest = max((laid.sheet.size[0] for g in found.groups if g.layout for laid in g.layout.laid), default=0.0)
    bar = max((b.bar.mm for g in found.groups if g.bars for b in g.bars.bars), default=0.0)
    options = [MOST_PX_PER_MM]
    if longest:
        options.append(LARGEST_SHARE * width / longest)
    if bar:
        options.append((width - BESIDE_BAR) / bar)
    return max(0.2, min(options))


def _sheet(
    build: Build, found: Cuts, group: int, laid: Laid, sheet: SheetCuts, scale: float, corner: Point
) -> DrawnField:
    high = laid.sheet.size[1]

    def px(point: Point) -> Point:
        return corner[0] + point[0] * scale, corner[1] + (high - point[1]) * scale

    unit = build.info.unit
    pieces = []
    for placed in laid.placed:
        xs, ys = zip(*placed.outline, strict=True)
        small = f"{_plain(max(xs) - min(xs), unit)} × {_plain(max(ys) - min(ys), unit)}"
        over = " ⇄" if placed.over else ""
        words = found.titles.get(placed.piece, "") + over
        pieces.append(DrawnPiece(entry_of(placed.piece), tuple(map(px, placed.outline)), words, small))
    stays = tuple((tuple(map(px, _corners(box))), stays_words(box, unit)) for box in sheet.stays)
    cuts = tuple((px(cut.start), px(cut.end)) for cut in sheet.cuts or ())
    return DrawnField(
        _stock_words(build, laid.sheet.key), group, tuple(map(px, laid.sheet.outline)), tuple(pieces), stays, cuts,
    )  # fmt: skip


def widest_span(outline: tuple[Point, ...], y: float) -> tuple[float, float]:
    """From where to where an outline reaches at a height: the widest stretch inside it, empty where there is none."""
    after = (*outline[1:], outline[0])
    crossings = sorted(
        a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])
        for a, b in zip(outline, after, strict=True) if (a[1] <= y) != (b[1] <= y)
    )  # fmt: skip
    spans = list(zip(crossings[::2], crossings[1::2], strict=False))
    return max(spans, key=lambda span: span[1] - span[0], default=(outline[0][0], outline[0][0]))


def _corners(box: Box) -> tuple[Point, ...]:
    return tuple((x + box[0], y + box[1]) for x, y in rectangle(box[2] - box[0], box[3] - box[1]))


def stays_words(box: Box, unit: LengthUnit) -> str:
    """'stays whole: 330 × 121 mm'."""
    return f"stays whole: {rough_length(box[2] - box[0], unit)} × {rough_length(box[3] - box[1], unit)}"


def _bar(build: Build, found: Cuts, group: int, of: CutGroup, bar: CutBar, scale: float, top: float) -> DrawnField:
    pieces, at = [], 0.0
    for key, mm in bar.lengths:
        outline = _bar_outline(at * scale, top, mm * scale)
        pieces.append(DrawnPiece(key, outline, found.titles.get(key, ""), _plain(mm, build.info.unit)))
        at += mm + found.kerf_mm
    left = f"left {format_length(bar.left_mm, build.info.unit)}"
    title = f"{_stock_words(build, bar.bar.key)} ({of.form})"
    return DrawnField(title, group, _bar_outline(0.0, top, bar.bar.mm * scale), tuple(pieces), left_words=left)


def _bar_outline(x: float, top: float, length: float) -> tuple[Point, ...]:
    return tuple((x + px, top + py) for px, py in rectangle(length, BAR_H))


def _plain(mm: float, unit: LengthUnit) -> str:
    """A size as it is written on a piece; mm go without their sign, which the sheet's title has."""
    return f"{round(mm, 1):g}" if unit == "mm" else format_length(mm, unit)


def _stock_words(build: Build, stock_id: str) -> str:
    stock = build.get(StockPiece, stock_id)
    if stock is None:
        return "stock"
    unit = build.info.unit
    size = f"{rough_length(stock.long_mm, unit)} × {rough_length(stock.wide_mm, unit)}"
    if stock.form != "sheet":
        size = rough_length(stock.long_mm, unit)
    kind = ", offcut" * stock.offcut + ", grain ↔" * stock.grained + ", one good face" * stock.one_face
    return f"{stock.name}{kind}, {size}"


def taken_words(found: Cuts) -> str:
    """'1 sheet, 2 offcuts, 3 strips'."""
    counts = {"sheet": 0, "offcut": 0, "bar": 0}
    for group in found.groups:
        for laid in group.layout.laid if group.layout else ():
            counts["offcut" if laid.sheet.offcut else "sheet"] += 1
        counts["bar"] += len(group.bars.bars) if group.bars else 0
    words = [plural(n, name) for name, n in counts.items() if n]
    return ", ".join(words) or "nothing yet"


def layers_words(row: CutRow, unit: LengthUnit) -> str:
    """'2 × 0.76 + 0.26 mm', or a thickness alone."""
    if not row.layers_mm:
        return ""
    if len(row.layers_mm) == 1:
        return format_length(row.layers_mm[0], unit)
    return " + ".join(format_length(mm, unit) for mm in row.layers_mm)


def holds(group: CutGroup, piece_id: str) -> bool:
    """Whether something of an entry is cut in a group."""
    laid = group.layout.laid if group.layout is not None else ()
    bars = group.bars.bars if group.bars is not None else ()
    keys = [p.piece for one in laid for p in one.placed] + [key for bar in bars for key, _ in bar.lengths]
    return any(entry_of(key) == piece_id for key in keys)


def usual_sheet(build: Build) -> StockPiece | None:
    """The whole sheet of which most is left."""
    sheets = [s for s in build.all(StockPiece) if s.form == "sheet" and s.count and not s.offcut]
    return max(sheets, key=lambda s: s.count, default=None)


def bars_words(found: Cuts) -> str:
    """Whether the bars were proved to be the fewest."""
    plans = [group.bars for group in found.groups if group.bars is not None and group.bars.bars]
    if not plans:
        return ""
    return (
        "no way needs less new strip: proved" if all(p.proved for p in plans) else "strip: not proved to be the least"
    )
