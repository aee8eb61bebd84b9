"""What came in the box: ranges typed at once, exceptions by one letter, twins asked together."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from chalkreel.app.convert.box_model import sign
from chalkreel.app.convert.runner_view import RunnerView
from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.convert.kinds import STATE_KEYS, PartState
from chalkreel.core.convert.runners import parse_ranges
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import format_length, parse_length, understood
from chalkreel.document.entities import KitPart

PLACEHOLDER = "A1–34, B1–22, less B7"
PICTURES = "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.heic);;All files (*)"
PICTURE_PX = 64


class BoxPage(QWidget):
    """The runners, the field that fills them, and the part in hand."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session, self._images = session, images
        self.view, self.ranges, self.paste = RunnerView(), QLineEdit(), QPushButton("Paste a list")
        self.called, self.twin_words = PlainLabel(""), PlainLabel("")
        self.both, self.only = QPushButton("Both"), QPushButton("Only this one")
        self.name, self.calliper = QLineEdit(), QLineEdit()
        self.photograph, self.picture = QPushButton("Photograph…"), PlainLabel("")
        self.part_id, self._twin_id = "", ""
        self._echoes = (
            Echo(self.ranges, lambda text: f"= {parse_ranges(text).words}"),
            Echo(self.calliper, lambda text: understood(text, session.build.info.unit)),
        )
        self._lay_out()
        self.ranges.returnPressed.connect(self.take_ranges)
        self.paste.clicked.connect(self.take_clipboard)
        self.view.chosen.connect(self.choose)
        self.view.told.connect(self.tell)
        self.both.clicked.connect(self._tell_twin)
        self.only.clicked.connect(self._leave_twin)
        self.name.editingFinished.connect(self._put_name)
        self.photograph.clicked.connect(self._ask_photograph)
        images.thumbnail_ready.connect(lambda: self._show_picture(session.build.get(KitPart, self.part_id)))
        self.calliper.returnPressed.connect(self._put_calliper)

    def _lay_out(self) -> None:
        self.ranges.setAccessibleName("What came in the box")
        self.ranges.setPlaceholderText(PLACEHOLDER)
        self.name.setAccessibleName("Name of the part")
        self.calliper.setAccessibleName("Calliper reading of the part")
        self.calliper.setPlaceholderText("calliper, then Enter")
        self.calliper.setMaximumWidth(170)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.view)
        typed = QHBoxLayout()
        typed.addWidget(PlainLabel("What the sheet lists"))
        typed.addWidget(self.ranges, 1)
        self.paste.setObjectName("tool")
        typed.addWidget(self.paste)
        keys = FlowLayout()
        self.states: dict[str, QPushButton] = {}
        for key, state in STATE_KEYS.items():
            button = QPushButton(f"{key.upper()}  {sign(state)}{state}")
            button.setObjectName("tool")
            button.clicked.connect(partial(self.tell, state))
            keys.addWidget(button)
            self.states[state] = button
        hand = QHBoxLayout()
        self.called.setStyleSheet("font-weight: 600;")
        self.photograph.setObjectName("tool")
        for widget, stretch in (
            (self.picture, 0), (self.called, 0), (self.name, 1), (self.calliper, 0), (self.photograph, 0),
        ):  # fmt: skip
            hand.addWidget(widget, stretch)
        twin = QHBoxLayout()
        for button in (self.both, self.only):
            button.setObjectName("tool")
        twin.addWidget(self.twin_words)
        twin.addWidget(self.both)
        twin.addWidget(self.only)
        twin.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll, 1)
        column.addLayout(typed)
        column.addLayout(keys)
        column.addLayout(hand)
        column.addLayout(twin)

    def refresh(self) -> None:
        """Follow the build."""
        build = self._session.build
        part = build.get(KitPart, self.part_id)
        if part is None:
            self.part_id = ""
        self.view.show_box(build, self.part_id)
        for button in self.states.values():
            button.setEnabled(part is not None)
        for field in (self.name, self.calliper, self.photograph):
            field.setVisible(part is not None)
        self._show_picture(part)
        self.called.setText(f"{sign(part.state)}{part.state}:" if part is not None else "No part in hand: click one.")
        if part is not None and not self.name.hasFocus():
            self.name.setText(part.name)
        if part is not None and not self.calliper.hasFocus():
            self.calliper.setText("" if part.calliper_mm is None else format_length(part.calliper_mm, build.info.unit))
        self._ask_twin(part)

    def choose(self, part_id: str) -> None:
        """Take a part in hand."""
        self.part_id, self._twin_id = part_id, ""
        self._session.select(part_id)
        self.refresh()

    def tell(self, state: PartState) -> None:
        """Say how the part in hand is, and ask after its twin."""
        from chalkreel.edits.intake import put_in_state, twin_of

        part = self._session.build.get(KitPart, self.part_id)
        if part is None:
            self._session.refused.emit("Click a part first, or type its number on the runner.")
            return
        twin = twin_of(self._session.build, part)
        self._twin_id = twin.id if twin is not None and twin.state != state else ""
        self._session.commit(f"{part.name}: {state}", put_in_state((part,), state))
        self.refresh()

    def take_ranges(self) -> None:
        """Fill the box by what was typed; refused words stay."""
        if attempt(self._session, lambda: self._take(self.ranges.text())):
            self.ranges.clear()
            self.view.setFocus()

    def take_clipboard(self) -> None:
        """Fill the box by a list from the clipboard."""
        attempt(self._session, lambda: self._take(QApplication.clipboard().text()))

    def _take(self, text: str) -> None:
        from chalkreel.edits.intake import taken_in

        found = taken_in(self._session.build, text)
        if not found.edits:
            raise RefusedError("The box holds all that already.")
        self._session.commit(f"box: {found.words}", found.edits)
        self.refresh()
        self._session.prompted.emit(f"Read as {found.words}. Now what is wrong: its number, then one letter.")

    def _ask_twin(self, part: KitPart | None) -> None:
        twin = self._session.build.get(KitPart, self._twin_id)
        asked = part is not None and twin is not None
        for widget in (self.twin_words, self.both, self.only):
            widget.setVisible(asked)
        if part is not None and twin is not None:
            self.twin_words.setText(f"{twin.name} is its twin: {part.state} too?")

    def _tell_twin(self) -> None:
        from chalkreel.edits.intake import put_in_state

        build = self._session.build
        part, twin = build.get(KitPart, self.part_id), build.get(KitPart, self._twin_id)
        self._twin_id = ""
        if part is not None and twin is not None:
            self._session.commit(f"{twin.name}: {part.state}", put_in_state((twin,), part.state))
        self.refresh()
        self.view.setFocus()

    def _leave_twin(self) -> None:
        self._twin_id = ""
        self.refresh()
        self.view.setFocus()

    def _show_picture(self, part: KitPart | None) -> None:
        image = self._images.thumbnail(part.photo) if part is not None and part.photo else None
        self.picture.setVisible(image is not None)
        if image is not None:
            small = image.scaledToHeight(PICTURE_PX, Qt.TransformationMode.SmoothTransformation)
            self.picture.setPixmap(QPixmap.fromImage(small))

    def _ask_photograph(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Photograph of the part", "", PICTURES)
        if name:
            self.put_photograph(Path(name))

    def put_photograph(self, path: Path) -> None:
        """Keep a picture of the part in hand."""
        part = self._session.build.get(KitPart, self.part_id)
        if part is not None:
            self._session.keep_picture(
                path, lambda blob: self._session.edit(f"photograph of {part.name}", part, photo=blob)
            )

    def _put_name(self) -> None:
        part, words = self._session.build.get(KitPart, self.part_id), self.name.text().strip()
        if part is not None and words and words != part.name:
            self._session.edit(f"name of {part.name}", part, name=words)

    def _put_calliper(self) -> None:
        part = self._session.build.get(KitPart, self.part_id)
        if part is not None:
            unit, text = self._session.build.info.unit, self.calliper.text().strip()
            attempt(
                self._session,
                lambda: self._session.edit(
                    f"calliper: {part.name}", part, calliper_mm=parse_length(text, unit) if text else None
                ),
            )
            self.view.setFocus()
