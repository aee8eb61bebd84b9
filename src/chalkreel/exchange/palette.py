"""The reel's palette as files: GPL, CSV, JSON, and a page of swatches to hold against the model."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Final

from reportlab.lib.colors import Color, black, white
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from chalkreel.answers.palette import PaletteColour
from chalkreel.core.errors import RefusedError
from chalkreel.exchange.entity_tables import Row
from chalkreel.exchange.fonts import register_fonts
from chalkreel.exchange.plain_text import printable
from chalkreel.exchange.shelf import palette_gpl
from chalkreel.exchange.tables import write_rows

# Swatches large enough to lie beside a part, a row of two.
WIDE, HIGH, WORDS, MARGIN, ACROSS = 84 * mm, 40 * mm, 22 * mm, 16 * mm, 2
MOST_LINES: Final = 4
CAUTION: Final = (
    "Paper is only as true as its printer: a mixed swatch, dry, in daylight decides. "
    "No usual screen or printer can show starred colours."
)


def write_palette(name: str, colours: tuple[PaletteColour, ...], path: Path, suffix: str) -> None:
    """Write the palette in the format of a suffix.

    Raises
    ------
    RefusedError
        No such format.
    """
    writers: dict[str, Callable[[str, tuple[PaletteColour, ...], Path], object]] = {
        ".pdf": _pdf, ".gpl": _gpl, ".csv": _csv, ".json": _json
    }  # fmt: skip
    if suffix.casefold() not in writers:
        raise RefusedError("Name the file .pdf, .gpl, .csv or .json.")
    writers[suffix.casefold()](name, colours, path)


def colour_words(one: PaletteColour) -> str:
    """'L* 42.1, a* 3.0, b* −8.2, within ΔE 4.1 (3 stills)'."""
    within = f", within ΔE {one.within:.1f}" if one.within is not None else ""
    lightness, a, b = (f"{v:.1f}".replace("-", "−") for v in one.lab)
    return f"L* {lightness}, a* {a}, b* {b}{within} ({one.source})"


def _rows(colours: tuple[PaletteColour, ...]) -> list[Row]:
    return [
        {"surface": one.name, "L": round(one.lab[0], 2), "a": round(one.lab[1], 2),
         "b": round(one.lab[2], 2), "within_delta_e_95": "" if one.within is None else round(one.within, 1),
         "sRGB": "#{:02x}{:02x}{:02x}".format(*one.rgb), "in_sRGB": int(one.shown),
         "target_L": round(one.target[0], 2), "target_a": round(one.target[1], 2), "target_b": round(one.target[2], 2),
         "from": one.source, "drops": one.recipe}
        for one in colours
    ]  # fmt: skip


def _gpl(name: str, colours: tuple[PaletteColour, ...], path: Path) -> None:
    path.write_text(palette_gpl(name, ((one.name, one.rgb) for one in colours)), "utf-8")


def _csv(_: str, colours: tuple[PaletteColour, ...], path: Path) -> None:
    write_rows(_rows(colours), path)


def _json(name: str, colours: tuple[PaletteColour, ...], path: Path) -> None:
    found = {"name": name, "white": "D65/2°", "colours": _rows(colours)}
    path.write_text(json.dumps(found, ensure_ascii=False, indent=1), "utf-8")


def _pdf(name: str, colours: tuple[PaletteColour, ...], path: Path) -> None:
    register_fonts()
    page = Canvas(str(path), pagesize=A4)
    page.setTitle(name)
    rows = int((A4[1] - 3 * MARGIN) // (HIGH + WORDS))
    for number, one in enumerate(colours):
        place = number % (ACROSS * rows)
        if place == 0:
            if number:
                page.showPage()
            _head(page, name)
        x = MARGIN + place % ACROSS * (WIDE + 8 * mm)
        _swatch(page, one, x, A4[1] - 2 * MARGIN - (place // ACROSS + 1) * (HIGH + WORDS))
    page.save()


def _head(page: Canvas, name: str) -> None:
    page.setFont("Book-Bold", 14)
    page.drawString(MARGIN, A4[1] - MARGIN, printable(name)[:80])
    page.setFont("Book", 7.5)
    page.drawString(MARGIN, MARGIN / 2, CAUTION)


def _swatch(page: Canvas, one: PaletteColour, x: float, y: float) -> None:
    """The colour to its very edge at the left and above, so that it can lie against a part; white and black beside."""
    page.setFillColor(Color(*(value / 255 for value in one.rgb)))
    page.rect(x, y + WORDS, WIDE - 8 * mm, HIGH, stroke=0, fill=1)
    for shade, low in ((white, 0.5), (black, 0.0)):
        page.setFillColor(shade)
        page.rect(x + WIDE - 8 * mm, y + WORDS + low * HIGH, 8 * mm, HIGH / 2, stroke=1, fill=1)
    page.setFillColor(black)
    page.setFont("Book-Bold", 9)
    page.drawString(x, y + WORDS - 11, (printable(one.name) + " *" * (not one.shown))[:46])
    page.setFont("Book", 7.5)
    told = (colour_words(one), f"drops: {one.recipe}" * bool(one.recipe))
    lines = [line for words in told for line in simpleSplit(printable(words), "Book", 7.5, WIDE)]
    for number, line in enumerate(lines[:MOST_LINES]):
        page.drawString(x, y + WORDS - 21 - 9 * number, line)
