"""What would help a plan: an evening that is in time for a window which would close unused."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime, timedelta

from chalkreel.answers.answers import Answers
from chalkreel.answers.helps import helps
from chalkreel.answers.latest_start import latest_start
from chalkreel.answers.plan import planned_spans
from chalkreel.answers.sequence import Sequence, SequenceInputs, bench_windows, sequence


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


def test_the_latest_start_is_in_time_and_the_evening_after_it_is_not(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None and found.asked is not None and found.asked.deadline
    latest = latest_start(found, lambda _: True)
    assert latest is not None and latest > found.asked.now
    following = next(w.start for w in bench_windows(found.asked) if w.start > latest)

    def in_time(begin: datetime) -> float:
        assert found is not None and found.asked is not None
        likely = sequence(replace(found.asked, now=begin, order=(), first_bench_day="")).likely
        assert likely is not None and likely.in_time is not None
        return likely.in_time

    assert in_time(latest) >= 0.8 > in_time(following)
    # Four weeks less until the deadline are four weeks less to wait.
    sooner = (date.fromisoformat(found.asked.deadline) - timedelta(days=28)).isoformat()
    by = latest_start(replace(found, asked=replace(found.asked, deadline=sooner)), lambda _: True)
    assert by is not None and 21 <= (latest - by).days <= 35
    for deadline in ("", "2026-11-25"):
        assert latest_start(replace(found, asked=replace(found.asked, deadline=deadline)), lambda _: True) is None


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
