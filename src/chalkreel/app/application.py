"""The application: one window at a time, builds opened and closed, themes, calm notices."""

from __future__ import annotations

import gc
import logging
import sys
import tempfile
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from platformdirs import user_log_path
from PySide6.QtCore import QCoreApplication, QEvent, QLocale, QSettings, QTimer
from PySide6.QtWidgets import QApplication

from chalkreel.app import theme
from chalkreel.app.focus_keys import FocusKeys
from chalkreel.app.jobs import Progress
from chalkreel.app.parts.accessible import speak_of_things
from chalkreel.app.session import Session
from chalkreel.app.window import Window, window_theme
from chalkreel.document.atomic import shown
from chalkreel.document.format import SUFFIX, DocumentRefusedError
from chalkreel.document.store import Store
from chalkreel.edits.beginning import Beginning, new_build

if TYPE_CHECKING:
    from chalkreel.app.start.page import StartPage

log = logging.getLogger(__name__)


# Long enough for the first window to be drawn before the worker takes the interpreter to load what computes.
AFTER_PAINT_MS = 30
# Checking a file of this size takes about a tenth of a second.
LARGE_BYTES = 30_000_000


SWITCH_SECONDS = 0.0005


class Application(QApplication):
    """Holds the open build and its window."""

    def __init__(self, argv: list[str]) -> None:
        super().__init__(argv)
        # Every call into the toolkit lets a busy worker in for this long: at the usual 5 ms one refresh took seconds.
        sys.setswitchinterval(SWITCH_SECONDS)
        # Before the program's own font is put in force.
        self.system_points = self.font().pointSizeF()
        QCoreApplication.setOrganizationName("chalkreel")
        QCoreApplication.setApplicationName("chalkreel")
        self.setDesktopFileName("chalk-reel")
        QLocale.setDefault(QLocale.c())
        speak_of_things()
        theme.load_fonts()
        theme.apply(self, window_theme())
        self.window: Window | None = None
        self.session: Session | None = None
        self.start: StartPage | None = None
        self._scratch: tempfile.TemporaryDirectory[str] | None = None
        self._focus_keys = FocusKeys(self)
        sys.excepthook = self._unexpected

    def begin(self, path: Path | None) -> None:
        """Open a file, or ask what to do where none was given or it was refused."""
        refusal = self._try_open(path) if path is not None else ""
        if self.window is None:
            self._show_start(refusal)

    def open_demo(self) -> None:
        """Open a scratch copy of the demo build; it goes when the program ends."""
        from chalkreel.demo.ninepin import create_demo

        self.close_build()
        self._scratch = tempfile.TemporaryDirectory(prefix="chalkreel-")
        self.show_store(create_demo(Path(self._scratch.name) / f"ninepin{SUFFIX}"), stand_ins=True)

    def open_path(self, path: Path) -> None:
        """Open another build in this one's place; a refusal leaves this one as it is.

        The build that is open comes to the front; a large file is checked in the worker.
        """
        if self._is_open(path) and self.window is not None:
            self.window.raise_()
            self.window.activateWindow()
        elif self.session is not None and _size(path) > LARGE_BYTES:
            self.session.prompted.emit(f"Opening “{shown(path)}”…")
            self.session.run(f"opening {shown(path)}", partial(_opened, path), self._show_opened)
        else:
            self._tell(self._try_open(path))

    def _is_open(self, path: Path) -> bool:
        """Whether a name leads to the file that is open, by whatever link."""
        if self.session is None:
            return False
        try:
            return path.samefile(self.session.store.path)
        except OSError:
            return False

    def _show_opened(self, store: object) -> None:
        assert isinstance(store, Store)
        # Not from within the job's own signal: showing this build ends the session that ran it.
        QTimer.singleShot(0, self, lambda: self.show_store(store))

    def _tell(self, refusal: str) -> None:
        if refusal and self.session is not None:
            self.session.refused.emit(refusal)
        elif refusal:
            self._show_start(refusal)

    def new_path(self, path: Path, told: Beginning, stills: tuple[Path, ...] = ()) -> None:
        """Begin a new build, with the stills that there are already."""
        try:
            self.show_store(Store.create(path, new_build(told)))
            if stills and self.session is not None:
                self.session.add_stills(list(stills))
        except DocumentRefusedError as refused:
            self._tell(str(refused))

    def close_build(self) -> None:
        """Close window and file; all is saved."""
        if self.window is not None and self.session is not None and not self._is_scratch(self.session.store.path):
            self.window.remember()
        self._close_window()
        if self.session is not None:
            self.session.close()
            self.session.deleteLater()
            self.session = None
            # What the window and its build held goes now, not when memory is short.
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            gc.unfreeze()
            gc.collect()

    def _is_scratch(self, path: Path) -> bool:
        return self._scratch is not None and path.is_relative_to(self._scratch.name)

    def _close_window(self) -> None:
        if self.window is not None:
            self.window.close()
            self.window.deleteLater()
            self.window = None

    def _try_open(self, path: Path) -> str:
        try:
            self.show_store(Store.open(path))
        except DocumentRefusedError as refused:
            return str(refused)
        return ""

    def show_store(self, store: Store, stand_ins: bool = False) -> None:
        """Show an open build in place of the one that is shown; `stand_ins` offers simulated instruments beside it."""
        self.close_build()
        if self.start is not None:
            self.start.close()
            self.start = None
        self.session = Session(store, stand_ins=stand_ins)
        self._make_window()

    def _make_window(self) -> None:
        assert self.session is not None
        theme.undress(self)
        self.window = window = Window(self.session)
        geometry = QSettings().value("window/geometry")
        window.resize(1280, 800)
        if geometry is not None:
            window.restoreGeometry(geometry)
        window.framing.show_reel(QSettings().value("window/reel", True, bool) is not False)
        window.open_asked.connect(self.open_path)
        window.new_asked.connect(self._show_start)
        window.theme_asked.connect(self._other_theme)
        theme.dress(self)
        window.show()
        window.return_to_place()
        QTimer.singleShot(AFTER_PAINT_MS, window, window.begin_work)
        # What stands now stands as long as the window: the collector need not walk it again and again.
        gc.freeze()

    def _other_theme(self) -> None:
        name: theme.ThemeName = "daylight" if theme.current().name == "slate" else "slate"
        QSettings().setValue("window/theme", name)
        theme.apply(self, name)
        theme.dress(self)

    def _show_start(self, refusal: str = "") -> None:
        from chalkreel.app.start.page import StartPage

        theme.dress(self)
        if self.start is not None:
            self.start.close()
        self.start = StartPage(refusal)
        self.start.open_asked.connect(self.open_path)
        self.start.new_asked.connect(self.new_path)
        self.start.demo_asked.connect(self.open_demo)
        self.start.show()

    def _unexpected(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        log.critical("unexpected", exc_info=(kind, error, trace))
        if self.session is not None:
            where = user_log_path("chalkreel", appauthor=False) / "chalkreel.log"
            self.session.refused.emit(f"Something went wrong in the program; your build is safe. Details: {where}")


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def _opened(path: Path, progress: Progress) -> Iterator[object]:
    """A build opened in the worker; one that nobody waits for any more is closed again."""
    store = Store.open(path)
    if progress(-1.0):
        yield store
    else:
        store.close()
