"""What the hand has to do, counted: drags, clicks and keys for the things that are done most."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from chalkreel.app.finish.folds import EveningRow
from chalkreel.app.finish.model import StepRow
from chalkreel.app.stills.view import StillView
from chalkreel.app.window import Window
from chalkreel.document.entities import Dimension, FlatSet, LandmarkMark, SkinFace, Still
from chalkreel.document.paint_entities import ColourPatch, Surface
from chalkreel.edits.beginning import still_from
from tests.app.conftest import click_still, drag_still, in_front, settle, show_stage
from tests.app.test_window import ready_to_mark

LEFT = Qt.MouseButton.LeftButton


def drag(widget: QWidget, start: QPointF, end: QPointF) -> None:
    """One drag: press, a few moves, let go."""
    kinds, none = QMouseEvent.Type, Qt.MouseButton.NoButton
    for kind, at, button, held in (
        (kinds.MouseButtonPress, start, LEFT, LEFT),
        (kinds.MouseMove, (start + end) / 2, none, LEFT),
        (kinds.MouseMove, end, none, LEFT),
        (kinds.MouseButtonRelease, end, LEFT, none),
    ):
        event = QMouseEvent(kind, at, widget.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(widget, event)


def with_keys(qtbot: QtBot, window: Window, view: StillView) -> StillView:
    in_front(qtbot, window)
    view.setFocus()
    return view


def test_stills_are_described_by_one_drag_several_at_once(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Gather")
    session, wall = demo_window.session, demo_window.gather.wall
    demo_window.resize(1280, 1400)
    QApplication.processEvents()
    wall.grab()
    frames = {still.number: place for place, still in wall._frames if still is not None}
    target = next(place for place, side, version in wall._cells if (side, version) == ("top", "version-special"))
    qtbot.mouseClick(wall, LEFT, pos=frames[1].center().toPoint())
    qtbot.mouseClick(wall, LEFT, Qt.KeyboardModifier.ControlModifier, frames[4].center().toPoint())
    before = session.build.revision
    drag(wall, frames[4].center(), target.center())
    assert session.build.revision == before + 1
    told = {s.number: (s.side, s.version_id) for s in session.build.all(Still)}
    assert told[1] == told[4] == ("top", "version-special") and told[2][0] == "bow"


def test_a_landmark_is_one_click_and_its_name_comes_from_where_it_is_expected(
    qtbot: QtBot, demo_window: Window
) -> None:
    ready_to_mark(qtbot, demo_window, "still-7")
    session, view = demo_window.session, with_keys(qtbot, demo_window, demo_window.measure.view)
    answers = session.answers
    assert answers is not None and answers.sizes is not None
    here = {m.landmark_id for m in session.build.all(LandmarkMark) if m.still_id == "still-7"}
    ghost = next(h for h in view._handles if h.ghost and h.entity_id not in here)
    qtbot.keyClick(view, Qt.Key.Key_L)
    view.zoom_by(6, view.to_screen(ghost.x_px, ghost.y_px))
    qtbot.mouseClick(view, LEFT, Qt.KeyboardModifier.ShiftModifier, view.to_screen(ghost.x_px, ghost.y_px).toPoint())
    marked = {m.landmark_id for m in session.build.all(LandmarkMark) if m.still_id == "still-7"}
    assert marked - here == {ghost.entity_id}
    # The tool stays in the hand for the next one.
    assert view.at_work


def test_a_size_is_two_clicks_and_so_is_the_next(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-1")
    session, view = demo_window.session, with_keys(qtbot, demo_window, demo_window.measure.view)
    marks = [m.mark for m in session.build.all(LandmarkMark) if m.still_id == "still-1"]
    before = len(session.build.all(Dimension))
    qtbot.keyClick(view, Qt.Key.Key_S)
    far = sorted(marks, key=lambda m: m.x_px)
    for a, b in ((far[0], far[-1]), (far[1], far[-2])):
        click_still(qtbot, view, a.x_px, a.y_px)
        click_still(qtbot, view, b.x_px, b.y_px)
    assert len(session.build.all(Dimension)) == before + 2 and view.at_work
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert not view.at_work


def test_a_template_of_a_flat_part_is_a_key_a_click_and_enter(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-1")
    session, view = demo_window.session, with_keys(qtbot, demo_window, demo_window.measure.view)
    flat = next(f for f in session.build.all(FlatSet) if f.name == "port side")
    marks = [m.mark for m in session.build.all(LandmarkMark)
             if m.still_id == "still-1" and m.landmark_id in flat.landmark_ids]  # fmt: skip
    middle = sum(m.x_px for m in marks) / len(marks), sum(m.y_px for m in marks) / len(marks)
    before = {face.id for face in session.build.all(SkinFace)}
    qtbot.keyClick(view, Qt.Key.Key_W)
    click_still(qtbot, view, *middle)
    qtbot.keyClick(view, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    (made,) = (face for face in session.build.all(SkinFace) if face.id not in before)
    assert made.template and made.name == "port side" and set(made.landmark_ids) <= set(flat.landmark_ids)
    settle(qtbot, session)
    demo_window.measure.switch.show_page("Templates")
    sheet = demo_window.measure.sheet_page.sheet
    assert sheet is not None and any(made.name in words.words for words in sheet.words)
    # The same again is told, and one that was a face alone becomes a template.
    demo_window.measure.switch.show_page("Stills")
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_W)
    click_still(qtbot, view, *middle)
    assert "corners" in demo_window.prompt.words.text()
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert "that face already" in demo_window.prompt.words.text()
    assert len(session.build.all(SkinFace)) == len(before) + 1
    session.edit("template", made, template=False)
    settle(qtbot, session)
    qtbot.keyClick(view, Qt.Key.Key_W)
    click_still(qtbot, view, *middle)
    qtbot.keyClick(view, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    present = session.build.get(SkinFace, made.id)
    assert present is not None and present.template and len(session.build.all(SkinFace)) == len(before) + 1


def test_a_click_on_nothing_makes_no_corner(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-1")
    view = with_keys(qtbot, demo_window, demo_window.measure.view)
    qtbot.keyClick(view, Qt.Key.Key_W)
    click_still(qtbot, view, 3.0, 3.0)
    assert "No landmark here" in demo_window.prompt.words.text() and view.at_work
    mark = next(m.mark for m in demo_window.session.build.all(LandmarkMark) if m.still_id == "still-1")
    click_still(qtbot, view, mark.x_px, mark.y_px)
    assert "next landmark" in demo_window.prompt.words.text()


def test_a_colour_patch_is_one_drag_then_its_name(
    qtbot: QtBot, opened: Callable[[Path], Window], demo_window: Window, tmp_path: Path
) -> None:
    blob = demo_window.session.store.blob(demo_window.session.build.all(Still)[1].blob)
    size = demo_window.session.build.all(Still)[1]
    window = opened(tmp_path / "own.chalkreel")
    session = window.session
    still = still_from(session.build, "own", session.store.keep(blob), (size.width_px, size.height_px))
    session.commit("still", {still.id: still})
    session.choose_still(still.id)
    settle(qtbot, session)
    show_stage(window, "Colour")
    view = with_keys(qtbot, window, window.colour.view)
    qtbot.waitUntil(lambda: bool(window.images.levels(still)))
    qtbot.keyClick(view, Qt.Key.Key_P)
    drag_still(qtbot, view, (600, 400), (680, 440))
    qtbot.keyClicks(window.colour.desk.surface.lineEdit(), "hull side")
    qtbot.keyClick(window.colour.desk.surface.lineEdit(), Qt.Key.Key_Return)
    assert [s.name for s in session.build.all(Surface)] == ["hull side"]
    assert len(session.build.all(ColourPatch)) == 1 and view.hasFocus()


def test_a_step_is_moved_six_places_by_one_drag(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Finish")
    settle(qtbot, demo_window.session)
    session, steps = demo_window.session, demo_window.finish.steps
    demo_window.resize(1280, 1000)
    QApplication.processEvents()
    # Everything open: all but tonight's steps are folded where there are many.
    for evening in [row.id for row in steps.rows_model.rows if isinstance(row, EveningRow) and not row.is_open]:
        steps.choose(f"evening {evening}")
        qtbot.keyClick(steps, Qt.Key.Key_Return)
    shown = steps.rows_model.rows
    before, revision = [r.step.id for r in shown if isinstance(r, StepRow)], session.build.revision
    assert isinstance(shown[0], EveningRow) and all(isinstance(row, StepRow) for row in shown[1:10])

    def middle(row: int) -> QPointF:
        return QPointF(300, steps.rowViewportPosition(row) + steps.rowHeight(row) / 2)

    steps.scrollToTop()
    drag(steps.viewport(), middle(3), middle(9) + QPoint(0, 4).toPointF())
    assert session.build.revision == revision + 1
    settle(qtbot, session)
    after = list(session.build.info.order)
    assert after.index(before[2]) == 8 and [i for i in after if i != before[2]] == [i for i in before if i != before[2]]
    assert steps.current is not None and steps.current.step.id == before[2]
