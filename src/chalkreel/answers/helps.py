"""What would bring the end forward: one more evening a week, or a kind of wear left out, by how many days."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime

from chalkreel.answers.sequence import Progress, Sequence, SequenceInputs, sequence
from chalkreel.core.errors import StoppedError
from chalkreel.core.finish.calendar import WEEKDAYS
from chalkreel.core.finish.stacks import WEARS, Wear
from chalkreel.document.entity import new_id
from chalkreel.document.finish_entities import Evening


@dataclass(frozen=True)
class Help:
    """One change: an `evening` more, or a `wear` less; `end` holds four times in five, `days` before the plan's."""

    end: datetime
    days: int
    evening: Evening | None = None
    wear: Wear | None = None

    @property
    def words(self) -> str:
        """What to do, and what it brings."""
        if self.evening is not None:
            begin = f"{WEEKDAYS[self.evening.weekday]}s too, {self.evening.start} to {self.evening.end}"
        else:
            begin = f"Without {self.wear}"
        return f"{begin}: {self.days} day{'s' if self.days != 1 else ''} earlier"


def helps(found: Sequence, progress: Progress) -> tuple[Help, ...]:
    """All that brings the plan forward, the most first.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    if found.asked is None or found.likely is None:
        return ()
    # Each is planned without an order to keep, and so is what it is compared with.
    plain = sequence(found.asked).likely or found.likely
    usual, told = plain.four_in_five, []
    changes = tuple(_changes(found.asked))
    for number, (inputs, evening, wear) in enumerate(changes):
        if not progress(number / len(changes)):
            raise StoppedError
        likely = sequence(inputs).likely
        if likely is not None:
            days = (usual.date() - likely.four_in_five.date()).days
            told.append(Help(likely.four_in_five, days, evening, wear))
    return tuple(sorted((one for one in told if one.days > 0), key=lambda one: -one.days))


def _changes(inputs: SequenceInputs) -> Iterator[tuple[SequenceInputs, Evening | None, Wear | None]]:
    weekly = [e for e in inputs.evenings if not e.day]
    if weekly:
        (start, end), _ = Counter((e.start, e.end) for e in weekly).most_common(1)[0]
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
