"""The subject turned by hand in the real window: dragged, by keys, as on a still; plain and from the stills."""

from __future__ import annotations

import re

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from pytestqt.qtbot import QtBot

from chalkreel.app.measure.round_view import RoundView
from chalkreel.app.window import Window
from chalkreel.document.entities import LandmarkMark, SkinFace
from chalkreel.edits.removing import removal
from tests.app.conftest import in_front, settle
from tests.app.test_measure_reel import at_the_desk


def turned_to(qtbot: QtBot, window: Window, still: str = "still-4") -> RoundView:
    at_the_desk(qtbot, window, still)
    in_front(qtbot, window)
    window.measure.switch.show_page("All round")
    settle(qtbot, window.session)
    view = window.measure.all_round.view
    view.setFocus()
    return view


def colours(view: RoundView) -> int:
    """How far the picture is from grey, in the middle."""
    image = view.grab().toImage()
    found = [image.pixelColor(x, y) for x in range(0, image.width(), 5) for y in range(0, image.height(), 5)]
    return sum(max(c.red(), c.green(), c.blue()) - min(c.red(), c.green(), c.blue()) > 40 for c in found)


def place(view: RoundView, landmark: str) -> QPointF | None:
    return next((view.to_screen(d.x, d.y) for d in view.dots if d.id == f"landmark-{landmark}"), None)


def test_the_subject_is_turned_by_drag_and_keys_and_says_from_where(qtbot: QtBot, demo_window: Window) -> None:
    view, words = turned_to(qtbot, demo_window), demo_window.measure.all_round.words
    assert "1 to 6: a side" in demo_window.prompt.words.toolTip() + demo_window.prompt.words.text()
    qtbot.keyClick(view, Qt.Key.Key_1)
    assert words.text().startswith("Seen from 90° off the bow to port.")
    # From port the bow lies left, and the starboard side's landmarks are out of sight.
    bow, fin = place(view, "bow tip"), place(view, "fin top, forward")
    assert bow is not None and fin is not None and bow.x() < view.width() * 0.2 and fin.x() > view.width() * 0.7
    assert place(view, "band top at second joint/s") is None and place(view, "band top at second joint") is not None
    at = QPoint(view.width() // 2, view.height() // 2)
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(view, at + QPoint(100, 0))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=at + QPoint(100, 0))
    # A tenth of a turn to the right: more of the bow is seen.
    degrees = int(re.match(r"Seen from (\d+)° off the bow to port", words.text())[1])  # type: ignore[index]
    assert 50 <= degrees <= 60
    qtbot.keyClick(view, Qt.Key.Key_Up)
    assert f"Seen from {degrees}° off the bow to port, 5° above." in words.text()
    assert "stand" in words.text() and "mm from its middle" in words.text()
    settle(qtbot, demo_window.session)


def test_the_view_of_a_still_is_the_stills(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    view = turned_to(qtbot, demo_window, "still-2")
    qtbot.keyClick(view, Qt.Key.Key_V)
    assert demo_window.measure.all_round.words.text().startswith("As on still 2")
    still = session.still
    assert still is not None
    fit = min(view.width() / (still.width_px * still.pixel_aspect), view.height() / still.height_px)
    found = 0
    for mark in session.build.all(LandmarkMark):
        at = place(view, mark.landmark_id.removeprefix("landmark-")) if mark.still_id == "still-2" else None
        if at is not None:
            x = (mark.mark.x_px - still.width_px / 2) * still.pixel_aspect * fit + view.width() / 2
            y = (mark.mark.y_px - still.height_px / 2) * fit + view.height() / 2
            assert np.hypot(at.x() - x, at.y() - y) < 3
            found += 1
    assert found > 10
    # The next still is followed; turning lets go of it.
    session.choose_still("still-7")
    assert demo_window.measure.all_round.words.text().startswith("As on still 7")
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert not view.as_on_still
    session.choose_still("still-2")
    assert not view.as_on_still
    settle(qtbot, session)


def test_stills_are_laid_on_the_faces_and_landmarks_and_faces_are_chosen(qtbot: QtBot, demo_window: Window) -> None:
    session, page = demo_window.session, demo_window.measure.all_round
    view = turned_to(qtbot, demo_window)
    page.dots.setChecked(False)
    qtbot.keyClick(view, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: colours(view) > 100, timeout=60_000)
    page.painted.setChecked(False)
    assert colours(view) == 0
    page.dots.setChecked(True)
    at = place(view, "bow tip")
    assert at is not None
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert session.selection == "landmark-bow tip"
    # Between landmarks, the face.
    a, b = place(view, "band foot at second joint"), place(view, "band top at third joint")
    assert a is not None and b is not None
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=((a + b) / 2).toPoint())
    assert session.selection == "face-hull side"
    settle(qtbot, session)


def test_turning_is_coarse_and_the_finer_picture_follows_from_the_worker(qtbot: QtBot, demo_window: Window) -> None:
    session, view = demo_window.session, turned_to(qtbot, demo_window)
    qtbot.waitUntil(lambda: view._scale == 2.0, timeout=30_000)
    qtbot.keyClick(view, Qt.Key.Key_Right)
    coarse = view._view
    assert coarse is not None and coarse.pixels.shape[0] * coarse.pixels.shape[1] <= 351_000
    dots = {d.id: view.to_screen(d.x, d.y) for d in view.dots}
    qtbot.waitUntil(lambda: view._view is not coarse, timeout=30_000)
    # What is drawn over it stays where it was.
    assert view._view.words.split(".")[0] == coarse.words.split(".")[0]
    moved = [view.to_screen(d.x, d.y) - dots[d.id] for d in view.dots if d.id in dots]
    assert len(moved) > 20 and max(gap.manhattanLength() for gap in moved) < 1.5
    # A still that loses its marks while it is looked through lets go of the eye.
    qtbot.keyClick(view, Qt.Key.Key_V)
    with session.gesture("marks off"):
        for mark in session.build.all(LandmarkMark):
            if mark.still_id == "still-4":
                session.commit("off", removal(session.build, mark.id))
    settle(qtbot, session)
    assert not view.as_on_still and view.accessibleDescription().startswith("Seen from")
    session.undo()
    settle(qtbot, session)


def test_without_faces_it_says_what_to_do_and_a_still_that_is_not_tied_in_is_refused(
    qtbot: QtBot, demo_window: Window
) -> None:
    session = demo_window.session
    view = turned_to(qtbot, demo_window, "still-4")
    marks = [m.id for m in session.build.all(LandmarkMark) if m.still_id == "still-4"]
    with session.gesture("marks off"):
        for mark in marks:
            session.commit("off", removal(session.build, mark))
    settle(qtbot, session)
    qtbot.keyClick(view, Qt.Key.Key_V)
    assert "not tied in" in demo_window.prompt.words.text()
    with session.gesture("faces off"):
        for face in session.build.all(SkinFace):
            session.commit("off", removal(session.build, face.id))
    settle(qtbot, session)
    assert "No face yet" in view.accessibleDescription() and not view.dots
    session.undo()
    settle(qtbot, session)
    assert view.accessibleDescription().startswith("Seen from")
