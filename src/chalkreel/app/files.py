"""Asking for build files: another to open, a name for a copy, an unpacked folder."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFileDialog, QWidget

from chalkreel.app.jobs import Progress
from chalkreel.app.session import Session
from chalkreel.document.format import SUFFIX, build_path

BUILDS = f"Chalk Reel builds (*{SUFFIX})"


class Files:
    """`open_path` is called with a build that is wanted in this window's place."""

    def __init__(self, session: Session, parent: QWidget, open_path: Callable[[Path], object]) -> None:
        self._session, self._parent, self._open = session, parent, open_path

    def ask_open(self) -> None:
        """Another build."""
        name, _ = QFileDialog.getOpenFileName(self._parent, "Open a build", "", BUILDS)
        if name:
            self._open(Path(name))

    def ask_copy(self) -> None:
        """A complete copy under another name."""
        name, _ = QFileDialog.getSaveFileName(self._parent, "Save a copy as", f"copy{SUFFIX}", BUILDS)
        if name:
            self._session.store.copy_to(build_path(name))
            self._session.prompted.emit(f"A copy was written to {name}.")

    def ask_pack(self) -> None:
        """An unpacked folder, and where its build is to be kept."""
        folder = QFileDialog.getExistingDirectory(self._parent, "The unpacked folder")
        suggested = f"{Path(folder).name}{SUFFIX}"
        name = QFileDialog.getSaveFileName(self._parent, "Keep it as", suggested, BUILDS)[0] if folder else ""
        if name:
            self.pack(Path(folder), build_path(name))

    def pack(self, folder: Path, path: Path) -> None:
        """Make a build of an unpacked folder in the worker, then open it."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.exchange.unpacked import pack

            pack(folder, path).close()
            yield path

        # Not from within the job: opening ends the session that runs it.
        self._session.run(
            "packing the folder", work, lambda _: QTimer.singleShot(0, self._parent, lambda: self._open(path))
        )
