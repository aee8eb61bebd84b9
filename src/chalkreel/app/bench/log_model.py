"""View-model of Bench (no Qt): log entries in words."""

from __future__ import annotations

from datetime import datetime

from chalkreel.answers.answers import Answers
from chalkreel.answers.log import in_time
from chalkreel.answers.sequence import Sequence
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.finish.steps import Step, step_kinds
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.snapshot import Build
from chalkreel.edits.writing import written


def newest_first(entries: tuple[LogEntry, ...]) -> tuple[LogEntry, ...]:
    """Entries by time, the last on top."""
    return tuple(reversed(in_time(entries)))


def when_words(entry: LogEntry) -> str:
    """'Sat 14 Nov 15:20'."""
    at = datetime.fromisoformat(entry.at)
    return f"{at:%a} {at.day} {at:%b %H:%M}"


def steps_to_choose(answers: Answers | None) -> tuple[tuple[str, str], ...]:
    """No step, then those of tonight, then every other of the sequence."""
    found: Sequence | None = answers.sequence if answers else None
    work = answers.tonight.work if answers is not None and answers.tonight is not None else ()
    tonight = {w.step.id: f"tonight: {w.step.title}" for w in work if w.step is not None}
    rest = ((s.id, s.title) for s in (found.steps if found else ()) if s.id not in tonight)
    return (("", "no step"), *tonight.items(), *rest)


def new_entry(
    build: Build, words: str, now: datetime, answers: Answers | None, step_id: str, minutes: str, cost: str,
    lesson: bool,
) -> LogEntry:  # fmt: skip
    """An entry from what was typed.

    Raises
    ------
    RefusedError
        Nothing was written, or minutes or cost are no sensible numbers.
    """
    if not words.strip():
        raise RefusedError("Write what happened first.")
    spent = amount(minutes, 6000, "The number of minutes")
    paid = amount(cost, 1e6, "A cost")
    return written(build, words.strip(), now, step_of(answers, step_id), round(spent), paid, lesson)


def step_of(answers: Answers | None, step_id: str) -> Step | None:
    """A step of the sequence."""
    steps = answers.sequence.steps if answers is not None and answers.sequence is not None else ()
    return next((s for s in steps if s.id == step_id), None)


def kind_of(answers: Answers | None, step_id: str) -> str:
    """The kind of a step; "" where there is none."""
    step = step_of(answers, step_id)
    return step.kind if step is not None else ""


def read_time(text: str) -> str:
    """A day and an hour, as '2026-11-21 16:00'.

    Raises
    ------
    RefusedError
        It is none.
    """
    try:
        return (
            datetime.fromisoformat(text.strip().replace(" ", "T", 1)).replace(tzinfo=None).isoformat(timespec="minutes")
        )
    except ValueError as error:
        raise RefusedError(f"“{text[:30]}” is no day and hour. Type it like 2026-11-21 16:00.") from error


def optional(text: str, least: float, most: float) -> float | None:
    """A number, or None for nothing.

    Raises
    ------
    RefusedError
        Outside its range.
    """
    if not text.strip():
        return None
    value = parse_number(text)
    if not least <= value <= most:
        raise RefusedError(f"That lies between {least:g} and {most:g}.")
    return value


def step_words(entry: LogEntry) -> str:
    """The kind of step an entry belongs to."""
    kinds = step_kinds()
    return kinds[entry.step_kind].title if entry.step_kind in kinds else ""


def amount(text: str, most: float, what: str) -> float:
    """A number that is not below nothing; none is nothing.

    Raises
    ------
    RefusedError
        Outside its range.
    """
    value = parse_number(text) if text.strip() else 0.0
    if not 0 <= value <= most:
        raise RefusedError(f"{what} lies between 0 and {most:g}.")
    return value
