"""A build of one's own in inches, of something the demo does not know, by mouse and keys; then undone, and reopened."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot

from chalkreel.app.application import Application
from chalkreel.app.window import Window
from chalkreel.document.entities import KitPart, LandmarkMark, Still
from chalkreel.document.paint_entities import Surface, Zone
from tests.app.conftest import drag_still, in_front, settle, show_stage
from tests.app.test_counts import drag, with_keys
from tests.app.test_table import editor, press

PANEL = ((300, 200), (1100, 200), (1100, 600), (300, 600))


def picture(path: Path, shift: int) -> Path:
    """A gondola's side as flat as can be: a light panel with a window in it, on grey."""
    image = Image.new("RGB", (1400, 800), (96, 100, 104))
    draw = ImageDraw.Draw(image)
    draw.polygon([(x + shift, y) for x, y in PANEL], fill=(196, 180, 148))
    draw.rectangle((500 + shift, 300, 640 + shift, 420), fill=(52, 58, 66))
    noise = np.random.default_rng(shift).integers(-3, 4, (800, 1400, 3))
    Image.fromarray(np.clip(np.asarray(image) + noise, 0, 255).astype(np.uint8)).save(path)
    return path


def begun(qtbot: QtBot, qapp: Application, tmp_path: Path) -> Window:
    qapp._show_start()
    assert qapp.start is not None
    form = qapp.start.form
    qtbot.keyClicks(form.name, "Gondola")
    form.unit.setCurrentText("inch")
    qtbot.keyClicks(form.story, "61 ft")
    qtbot.keyClicks(form.miniature, "22")
    form.studio.click()
    form.dark.click()
    form.take_stills((picture(tmp_path / "a.png", 0), picture(tmp_path / "b.png", 90)))
    assert form.begin_at(tmp_path / "gondola.chalkreel")
    assert qapp.window is not None and qapp.session is not None
    qtbot.waitUntil(lambda: len(qapp.session.build.all(Still)) == 2, timeout=20_000)  # type: ignore[union-attr]
    return in_front(qtbot, qapp.window)


def describe_both(qtbot: QtBot, window: Window) -> None:
    """Both stills show port: one drag."""
    session = window.session
    wall = window.gather.wall
    window.resize(1280, 1200)
    QApplication.processEvents()
    wall.grab()
    frames = [place for place, still in wall._frames if still is not None]
    port = next(place for place, side, _ in wall._cells if side == "port")
    qtbot.mouseClick(wall, Qt.MouseButton.LeftButton, pos=frames[0].center().toPoint())
    qtbot.mouseClick(wall, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, frames[1].center().toPoint())
    drag(wall, frames[1].center(), port.center())
    assert {s.side for s in session.build.all(Still)} == {"port"}


def list_the_kit(qtbot: QtBot, window: Window) -> None:
    """A part, its calliper in inches, no click."""
    session = window.session
    window.gather.parts.setFocus()
    qtbot.keyClick(window.gather.parts, Qt.Key.Key_Return)
    qtbot.keyClicks(editor(window.gather.parts), "gondola floor")
    press(qtbot, window.gather.parts, Qt.Key.Key_Tab)
    press(qtbot, window.gather.parts, Qt.Key.Key_Tab)
    qtbot.keyClicks(editor(window.gather.parts), "2 1/8")
    press(qtbot, window.gather.parts, Qt.Key.Key_Return)
    press(qtbot, window.gather.parts, Qt.Key.Key_Escape)
    assert [(p.name, p.calliper_mm) for p in session.build.all(KitPart)] == [("gondola floor", 2.125 * 25.4)]


def mark_the_corners(qtbot: QtBot, window: Window) -> None:
    """Four corners with one tool that stays."""
    session = window.session
    show_stage(window, "Measure")
    session.choose_still(session.build.all(Still)[0].id)
    view = with_keys(qtbot, window, window.measure.view)
    qtbot.waitUntil(lambda: bool(window.images.levels(session.still)))  # type: ignore[arg-type]
    qtbot.keyClick(view, Qt.Key.Key_L)
    for x, y in PANEL:
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.to_screen(x, y).toPoint())
    assert len(session.build.all(LandmarkMark)) == 4 and view.at_work
    qtbot.keyClick(view, Qt.Key.Key_Escape)


def take_a_patch(qtbot: QtBot, window: Window) -> None:
    """A drag, then the surface's name."""
    session = window.session
    show_stage(window, "Colour")
    view = with_keys(qtbot, window, window.colour.view)
    qtbot.keyClick(view, Qt.Key.Key_P)
    drag_still(qtbot, view, (700, 460), (900, 560))
    line = window.colour.desk.surface.lineEdit()
    assert isinstance(line, QLineEdit)
    qtbot.keyClicks(line, "doped linen")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert [s.name for s in session.build.all(Surface)] == ["doped linen"]


def add_a_zone(qtbot: QtBot, window: Window) -> None:
    """Enter in the empty table."""
    session = window.session
    show_stage(window, "Finish")
    window.finish.turn_to("Zones")
    window.finish.zones.setFocus()
    qtbot.keyClick(window.finish.zones, Qt.Key.Key_Return)
    qtbot.keyClicks(editor(window.finish.zones), "envelope")
    press(qtbot, window.finish.zones, Qt.Key.Key_Tab)
    press(qtbot, window.finish.zones, Qt.Key.Key_Escape)
    assert [z.name for z in session.build.all(Zone)] == ["envelope"]


def print_the_book(qtbot: QtBot, window: Window, path: Path) -> None:
    """What was typed stands on paper, in inches."""
    session = window.session
    window.exports.write_book(path)
    qtbot.waitUntil(lambda: path.exists() and not session.busy, timeout=30_000)
    text = "\n".join(page.extract_text() for page in PdfReader(path).pages)
    assert "Gondola" in text and "gondola floor" in text and "2 1/8 in" in text and "envelope" in text


def test_from_the_first_page_to_paper_and_back(
    qtbot: QtBot, qapp: Application, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = begun(qtbot, qapp, tmp_path)
    session = window.session
    info = session.build.info
    assert (info.unit, info.dark, round(info.replica_mm / 25.4, 6)) == ("inch", True, 22)
    first = dict(session.build.entities)
    for do in (describe_both, list_the_kit, mark_the_corners, take_a_patch, add_a_zone):
        do(qtbot, window)
    settle(qtbot, session)
    print_the_book(qtbot, window, tmp_path / "book.pdf")
    # All of it taken back, and found so when it is opened again; then all of it done again.
    last = dict(session.build.entities)
    while session.store.undo_label:
        session.undo()
    undone = dict(session.build.entities)
    assert {i: e for i, e in undone.items() if not isinstance(e, Still)} == {
        i: e for i, e in first.items() if not isinstance(e, Still)
    }
    qapp.close_build()
    again = opened(tmp_path / "gondola.chalkreel")
    assert dict(again.session.build.entities) == undone
    while again.session.store.redo_label:
        again.session.redo()
    assert dict(again.session.build.entities) == last
    assert again.chalkline.stations[3].count == 0
