"""What would help a plan: an evening more that keeps a window; an evening a week, or less wear, that ends it sooner."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import Final

from chalkreel.answers.plan import ends_of
from chalkreel.answers.sequence import Progress, Sequence, SequenceInputs, sequence
from chalkreel.core.errors import StoppedError
from chalkreel.core.figures import plural
from chalkreel.core.finish.calendar import WEEKDAYS
from chalkreel.core.finish.stacks import WEARS, Wear
from chalkreel.core.finish.timing import Untimely
from chalkreel.document.entity import new_id
from chalkreel.document.finish_entities import Evening

# What is planned instead, and which evening more or wear less makes it so.
Change = tuple[SequenceInputs, Evening | None, Wear | None]
# So many single evenings are tried at most; besides the step there must be room for getting ready, and for delays.
MOST_EVENINGS: Final = 9
ROOM_TO_WORK: Final = timedelta(minutes=30)


@dataclass(frozen=True)
class Help:
    """One change: an `evening` more, or a `wear` less; `end` holds four times in five, `days` before the plan's.

    `kept` is how many windows are kept by it that the plan misses.
    """

    end: datetime
    days: int
    evening: Evening | None = None
    wear: Wear | None = None
    kept: int = 0

    @property
    def words(self) -> str:
        """What to do, and what it brings."""
        begin = f"Without {self.wear}"
        if self.evening is not None:
            day = date.fromisoformat(self.evening.day) if self.evening.day else None
            which = f"{WEEKDAYS[self.evening.weekday]}s" if day is None else f"{day:%a} {day.day} {day:%b}"
            begin = f"{which} too, {self.evening.start} to {self.evening.end}"
        brings = [f"{plural(self.kept, 'window')} more kept"] * (self.kept > 0)
        brings += [f"{plural(self.days, 'day')} earlier"] * (self.days > 0)
        return f"{begin}: {', '.join(brings)}"


def helps(found: Sequence, progress: Progress) -> tuple[Help, ...]:
    """All that keeps windows or brings the plan forward, the most first.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    if found.asked is None or found.likely is None:
        return ()
    # Each is planned without an order to keep, and so is what it is compared with.
    plain = sequence(found.asked)
    usual, told = (plain.likely or found.likely).four_in_five, []
    changes = (*_evenings_in_time(plain), *_changes(found.asked))
    for number, (inputs, evening, wear) in enumerate(changes):
        if not progress(number / len(changes)):
            raise StoppedError
        changed = sequence(inputs)
        if changed.likely is not None:
            days = (usual.date() - changed.likely.four_in_five.date()).days
            kept = len(_missed(plain)) - len(_missed(changed))
            told.append(Help(changed.likely.four_in_five, days, evening, wear, kept))
    good = (one for one in told if one.kept > 0 or (one.kept == 0 and one.days > 0))
    return tuple(sorted(good, key=lambda one: (-one.kept, one.evening is None, -one.days)))


def _missed(found: Sequence) -> tuple[Untimely, ...]:
    """Steps that come too late for the window that another opened."""
    missed = found.timetable.missed if found.timetable is not None else ()
    return tuple(one for one in missed if one.most is not None and one.least is None)


def _evenings_in_time(found: Sequence) -> Iterator[Change]:
    """Single evenings, at the usual hours or as soon as a window opens, before it closes."""
    asked, ends, told = found.asked, ends_of(found), set[datetime]()
    steps = {step.id: step for step in found.steps}
    for one in _missed(found):
        if asked is None or one.first not in ends or len(told) >= MOST_EVENINGS:
            continue
        waits = (x.min_hours for x in found.limits if (x.first, x.then) == (one.first, one.then) and x.max_hours)
        opens = max(asked.now, ends[one.first] + timedelta(hours=next(waits, 0.0)))
        closes = ends[one.first] + timedelta(hours=one.most or 0.0)
        needed = timedelta(minutes=steps[one.then].minutes) + ROOM_TO_WORK
        for start, end in _hours(asked, opens, closes, needed):
            if start not in told:
                told.add(start)
                evening = Evening(id=new_id(), weekday=start.weekday(), day=start.date().isoformat(),
                                  start=f"{start:%H:%M}", end=f"{end:%H:%M}")  # fmt: skip
                yield replace(asked, evenings=(*asked.evenings, evening)), evening, None


def _hours(
    asked: SequenceInputs, opens: datetime, closes: datetime, needed: timedelta
) -> Iterator[tuple[datetime, datetime]]:
    """The usual hours of each day on which a step can be begun between two times; else from the first of these on."""
    usual = _usual_hours(asked.evenings)
    found = False
    for number in range((closes.date() - opens.date()).days + 1):
        day = opens.date() + timedelta(days=number)
        start, end = (datetime.combine(day, time.fromisoformat(at)) for at in usual)
        end += timedelta(days=end <= start)
        if max(start, opens) <= closes and max(start, opens) + needed <= end:
            found = True
            yield start, end
    if not found:
        start = opens.replace(minute=opens.minute // 5 * 5, second=0, microsecond=0)
        yield start, start + needed + timedelta(hours=1)


def _usual_hours(evenings: tuple[Evening, ...]) -> tuple[str, str]:
    """From when to when most evenings are."""
    return Counter((e.start, e.end) for e in evenings).most_common(1)[0][0]


def _changes(inputs: SequenceInputs) -> Iterator[Change]:
    weekly = tuple(e for e in inputs.evenings if not e.day)
    if weekly:
        start, end = _usual_hours(weekly)
        for weekday in sorted(set(range(7)) - {e.weekday for e in weekly}):
            evening = Evening(id=new_id(), weekday=weekday, start=start, end=end)
            yield replace(inputs, evenings=(*inputs.evenings, evening)), evening, None
    for wear in WEARS:
        if any(wear in zone.wear for plan in inputs.assemblies for zone in plan.zones):
            yield _without(inputs, wear), None, wear


def _without(inputs: SequenceInputs, wear: Wear) -> SequenceInputs:
    plans = tuple(
        replace(plan, zones=tuple(replace(z, wear=tuple(w for w in z.wear if w != wear)) for z in plan.zones))
        for plan in inputs.assemblies
    )
    return replace(inputs, assemblies=plans)
