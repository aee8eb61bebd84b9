"""The short form for marks just placed that still want their known length."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.figures import parse_side_ratio
from chalkreel.core.lengths import understood
from chalkreel.core.scale import Link, bare_unit

LINKS: tuple[tuple[Link, str], ...] = (
    ("miniature", "of the filmed miniature"),
    ("story", "in the story"),
    ("replica", "of my replica or kit part"),
)


class PendingForm(QWidget):
    """Asks for what is known of a ruler or rectangle; nothing is kept until it has been told.

    Signals
    -------
    opened(): it asks; closed(): it was kept or discarded, so that the keys go back to where the marks were placed.
    """

    opened = Signal()
    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._keep: Callable[[], object] = lambda: None
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        self.title = PlainLabel()
        self.title.setWordWrap(True)
        self.title.setStyleSheet("font-weight: 600;")
        self.name, self.length, self.height_field, self.plus_minus = (QLineEdit() for _ in range(4))
        self.link = QComboBox()
        for key, words in LINKS:
            self.link.addItem(words, key)
        self.plus_minus.setPlaceholderText("1 %")
        form.addRow(self.title)
        form.addRow("Name", self.name)
        form.addRow("Length", self.length)
        form.addRow("Height", self.height_field)
        form.addRow("± (1 σ)", self.plus_minus)
        form.addRow("Length is", self.link)
        self._form = form
        keep, drop = QPushButton("Keep"), QPushButton("Discard")
        self.keep_button = keep
        keep.setObjectName("primary")
        row = QHBoxLayout()
        row.addWidget(keep)
        row.addWidget(drop)
        row.addStretch(1)
        form.addRow(row)
        for field, name in (
            (self.name, "Name"),
            (self.length, "Known length"),
            (self.height_field, "Known height"),
            (self.plus_minus, "Plus or minus"),
            (self.link, "What the length is of"),
        ):
            field.setAccessibleName(name)
        for field in (self.length, self.height_field):
            Echo(field, self._understood)
        for field in (self.name, self.length, self.height_field, self.plus_minus):
            field.returnPressed.connect(self.keep)
        keep.clicked.connect(self.keep)
        drop.clicked.connect(self.drop)
        self.hide()

    @property
    def link_key(self) -> Link:
        """Which link of the scale chain the length is on."""
        return cast(Link, self.link.currentData())

    def ask(self, title: str, both_sides: bool, keep: Callable[[], object]) -> None:
        """Show the form; `keep` reads its fields and may refuse them."""
        self._keep = keep
        self.title.setText(title)
        self._show_fields(True)
        self._form.setRowVisible(self.height_field, both_sides)
        self.length.setPlaceholderText("width, or a ratio like 3:2" if both_sides else "18.6 m, 21.4 mm, 1 3/16 in")
        for field in (self.name, self.length, self.height_field, self.plus_minus):
            field.clear()
        self.show()
        self.opened.emit()
        self.length.setFocus()

    def confirm(self, question: str, keep: Callable[[], object]) -> None:
        """Ask yes or no where the marks are placed."""
        self._keep = keep
        self.title.setText(question)
        self._show_fields(False)
        self.show()
        self.opened.emit()
        self.keep_button.setFocus()

    def words(self) -> tuple[str, str, str, Link]:
        """Name, length, ± and link, as typed."""
        return self.name.text(), self.length.text(), self.plus_minus.text(), self.link_key

    def _understood(self, text: str) -> str:
        if ":" in text:
            return f"= sides of {parse_side_ratio(text):.4g} to 1"
        return understood(text, bare_unit(self.link_key, self._session.build.info.unit))

    def _show_fields(self, shown: bool) -> None:
        for field in (self.name, self.length, self.height_field, self.plus_minus, self.link):
            self._form.setRowVisible(field, shown)

    def keep(self) -> None:
        """Keep what was placed, if the fields say enough."""
        if attempt(self._session, self._keep):
            self.drop()

    def drop(self) -> None:
        """Close the form."""
        self.hide()
        self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.drop()
        else:
            super().keyPressEvent(event)
