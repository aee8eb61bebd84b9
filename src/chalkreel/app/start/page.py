"""The page shown while no build is open: go on with a build, begin one, open a file, or look at the demo."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QFont
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.start.film import Film
from chalkreel.app.start.new_build import NewBuild
from chalkreel.app.start.recents import Recent, recents
from chalkreel.document.format import SUFFIX


class StartPage(QWidget):
    """The film of builds at the left, one short page for a new one at the right.

    Signals
    -------
    new_asked(Path, Beginning, tuple): a build is to be begun there with these stills.
    open_asked(Path): a build is wanted.
    demo_asked(): the demo is wanted.
    """

    new_asked = Signal(Path, object, object)
    open_asked = Signal(Path)
    demo_asked = Signal()

    def __init__(self, refusal: str = "", builds: tuple[Recent, ...] | None = None) -> None:
        super().__init__()
        self.setObjectName("board")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle("Chalk Reel")
        self.setMinimumSize(860, 480)
        self.resize(1100, 720)
        self.setAcceptDrops(True)
        self.open, self.demo = QPushButton("Open another file…"), QPushButton("Look at the demo build")
        self.form = NewBuild()
        builds = recents() if builds is None else builds
        self.film = Film(builds) if builds else None
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 14)
        column.addLayout(self._head())
        if refusal:
            told = PlainLabel(f"✗ {refusal}", "bad")
            told.setWordWrap(True)
            column.addWidget(told)
        halves = QHBoxLayout()
        halves.setSpacing(16)
        halves.addWidget(self.film if self.film is not None else _greeting(), 1)
        panel = QScrollArea()
        panel.setObjectName("card")
        panel.setWidgetResizable(True)
        panel.setWidget(self.form)
        panel.setMinimumWidth(470)
        halves.addWidget(panel, 1)
        column.addLayout(halves, 1)
        self.open.clicked.connect(self._ask_open)
        self.demo.clicked.connect(self.demo_asked)
        self.form.asked.connect(self.new_asked)
        if self.film is not None:
            self.film.chosen.connect(lambda path: self.open_asked.emit(Path(path)))
            self.film.setFocus()
        else:
            self.form.name.setFocus()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        builds = [path for path in paths if path.name.endswith(SUFFIX)]
        if builds:
            self.open_asked.emit(builds[0])
        elif paths:
            self.form.take_stills(tuple(paths))

    def _head(self) -> QHBoxLayout:
        title = PlainLabel("Chalk Reel")
        title.setFont(theme.font(24, QFont.Weight.Bold))
        row = QHBoxLayout()
        row.addWidget(title)
        row.addWidget(PlainLabel("Which build is on the bench?" if self.film else "", "quiet"))
        row.addStretch(1)
        row.addWidget(self.demo)
        row.addWidget(self.open)
        return row

    def _ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a build", "", f"Builds (*{SUFFIX})")
        if name:
            self.open_asked.emit(Path(name))


def _greeting() -> QWidget:
    """What the program is for, where there is no build yet."""
    words = PlainLabel(
        "From reference stills to a finished replica: sizes with honest errors, drops of paint, a conversion list, a "
        "circuit for the lamps, and an order of steps with a reason for every rule.\n\nTell a little about your build "
        "at the right, or look at the demo build first: an ice tender with everything filled in."
    )
    words.setWordWrap(True)
    words.setFont(theme.font(15))
    words.setAlignment(Qt.AlignmentFlag.AlignTop)
    words.setContentsMargins(4, 18, 20, 0)
    return words
