"""The cut list as drawings at true size: one for each sheet or bar, with the pieces and the order of the cuts."""

from __future__ import annotations

from dataclasses import replace

from chalkreel.answers.cuts import CutGroup, Cuts, SheetCuts
from chalkreel.core.convert.nest.bars import CutBar
from chalkreel.core.convert.nest.pieces import Laid, rectangle
from chalkreel.core.draft.sheet import Path, Sheet, Words, in_rows
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import format_length
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.snapshot import Build

TITLE_MM, WORDS_MM, NUMBER_MM = 3.0, 2.2, 2.6
# How high a bar is drawn, and how wide a letter is at least.
BAR_MM, LETTER_SHARE = 6.0, 0.6
APART_MM = 10.0


def cut_sheet(build: Build, found: Cuts, groups: tuple[int, ...]) -> Sheet:
    """Everything that is cut in some groups, one drawing below the other, at true size.

    Raises
    ------
    RefusedError
        Nothing is laid out there.
    """
    sheets = [sheet for number in groups for sheet in _of_group(build, found, found.groups[number])]
    if not sheets:
        raise RefusedError("Nothing is laid out yet: add pieces, and enter your sheets under Stock.")
    widest = max(sheet.bounds()[2] - sheet.bounds()[0] for sheet in sheets)
    name = f"{build.info.name}, cut list"
    return replace(in_rows(name, sheets, widest, APART_MM), unit=build.info.unit)


def _of_group(build: Build, found: Cuts, group: CutGroup) -> list[Sheet]:
    drawn = [
        _sheet(build, found, group, laid, sheet)
        for laid, sheet in zip(group.layout.laid if group.layout else (), group.sheets, strict=True)
    ]
    return drawn + [_bar(build, found, group, bar) for bar in (group.bars.bars if group.bars else ())]


def _title(build: Build, group: CutGroup, stock_id: str, high: float) -> Words:
    stock = build.get(StockPiece, stock_id)
    name = stock.name if stock is not None else group.material
    thick = format_length(group.thick_mm, build.info.unit)
    return Words(
        (0.0, high + 3.0), f"{name}, {thick}{', offcut' if stock is not None and stock.offcut else ''}", TITLE_MM
    )


def _sheet(build: Build, found: Cuts, group: CutGroup, laid: Laid, sheet: SheetCuts) -> Sheet:
    high = laid.sheet.size[1]
    paths = [Path(laid.sheet.outline, "outline", closed=True)]
    words = [_title(build, group, laid.sheet.key, high)]
    for placed in laid.placed:
        paths.append(Path(placed.outline, "cut", closed=True))
        xs, ys = zip(*placed.outline, strict=True)
        title = found.titles.get(placed.piece, "") + (" ⇄" if placed.over else "")
        middle = ((max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2 - WORDS_MM / 2)
        words += _fitting(title, middle, max(xs) - min(xs))
    for number, cut in enumerate(sheet.cuts or (), start=1):
        paths.append(Path((cut.start, cut.end), "dimension"))
        words.append(Words((cut.end[0] - 3.0, cut.end[1] + 0.6), str(number), NUMBER_MM))
    for left, low, right, top in sheet.stays:
        told = (
            f"stays whole: {format_length(right - left, build.info.unit)} × {format_length(top - low, build.info.unit)}"
        )
        words += _fitting(told, ((left + right) / 2, (low + top) / 2), right - left)
    return Sheet(group.material, tuple(paths), (), tuple(words))


def _bar(build: Build, found: Cuts, group: CutGroup, bar: CutBar) -> Sheet:
    paths = [Path(rectangle(bar.bar.mm, BAR_MM), "outline", closed=True)]
    words, at = [_title(build, group, bar.bar.key, BAR_MM)], 0.0
    for key, mm in bar.lengths:
        paths.append(Path(tuple((x + at, y) for x, y in rectangle(mm, BAR_MM)), "cut", closed=True))
        length = format_length(mm, build.info.unit)
        named = f"{found.titles.get(key, '')} {length}"
        told = named if _width(named) < mm else length
        words += _fitting(told, (at + mm / 2, BAR_MM / 2 - WORDS_MM / 2), mm)
        at += mm + found.kerf_mm
    return Sheet(group.material, tuple(paths), (), tuple(words))


def _width(words: str) -> float:
    return LETTER_SHARE * WORDS_MM * len(words)


def _fitting(words: str, middle: tuple[float, float], room: float) -> list[Words]:
    """Words in the middle of something, cut short where it has no room for them."""
    letters = int(room / (LETTER_SHARE * WORDS_MM))
    if letters < 2:
        return []
    told = words if len(words) <= letters else words[: letters - 1] + "…"
    return [Words(middle, told, WORDS_MM, centred=True)]
