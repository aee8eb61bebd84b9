"""Lengths as people write them, in millimetres or in feet and inches.

All lengths are millimetres inside the program; a unit is only a way of typing or reading one.
"""

from __future__ import annotations

import re
from fractions import Fraction
from typing import Final, Literal

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import LONGEST_TEXT, decimals_for, figure_pm, parse_number, plain_signs, without_thousands

INCH_MM: Final = 25.4
FOOT_MM: Final = 12 * INCH_MM
LengthUnit = Literal["mm", "inch"]
UNIT_MM: Final[dict[LengthUnit, float]] = {"mm": 1.0, "inch": INCH_MM}

_UNITS_MM: Final = {
    **dict.fromkeys(("mm", "millimetre", "millimetres", "millimeter", "millimeters"), 1.0),
    **dict.fromkeys(("cm", "centimetre", "centimetres", "centimeter", "centimeters"), 10.0),
    **dict.fromkeys(("m", "metre", "metres", "meter", "meters"), 1000.0),
    **dict.fromkeys(("in", "ins", "inch", "inches", '"'), INCH_MM),
    **dict.fromkeys(("ft", "foot", "feet", "'"), FOOT_MM),
    "thou": INCH_MM / 1000,
}  # fmt: skip
# What a bare number means after a term of a larger unit: 1 ft 10, 2 m 35, 3 cm 5.
_NEXT_MM: Final = {FOOT_MM: INCH_MM, 1000.0: 10.0, 10.0: 1.0}
_NUMBER = r"\d+[\s-]+\d+/\d+|\d+/\d+|\d*[.,]?\d+"
_UNIT = "|".join(sorted((re.escape(u) for u in _UNITS_MM), key=len, reverse=True))
_TERM = re.compile(rf"({_NUMBER})(?:\s*({_UNIT})(?![a-z])\.?)?(?:\s*-\s*(?=[\d.])|\s*)", re.IGNORECASE)
_NOTHING = re.compile(rf"|(?:0+[.,]?0*|[.,]0+)\s*(?:{_UNIT})?\.?", re.IGNORECASE)
LONGEST_MM: Final = 1e7
# From here on inches are told in feet.
FEET_FROM_MM: Final = 10 * FOOT_MM
METRES_FROM_MM: Final = 2000.0
FINEST_FRACTION: Final = 64


def parse_length(text: str, bare: LengthUnit | None = "mm") -> float:
    """Read a positive length in mm: '387.5', '18.6 m', '1 3/16 in', 2'-3", '21¾″', '1 ft 10'.

    Units descend from term to term. A bare number is of the unit `bare`, or, after a larger unit, of the next
    smaller one; where `bare` is None it is refused.

    Raises
    ------
    RefusedError
        No length, one that can be read in two ways, or one that is zero, negative or over 10 km.
    """
    typed = text.strip()[:LONGEST_TEXT]
    words = without_thousands(plain_signs(text)) if len(text) <= LONGEST_TEXT else ""
    total, last, at = 0.0, float("inf"), 0
    while at < len(words) or not words:
        match = _TERM.match(words, at)
        if match is None or match.end() == at:
            raise RefusedError(f"“{typed}” is not a length. Type for example 12.5 mm, 1 3/16 in or 18.6 m.")
        if not match[2] and match.end() < len(words):
            raise _two_numbers(typed)
        unit_mm = _unit_mm(match[2], last, bare, typed)
        if unit_mm >= last:
            raise RefusedError(f"“{typed}” goes from a smaller unit to a larger one. Type for example 2 ft 3 in.")
        total += parse_number(match[1]) * unit_mm
        last, at = unit_mm, match.end()
    if not 0.0 < total <= LONGEST_MM:
        raise RefusedError(f"“{typed}” cannot be a length here: it must be more than 0 and at most 10 km.")
    return total


def length_or_none(text: str, bare: LengthUnit | None = "mm") -> float:
    """Read a length that may be nothing in mm: an empty text, '0', '0.0 in'.

    Raises
    ------
    RefusedError
        As for `parse_length`, but for zero.
    """
    return 0.0 if _NOTHING.fullmatch(plain_signs(text)) else parse_length(text, bare)


def parse_offset(text: str, bare: LengthUnit | None = "mm") -> float:
    """Read a length to one side or, with a minus, to the other in mm: '-120', '4 3/4"', '−1 ft 2', '0'.

    Raises
    ------
    RefusedError
        As for `parse_length`, but for zero.
    """
    words = plain_signs(text)
    away = length_or_none(words.lstrip("+-"), bare)
    return -away if words.startswith("-") else away


def _unit_mm(unit: str | None, last: float, bare: LengthUnit | None, typed: str) -> float:
    if unit:
        return _UNITS_MM[unit.lower()]
    if last in _NEXT_MM:
        return _NEXT_MM[last]
    if last != float("inf"):
        raise _two_numbers(typed)
    if bare is None:
        raise RefusedError(f"“{typed}” of what? Add the unit, like 18.6 m or 61 ft.")
    return UNIT_MM[bare]


def _two_numbers(typed: str) -> RefusedError:
    return RefusedError(f"“{typed}” holds two numbers, and one of them no unit. Type for example 2 ft 3 in.")


def format_length(value_mm: float, unit: LengthUnit = "mm") -> str:
    """A length without a ±: metres above 2 m, feet above 10 ft; decimals of an inch where no 64th fits."""
    size, sign = abs(value_mm), "−" if value_mm < 0 else ""
    if unit == "inch":
        if size >= FEET_FROM_MM:
            return sign + _feet(size, 4)
        parts = size / INCH_MM * FINEST_FRACTION
        if abs(parts - round(parts)) < 0.02 and round(parts):
            return f"{sign}{_fraction(size, FINEST_FRACTION)} in"
        return f"{sign}{size / INCH_MM:.{3 if size < 10 * INCH_MM else 2}f} in"
    if size >= METRES_FROM_MM:
        return f"{sign}{size / 1000:.2f} m"
    return f"{sign}{size:.2f} mm" if size < 10 else f"{sign}{size:.1f} mm"


def both_units(value_mm: float) -> str:
    """A length in both units, to be sure of what was understood: '558.8 mm (22 in)'."""
    return f"{format_length(value_mm)} ({format_length(value_mm, 'inch')})"


def understood(text: str, bare: LengthUnit | None) -> str:
    """What typed words are taken for, for the eye beside the field.

    Raises
    ------
    RefusedError
        They are no length.
    """
    return f"= {both_units(parse_length(text, bare))}"


def rough_length(value_mm: float, unit: LengthUnit) -> str:
    """A length where nobody asks for its last digits: whole millimetres or eighths of an inch."""
    if unit == "mm":
        return format_length(value_mm) if abs(value_mm) >= METRES_FROM_MM else f"{value_mm:.0f} mm".replace("-", "−")
    size, sign = abs(value_mm), "−" if value_mm < 0 else ""
    if size < INCH_MM / 4:
        return f"{sign}{size / INCH_MM:.3f} in"
    return sign + (_feet(size, 1) if size >= FEET_FROM_MM else f"{_fraction(size, 8)} in")


def length_pm(value_mm: float, half_width_mm: float, unit: LengthUnit) -> tuple[str, str]:
    """A length and its ±, apart; inches as the coarsest fraction that the ± allows: '1 3/16 in' and '± 0.02 in'."""
    if unit == "mm":
        if value_mm >= METRES_FROM_MM:
            return metres_pm(value_mm, half_width_mm)
        return figure_pm(value_mm, half_width_mm, "mm")
    half = half_width_mm / INCH_MM
    plus_minus = f"± {half:.{max(1, decimals_for(half))}f} in"
    denominator = _denominator(value_mm / INCH_MM, half)
    if denominator is None:
        return f"{value_mm / INCH_MM:.3f} in", plus_minus
    if value_mm >= FEET_FROM_MM:
        return _feet(value_mm, denominator), plus_minus
    return f"{_fraction(value_mm, denominator)} in", plus_minus


def metres_pm(value_mm: float, half_width_mm: float) -> tuple[str, str]:
    """A length in metres and its ±, apart, to the millimetre at most."""
    digits = max(2 if half_width_mm < 1000 else 0, min(3, decimals_for(half_width_mm / 1000)))
    return f"{value_mm / 1000:.{digits}f}", f"± {half_width_mm / 1000:.{digits}f} m"


def length_words(value_mm: float, half_width_mm: float, unit: LengthUnit) -> str:
    """'61.3 ± 0.5 mm' or '2 13/32 in ± 0.02 in'."""
    return " ".join(length_pm(value_mm, half_width_mm, unit))


def small_length(value_mm: float, unit: LengthUnit) -> str:
    """What is filed off or built up: '0.4 mm' or '0.016 in'."""
    return f"{value_mm:.1f} mm" if unit == "mm" else f"{value_mm / INCH_MM:.3f} in"


def signed_length(value_mm: float, unit: LengthUnit) -> str:
    """A change: '+0.42 mm' or '-0.017 in'."""
    return f"{value_mm:+.2f} mm" if unit == "mm" else f"{value_mm / INCH_MM:+.3f} in"


def _denominator(value_in: float, half_width_in: float) -> int | None:
    """The coarsest power of two whose rounding stays inside the ± and leaves something; None where a 64th will not."""
    fits = (d for d in (1, 2, 4, 8, 16, 32, FINEST_FRACTION) if 0.5 / d <= half_width_in and value_in * d >= 1)
    return next(fits, None)


def _fraction(size_mm: float, denominator: int) -> str:
    whole, rest = divmod(Fraction(round(size_mm / INCH_MM * denominator), denominator), 1)
    return f"{whole} {rest}" if whole and rest else f"{rest or whole}"


def _feet(size_mm: float, denominator: int) -> str:
    inches = Fraction(round(size_mm / INCH_MM * denominator), denominator)
    feet, rest = divmod(inches, 12)
    return f"{feet} ft {_fraction(float(rest) * INCH_MM, denominator)} in" if rest else f"{feet} ft"
