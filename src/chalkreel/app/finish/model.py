"""View-model of Finish (no Qt): step rows, lanes on a calendar, zones and evenings in words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time

from chalkreel.answers.answers import Answers
from chalkreel.answers.sequence import Sequence
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.finish.schedule import Slot
from chalkreel.core.finish.steps import Step, Wear
from chalkreel.core.materials import MEDIA
from chalkreel.document.entities import BuildInfo
from chalkreel.document.paint_entities import Surface, Zone
from chalkreel.document.snapshot import Build

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
WEARS: tuple[Wear, ...] = ("pre-shade", "chipping", "wash", "dry-brush", "streaks", "powders")
MEDIUM_NAMES: tuple[str, ...] = MEDIA


@dataclass(frozen=True)
class StepRow:
    """One line of the sequence; `broken` holds the reasons it stands wrong."""

    step: Step
    number: int
    when: str
    done: bool
    broken: tuple[str, ...]


def step_rows(sequence: Sequence, done: tuple[str, ...]) -> tuple[StepRow, ...]:
    """All steps in the order that stands."""
    slots = _first_slots(sequence)
    reasons: dict[str, list[str]] = {}
    for v in sequence.broken:
        reasons.setdefault(v.then if v.by_order else v.first, []).append(v.reason)
    return tuple(
        StepRow(
            step,
            number,
            "done" if step.id in done else when_words(slots.get(step.id)),
            step.id in done,
            tuple(dict.fromkeys(reasons.get(step.id, ()))),
        )
        for number, step in enumerate(sequence.steps, start=1)
    )


def rules_words(sequence: Sequence) -> tuple[str, str]:
    """What was checked of the order and the waits, and how it came out."""
    missed = len(sequence.timetable.missed) if sequence.timetable else 0
    wrong = len(sequence.broken) + missed
    if wrong:
        return f"{wrong} rule{'s' if wrong > 1 else ''} broken", "bad"
    if not sequence.checked:
        return "Nothing to check yet: no two steps here follow a rule.", "quiet"
    if sequence.timetable is None:
        return "The order keeps the rules it was checked against; its waits are not planned yet.", "plain"
    return (
        f"{sequence.checked} pairs of steps checked: all in order, no wait too short or too long by the usual times. "
        "What a label says goes first.", "good",
    )  # fmt: skip


def done_toggled(info: BuildInfo, step_id: str) -> tuple[tuple[str, ...], tuple[tuple[str, str], ...]]:
    """The steps done, and when, with one ticked now or no longer."""
    others = tuple(pair for pair in info.done_at if pair[0] != step_id)
    if step_id in info.done:
        return tuple(s for s in info.done if s != step_id), others
    now = datetime.now(UTC).astimezone().replace(tzinfo=None).isoformat(timespec="minutes")
    return (*info.done, step_id), (*others, (step_id, now))


def _first_slots(sequence: Sequence) -> dict[str, Slot]:
    found: dict[str, Slot] = {}
    for slot in sequence.timetable.slots if sequence.timetable else ():
        found.setdefault(slot.step_id, slot)
    return found


def when_words(slot: Slot | None) -> str:
    """'Tue 1 Dec 19:30'."""
    return f"{slot.start:%a} {slot.start.day} {slot.start:%b %H:%M}" if slot else ""


@dataclass(frozen=True)
class Evening:
    """One bench session of the schedule with its steps."""

    start: datetime
    end: datetime
    titles: tuple[str, ...]


def next_evening(sequence: Sequence) -> Evening | None:
    """The first session that has work."""
    slots = sequence.timetable.slots if sequence.timetable else ()
    if not slots:
        return None
    day = slots[0].start.date()
    titles = {s.id: s.title for s in sequence.steps}
    same = [s for s in slots if s.start.date() == day]
    return Evening(same[0].start, same[-1].end, tuple(dict.fromkeys(titles[s.step_id] for s in same)))


@dataclass(frozen=True)
class Block:
    """Work on one step in a lane, or the curing after it; times in days since the first slot."""

    step_id: str
    title: str
    lane: int
    start_day: float
    end_day: float
    kind: str


@dataclass(frozen=True)
class Lanes:
    """One lane an assembly, over so many days from the first."""

    names: tuple[str, ...]
    first: datetime | None
    days: int
    blocks: tuple[Block, ...]


def lanes(sequence: Sequence) -> Lanes:
    """The schedule as lanes; sessions are drawn at their day, steps within it side by side."""
    names = tuple(dict.fromkeys(s.assembly for s in sequence.steps))
    slots = sequence.timetable.slots if sequence.timetable else ()
    if not slots:
        return Lanes(names, None, 0, ())
    first = datetime.combine(slots[0].start.date(), time())
    steps = {s.id: s for s in sequence.steps}
    blocks = []
    for slot in slots:
        step = steps[slot.step_id]
        day = (slot.start.date() - first.date()).days
        on_day = [s for s in slots if s.start.date() == slot.start.date()]
        total = sum((s.end - s.start).total_seconds() for s in on_day)
        before = sum((s.end - s.start).total_seconds() for s in on_day if s.start < slot.start)
        share = (slot.end - slot.start).total_seconds() / total
        start = day + 0.9 * before / total
        blocks.append(Block(step.id, step.title, names.index(step.assembly), start, start + 0.9 * share, step.kind))
    return Lanes(names, first, (slots[-1].end.date() - first.date()).days + 1, tuple(blocks))


def zone_surface(build: Build, zone: Zone) -> str:
    """The name of a zone's surface."""
    surface = build.get(Surface, zone.surface_id)
    return surface.name if surface else ""


def wear_from(text: str) -> tuple[Wear, ...]:
    """Read 'wash, streaks'.

    Raises
    ------
    RefusedError
        A word that is none of the kinds of wear.
    """
    words = [w.strip() for w in text.split(",") if w.strip()]
    unknown = [w for w in words if w not in WEARS]
    if unknown:
        raise RefusedError(f"“{unknown[0]}” is not a kind of wear here. Use: {', '.join(WEARS)}.")
    return tuple(w for w in WEARS if w in words)


def number_between(text: str, least: float, most: float, what: str) -> float:
    """A number within bounds, or a refusal that names them."""
    value = parse_number(text)
    if not least <= value <= most:
        raise RefusedError(f"{what} lies between {least:g} and {most:g}.")
    return value


def clock(text: str) -> str:
    """Read '19:30'.

    Raises
    ------
    RefusedError
        Not a time of day.
    """
    try:
        return time.fromisoformat(text.strip().zfill(5)).strftime("%H:%M")
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a time of day. Type it like 19:30.") from error


def day_from(text: str) -> str:
    """Read a day as '2026-12-01'; empty means today, whenever that is.

    Raises
    ------
    RefusedError
        Not a day.
    """
    try:
        return date.fromisoformat(text.strip()).isoformat() if text.strip() else ""
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a day. Type it like 2026-12-01.") from error


def selected_step(answers: Answers | None, step_id: str) -> Step | None:
    """The chosen step."""
    steps = answers.sequence.steps if answers and answers.sequence else ()
    return next((s for s in steps if s.id == step_id), None)
