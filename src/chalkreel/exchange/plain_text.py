"""Words from a build made fit for other programs' files."""

from __future__ import annotations

import unicodedata

# A spreadsheet takes a cell that begins so for a formula; a leading apostrophe says that it is text.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
TEXT_SIGN = "'"


def printable(words: str) -> str:
    """Without control signs, lone surrogates and what else is no character in XML or print; lines stay apart."""
    return "".join(c for c in words if c in "\n\t" or unicodedata.category(c) not in ("Cc", "Cs", "Cn"))


def cell(words: str) -> str:
    """A table's cell that no spreadsheet runs as a formula."""
    clean = printable(words)
    return TEXT_SIGN + clean if clean.startswith((*_FORMULA, TEXT_SIGN)) else clean


def from_cell(words: str) -> str:
    """What `cell` was given."""
    marked = words.startswith(TEXT_SIGN) and words[1:].startswith((*_FORMULA, TEXT_SIGN))
    return words[1:] if marked else words


def cut(words: str, most: int) -> str:
    """At most so many letters."""
    return words if len(words) <= most else words[: most - 1] + "…"
