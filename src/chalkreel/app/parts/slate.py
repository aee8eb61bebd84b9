"""The slate: name, version being built, scale chain, undo and redo, units, go-to box."""

from __future__ import annotations

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

from chalkreel.app import theme
from chalkreel.app.parts.fields import TextField, attempt
from chalkreel.app.parts.plain import PlainLabel, tip
from chalkreel.app.parts.room import Room
from chalkreel.app.places import Place, best_place, places
from chalkreel.app.session import Session
from chalkreel.core.lengths import both_units, format_length
from chalkreel.core.scale import Link, edit_link
from chalkreel.document.entities import BUILD_ID, Version

LINK_TIPS: dict[Link, str] = {
    "story": "Length overall in the story: 18.6 m, 61 ft.",
    "miniature": "Length overall of the filmed miniature: a length, or its scale like 1:24.",
    "replica": "Length overall of your replica: a length, a scale like 1:48, or “same” (studio scale).",
}


class Slate(QWidget):
    """The top row of the window.

    Signals
    -------
    command_asked(str): a command was found by its name.
    """

    command_asked = Signal(str)

    def __init__(self, session: Session, menu: QMenu) -> None:
        super().__init__()
        self.setObjectName("slate")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._fields: dict[QWidget, tuple[int, int]] = {}
        self._session = session
        self._row = row = QHBoxLayout(self)
        self.name = TextField(lambda: session.build.info.name, self._rename, session)
        self.version = QComboBox()
        self.unit = QComboBox()
        self.undo, self.redo = QPushButton("Undo"), QPushButton("Redo")
        self.goto, self._offered = QLineEdit(), QStringListModel()
        self._listed: tuple[object, object] = (None, None)
        self._places: tuple[Place, ...] = ()
        self.links: dict[Link, TextField] = {link: self._link_field(link) for link in ("story", "miniature", "replica")}
        self._labels: dict[str, QLabel] = {}
        row.addWidget(self._menu_button(menu))
        row.addWidget(self._titled("build", self.name, 200, 104))
        row.addWidget(self._titled("version being built", self.version, 116, 96))
        row.addSpacing(6)
        for link, field in self.links.items():
            row.addWidget(self._titled(link, field, 96, 94))
        row.addStretch(1)
        row.addWidget(self._titled("units", self.unit, 66, 62))
        row.addWidget(self.undo)
        row.addWidget(self.redo)
        row.addWidget(self._titled("find", self.goto, 132, 104))
        self.set_room("usual")
        self._set_up_controls()
        session.build_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Follow the build."""
        build, store = self._session.build, self._session.store
        self.name.refresh()
        for field in self.links.values():
            field.refresh()
        studio = "  studio scale" if build.chain.studio_scale else ""
        self._labels["replica"].setText(f"replica  1:{build.chain.replica_ratio:.4g}{studio}")
        self._labels["miniature"].setText(f"miniature  1:{build.chain.story_mm / build.chain.miniature_mm:.4g}")
        self.version.clear()
        for version in build.all(Version):
            self.version.addItem(version.name, version.id)
        self.version.setCurrentIndex(self.version.findData(build.info.version_id))
        self.unit.setCurrentText(build.info.unit)
        for button, label, key in (
            (self.undo, store.undo_label, "Ctrl+Z"),
            (self.redo, store.redo_label, "Ctrl+Shift+Z"),
        ):
            button.setEnabled(bool(label))
            words = f"{button.text()} {label} ({key})" if label else f"Nothing to {button.text().lower()}"
            button.setToolTip(tip(words))

    def _offer(self) -> None:
        """What can be found now, asked for when somebody types; steps are known once they are answered."""
        answers = self._session.answers
        steps = answers.sequence.steps if answers is not None and answers.sequence is not None else ()
        # While nothing has changed the list stays: made anew it would lose the line that is chosen in it.
        build, listed = self._session.build, self._listed
        if listed[0] is build and listed[1] is steps:
            return
        self._listed = build, steps
        self._places = places(build, tuple((s.id, s.title) for s in steps))
        self._offered.setStringList([place.words for place in self._places])

    def _set_up_controls(self) -> None:
        self.unit.addItems(["mm", "inch"])
        self.name.setAccessibleName("Name of the build")
        self.version.setAccessibleName("Version being built")
        self.unit.setAccessibleName("Units")
        self.goto.setAccessibleName("Find anything by any part of its name")
        self.goto.setPlaceholderText("anything  Ctrl+G")
        self.undo.clicked.connect(self._session.undo)
        self.redo.clicked.connect(self._session.redo)
        self.version.activated.connect(lambda: self._edit("version being built", version_id=self.version.currentData()))
        self.unit.activated.connect(lambda: self._edit("units", unit=self.unit.currentText()))
        completer = QCompleter(self._offered, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.activated.connect(self._go)
        self.goto.setCompleter(completer)
        self.goto.textEdited.connect(self._offer)
        self.goto.returnPressed.connect(lambda: self._go(self.goto.text()))

    def _link_field(self, link: Link) -> TextField:
        field = TextField(
            lambda: format_length(self._session.build.chain.length_mm(link), self._session.build.info.unit),
            lambda text: self._rescale(link, text),
            self._session,
            lambda text: self._understood(link, text),
        )
        field.setAccessibleName(f"Length overall, {link}")
        field.setToolTip(LINK_TIPS[link])
        field.setFont(theme.font(15, QFont.Weight.Bold))
        return field

    def _rename(self, text: str) -> None:
        if text.strip():
            self._edit("name", name=text.strip())
        self.name.refresh()

    def _understood(self, link: Link, text: str) -> str:
        build = self._session.build
        chain = edit_link(build.chain, link, text, build.info.unit)
        ratio = "" if link == "story" else f", 1:{chain.story_mm / chain.length_mm(link):.4g}"
        return f"= {both_units(chain.length_mm(link))}{ratio}"

    def _rescale(self, link: Link, text: str) -> None:
        chain = edit_link(self._session.build.chain, link, text, self._session.build.info.unit)
        self._edit(
            f"{link} size", story_mm=chain.story_mm, miniature_mm=chain.miniature_mm, replica_mm=chain.replica_mm
        )

    def _edit(self, label: str, **fields: object) -> None:
        self._session.edit(label, self._session.build.entities[BUILD_ID], **fields)

    def _go(self, words: str) -> None:
        self._offer()
        place = best_place(self._places, words)
        if place is not None and place.command:
            self.goto.clear()
            self.command_asked.emit(place.command)
            return
        if place is None:
            self._session.refused.emit(f"Nothing here is called “{words}”.")
            return
        attempt(self._session, lambda: self._session.go_to(place))
        self.goto.clear()

    def _menu_button(self, menu: QMenu) -> QToolButton:
        button = QToolButton()
        button.setText("Build")
        button.setMenu(menu)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setAccessibleName("Build menu: new, open, export")
        button.setFixedHeight(34)
        return button

    def set_room(self, room: Room) -> None:
        """Higher and wider where there is room."""
        close = room == "close"
        self.setFixedHeight(50 if close else 64)
        self._row.setContentsMargins(8, 1, 8, 2) if close else self._row.setContentsMargins(14, 6, 12, 6)
        self._row.setSpacing(6 if close else 10)
        for field, (usual, narrow) in self._fields.items():
            field.setFixedWidth(narrow if close else usual)

    def _titled(self, title: str, field: QWidget, width: int, close_width: int) -> QWidget:
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(1)
        label = PlainLabel(title, "quiet")
        label.setFont(theme.font(11))
        self._labels[title] = label
        self._fields[field] = (width, close_width)
        grid.addWidget(label, 0, 0)
        grid.addWidget(field, 1, 0)
        return holder
