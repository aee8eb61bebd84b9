"""Lengths as people type them and numbers as people read them, always with unit and ±.

All lengths are millimetres inside the program; a unit is only a way of typing or reading one.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction
from typing import Final, Literal

from chalkreel.core.errors import RefusedError

INCH_MM: Final = 25.4
LengthUnit = Literal["mm", "inch"]

_UNITS_MM: Final = {
    "mm": 1.0, "cm": 10.0, "m": 1000.0, "metre": 1000.0, "metres": 1000.0,
    "in": INCH_MM, "inch": INCH_MM, "inches": INCH_MM, '"': INCH_MM,
    "ft": 12 * INCH_MM, "foot": 12 * INCH_MM, "feet": 12 * INCH_MM, "'": 12 * INCH_MM,
}  # fmt: skip
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d*[.,]?\d+)"
_TERM = re.compile(rf"\s*({_NUMBER})\s*(mm|cm|metres|metre|m|inches|inch|in|feet|foot|ft|\"|')?", re.IGNORECASE)
LONGEST_MM: Final = 1e7
LONGEST_TEXT: Final = 60
_PLAIN = re.compile(r"[+-]?(?:\d{1,15}(?:\.\d{0,15})?|\.\d{1,15})(?:[eE][+-]?\d{1,2})?|[+-]?\d{1,9}/\d{1,9}")


def parse_number(text: str) -> float:
    """Read '12.5', '12,5', '3/16' or '1 3/16'.

    Raises
    ------
    RefusedError
        The text is not a number.
    """
    parts = text[:LONGEST_TEXT].replace(",", ".").split()
    # Looked at before it is computed: 1e999999999 would be, for hours.
    if not parts or len(text) > LONGEST_TEXT or not all(_PLAIN.fullmatch(part) for part in parts):
        return _refuse(text[:LONGEST_TEXT])
    try:
        return float(sum(Fraction(p) for p in parts))
    except ZeroDivisionError:
        return _refuse(text)


def _refuse(text: str) -> float:
    raise RefusedError(f"“{text.strip()}” is not a number. Type for example 12.5 or 1 3/16.")


def parse_length(text: str, default_unit: str = "mm") -> float:
    """Read a positive length in mm: '387.5', '18.6 m', '1 3/16 in', '2 ft 3 in'.

    Raises
    ------
    RefusedError
        No length can be read, or it is zero, negative or absurdly long (over 10 km).
    """
    total, at = 0.0, 0
    text = text.strip()
    while at < len(text):
        match = _TERM.match(text, at)
        if match is None:
            raise RefusedError(f"“{text}” is not a length. Type for example 12.5 mm, 1 3/16 in or 18.6 m.")
        total += parse_number(match[1]) * _UNITS_MM[(match[2] or default_unit).lower()]
        at = match.end()
    if not 0.0 < total <= LONGEST_MM:
        raise RefusedError(f"“{text}” cannot be a length here: it must be more than 0 and at most 10 km.")
    return total


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


def format_length(value_mm: float, unit: LengthUnit = "mm") -> str:
    """A bare length for reading: metres above 2 m, millimetres below, inches when asked."""
    if unit == "inch":
        return f"{value_mm / INCH_MM:.3f} in"
    if abs(value_mm) >= 2000:
        return f"{value_mm / 1000:.2f} m"
    return f"{value_mm:.2f} mm" if abs(value_mm) < 10 else f"{value_mm:.1f} mm"


def nearest_fraction(value_mm: float, denominator: int = 64) -> str:
    """The nearest fraction of an inch: 30.2 mm is '1 3/16 in'."""
    parts = round(value_mm / INCH_MM * denominator)
    whole, rest = divmod(Fraction(parts, denominator), 1)
    if rest == 0:
        return f"{whole} in"
    return f"{whole} {rest} in" if whole else f"{rest} in"
