"""One evening at the bench: what to do by the clock, what to lay out and mix, what not to touch, where to stop."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from chalkreel.answers.colours import Colours
from chalkreel.answers.light_words import expected_words
from chalkreel.answers.lighting import Lighting
from chalkreel.answers.log import last_setting, setting_told
from chalkreel.answers.plan import Closing, closings, curings, ends_of, planned_spans
from chalkreel.answers.sequence import Sequence
from chalkreel.core.bench.lessons import Reminder
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.steps import Step
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build

HALF_AN_HOUR = timedelta(minutes=30)
_PUT_AWAY = "Airbrush: clean and put away"


@dataclass(frozen=True)
class Work:
    """A stretch by the clock: a step, or the airbrush made ready or cleaned; `yours` is its setting the last time."""

    start: datetime
    end: datetime
    step: Step | None
    words: str
    yours: str = ""


@dataclass(frozen=True)
class HandsOff:
    """What must not be touched until when, and whether it is wet or may only be left alone."""

    words: str
    until: datetime


@dataclass(frozen=True)
class Mix:
    """Paint to mix once for all zones of a colour: drops, millilitres, and what the shelf is short of."""

    colour: str
    drops: tuple[tuple[str, int], ...]
    millilitres: float
    short: tuple[str, ...]


@dataclass(frozen=True)
class Tonight:
    """An evening's sheet: `timers` are windows that cannot wait for the next, `stops` times at which none is open."""

    window: Window
    work: tuple[Work, ...]
    timers: tuple[Closing, ...]
    hands_off: tuple[HandsOff, ...]
    stops: tuple[datetime, ...]
    laid_out: tuple[str, ...]
    mixes: tuple[Mix, ...]
    cautions: tuple[str, ...]
    lessons: tuple[Reminder, ...]
    less: str
    more: str


def tonight(
    sequence: Sequence, build: Build, colours: Colours | None, lighting: Lighting | None = None
) -> Tonight | None:
    """The first evening of the plan, None where nothing is planned."""
    table = sequence.timetable
    if table is None or not table.slots:
        return None
    window = next(w for w in sequence.evenings if w.start <= table.slots[0].start < w.end)
    following = next((w.start for w in sequence.evenings if w.start > window.start), datetime.max)
    steps = {step.id: step for step in sequence.steps}
    slots = sorted((*table.slots, *table.airbrush), key=lambda s: s.start)
    work = tuple(
        Work(
            s.start,
            s.end,
            steps.get(s.step_id),
            steps[s.step_id].title if s.step_id else _brush_words(s.what),
            _yours(build, steps.get(s.step_id)),
        )
        for s in slots
        if window.start <= s.start < window.end
    )
    at_hand = tuple(dict.fromkeys(w.step for w in work if w.step is not None))
    titles = {step.title for step in at_hand}
    timers = tuple(sorted(
        (c for c in closings(sequence) if c.then in at_hand and c.closes < following),
        key=lambda c: c.planned,
    ))  # fmt: skip
    return Tonight(
        window, work, timers, _hands_off(sequence, window), _stops(work, timers),
        tuple(dict.fromkeys(m for s in at_hand for m in s.materials if ":" not in m)) + _to_read(at_hand, lighting),
        _mixes(at_hand, build, colours), tuple(dict.fromkeys(c for s in at_hand for c in s.cautions)),
        tuple(r for r in sequence.reminders if r.step_title in titles), _less(work, timers),
        _more(sequence, work),
    )  # fmt: skip


def _yours(build: Build, step: Step | None) -> str:
    last = last_setting(build.all(LogEntry), step.kind) if step is not None and step.spray else None
    return setting_told(last) if last is not None else ""


def _to_read(at_hand: tuple[Step, ...], lighting: Lighting | None) -> tuple[str, ...]:
    """What the meter should show in the branches of assemblies whose lights are tested tonight."""
    tested = {s.assembly for s in at_hand if s.kind in ("test lights", "test again")}
    if not tested or lighting is None or lighting.solved is None:
        return ()
    return tuple(f"meter: {words}" for assembly, words in expected_words(lighting.solved) if assembly in tested)


def _brush_words(what: str) -> str:
    return {"set up": "Airbrush: set up, test on card", "flush": "Airbrush: flush for the next colour"}.get(
        what, _PUT_AWAY
    )


def _hands_off(sequence: Sequence, window: Window) -> tuple[HandsOff, ...]:
    """For each assembly the last thing on it that is not touch-dry some time tonight."""
    last: dict[str, HandsOff] = {}
    for one in curings(sequence):
        step = one.step
        if step.leaves_wet and one.start < window.end and one.touch > window.start:
            words = f"{step.assembly}: {step.kind}" + (f" on {step.zone}" if step.zone else "")
            if step.assembly not in last or one.touch > last[step.assembly].until:
                last[step.assembly] = HandsOff(words, one.touch)
    return tuple(sorted(last.values(), key=lambda h: h.until))


def _stops(work: tuple[Work, ...], timers: tuple[Closing, ...]) -> tuple[datetime, ...]:
    """Ends of work after which no window is open that still asks for a step tonight, and no airbrush stands filled."""
    ends = {w.step: w.end for w in work if w.step is not None}
    # A window that another evening opened is open from the first minute on.
    spans = [(ends.get(c.first, datetime.min), c.planned) for c in timers]
    found, filled = [], False
    for one in work:
        filled = one.words != _PUT_AWAY if one.step is None else filled
        if not filled and not any(begin <= one.end <= until for begin, until in spans):
            found.append(one.end)
    return tuple(found)


def _mixes(at_hand: tuple[Step, ...], build: Build, colours: Colours | None) -> tuple[Mix, ...]:
    zones = {(zone.assembly, zone.name): zone.surface_id for zone in build.all(Zone)}
    wanted = dict.fromkeys(
        zones.get((s.assembly, s.zone), "") for s in at_hand if s.kind in ("base", "metal", "stripe")
    )
    rows = {row.surface_id: row for row in colours.surfaces} if colours else {}
    found = []
    for surface_id in wanted:
        need = rows[surface_id].mixes.need if surface_id in rows else None
        if need is not None and need.batch is not None:
            drops = tuple((amount.name, amount.drops) for amount in need.batch.amounts)
            found.append(Mix(rows[surface_id].name, drops, need.batch.millilitres, need.batch.short))
    return tuple(found)


def _less(work: tuple[Work, ...], timers: tuple[Closing, ...]) -> str:
    """What to leave if there is half an hour less; a step that another forces cannot be left alone."""
    cutoff, last = work[-1].end - HALF_AN_HOUR, work[-1]
    if last.step is not None and last.step.split and last.start < cutoff:
        return f"Stop at {cutoff:%H:%M}: the rest of “{last.step.title}” is done another evening."
    tonight = [w.step for w in work if w.step is not None]
    forced = {c.then: c for c in timers}
    dropped = [w.step for w in work if w.step is not None and w.end > cutoff]
    bound = [step for step in dropped if step in forced and forced[step].first not in tonight]
    left = [step for step in dropped if step not in bound]
    ties = [forced[step].first for step in left if step in forced and forced[step].first not in left]
    stays = "".join(f" “{step.title}” has to stay: its window closes {forced[step].closes:%a %H:%M}." for step in bound)
    if not left:
        return stays.strip() or "Nothing has to be left: only the cleaning falls into it."
    left = list(dict.fromkeys((*ties, *left)))
    begin = min(w.start for w in work if w.step in left)
    reason = f" “{ties[0].title}” may not be begun either: what follows it cannot wait." if ties else ""
    return f"Leave: {', '.join(step.title for step in left)}. Stop at {begin:%H:%M}.{reason}{stays}"


def _more(sequence: Sequence, work: tuple[Work, ...]) -> str:
    """A step of a later evening that could be begun when tonight's are done, and takes half an hour at most."""
    end, spans, ends = work[-1].end, planned_spans(sequence), ends_of(sequence)
    tied = {limit.then for limit in sequence.limits if limit.max_hours is not None}
    tying = {limit.first for limit in sequence.limits if limit.max_hours is not None}
    wet = {c.step.assembly for c in curings(sequence) if c.step.leaves_wet and c.start <= end < c.touch}
    for step in sorted((s for s in sequence.steps if s.id in spans), key=lambda s: spans[s.id]):
        if spans[step.id][0] <= end or step.minutes > 30 or step.spray or step.id in tied | tying:
            continue
        before = [limit for limit in sequence.limits if limit.then == step.id]
        ready = all(
            limit.first in ends and ends[limit.first] + timedelta(hours=limit.min_hours) <= end for limit in before
        )
        if ready and step.assembly not in wet:
            return f"{step.title}, {step.minutes} min: it is ready, and nothing wet is in the way."
    return "Nothing else is ready that takes half an hour or less."
