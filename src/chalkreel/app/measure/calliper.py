"""The row under the dimension table where a calliper types: each reading goes to the chosen size's kit part."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QLineEdit, QPushButton, QWidget

from chalkreel.app.measure import model
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.calliper import parse_reading
from chalkreel.demo.devices.calliper import Calliper
from chalkreel.document.entities import Dimension, KitPart

BETWEEN_KEYS_MS = 12


class CalliperRow(QWidget):
    """Takes readings and moves on to the next size that has a kit part."""

    def __init__(self, session: Session, table: Table, choose: Callable[[str], object]) -> None:
        super().__init__()
        self._session, self._table, self._choose = session, table, choose
        self._stand_in = Calliper()
        self.field = QLineEdit()
        self.field.setPlaceholderText("a calliper types here; or type, then Enter")
        self.field.setAccessibleName("Calliper reading of the chosen size's kit part")
        self.part = PlainLabel()
        self.part.setProperty("state", "quiet")
        self.send = QPushButton("Simulated calliper: send a reading")
        self.send.setVisible(session.stand_ins)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(PlainLabel("Calliper"))
        row.addWidget(self.field, 2)
        row.addWidget(self.part, 1)
        row.addWidget(self.send)
        self.field.returnPressed.connect(lambda: attempt(session, self._take))
        self.send.clicked.connect(lambda: attempt(session, self._send))

    def refresh(self) -> None:
        """Say which part the next reading goes to."""
        part = self._part()
        self.part.setText(f"goes to {part.name}" if part else "choose a size with a kit part")

    def _part(self) -> KitPart | None:
        row = self._table.current
        build = self._session.build
        dimension = build.get(Dimension, row.dimension_id) if isinstance(row, model.DimensionRow) else None
        return build.get(KitPart, dimension.part_id) if dimension is not None else None

    def _needed(self) -> KitPart:
        part = self._part()
        if part is None:
            raise RefusedError("Choose a size in the table that has a kit part: the reading goes to that part.")
        return part

    def _take(self) -> None:
        part = self._needed()
        mm = parse_reading(self.field.text(), self._session.build.info.unit)
        self._session.edit(f"calliper: {part.name}", part, calliper_mm=round(mm, 3))
        self.field.clear()
        self._move_on()

    def _move_on(self) -> None:
        """The next size below that has a kit part, not missing, becomes the chosen one."""
        build, rows = self._session.build, self._table.rows_model.rows
        at = self._table.currentIndex().row()
        for number in range(at + 1, len(rows)):
            dimension = build.get(Dimension, rows[number].dimension_id)
            part = build.get(KitPart, dimension.part_id) if dimension is not None else None
            if part is not None and part.state != "missing":
                self._table.setCurrentIndex(self._table.rows_model.index(number, 0))
                self._choose(rows[number].dimension_id)
                break
        self.refresh()
        self.field.setFocus()

    def _send(self) -> None:
        """Let the stand-in type one reading into the field, key by key."""
        keys = list(self._stand_in.keys(self._needed().name))
        self.field.clear()
        self.field.setFocus()
        for number, key in enumerate(keys):
            QTimer.singleShot(BETWEEN_KEYS_MS * number, self, lambda key=key: self._type(key))

    def _type(self, key: str) -> None:
        code = Qt.Key.Key_Return if key == "\r" else Qt.Key(ord(key.upper())) if key.isalnum() else Qt.Key.Key_unknown
        for kind in (QKeyEvent.Type.KeyPress, QKeyEvent.Type.KeyRelease):
            event = QKeyEvent(kind, code, Qt.KeyboardModifier.NoModifier, "" if key == "\r" else key)
            QApplication.sendEvent(self.field, event)
