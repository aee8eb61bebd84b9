"""A calliper types into the window; frames of a video go on the reel."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.document.entities import KitPart
from tests.app.conftest import settle, show_stage


def choose_row(window: Window, name: str) -> None:
    table = window.measure.table
    number = next(n for n, row in enumerate(table.rows_model.rows) if row.name == name)
    table.setCurrentIndex(table.rows_model.index(number, 0))
    window.measure.calliper.refresh()


def test_the_stand_in_types_a_reading_and_the_row_moves_on(qtbot: QtBot, demo_window: Window) -> None:
    session, row = demo_window.session, demo_window.measure.calliper
    show_stage(demo_window, "Measure")
    settle(qtbot, session)
    choose_row(demo_window, "Hazard band height")
    assert "Decal sheet" in row.part.text()
    decals = session.build.get(KitPart, "part-decals")
    assert decals is not None and decals.calliper_mm is None
    qtbot.mouseClick(row.send, Qt.MouseButton.LeftButton)
    with qtbot.waitSignal(session.build_changed, timeout=5000):
        pass
    decals = session.build.get(KitPart, "part-decals")
    assert decals is not None and decals.calliper_mm == pytest.approx(16.0, abs=0.06)
    assert row.field.text() == "" and "C9 louvres" in row.part.text()
    settle(qtbot, session)


def test_a_typed_reading_counts_and_nonsense_is_refused(qtbot: QtBot, demo_window: Window) -> None:
    session, row = demo_window.session, demo_window.measure.calliper
    show_stage(demo_window, "Measure")
    settle(qtbot, session)
    row.field.setFocus()
    qtbot.keyClicks(row.field, "30.2")
    qtbot.keyClick(row.field, Qt.Key.Key_Return)
    assert "has a kit part" in demo_window.prompt.words.text()
    row.field.clear()
    choose_row(demo_window, "Louvre width")
    qtbot.keyClicks(row.field, "Err 4")
    qtbot.keyClick(row.field, Qt.Key.Key_Return)
    assert "no reading" in demo_window.prompt.words.text()
    row.field.clear()
    qtbot.keyClicks(row.field, "30.17 mm")
    qtbot.keyClick(row.field, Qt.Key.Key_Return)
    part = session.build.get(KitPart, "part-louvre")
    assert part is not None and part.calliper_mm == 30.17
    settle(qtbot, session)


def test_a_frame_is_stepped_to_and_put_on_the_reel(qtbot: QtBot, demo_window: Window, tmp_path: Path) -> None:
    session, stage = demo_window.session, demo_window.gather
    clip = tmp_path / "pass.mp4"
    clip.write_bytes(files("chalkreel.demo").joinpath("data/clip-bow-pass.mp4").read_bytes())
    stage.add_files([clip])
    qtbot.waitUntil(lambda: stage.grabber.frame is not None, timeout=20_000)
    assert stage.grabber.isVisible()
    forward = next(b for b in stage.grabber.findChildren(QPushButton) if b.text() == "+1")
    for _ in range(3):
        qtbot.mouseClick(forward, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: stage.grabber.frame is not None and stage.grabber.frame.number == 3)
    assert "frame 4 of 30" in stage.grabber.words.text() and "bars taken off" in stage.grabber.words.text()
    with qtbot.waitSignal(session.still_changed, timeout=20_000):
        qtbot.mouseClick(stage.grabber.keep, Qt.MouseButton.LeftButton)
    still = session.still
    assert still is not None
    assert (still.width_px, still.height_px, still.cropped) == (480, 312, False)
    assert still.pixel_aspect == pytest.approx(16 / 15) and still.title == "pass.mp4, frame 4"
    stage.grabber.close_file()
    assert not stage.grabber.isVisible()
    settle(qtbot, session)


def test_a_file_that_only_looks_like_a_video_gets_a_sentence(qtbot: QtBot, demo_window: Window, tmp_path: Path) -> None:
    fake = tmp_path / "holiday.mp4"
    fake.write_bytes(b"not a film" * 100)
    demo_window.gather.add_files([fake])
    qtbot.waitUntil(lambda: "no video" in demo_window.prompt.words.text())
    assert not demo_window.gather.grabber.isVisible()
