"""The shipped family for print."""

from __future__ import annotations

from importlib.resources import as_file, files

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

# Signs that the shipped family lacks, and where the symbol font that every PDF reader brings along has them.
_SIGNS = {"■": "n", "✓": "3", "✗": "7", "△": "s"}


def with_signs(markup: str) -> str:
    """A paragraph's markup in which signs are set in a font that has them."""
    for sign, letter in _SIGNS.items():
        markup = markup.replace(sign, f'<font name="ZapfDingbats">{letter}</font>')
    # Its open squares cast a shadow and look filled: brackets are a box to tick.
    return markup.replace("□", "[&nbsp;&nbsp;]")


def register_fonts() -> None:
    """Make the shipped fonts known to the PDF writer, once."""
    if "Book" in pdfmetrics.getRegisteredFontNames():
        return
    for name, weight in (("Book", "Regular"), ("Book-Bold", "Bold")):
        with as_file(files("chalkreel.fonts").joinpath(f"OpenSans-{weight}.ttf")) as path:
            pdfmetrics.registerFont(TTFont(name, str(path)))
