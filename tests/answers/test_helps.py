"""What would help a plan: an evening that is in time for a window which would close unused."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime, timedelta

from chalkreel.answers.answers import Answers
from chalkreel.answers.helps import helps
from chalkreel.answers.plan import planned_spans
from chalkreel.answers.sequence import Sequence, SequenceInputs, sequence


def missed(found: Sequence) -> int:
    assert found.timetable is not None
    return len(found.timetable.missed)


def just_washed(answers: Answers) -> SequenceInputs:
    """The demo with one wash just laid, in its turn, and no evening before the next week: it will not come off."""
    found = answers.sequence
    assert found is not None and found.asked is not None
    spans = planned_spans(found)
    wash = next(s.id for s in found.steps if s.kind == "wash")
    before = tuple(name for name, (begin, _) in spans.items() if begin <= spans[wash][0])
    now = datetime(2026, 12, 21, 22, 0)
    # Steps laid long ago but for the wash; the bench is free again nine days later.
    ended = tuple((name, now if name == wash else now - timedelta(days=20)) for name in before)
    return replace(
        found.asked, done=(*found.asked.done, *before), done_at=(*found.asked.done_at, *ended), now=now,
        order=(), first_bench_day="", days_off=(), deadline="",
    )  # fmt: skip


def test_a_missed_window_is_kept_by_the_evening_that_is_offered(demo_answers: Answers) -> None:
    found = sequence(just_washed(demo_answers))
    late = missed(found)
    assert late >= 1
    offered = helps(found, lambda _: True)
    best = offered[0]
    assert best.kept >= 1 and best.evening is not None and best.evening.day
    assert f"{best.kept} window" in best.words and "more kept" in best.words
    day = date.fromisoformat(best.evening.day)
    assert 0 <= (day - date(2026, 12, 21)).days <= 3
    assert found.asked is not None
    again = sequence(replace(found.asked, evenings=(*found.asked.evenings, best.evening)))
    assert missed(again) == late - best.kept
    # Nothing is offered that keeps fewer windows than the plan does.
    assert all(one.kept > 0 or one.days > 0 for one in offered)
    plan = demo_answers.sequence
    assert plan is not None and missed(plan) == 0 and all(one.kept == 0 for one in helps(plan, lambda _: True))
