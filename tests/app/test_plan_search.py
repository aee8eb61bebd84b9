"""A better plan in the real window: offered, searched for, stopped, taken, and kept with the build."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.finish import plan_search
from chalkreel.app.window import Window
from chalkreel.document.finish_entities import Evening
from tests.app.conftest import settle, show_stage
from tests.app.test_finish import finish_of, sequence_of, sledge
from tests.app.test_whole_slice import card_text


def press(qtbot: QtBot, window: Window, words: str) -> None:
    """Click the button of the card that says this."""

    def shown() -> list[QPushButton]:
        buttons = window.finish.card.findChildren(QPushButton)
        return [b for b in buttons if b.text() == words and b.isVisibleTo(window)]

    qtbot.waitUntil(lambda: bool(shown()))
    qtbot.mouseClick(shown()[0], Qt.MouseButton.LeftButton)


def test_a_plan_that_one_evening_more_makes_better_is_taken_undone_and_stands_when_reopened(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    path = tmp_path / "sledge.chalkreel"
    window = opened(path)
    sledge(qtbot, window)
    session = window.session
    window.finish.turn_to("Plan")
    settle(qtbot, session)
    before = finish_of(window)
    # What stands goes on standing: the new evenings are only offered.
    for day in (1, 3, 4):
        session.edit("evening", Evening(id=f"evening-{day}", weekday=day, start="14:00", end="21:00"))
    settle(qtbot, session)
    assert finish_of(window) == before
    assert "A better plan is ready" in card_text(window) and "earlier by the plan" in card_text(window)
    # The odds fill the new evenings, which the plan that stands does not: they say nothing of its last day.
    assert "if you go on whenever you are at the bench" in card_text(window)
    assert "no sooner done" not in card_text(window)
    better = sequence_of(window).better
    assert better is not None and better.finish is not None and better.finish < before
    press(qtbot, window, "Take it")
    settle(qtbot, session)
    assert finish_of(window) == better.finish and sequence_of(window).timetable is not None
    assert "A better plan is ready" not in card_text(window)
    session.undo()
    settle(qtbot, session)
    assert finish_of(window) == before and not session.build.info.plan
    session.redo()
    settle(qtbot, session)
    slots = sequence_of(window).timetable.slots  # type: ignore[union-attr]
    window = opened(path)
    session = window.session
    show_stage(window, "Finish")
    settle(qtbot, session)
    assert sequence_of(window).timetable.slots == slots  # type: ignore[union-attr]
    # Without one of its evenings it cannot stand as it is, and nothing else is lost by that.
    session.commit("no evening", {"evening-1": None})
    settle(qtbot, session)
    table = sequence_of(window).timetable
    assert table is not None and table.missed == () and {s.step_id for s in table.slots} == {s.step_id for s in slots}
    assert not any(s.start.weekday() == 1 for s in table.slots)


def test_a_minutes_search_is_stopped_or_says_what_came_of_it(
    qtbot: QtBot, demo_window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, search = demo_window.session, demo_window.finish.search
    show_stage(demo_window, "Finish")
    demo_window.finish.turn_to("Plan")
    settle(qtbot, session)
    table = sequence_of(demo_window).timetable
    press(qtbot, demo_window, "Search for a minute")
    assert search.running and "Searching for a better one" in card_text(demo_window)
    session.stop_work()
    qtbot.waitUntil(lambda: not session.busy and not search.running, timeout=10_000)
    monkeypatch.setattr(plan_search, "ROUNDS", 2)
    monkeypatch.setattr(plan_search, "SECONDS", 0.5)
    press(qtbot, demo_window, "Search for a minute")
    qtbot.waitUntil(lambda: not session.busy and not search.running, timeout=30_000)

    def told() -> tuple[bool, bool]:
        said = card_text(demo_window)
        return "A better plan is ready" in said, plan_search.NOTHING in said

    qtbot.waitUntil(lambda: any(told()))
    assert not all(told())
    # The plan that stands is as it was.
    assert sequence_of(demo_window).timetable is table and not session.build.info.plan
