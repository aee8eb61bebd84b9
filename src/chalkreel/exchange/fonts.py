"""The shipped families for print."""

from __future__ import annotations

import re
from importlib.resources import as_file, files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

# Signs that the family of the text lacks.
_SIGNS = re.compile("[←→↔⇄▴▾■□△○●◐✓✗✎]+")


def with_signs(markup: str) -> str:
    """A paragraph's markup in which signs are set in a font that has them."""
    return _SIGNS.sub(lambda found: f'<font name="Signs">{found.group()}</font>', markup)


def register_fonts() -> None:
    """Make the shipped fonts known to the PDF writer, once."""
    if "Book" in pdfmetrics.getRegisteredFontNames():
        return
    for name, file in (("Book", "OpenSans-Regular"), ("Book-Bold", "OpenSans-Bold"), ("Signs", "ChalkSigns")):
        with as_file(files("chalkreel.fonts").joinpath(f"{file}.ttf")) as path:
            pdfmetrics.registerFont(TTFont(name, str(path)))
