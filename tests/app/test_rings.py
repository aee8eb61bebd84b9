"""Rings of an evening: which there are, when they come, and that they follow the plan."""

from __future__ import annotations

from datetime import datetime, timedelta

from PySide6.QtCore import QObject, Qt
from pytestqt.qtbot import QtBot

from chalkreel.answers.rings import AHEAD, Ring, rings
from chalkreel.app.finish.ringer import Ringer
from chalkreel.app.window import Window
from chalkreel.document.finish_entities import Evening
from tests.app.conftest import settle, show_stage


def test_an_evening_rings_for_what_begins_what_closes_and_what_is_dry(demo_window: Window) -> None:
    sheet = demo_window.session.answers.tonight
    assert sheet is not None and rings(None) == ()
    found = {ring.at: ring.words for ring in rings(sheet)}
    assert list(found) == sorted(found)
    assert all(work.words in found[work.start] for work in sheet.work)
    for timer in sheet.timers:
        at = timer.closes - AHEAD
        early = timer.planned < at <= sheet.window.end
        assert early == (f"{timer.then.title} must begin by" in found.get(at, ""))
    touched = {wet.until for wet in sheet.hands_off if wet.until <= sheet.window.end}
    assert all("should be touch-dry" in found[at] for at in touched)


def test_rings_come_at_their_time_and_those_a_sleeping_machine_missed_at_once(qtbot: QtBot) -> None:
    clock = [datetime(2031, 3, 3, 19, 0)]
    parent = QObject()
    ringer = Ringer(parent, lambda: clock[0])
    told: list[str] = []
    ringer.rang.connect(told.append)
    evening = [Ring(clock[0] + timedelta(minutes=m), f"step {m}") for m in (-5, 20, 40, 60)]
    ringer.wait_for(tuple(evening))
    assert [ring.words for ring in ringer.coming] == ["step 20", "step 40", "step 60"]
    ringer._timer.timeout.emit()
    assert told == []
    clock[0] += timedelta(minutes=45)
    ringer._timer.timeout.emit()
    assert told == ["19:20, step 20. 19:40, step 40."]
    # The real timer: a ring a moment ahead comes by itself.
    soon = Ring(clock[0] + timedelta(milliseconds=30), "soon")
    ringer._now = lambda: clock[0] + timedelta(seconds=1) if ringer._timer.interval() < 100 else clock[0]
    ringer.wait_for((soon,))
    qtbot.waitUntil(lambda: len(told) == 2, timeout=5_000)
    assert told[1] == "19:45, soon." and ringer.coming == ()


def test_the_rings_follow_the_plan_and_stop(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.finish
    show_stage(demo_window, "Finish")
    stage.turn_to("Tonight")
    evening = session.build.all(Evening)[0]
    # An evening far ahead: all of it is still to come.
    session.edit("first day", session.build.info, first_bench_day="2031-03-03")
    settle(qtbot, session)
    qtbot.mouseClick(stage.ring, Qt.MouseButton.LeftButton)
    before = stage.ringer.coming
    assert before == rings(session.answers.tonight) and f"Rings {len(before)} times" in demo_window.prompt.words.text()
    for one in session.build.all(Evening):
        session.edit("later", one, start="20:30", end="23:30")
    settle(qtbot, session)
    assert stage.ringer.coming and stage.ringer.coming[0].at.hour == 20 and evening.start != "20:30"
    stage.ringer.rang.emit("21:00, now: a step.")
    show_stage(demo_window, "Gather")
    stage.ringer.rang.emit("21:10, now: the next.")
    assert demo_window.prompt.words.text() == "21:10, now: the next."
    show_stage(demo_window, "Finish")
    qtbot.mouseClick(stage.ring, Qt.MouseButton.LeftButton)
    assert stage.ringer.coming == ()
