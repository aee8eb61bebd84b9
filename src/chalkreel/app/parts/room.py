"""How much room a window has, and so how its parts lay themselves out (no Qt)."""

from __future__ import annotations

from typing import Final, Literal

Room = Literal["close", "usual", "wide"]

# A laptop of 1366 × 768 at 125 % leaves 1093 × 614, a screen of 1920 × 1080 at 200 % leaves 960 × 540.
CLOSE_BELOW: Final = (1095, 640)
WIDE_FROM: Final = 1800
LEAST: Final = (900, 500)


def room_of(width: int, height: int) -> Room:
    """What a window of so many logical pixels is."""
    if width < CLOSE_BELOW[0] or height < CLOSE_BELOW[1]:
        return "close"
    return "wide" if width >= WIDE_FROM else "usual"
