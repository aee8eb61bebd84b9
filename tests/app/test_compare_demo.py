"""The demo's photographs in the window: findings made jobs by keys, marks dragged and taken off, parts said missing."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.document.bench_entities import ReplicaMark, ReplicaPhoto, ReplicaReading
from tests.app.conftest import in_front, settle, show_stage
from tests.app.test_whole_slice import card_text


def shown(qtbot: QtBot, window: Window) -> None:
    show_stage(window, "Bench")
    window.bench.compare.show_photo("photo-1")
    settle(qtbot, window.session)
    in_front(qtbot, window)


def test_a_finding_becomes_a_job_by_its_key_and_is_taken_back(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.bench
    shown(qtbot, demo_window)
    jobs = len(session.answers.conversion.rows)  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: bool(stage.compare.look._places), timeout=30_000)
    number = stage.compare.look._places["wheelhouse|"].center().toPoint()
    qtbot.mouseClick(stage.compare.look, Qt.MouseButton.LeftButton, pos=number)
    assert stage.compare.finding == "wheelhouse|"
    offered = [button.text() for button in stage.card.findChildren(QPushButton)]
    assert "Make it a job (J)" in offered and "Nobody sees it (A)" in offered
    stage.compare.look.setFocus()
    qtbot.keyClick(stage.compare.look, Qt.Key.Key_J)
    settle(qtbot, session)
    assert len(session.answers.conversion.rows) == jobs + 1  # type: ignore[union-attr]
    assert "is a job in Convert" in card_text(demo_window)
    session.undo()
    settle(qtbot, session)
    assert len(session.answers.conversion.rows) == jobs  # type: ignore[union-attr]


def test_a_finding_is_mended_by_doing_a_step_again(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.bench
    shown(qtbot, demo_window)
    stage.choose_finding("wheelhouse|")
    offer = next(b for b in stage.card.findChildren(QPushButton) if b.text().startswith("Do a step again"))
    qtbot.mouseClick(offer, Qt.MouseButton.LeftButton)
    menu = next(m for m in stage.card.findChildren(QMenu) if m.isVisible())
    done = session.build.info.done
    # Sealing over the primer of the deck is not done yet, so that step is not offered; of what is, the primer goes.
    prime = next(action for action in menu.actions() if action.text() == "Prime: Deck")
    prime.trigger()
    menu.close()
    gone = set(done) - set(session.build.info.done)
    assert {"Deck//prime", "Deck//inspect"} <= gone and all(name.startswith("Deck/") for name in gone)
    assert {name for name, _ in session.build.info.done_at} <= set(session.build.info.done)
    settle(qtbot, session)
    assert "to be mended by doing “Prime: Deck” again" in card_text(demo_window)
    # The plan has them again, ahead of what is still to be laid over them.
    assert gone <= set(session.answers.sequence.timetable.spans)  # type: ignore[union-attr]
    session.undo()
    settle(qtbot, session)
    assert session.build.info.done == done and "to be mended" not in card_text(demo_window)


def test_marks_are_dragged_and_taken_off_and_parts_said_missing(qtbot: QtBot, demo_window: Window) -> None:
    session, desk = demo_window.session, demo_window.bench.compare.desk
    shown(qtbot, demo_window)
    demo_window.bench.compare.start_clicking(True)
    still = desk.photo.shown
    assert still is not None
    qtbot.waitUntil(lambda: bool(demo_window.images.levels(still)), timeout=20_000)
    mark = next(m for m in session.build.all(ReplicaMark) if m.id == "photo-1-bow tip")
    at = desk.photo.to_screen(mark.mark.x_px, mark.mark.y_px).toPoint()
    qtbot.mousePress(desk.photo, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(desk.photo, pos=at + QPoint(30, 8))
    qtbot.mouseRelease(desk.photo, Qt.MouseButton.LeftButton, pos=at + QPoint(30, 8))
    moved = session.build.get(ReplicaMark, mark.id)
    assert moved is not None and moved.mark.x_px - mark.mark.x_px > 20
    settle(qtbot, session)
    found = session.answers.comparing.stage("dry fit")  # type: ignore[union-attr]
    assert "landmark-bow tip" in {f.click for f in found.findings}
    desk.choose(mark.landmark_id)
    desk.photo.setFocus()
    qtbot.keyClick(desk.photo, Qt.Key.Key_Delete)
    assert session.build.get(ReplicaMark, mark.id) is None
    settle(qtbot, session)
    desk.choose("landmark-louvre, foot aft")
    qtbot.mouseClick(desk.gone, Qt.MouseButton.LeftButton)
    photo = session.build.get(ReplicaPhoto, "photo-1")
    assert photo is not None and photo.missing == ("tail fin, port", "louvres, port")
    for _ in range(3):
        session.undo()
    assert session.build.get(ReplicaMark, mark.id) == mark


def test_a_second_click_is_not_taken_for_the_landmark_just_clicked(qtbot: QtBot, demo_window: Window) -> None:
    session, desk = demo_window.session, demo_window.bench.compare.desk
    shown(qtbot, demo_window)
    demo_window.bench.compare.start_clicking(True)
    first = desk.photo.wanted
    assert first
    desk.place(first, 100.0, 100.0)
    # The answers to the first click are still on their way.
    assert session.stale
    desk.refresh()
    assert desk.photo.wanted != first


def test_a_size_by_calliper_is_kept_refused_and_mended(qtbot: QtBot, demo_window: Window) -> None:
    session, page = demo_window.session, demo_window.bench.readings
    show_stage(demo_window, "Bench")
    demo_window.bench.turn_to("By calliper")
    settle(qtbot, session)
    page.which.setCurrentIndex(page.which.findText("Length overall"))
    qtbot.keyClicks(page.measured, "long")
    qtbot.keyClick(page.measured, Qt.Key.Key_Return)
    assert len(session.build.all(ReplicaReading)) == 1 and page.measured.text() == "long"
    page.measured.clear()
    qtbot.keyClicks(page.measured, "386.9")
    qtbot.keyClick(page.measured, Qt.Key.Key_Return)
    settle(qtbot, session)
    assert [row.measured for row in page.table.rows_model.rows] == ["150.1 mm", "386.9 mm"]
    assert session.answers is not None and session.answers.comparing.scale is not None
    assert len(session.answers.comparing.scale.dimension_ids) == 2
