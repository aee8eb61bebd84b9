"""What is shown answers the build that is shown, or says that it does not."""

from __future__ import annotations

import os
import random
import shutil
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from chalkreel.app.application import Application
from chalkreel.app.jobs import Progress, left_words
from chalkreel.app.latest import Latest
from chalkreel.app.window import Window
from chalkreel.core.errors import RefusedError
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Dimension, FlatSet, KitPart, Landmark, LandmarkMark, Still
from chalkreel.document.paint_entities import Surface
from chalkreel.edits.removing import removal
from tests.answers.test_answerer import exchanged, figures
from tests.app.conftest import settle, show_stage


def test_stopped_answers_stay_grey_and_come_when_asked_again(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    part = session.build.all(KitPart)[0]
    twin = exchanged(session.build, "still-3")
    marks: Edits = {i: e for i, e in twin.entities.items() if e is not session.build.entities.get(i)}
    session.commit("exchanged", marks)
    session.stop_work()
    qtbot.waitUntil(lambda: not session.busy, timeout=30_000)
    assert session.stale
    session.edit("note", part, fit_note="tried")
    session.stop_work()
    session.undo()
    session.undo()
    demo_window.actions_by_id["again"].trigger()
    settle(qtbot, session)
    assert session.answers is not None and session.answers.build is session.build
    assert len(figures(session.answers)) == 35


def test_long_work_says_what_is_done_and_for_how_long(qtbot: QtBot, demo_window: Window) -> None:
    """Three of ten steps in 3 s leave 7 s; nothing is said of the time while only a blink of it has passed."""
    settle(qtbot, demo_window.session)
    session, strip, go_on = demo_window.session, demo_window.prompt, threading.Event()

    def work(progress: Progress) -> Iterator[object]:
        progress(0.3)
        yield None
        time.sleep(3.0)
        progress(0.3)
        go_on.wait(20.0)

    session.run("folding paper", work, lambda _: None, session.background)
    qtbot.waitUntil(lambda: strip.state.text() == "folding paper…")
    qtbot.waitUntil(lambda: strip.state.text() == "folding paper, about 10 s left", timeout=10_000)
    assert strip.stop.isVisibleTo(strip)
    go_on.set()
    qtbot.waitUntil(lambda: not session.busy)
    assert strip.state.text() == "saved as you work"
    assert left_words(0.02, 60.0) == left_words(0.5, 1.0) == "" and left_words(0.25, 60.0) == "about 3 min left"


def test_work_that_ends_at_once_ends_for_all_who_wait_for_it(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    told: list[object] = []
    latest = Latest(session, "trying", session.background)

    def refuse(_: Progress) -> Iterator[object]:
        yield from ()
        raise RefusedError("No.")

    # Threads that change places at every chance find what is done in the wrong order.
    interval = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        for number in range(100):
            latest.ask(number, refuse, told.append, told.append)
            qtbot.waitUntil(lambda: not session.busy and not latest.running, timeout=2000)
            assert told == ["No."] * (number + 1)
    finally:
        sys.setswitchinterval(interval)


def test_gestures_right_after_an_edit_find_what_the_answers_have(qtbot: QtBot, demo_window: Window) -> None:
    """A still and a landmark that the answers do not know yet are no reason to fail."""
    session = demo_window.session
    flat, old = session.build.all(FlatSet)[0], session.build.all(Still)[0]
    refused: list[str] = []
    session.refused.connect(refused.append)
    still = Still(id="fresh", title="fresh", blob=old.blob, width_px=old.width_px, height_px=old.height_px, number=99)
    session.commit("still", {still.id: still})
    demo_window.measure.desk.square_up(flat.id, False)
    session.commit("landmark", {"tip": Landmark(id="tip", name="tip")})
    surface = session.build.all(Surface)[0]
    show_stage(demo_window, "Colour")
    session.choose_still("still-2")
    session.select(surface.id)
    demo_window.colour.desk.next.click()
    settle(qtbot, session)
    assert not [words for words in refused if "went wrong" in words]
    assert any(s.squared is not None and s.title.startswith(flat.name) for s in session.build.all(Still))


@pytest.mark.timeout(1800)
def test_undo_and_redo_at_random_bring_builds_and_answers_back(
    qtbot: QtBot, demo_window: Window, request: pytest.FixtureRequest
) -> None:
    session, dice = demo_window.session, random.Random(3)
    states = [(session.build.entities, figures(session.answers))]  # type: ignore[arg-type]
    for turn in range(6):
        mark = dice.choice(session.build.all(LandmarkMark))
        edits: dict[int, Edits] = {
            0: {mark.id: None}, 1: removal(session.build, dice.choice(session.build.all(Dimension)).id),
            2: {f"part-{turn}": KitPart(id=f"part-{turn}", name="fin")},
        }  # fmt: skip
        session.commit("edit", edits[turn % 3])
        settle(qtbot, session)
        states.append((session.build.entities, figures(session.answers)))  # type: ignore[arg-type]
    at = len(states) - 1
    for _ in range(2000 if request.config.getoption("--long") else 24):
        step = dice.choice((-1, 1))
        (session.undo if step < 0 else session.redo)()
        at = min(max(at + step, 0), len(states) - 1)
        if dice.random() < 0.4:
            settle(qtbot, session)
            assert dict(session.build.entities) == dict(states[at][0])
            now = figures(session.answers)  # type: ignore[arg-type]
            assert now == pytest.approx(states[at][1], rel=1e-6)
    settle(qtbot, session)
    assert dict(session.build.entities) == dict(states[at][0])


def test_a_large_build_opens_in_the_worker_and_the_open_one_comes_to_the_front(
    qtbot: QtBot, qapp: Application, opened: Callable[[Path], Window], demo_file: Path, tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    first, second = tmp_path / "first.chalkreel", tmp_path / "second.chalkreel"
    for path in (first, second):
        shutil.copy(demo_file, path)
    window = opened(first)
    os.link(first, tmp_path / "link.chalkreel")
    qapp.open_path(tmp_path / "link.chalkreel")
    assert qapp.window is window and not window.session.store.read_only
    monkeypatch.setattr("chalkreel.app.application.LARGE_BYTES", 1)
    qapp.open_path(second)
    assert qapp.window is window
    qtbot.waitUntil(lambda: qapp.window is not None and qapp.window.session.store.path == second, timeout=20_000)
    assert qapp.window is not None
    settle(qtbot, qapp.window.session)
    (tmp_path / "third.chalkreel").write_text("no build")
    told: list[str] = []
    qapp.window.session.refused.connect(told.append)
    qapp.open_path(tmp_path / "third.chalkreel")
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "not a Chalk Reel build" in told[0] and qapp.window.session.store.path == second


def test_names_are_shown_as_they_are_written(qtbot: QtBot, demo_window: Window) -> None:
    session, evil = demo_window.session, "<img src='file:///etc/hostname'> & <b>fin</b>"
    part = session.build.all(KitPart)[0]
    session.edit("name", part, name=evil)
    settle(qtbot, session)
    show_stage(demo_window, "Gather")
    model = demo_window.gather.parts.rows_model
    row = next(n for n, r in enumerate(model.rows) if r.id == part.id)
    from PySide6.QtCore import Qt
    from PySide6.QtWidgets import QLabel

    tip = model.data(model.index(row, 0), Qt.ItemDataRole.ToolTipRole)
    assert "<img" not in tip and "&lt;img" in tip
    # Labels beside a field have fixed words; all others may hold the user's.
    labels = [label for label in demo_window.findChildren(QLabel) if label.buddy() is None]
    assert labels and all(label.textFormat() == Qt.TextFormat.PlainText for label in labels)
