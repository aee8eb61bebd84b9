"""One short page for a new build: its name, how big, what it is made of, lit or dark, which stills."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from chalkreel.app import theme
from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.start import model
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.lengths import LengthUnit, understood
from chalkreel.document.entities import SOURCES, Source
from chalkreel.document.format import SUFFIX, build_path
from chalkreel.edits.beginning import Beginning

PICTURES = "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"


class NewBuild(QWidget):
    """The page. Nothing is laid out before the button is pressed.

    Signals
    -------
    asked(Path, Beginning, tuple): a build is to be begun there, with these stills.
    """

    asked = Signal(Path, object, object)

    def __init__(self) -> None:
        super().__init__()
        self.name, self.version = QLineEdit(), QLineEdit("First version")
        self.story, self.miniature, self.replica = QLineEdit(), QLineEdit(), QLineEdit()
        self.unit = QComboBox()
        self.unit.addItems(["mm", "inch"])
        self.sources = {source: QCheckBox(words) for source, words in model.SOURCE_WORDS.items()}
        self.sources["kit"].setChecked(True)
        self.dark = QCheckBox("it stays dark")
        self.ratios = [QPushButton(model.ratio_words(ratio)) for ratio in model.RATIOS]
        self.studio = QPushButton("studio scale")
        self.add_stills, self.stills_told = QPushButton("Add stills…"), PlainLabel("or drop them here", "quiet")
        self.chain_told, self.laid_out = PlainLabel("", "quiet"), PlainLabel("", "quiet")
        self.begin = QPushButton("Begin the build")
        self.stills: tuple[Path, ...] = ()
        self._lay_out()
        self._connect()
        self.follow()

    def take_stills(self, paths: tuple[Path, ...]) -> None:
        """Add stills that the build begins with."""
        self.stills = (*self.stills, *(p for p in paths if p not in self.stills))
        self.stills_told.setText(f"{plural(len(self.stills), 'still')} chosen")
        self.follow()

    def told(self) -> Beginning:
        """Everything that was told.

        Raises
        ------
        RefusedError
            It has no name, or how big it is cannot be read.
        """
        name = self.name.text().strip()
        if not name:
            raise RefusedError("Give the build a name.")
        unit = self._unit()
        chain = model.chain_from(self.story.text(), self.miniature.text(), self.replica.text(), unit).lengths
        version = self.version.text().strip() or "First version"
        return Beginning(name, chain, version, unit, self._sources(), self.dark.isChecked())

    def begin_at(self, path: Path) -> bool:
        """Begin the build in a file; False with the reason shown where something is not told."""
        try:
            told = self.told()
        except RefusedError as refusal:
            self._show_refusal(str(refusal))
            return False
        self.asked.emit(path, told, self.stills)
        return True

    def follow(self) -> None:
        """Say what has been understood so far."""
        self.laid_out.setText(model.laid_out(self._sources(), self.dark.isChecked(), len(self.stills)))
        typed = [f.text() for f in (self.story, self.miniature, self.replica)]
        if sum(bool(words.strip()) for words in typed) < 2:
            self.chain_told.set_state("quiet")
            self.chain_told.setText("Type any two of the three; a scale like 1:48 does for a model.")
            return
        try:
            found = model.chain_from(typed[0], typed[1], typed[2], self._unit())
        except RefusedError as refusal:
            self._show_refusal(str(refusal))
            return
        ratio = found.lengths.replica_ratio
        self.chain_told.set_state("quiet")
        self.chain_told.setText(f"1:{ratio:.4g}. {found.person} {found.assumed}".strip())

    def _show_refusal(self, words: str) -> None:
        self.chain_told.set_state("bad")
        self.chain_told.setText(f"✗ {words}")

    def _unit(self) -> LengthUnit:
        return "inch" if self.unit.currentText() == "inch" else "mm"

    def _sources(self) -> tuple[Source, ...]:
        return tuple(source for source in SOURCES if self.sources[source].isChecked())

    def _connect(self) -> None:
        for field in (self.story, self.miniature, self.replica):
            field.textChanged.connect(self.follow)
        Echo(self.story, lambda text: understood(text, None))
        for field in (self.miniature, self.replica):
            Echo(field, self._understood)
        for ratio, button in zip(model.RATIOS, self.ratios, strict=True):
            button.clicked.connect(lambda _, ratio=ratio: self.replica.setText(model.ratio_words(ratio)))
        self.studio.clicked.connect(lambda: self.replica.setText(model.same_words()))
        for box in (*self.sources.values(), self.dark):
            box.clicked.connect(self.follow)
        self.unit.activated.connect(self.follow)
        self.add_stills.clicked.connect(self._ask_stills)
        self.begin.clicked.connect(self._ask_begin)
        self.begin.setShortcut("Ctrl+Return")

    def _understood(self, text: str) -> str:
        # Scales and “same as the miniature” are told below, with what comes of them.
        return "" if ":" in text or text.strip()[:1].isalpha() else understood(text, self._unit())

    def _ask_stills(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Stills to begin with", "", PICTURES)
        self.take_stills(tuple(Path(name) for name in names))

    def _ask_begin(self) -> None:
        try:
            told = self.told()
        except RefusedError as refusal:
            self._show_refusal(str(refusal))
            return
        suggested = told.name.replace("/", "-") + SUFFIX
        name, _ = QFileDialog.getSaveFileName(self, "Where to keep the build", suggested, f"Builds (*{SUFFIX})")
        if name:
            self.begin_at(build_path(name))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 14)
        column.setSpacing(8)
        title = PlainLabel("A new build")
        title.setFont(theme.font(18, QFont.Weight.Bold))
        column.addWidget(title)
        names = QGridLayout()
        for place, (words, field) in enumerate((("its name", self.name), ("which version", self.version))):
            names.addWidget(PlainLabel(words, "quiet"), 0, place)
            names.addWidget(field, 1, place)
            field.setAccessibleName(words)
        names.setColumnStretch(0, 3)
        names.setColumnStretch(1, 2)
        column.addLayout(names)
        column.addLayout(self._chain_rows())
        self.chain_told.setWordWrap(True)
        column.addWidget(self.chain_told)
        column.addWidget(PlainLabel("What is it built from?"))
        made = QGridLayout()
        for place, box in enumerate(self.sources.values()):
            made.addWidget(box, place // 2, place % 2)
        column.addLayout(made)
        column.addWidget(PlainLabel("Lit or dark?"))
        column.addWidget(self.dark)
        stills = QHBoxLayout()
        stills.addWidget(self.add_stills)
        stills.addWidget(self.stills_told, 1)
        column.addLayout(stills)
        column.addStretch(1)
        self.laid_out.setWordWrap(True)
        column.addWidget(PlainLabel("Laid out for you"))
        column.addWidget(self.laid_out)
        self.begin.setObjectName("primary")
        column.addWidget(self.begin, 0, Qt.AlignmentFlag.AlignLeft)

    def _chain_rows(self) -> QVBoxLayout:
        rows, lengths, scales = QVBoxLayout(), QGridLayout(), QHBoxLayout()
        fields = (
            ("in the story", self.story, "18.6 m, 61 ft"), ("the filmed miniature", self.miniature, "775 mm or 1:24"),
            ("my replica", self.replica, "387.5 mm or 1:48"),
        )  # fmt: skip
        for place, (words, field, example) in enumerate(fields):
            lengths.addWidget(PlainLabel(words, "quiet"), 0, place)
            lengths.addWidget(field, 1, place)
            field.setAccessibleName(f"Length overall, {words}")
            field.setPlaceholderText(example)
        lengths.addWidget(PlainLabel("units", "quiet"), 0, 3)
        lengths.addWidget(self.unit, 1, 3)
        self.unit.setAccessibleName("Units")
        for button in (self.studio, *self.ratios):
            button.setObjectName("tool")
            button.setToolTip("Sets the replica's scale")
            scales.addWidget(button)
        scales.addStretch(1)
        rows.addWidget(PlainLabel("How long is it overall?"))
        rows.addLayout(lengths)
        rows.addLayout(scales)
        return rows
