"""Lessons from the log that matter for the steps ahead."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.finish.steps import Step


@dataclass(frozen=True)
class Lesson:
    """What was learned at a kind of step."""

    words: str
    step_kind: str


@dataclass(frozen=True)
class Reminder:
    """A lesson brought back at the next step it concerns."""

    words: str
    step_title: str


def reminders(lessons: tuple[Lesson, ...], ahead: tuple[Step, ...]) -> tuple[Reminder, ...]:
    """Each lesson once, at the first step ahead of the kind it was learned at."""
    found = []
    for lesson in lessons:
        step = next((s for s in ahead if s.kind == lesson.step_kind), None)
        if step is not None:
            found.append(Reminder(lesson.words, step.title))
    return tuple(found)
