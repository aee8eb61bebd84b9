"""Going back to a moment, and a build taken along as a folder, through the window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from chalkreel.app.application import Application
from chalkreel.app.window import Window
from chalkreel.document.entities import KitPart, Still
from tests.app.conftest import show_stage


def test_changes_since_a_moment_are_discarded_and_can_be_done_again(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    before = dict(session.build.entities)
    for number in range(3):
        session.commit(f"part {number}", {f"p{number}": KitPart(id=f"p{number}", name=f"fin {number}")})
    demo_window.actions_by_id["moments"].trigger()
    moments = demo_window.moments
    assert [moments.list.item(n).text().split("   ")[1] for n in range(3)] == ["part 2", "part 1", "part 0"]
    qtbot.keyClick(moments.list, Qt.Key.Key_Down)
    qtbot.keyClick(moments.list, Qt.Key.Key_Return)
    assert not moments.isVisible() and {"p0"} == set(session.build.entities) - set(before)
    session.redo()
    session.redo()
    assert {"p0", "p1", "p2"} == set(session.build.entities) - set(before)


def test_esc_discards_nothing(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    session.commit("part", {"p": KitPart(id="p", name="fin")})
    demo_window.actions_by_id["moments"].trigger()
    qtbot.keyClick(demo_window.moments.list, Qt.Key.Key_Escape)
    assert not demo_window.moments.isVisible() and "p" in session.build.entities


def test_a_build_goes_out_as_a_folder_and_comes_back(
    qtbot: QtBot, qapp: Application, demo_window: Window, tmp_path: Path
) -> None:
    session = demo_window.session
    entities = dict(session.build.entities)
    demo_window.exports.write_unpacked(tmp_path / "out")
    qtbot.waitUntil(lambda: "Written" in demo_window.prompt.words.text(), timeout=20_000)
    demo_window.files.pack(tmp_path / "out", tmp_path / "back.chalkreel")
    qtbot.waitUntil(lambda: "back" in (qapp.session.store.path.name if qapp.session else ""), timeout=20_000)
    assert qapp.session is not None and dict(qapp.session.build.entities) == entities
    qapp.close_build()


def test_a_build_is_found_again_as_it_was_left(
    qtbot: QtBot, qapp: Application, demo_window: Window, opened: Callable[[Path], Window]
) -> None:
    session, path = demo_window.session, demo_window.session.store.path
    show_stage(demo_window, "Measure")
    demo_window.measure.switch.show_page("Scales")
    still = session.build.all(Still)[3]
    session.choose_still(still.id)
    qapp.close_build()
    again = opened(path)
    assert (again.session.stage, again.session.still_id) == ("Measure", still.id)
    assert again.measure.switch.page == "Scales"
    qapp.close_build()
    qapp._show_start()
    assert qapp.start is not None and qapp.start.film is not None
    first = qapp.start.film.item(0).data(Qt.ItemDataRole.AccessibleTextRole)
    assert "Ninepin" in first and "Measure" in first
    path.rename(path.with_name("moved.chalkreel"))
    qtbot.keyClick(qapp.start.film, Qt.Key.Key_Return)
    assert qapp.window is None
    told = [label.text() for label in qapp.start.findChildren(QLabel)]
    assert any("cannot be read" in words for words in told)
    qapp.start.close()
    qapp.start = None
