"""Builds and edits that are over leave nothing behind."""

from __future__ import annotations

import gc
import shutil
import weakref
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QCompleter
from pytestqt.qtbot import QtBot

from chalkreel.app.application import Application
from chalkreel.app.jobs import Job
from chalkreel.app.window import Window
from chalkreel.document.entities import KitPart
from tests.app.conftest import settle, show_stage


def test_a_build_that_was_closed_is_gone(
    qtbot: QtBot, qapp: Application, opened: Callable[[Path], Window], demo_file: Path, tmp_path: Path
) -> None:
    gone = []
    for number in range(3):
        path = tmp_path / f"{number}.chalkreel"
        shutil.copy(demo_file, path)
        window = opened(path)
        show_stage(window, "Measure")
        settle(qtbot, window.session)
        gone += [weakref.ref(window.session), weakref.ref(window.session.gallery)]
        del window
    QApplication.processEvents()
    gc.collect()
    # Only the last build and its pictures are still held.
    assert [ref() is None for ref in gone] == [True] * 4 + [False] * 2  # type: ignore[operator]


def test_edits_leave_neither_jobs_nor_completers(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    for number in range(12):
        session.commit("part", {f"p{number}": KitPart(id=f"p{number}", name="fin")})
        settle(qtbot, session)
    # As the program's own event loop does between two events.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.unfreeze()
    gc.collect()
    assert len([o for o in gc.get_objects() if isinstance(o, Job)]) <= 3
    assert len(demo_window.findChildren(QCompleter)) <= 1 + len(demo_window.findChildren(type(demo_window.slate.unit)))
