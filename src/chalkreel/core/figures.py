"""Numbers as people type them, and as people read them: always with unit and ±."""

from __future__ import annotations

import math
import re
import unicodedata
from fractions import Fraction
from typing import Final

from chalkreel.core.errors import RefusedError

LONGEST_TEXT: Final = 60
# Signs that keyboards, phones and word processors put in place of the plain ones.
_SIGNS: Final = str.maketrans({
    "″": '"', "”": '"', "“": '"', "„": '"', "ʺ": '"', "′": "'", "’": "'", "‘": "'", "ʹ": "'",
    "–": "-", "—": "-", "‐": "-", "‑": "-", "−": "-", "⁄": "/", "∕": "/",
})  # fmt: skip
_PLAIN = re.compile(r"[+-]?(?:\d{1,15}(?:\.\d{0,15})?|\.\d{1,15})(?:[eE][+-]?\d{1,2})?|[+-]?\d{1,9}/\d{1,9}")
_MIXED = re.compile(r"([+-]?\d{1,9})[\s-]+(\d{1,9}/\d{1,9})")
_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])")


def plain_signs(text: str) -> str:
    """The text with typographic quotes, dashes, spaces and fractions as a keyboard has them: '21¾″' is '21 3/4"'."""
    found = (f" {unicodedata.normalize('NFKC', sign)}" if _is_fraction(sign) else sign for sign in text)
    return " ".join("".join(found).translate(_SIGNS).replace("''", '"').split())


def _is_fraction(sign: str) -> bool:
    return unicodedata.decomposition(sign).startswith("<fraction>")


def without_thousands(text: str) -> str:
    """Take commas between thousands out, where nothing else can be meant: '1,250.5' and '1,250,000'.

    Raises
    ------
    RefusedError
        One comma before three digits: some write thousands so, others decimals.
    """

    def join(match: re.Match[str]) -> str:
        digits = match[0].replace(",", "")
        if match[0].count(",") == 1 and match.string[match.end() : match.end() + 1] != ".":
            point = match[0].replace(",", ".")
            raise RefusedError(f"“{match[0]}” may mean {digits} or {point}. Type it without the comma.")
        return digits

    return _THOUSANDS.sub(join, text)


def parse_number(text: str) -> float:
    """Read '12.5', '12,5', '3/16', '1 3/16' or '1-3/16'.

    Raises
    ------
    RefusedError
        The text is not a number, or one that can be read in two ways.
    """
    if len(text) > LONGEST_TEXT:
        return _refuse(text[:LONGEST_TEXT])
    words = without_thousands(plain_signs(text)).replace(",", ".")
    mixed = _MIXED.fullmatch(words)
    parts = mixed.groups() if mixed else (words,)
    # Looked at before it is computed: 1e999999999 would be, for hours.
    if not all(_PLAIN.fullmatch(part) for part in parts):
        return _refuse(text)
    try:
        whole, *rest = (Fraction(part) for part in parts)
    except ZeroDivisionError:
        return _refuse(text)
    return float(whole + (-sum(rest) if words.startswith("-") else sum(rest)))


def _refuse(text: str) -> float:
    raise RefusedError(f"“{text.strip()}” is not a number. Type for example 12.5 or 1 3/16.")


def parse_side_ratio(text: str) -> float:
    """Read the ratio of two sides, '3:2' as 1.5.

    Raises
    ------
    RefusedError
        Not two numbers, or one side over fifty times the other.
    """
    parts = text.split(":")
    if len(parts) == 2:
        a, b = (parse_number(part) for part in parts)
        if b > 0 and 0.02 <= a / b <= 50:
            return a / b
    raise RefusedError(f"“{text}” is not a ratio of two sides. Type it like 3:2.")


def plural(count: int, one: str, many: str = "") -> str:
    """A number with its word: '1 size', '3 sizes'."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def decimals_for(sigma: float) -> int:
    """Decimals that show an uncertainty to two digits, at most 3 and at least 0."""
    if not math.isfinite(sigma) or sigma <= 0:
        return 2
    return min(3, max(0, 1 - math.floor(math.log10(sigma))))


def format_pm(value: float, half_width: float, unit: str) -> str:
    """'61.3 ± 0.5 mm', with as many digits as the ± deserves."""
    return " ".join(figure_pm(value, half_width, unit))


def figure_pm(value: float, half_width: float, unit: str) -> tuple[str, str]:
    """The same in two parts, '61.3' and '± 0.5 mm'."""
    digits = max(0, min(2, decimals_for(half_width)))
    if half_width >= 1.0:
        digits = 1 if half_width < 10 else 0
    return f"{value:.{digits}f}", f"± {half_width:.{digits}f} {unit}"
