"""Tonight's sheet on paper: one page to lie beside the work, as PDF."""

from __future__ import annotations

from pathlib import Path
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer

from chalkreel.answers.tonight import Tonight
from chalkreel.answers.tonight_words import evening_words, how_words, timer_words, until_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit
from chalkreel.exchange.fonts import register_fonts, with_signs
from chalkreel.exchange.plain_text import printable


def write_evening(sheet: Tonight | None, build_name: str, unit: LengthUnit, path: Path) -> None:
    """Write the sheet of the next evening.

    Raises
    ------
    RefusedError
        No evening is planned.
    """
    if sheet is None:
        raise RefusedError("No evening is planned yet. Give zones and bench evenings in Finish.")
    register_fonts()
    page = SimpleDocTemplate(
        str(path), pagesize=A4, title=f"{build_name}: {evening_words(sheet.window)}",
        leftMargin=18 * mm, rightMargin=18 * mm, topMargin=15 * mm, bottomMargin=15 * mm,
    )  # fmt: skip
    page.build([*_work(sheet, build_name, unit), *_beside(sheet)])


def _line(words: str, size: float = 10, bold: bool = False, above: float = 0) -> Flowable:
    font = "Book-Bold" if bold else "Book"
    style = ParagraphStyle(f"{font} {size}", fontName=font, fontSize=size, leading=1.35 * size, spaceBefore=above)
    return Paragraph(with_signs(escape(printable(words))), style)


def _work(sheet: Tonight, build_name: str, unit: LengthUnit) -> list[Flowable]:
    parts = [_line(build_name), _line(evening_words(sheet.window), 17, bold=True)]
    for work in sheet.work:
        if work.step is None:
            parts.append(_line(f"{work.start:%H:%M}  {work.words}, {how_words(work, unit)}"))
        else:
            parts += [
                _line(f"□ {work.start:%H:%M}  {work.words}", 11, bold=True, above=5),
                _line(how_words(work, unit)),
            ]
        if work.end in sheet.stops:
            parts.append(_line(f"■ {work.end:%H:%M}: a good place to stop, no window is open"))
    return [*parts, Spacer(1, 2 * mm)]


def _beside(sheet: Tonight) -> list[Flowable]:
    groups = [
        *((f"Mix {mix.colour}: {mix.millilitres:.1f} ml for all its zones",
           [", ".join(f"{drops} drops {name}" for name, drops in mix.drops)]) for mix in sheet.mixes),
        ("Windows", [timer_words(timer) for timer in sheet.timers]),
        ("Hands off", [f"{h.words}, until {until_words(h.until, sheet.window)}" for h in sheet.hands_off]),
        ("Lay out", [", ".join(sheet.laid_out)]),
        ("Learned before", [reminder.words for reminder in sheet.lessons]),
        ("Half an hour less", [sheet.less]),
        ("Half an hour more", [sheet.more]),
        ("Take care", [*sheet.cautions, "Labels, safety data sheets and local rules decide."]),
    ]  # fmt: skip
    found: list[Flowable] = []
    for title, lines in groups:
        told = [words for words in lines if words]
        if told:
            found += [_line(title, bold=True, above=9), *map(_line, told)]
    return found
