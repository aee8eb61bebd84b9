"""The real window, driven with mouse and keys; waits are on signals, never on time."""

from __future__ import annotations

import copy
import logging
import shutil
from collections.abc import Callable, Iterator
from datetime import datetime
from pathlib import Path

import pytest
from PySide6.QtCore import QPointF, QSettings, Qt
from pytestqt.qtbot import QtBot

from chalkreel.answers.answers import Answerer, Answers
from chalkreel.answers.memo import Memo
from chalkreel.app.application import Application
from chalkreel.app.session import Session
from chalkreel.app.stills.view import StillView
from chalkreel.app.window import Window
from chalkreel.document.gallery import Gallery
from chalkreel.document.store import Store
from chalkreel.edits.beginning import Beginning
from tests.builds import CHAIN


@pytest.fixture(scope="session")
def qapp_cls() -> type[Application]:
    return Application


@pytest.fixture(autouse=True)
def no_logged_errors(caplog: pytest.LogCaptureFixture) -> Iterator[None]:
    yield
    assert not [r for r in caplog.records if r.levelno >= logging.ERROR], caplog.text


@pytest.fixture(autouse=True)
def demo_known(demo_solved: tuple[Answerer, Answers], monkeypatch: pytest.MonkeyPatch) -> None:
    """Every window knows the demo's answers already, as if it had just undone an edit: solving it takes seconds."""
    solved, begin = demo_solved[0], Answerer.__init__
    _plan_from_now(*demo_solved)

    def begin_knowing(self: Answerer, gallery: Gallery) -> None:
        begin(self, gallery)
        for holder, other in (
            (self, solved), (self._colours, solved._colours), (self._photographs, solved._photographs)
        ):  # fmt: skip
            for name, value in vars(other).items():
                if isinstance(value, Memo):
                    setattr(holder, name, _copied(value))
        self._colours._mixes = {key: _copied(memo) for key, memo in solved._colours._mixes.items()}
        self._colours._sampler._kept = dict(solved._colours._sampler._kept)
        self._starts = solved._starts

    monkeypatch.setattr(Answerer, "__init__", begin_knowing)


_planned_at: list[datetime] = []


def _plan_from_now(solved: Answerer, answers: Answers) -> None:
    """The demo planned from the present ten minutes on, once: each window would plan it for itself."""
    now = datetime.now()
    moment = now.replace(minute=now.minute // 10 * 10, second=0, microsecond=0)
    if _planned_at != [moment]:
        _planned_at[:] = [moment]
        solved._plan = None
        for found in solved.answer(answers.build, now=moment):
            # What comes after the plan is kept already, or needs the stills.
            if found.light_options is answers.light_options:
                break


def _copied(memo: Memo) -> Memo:  # type: ignore[type-arg]
    twin = copy.copy(memo)
    twin._kept = list(memo._kept)
    return twin


@pytest.fixture
def opened(qapp: Application, qtbot: QtBot) -> Iterator[Callable[[Path], Window]]:
    def open_it(path: Path) -> Window:
        if path.exists():
            qapp.open_path(path)
        else:
            qapp.new_path(path, Beginning(path.stem, CHAIN))
        assert qapp.window is not None
        return in_front(qtbot, qapp.window)

    QSettings().clear()
    yield open_it
    qapp.close_build()


@pytest.fixture
def demo_window(
    qtbot: QtBot, qapp: Application, opened: Callable[[Path], Window], demo_file: Path, tmp_path: Path
) -> Window:
    path = tmp_path / "demo.chalkreel"
    shutil.copy(demo_file, path)
    qapp.show_store(Store.open(path), stand_ins=True)
    assert qapp.window is not None
    return in_front(qtbot, qapp.window)


def in_front(qtbot: QtBot, window: Window) -> Window:
    """The window with the keys, its answers there: a window just closed may have had them last."""
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    settle(qtbot, window.session)
    return window


def settle(qtbot: QtBot, session: Session) -> None:
    """Wait until nothing runs and the answers are fresh."""
    qtbot.waitUntil(lambda: not session.busy and not session.stale, timeout=120_000)


def click_still(qtbot: QtBot, view: StillView, x: float, y: float) -> None:
    """Click where a stored pixel is shown."""
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view.to_screen(x, y).toPoint())


def drag_still(qtbot: QtBot, view: StillView, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Press at one stored pixel, move, let go at another."""
    a, b = (view.to_screen(*p).toPoint() for p in (start, end))
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=a)
    qtbot.mouseMove(view, pos=QPointF((a.x() + b.x()) / 2, (a.y() + b.y()) / 2).toPoint())
    qtbot.mouseMove(view, pos=b)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=b)


def show_stage(window: Window, stage: str) -> None:
    """Go to a stage by its command, as its key would."""
    names = [station.stage for station in window.chalkline.stations]
    window.actions_by_id[f"stage-{names.index(stage) + 1}"].trigger()  # type: ignore[arg-type]
