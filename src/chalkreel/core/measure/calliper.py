"""Readings as electronic callipers send them, typed like a keyboard or line by line over a serial port."""

from __future__ import annotations

import re

from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import INCH_MM, LengthUnit

LARGEST_MM = 2000.0
_READING = re.compile(r"^[A-Z]?([+-]?\d{0,6}[.,]?\d{1,6})\s*(mm|in|inch|\")?\s*$", re.IGNORECASE)


def parse_reading(line: str, bare: LengthUnit = "mm") -> float:
    """A reading in mm; "+0044.13mm", "44,13", "1.7375 in" and the like. Callipers that name no unit show `bare`.

    Raises
    ------
    RefusedError
        No reading, nothing between the jaws, or more than two metres.
    """
    match = _READING.match(line.strip().strip("\x02\x03\r\n"))
    if match is None:
        raise RefusedError(f"“{line.strip()[:20]}” is no reading of a calliper.")
    value = float(match[1].replace(",", "."))
    unit = (match[2] or bare).lower()
    mm = value if unit == "mm" else value * INCH_MM
    if not 0.0 < mm <= LARGEST_MM:
        raise RefusedError(f"The calliper reads {mm:.2f} mm. Zero it with closed jaws, then measure again.")
    return mm
