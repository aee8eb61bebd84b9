"""The shipped family for print."""

from __future__ import annotations

from importlib.resources import as_file, files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont


def register_fonts() -> None:
    """Make the shipped fonts known to the PDF writer, once."""
    if "Book" in pdfmetrics.getRegisteredFontNames():
        return
    for name, weight in (("Book", "Regular"), ("Book-Bold", "Bold")):
        with as_file(files("chalkreel.fonts").joinpath(f"OpenSans-{weight}.ttf")) as path:
            pdfmetrics.registerFont(TTFont(name, str(path)))
