"""A new entry of the log, with what the program knows of its step filled in."""

from __future__ import annotations

from datetime import datetime

from chalkreel.answers.log import Known, known_of
from chalkreel.core.finish.steps import Step
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build


def written(
    build: Build, words: str, at: datetime, step: Step | None = None, minutes: int = 0, cost: float = 0.0,
    lesson: bool = False,
) -> LogEntry:  # fmt: skip
    """What happened; at a step its pot, mix, coats, thinner and room go with it."""
    known = known_of(build, step) if step is not None else Known()
    return LogEntry(
        id=new_id(), at=at.isoformat(timespec="minutes"), words=words, step_id=step.id if step is not None else "",
        step_kind=step.kind if step is not None else "", minutes=minutes, cost=cost, lesson=lesson,
        pot_id=known.pot_id, mix=known.mix, coats=known.coats, thinner_parts=known.thinner_parts, room_c=known.room_c,
        room_humidity=known.room_humidity,
    )  # fmt: skip
