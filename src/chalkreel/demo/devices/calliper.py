"""A calliper that is not there: it measures the demo's kit parts and types its readings as real ones do."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import Final

REPEAT_MM: Final = 0.01
RESOLUTION: Final = 2
# What the parts of the demo's kit measure, in mm.
TRUE_MM: Final = {
    "A3 deck": 112.1, "B1–B4 wheelhouse": 93.2, "B7–B8 fan shrouds": 50.0, "C3 starboard tail fin": 44.1,
    "C9 louvres": 30.1, "D1 skirt": 358.4, "Decal sheet, Special": 16.0,
}  # fmt: skip
ANY_PART_MM: Final = 25.4


class Calliper:
    """Measures parts by name with the scatter of a hand; unknown parts come out an inch wide."""

    def __init__(self, seed: int = 0) -> None:
        self._hand = random.Random(seed)

    def line(self, part: str) -> str:
        """One reading as it goes over a serial line: sign, seven places, unit, end of line."""
        mm = max(0.01, TRUE_MM.get(part, ANY_PART_MM) + self._hand.gauss(0.0, REPEAT_MM))
        return f"+{mm:08.{RESOLUTION}f}mm\r\n"

    def keys(self, part: str) -> Iterator[str]:
        """The same as a keyboard would type it: one character at a time, Enter last."""
        yield from self.line(part).strip()
        yield "\r"
