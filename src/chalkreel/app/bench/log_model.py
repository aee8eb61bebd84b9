"""View-model of Bench (no Qt): log entries in words."""

from __future__ import annotations

from datetime import datetime

from chalkreel.answers.answers import Answers
from chalkreel.answers.log import in_time
from chalkreel.answers.sequence import Sequence
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.finish.steps import step_kinds
from chalkreel.document.entities import LogEntry
from chalkreel.document.entity import new_id


def newest_first(entries: tuple[LogEntry, ...]) -> tuple[LogEntry, ...]:
    """Entries by time, the last on top."""
    return tuple(reversed(in_time(entries)))


def when_words(entry: LogEntry) -> str:
    """'Sat 14 Nov 15:20'."""
    at = datetime.fromisoformat(entry.at)
    return f"{at:%a} {at.day} {at:%b %H:%M}"


def steps_to_choose(answers: Answers | None) -> tuple[tuple[str, str], ...]:
    """No step, then every step of the sequence."""
    found: Sequence | None = answers.sequence if answers else None
    return (("", "no step"), *((s.id, s.title) for s in (found.steps if found else ())))


def new_entry(
    words: str, now: datetime, answers: Answers | None, step_id: str, minutes: str, cost: str, lesson: bool
) -> LogEntry:
    """An entry from what was typed.

    Raises
    ------
    RefusedError
        Nothing was written, or minutes or cost are no sensible numbers.
    """
    if not words.strip():
        raise RefusedError("Write what happened first.")
    spent = _amount(minutes, 6000, "The number of minutes")
    paid = _amount(cost, 1e6, "A cost")
    steps = answers.sequence.steps if answers and answers.sequence else ()
    kind = next((s.kind for s in steps if s.id == step_id), "")
    return LogEntry(
        id=new_id(),
        at=now.isoformat(timespec="minutes"),
        words=words.strip(),
        step_id=step_id,
        step_kind=kind,
        minutes=round(spent),
        cost=paid,
        lesson=lesson,
    )


def step_words(entry: LogEntry) -> str:
    """The kind of step an entry belongs to."""
    kinds = step_kinds()
    return kinds[entry.step_kind].title if entry.step_kind in kinds else ""


def _amount(text: str, most: float, what: str) -> float:
    value = parse_number(text) if text.strip() else 0.0
    if not 0 <= value <= most:
        raise RefusedError(f"{what} lies between 0 and {most:g}.")
    return value
