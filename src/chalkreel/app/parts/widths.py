"""How wide a table's columns are: as their words want, as the user drew them, and never out of sight without need."""

from __future__ import annotations

from collections.abc import Sequence

NARROWEST_PX = 44


def shared_widths(
    wanted: Sequence[int], stretch: Sequence[bool], room: int, firm: Sequence[bool] | None = None
) -> list[int]:
    """Widths that fill the room: what is spare goes to the stretching columns, what is missing comes off the widest.

    Firm columns, which hold figures, give way last. Only where even the narrowest columns do not fit is the sum larger
    than the room.
    """
    widths = [max(NARROWEST_PX, w) for w in wanted]
    if not widths:
        return []
    spare = room - sum(widths)
    if spare >= 0:
        takers = [n for n, on in enumerate(stretch) if on] or [len(widths) - 1]
        for place, n in enumerate(takers):
            widths[n] += spare // len(takers) + (1 if place < spare % len(takers) else 0)
        return widths
    soft = [n for n in range(len(widths)) if not (firm and firm[n])]
    if soft and sum(widths[n] - NARROWEST_PX for n in soft) >= -spare:
        for n, width in zip(soft, _narrowed([widths[n] for n in soft], -spare), strict=True):
            widths[n] = width
        return widths
    return _narrowed(widths, -spare)


def _narrowed(widths: list[int], missing: int) -> list[int]:
    """Cut the widest down to one common width, which is as large as it can be."""
    low, high = NARROWEST_PX, max(widths)
    while low < high:
        middle = (low + high + 1) // 2
        if sum(min(w, middle) for w in widths) <= sum(widths) - missing:
            low = middle
        else:
            high = middle - 1
    return [min(w, low) for w in widths]
