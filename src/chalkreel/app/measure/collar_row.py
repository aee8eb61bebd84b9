"""The row under the templates that unrolls a cone or cylinder."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.draft.template import unrolled
from chalkreel.core.lengths import parse_length, understood
from chalkreel.document.entities import Collar
from chalkreel.document.entity import new_id


class CollarRow(QWidget):
    """Name, two diameters and a height on the replica; Enter or the button adds the collar."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.name, self.wide, self.narrow, self.high = QLineEdit(), QLineEdit(), QLineEdit(), QLineEdit()
        self._fields = (self.name, self.wide, self.narrow, self.high)
        self.add = QPushButton("Unroll it")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(PlainLabel("Bell or collar"))
        for field, name in zip(self._fields, ("name", "lower Ø", "upper Ø", "height"), strict=True):
            field.setPlaceholderText(name)
            field.setAccessibleName(f"Collar: {name}")
            field.returnPressed.connect(lambda: attempt(session, self._add))
            if field is not self.name:
                Echo(field, lambda text: understood(text, session.build.info.unit))
            row.addWidget(field, 2 if field is self.name else 1)
        row.addWidget(self.add)
        self.add.clicked.connect(lambda: attempt(session, self._add))

    def _add(self) -> None:
        session = self._session
        sizes = [parse_length(field.text(), session.build.info.unit) for field in (self.wide, self.narrow, self.high)]
        name = self.name.text().strip() or f"Collar {len(self._session.build.all(Collar)) + 1}"
        # Refused here, where it is typed, if it makes no solid.
        unrolled(name, *sizes)
        collar = Collar(id=new_id(), name=name, lower_mm=sizes[0], upper_mm=sizes[1], height_mm=sizes[2])
        if self._session.commit(f"collar {name}", {collar.id: collar}):
            for field in self._fields:
                field.clear()
