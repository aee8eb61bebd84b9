"""By when what is left must be begun: the last bench evening from which it is still in time for the deadline."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from itertools import takewhile
from typing import Final

from chalkreel.answers.sequence import Progress, Sequence, SequenceInputs, bench_windows, packed, sequence
from chalkreel.core.errors import StoppedError

# In so many of the runs it must be dry in time.
SURE_ENOUGH: Final = 0.8


def latest_start(found: Sequence, progress: Progress) -> datetime | None:
    """The begin of that evening, four times in five; None without a deadline or where the next one is too late.

    What is done stays done, and no order is kept: it asks what is possible.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    asked = found.asked
    by = packed(asked) if asked is not None else None
    if asked is None or by is None or found.timetable is None:
        return None
    evenings = [window.start for window in takewhile(lambda window: window.start < by, bench_windows(asked))]
    # Beginning later never ends sooner: the last evening in time lies between one that is and one that is not.
    early, late = -1, len(evenings)
    while late - early > 1:
        if not progress(1 - (late - early) / (len(evenings) + 1)):
            raise StoppedError
        middle = (early + late) // 2
        if _in_time(asked, evenings[middle]):
            early = middle
        else:
            late = middle
    return evenings[early] if early >= 0 else None


def _in_time(asked: SequenceInputs, begin: datetime) -> bool:
    likely = sequence(replace(asked, now=begin, order=(), first_bench_day="")).likely
    return likely is not None and likely.in_time is not None and likely.in_time >= SURE_ENOUGH
