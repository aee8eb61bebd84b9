"""The hand at the bench: dragging, panning, snapping, keys that act where the focus is, undo from anywhere."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QNativeGestureEvent, QPointingDevice, QWheelEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from chalkreel.app.stills.view import StillView
from chalkreel.app.stills.viewport import fitted
from chalkreel.app.window import Window
from chalkreel.document.entities import LandmarkMark, Reading
from tests.app.conftest import in_front, settle, show_stage
from tests.app.test_window import ready_to_mark

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def view(qtbot: QtBot, demo_window: Window) -> StillView:
    ready_to_mark(qtbot, demo_window)
    in_front(qtbot, demo_window)
    demo_window.measure.view.setFocus()
    return demo_window.measure.view


def mark(window: Window) -> Reading:
    found = window.session.build.get(Reading, "reading-3")
    assert found is not None
    return found


def test_a_tremor_moves_no_mark_and_a_drag_keeps_its_grip(qtbot: QtBot, demo_window: Window, view: StillView) -> None:
    before = mark(demo_window)
    view.zoom_by(6, view.to_screen(before.b.x_px, before.b.y_px))
    at = view.to_screen(before.b.x_px, before.b.y_px).toPoint() + QPoint(6, 0)
    qtbot.mousePress(view, LEFT, pos=at)
    qtbot.mouseMove(view, pos=at + QPoint(1, 1))
    qtbot.mouseRelease(view, LEFT, pos=at + QPoint(1, 1))
    assert mark(demo_window) == before
    qtbot.mousePress(view, LEFT, pos=at)
    qtbot.mouseMove(view, pos=at + QPoint(10, 0))
    qtbot.mouseMove(view, pos=at + QPoint(30, 12))
    qtbot.mouseRelease(view, LEFT, pos=at + QPoint(30, 12))
    moved = mark(demo_window).b
    # As far as the pointer went, not to where the pointer was.
    assert moved.x_px - before.b.x_px == pytest.approx(30 / view.port.across, abs=1e-6)
    assert moved.y_px - before.b.y_px == pytest.approx(12 / view.zoom, abs=1e-6)


def test_each_still_is_found_as_it_was_left(demo_window: Window, view: StillView) -> None:
    session = demo_window.session
    view.zoom_by(5, QPointF(100, 100))
    left = view.port
    session.choose_still("still-2")
    assert view.port == fitted((session.still.width_px, session.still.height_px), session.still.pixel_aspect,  # type: ignore[union-attr]
                               view.width(), view.height())  # fmt: skip
    session.choose_still("still-1")
    assert view.port == left


def hover(view: StillView, at: QPoint) -> None:
    """Move the pointer, whatever window the system thinks is active."""
    none = Qt.MouseButton.NoButton
    event = QMouseEvent(QMouseEvent.Type.MouseMove, QPointF(at), view.mapToGlobal(QPointF(at)), none, none, NONE)
    QApplication.sendEvent(view, event)


def wheel(view: StillView, turn: QPoint, fingers: QPoint, phase: Qt.ScrollPhase, held: Qt.KeyboardModifier) -> None:
    at = QPointF(view.rect().center())
    event = QWheelEvent(at, view.mapToGlobal(at), fingers, turn, Qt.MouseButton.NoButton, held, phase, False)
    QApplication.sendEvent(view, event)


NONE, SHIFT, CTRL = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip
NOT_TOUCH, TOUCH = Qt.ScrollPhase.NoScrollPhase, Qt.ScrollPhase.ScrollUpdate


@pytest.mark.parametrize(
    ("turn", "fingers", "phase", "held", "does"),
    [
        ((0, 120), (0, 0), NOT_TOUCH, NONE, "zoom"), ((120, 0), (0, 0), NOT_TOUCH, NONE, "pan"),
        ((0, 120), (0, 0), NOT_TOUCH, SHIFT, "pan"), ((0, 30), (4, 9), TOUCH, NONE, "pan"),
        ((0, 0), (5, 0), NOT_TOUCH, NONE, "pan"), ((0, 60), (0, 20), TOUCH, CTRL, "zoom"),
    ],
)  # fmt: skip
def test_wheels_and_fingers(
    view: StillView, turn: tuple[int, int], fingers: tuple[int, int], phase: Qt.ScrollPhase,
    held: Qt.KeyboardModifier, does: str,
) -> None:  # fmt: skip
    view.zoom_by(3)
    before = view.port
    wheel(view, QPoint(*turn), QPoint(*fingers), phase, held)
    assert (view.port.zoom != before.zoom) is (does == "zoom")
    assert view.port != before


def test_a_pinch_zooms_where_the_fingers_are(view: StillView) -> None:
    at, before = QPointF(200, 120), view.port
    under = view.to_still(at)
    event = QNativeGestureEvent(
        Qt.NativeGestureType.ZoomNativeGesture, QPointingDevice.primaryPointingDevice(), 2, at, at,
        view.mapToGlobal(at), 0.25, QPointF(), 1,
    )  # fmt: skip
    QApplication.sendEvent(view, event)
    assert view.zoom == pytest.approx(1.25 * before.zoom) and view.to_still(at) == pytest.approx(under)


def test_arrows_pan_where_no_mark_is_held(qtbot: QtBot, view: StillView) -> None:
    view.zoom_by(4)
    before = view.port
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view.port.left < before.left and view.port.zoom == before.zoom


def test_the_view_follows_the_mark_that_is_walked_to(demo_window: Window, view: StillView) -> None:
    view.zoom_by(12, QPointF(5, 5))
    for _ in range(6):
        view.walk_to(lambda handle: True)
        active = view.active
        assert active is not None
        assert view.rect().contains(view.to_screen(active.x_px, active.y_px).toPoint())


def test_where_a_click_would_snap_to_is_shown_before_it(qtbot: QtBot, demo_window: Window, view: StillView) -> None:
    landmark = next(m for m in demo_window.session.build.all(LandmarkMark) if m.still_id == "still-1").mark
    view.zoom_by(4, view.to_screen(landmark.x_px, landmark.y_px))
    qtbot.waitUntil(lambda: demo_window.session.gallery.at_hand(demo_window.session.still.blob) is not None)  # type: ignore[union-attr]
    qtbot.keyClick(view, Qt.Key.Key_L)
    at = view.to_screen(landmark.x_px + 1.5, landmark.y_px + 1).toPoint()
    hover(view, at)
    qtbot.waitUntil(lambda: view.snap_shown is not None)
    shown = view.snap_shown
    assert shown is not None
    taken: list[tuple[tuple[float, float], ...]] = []
    view._gathering._finished = taken.append  # type: ignore[union-attr]
    qtbot.mouseClick(view, LEFT, pos=at)
    assert taken[0][0] == pytest.approx(shown)


def test_letters_act_only_while_the_still_has_the_keys(qtbot: QtBot, demo_window: Window, view: StillView) -> None:
    stage = demo_window.measure
    stage.table.setFocus()
    qtbot.keyClick(stage.table, Qt.Key.Key_S)
    assert not any(button.isChecked() for button in stage.desk.tools.values())
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_S)
    assert [kind.name for kind, button in stage.desk.tools.items() if button.isChecked()] == ["Size"]


def test_del_on_the_reel_removes_nothing(qtbot: QtBot, demo_window: Window, view: StillView) -> None:
    session = demo_window.session
    session.select("dim-Fin height, port")
    demo_window.reel.setFocus()
    before = session.build
    demo_window.actions_by_id["delete"].trigger()
    assert session.build is before
    view.setFocus()
    demo_window.actions_by_id["delete"].trigger()
    assert "dim-Fin height, port" not in session.build.entities


def test_undo_works_from_a_field_and_returns_to_where_it_was(qtbot: QtBot, demo_window: Window) -> None:
    session, field = demo_window.session, demo_window.slate.name
    show_stage(demo_window, "Gather")
    session.choose_still("still-1")
    reading = mark(demo_window)
    session.edit("mark of a size", reading, b=reading.a)
    settle(qtbot, session)
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Z, CTRL)
    assert mark(demo_window) == reading
    assert (session.stage, session.still_id, session.selection) == ("Measure", reading.still_id, "reading-3")
    assert demo_window.prompt.words.text() == "Undone: mark of a size."


def test_undo_in_a_field_takes_typing_back_first(qtbot: QtBot, demo_window: Window) -> None:
    session, field = demo_window.session, demo_window.slate.name
    session.edit("name", session.build.info, name="Other")
    demo_window.slate.refresh()
    field.setFocus()
    qtbot.keyClicks(field, "x")
    qtbot.keyClick(field, Qt.Key.Key_Z, CTRL)
    assert session.build.info.name == "Other" and field.text() == "Other"


def test_after_a_ruler_the_keys_are_on_the_still_again(qtbot: QtBot, demo_window: Window, view: StillView) -> None:
    pending = demo_window.measure.pending
    pending.ask("How long?", False, lambda: None)
    qtbot.keyClicks(pending.length, "12 mm")
    qtbot.keyClick(pending.length, Qt.Key.Key_Return)
    assert not pending.isVisible() and view.hasFocus()


def test_an_empty_build_says_what_to_do_in_every_stage_and_begins_it(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "own.chalkreel")
    for stage, button, list_of in (
        ("Light", "Add a lamp", "lamps"),
        ("Finish", "Add a zone", "zones"),
    ):
        show_stage(window, stage)
        settle(qtbot, window.session)
        card = window.stages[window.session.stage].card

        def offered(card: QWidget = card, words: str = button) -> list[QPushButton]:
            return [b for b in card.findChildren(QPushButton) if b.text() == words and b.isVisible()]

        qtbot.waitUntil(lambda offered=offered: len(offered()) == 1)  # type: ignore[misc]
        assert offered()[0].objectName() == "primary", stage
        offered()[0].click()
        table = getattr(window.stages[window.session.stage], list_of)
        assert len(table.rows_model.rows) == 1 and table.state() == table.State.EditingState
        qtbot.waitUntil(lambda offered=offered: not offered())  # type: ignore[misc]


def test_an_empty_box_asks_for_its_parts_and_features_come_after(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "own.chalkreel")
    show_stage(window, "Convert")
    settle(qtbot, window.session)
    convert = window.convert

    def offered(words: str) -> list[QPushButton]:
        return [b for b in convert.card.findChildren(QPushButton) if b.text() == words and b.isVisible()]

    qtbot.waitUntil(lambda: len(offered("List the parts")) == 1)
    offered("List the parts")[0].click()
    assert convert.box.ranges.hasFocus()
    qtbot.keyClicks(convert.box.ranges, "A1-3")
    qtbot.keyClick(convert.box.ranges, Qt.Key.Key_Return)
    convert.turn_to("Versions")
    qtbot.waitUntil(lambda: len(offered("Add a feature")) == 1)
    offered("Add a feature")[0].click()
    table = convert.versions.table
    assert len(table.rows_model.rows) == 1 and table.state() == table.State.EditingState


def test_a_model_that_stays_dark_is_not_asked_about_lamps(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "own.chalkreel")
    show_stage(window, "Light")
    box = next(b for b in window.light.forms["supply"].findChildren(QCheckBox) if "dark" in b.text())
    box.click()
    settle(qtbot, window.session)
    window.light.refresh()
    assert window.session.build.info.dark and window.light.dark.isVisible() and not window.light.pages.isVisible()
    assert window.chalkline.stations[3].count == 0
    box.click()
    window.light.refresh()
    assert window.light.pages.isVisible()


def test_return_presses_the_button_that_has_the_keys(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Gather")
    in_front(qtbot, demo_window)
    add = next(b for b in demo_window.gather.centre.findChildren(QPushButton) if b.text() == "Add part")
    before = len(demo_window.gather.parts.rows_model.rows)
    add.setFocus()
    qtbot.keyClick(add, Qt.Key.Key_Return)
    assert len(demo_window.gather.parts.rows_model.rows) == before + 1
