"""Sizes of the replica by calliper: one of them makes what photographs say a matter of millimetres."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QLineEdit, QPushButton, QVBoxLayout, QWidget

from chalkreel.app.bench import compare_model as model
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import parse_length, understood
from chalkreel.document.bench_entities import ReplicaReading
from chalkreel.document.entities import Dimension
from chalkreel.document.entity import new_id


class ReadingsPage(QWidget):
    """Takes readings and shows them beside what is wanted."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.which, self.measured, self.keep = QComboBox(), QLineEdit(), QPushButton("Keep")
        self.which.setAccessibleName("Size that was measured")
        self.measured.setAccessibleName("Measured on the replica")
        self.measured.setPlaceholderText("measured on the replica")
        self.measured.setMinimumWidth(190)
        self._echo = Echo(self.measured, self._understood)
        self.table = Table(
            session, "Sizes of the replica by calliper",
            (
                Column("size", lambda r: str(r.name), stretch=True),
                Column("measured", lambda r: str(r.measured), self._put, right=True,
                       understand=self._understood),
                Column("wanted", lambda r: str(r.wanted), right=True),
            ),
            lambda row: session.commit("reading removed", {row.id: None}),
        )  # fmt: skip
        self.table.hint = (
            "No reading yet: photographs show proportions only, until one calliper reading sets the scale."
        )
        row = FlowLayout()
        for widget in (PlainLabel("size"), self.which, self.measured, self.keep):
            row.addWidget(widget)
        self.keep.setObjectName("tool")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(self.table, 1)
        self.keep.clicked.connect(self.add)
        self.measured.returnPressed.connect(self.add)

    def refresh(self) -> None:
        """Follow build and answers."""
        session = self._session
        fill(self.which, [(d.id, d.name) for d in session.build.all(Dimension)] or [("", "no size yet")])
        self.table.show_rows(model.reading_rows(session.build, session.answers), session.stale)

    def add(self) -> None:
        """Keep what was typed."""

        def put() -> None:
            dimension = self._session.build.get(Dimension, str(self.which.currentData() or ""))
            if dimension is None:
                raise RefusedError("Take a size in Measure first, then measure it on the replica.")
            length = parse_length(self.measured.text(), self._session.build.info.unit)
            reading = ReplicaReading(id=new_id(), dimension_id=dimension.id, length_mm=length)
            if self._session.commit(f"{dimension.name} by calliper", {reading.id: reading}):
                self.measured.clear()

        attempt(self._session, put)

    def _understood(self, words: str) -> str:
        return understood(words, self._session.build.info.unit)

    def _put(self, row: model.ReadingRow, words: str) -> None:
        reading = self._session.build.get(ReplicaReading, row.id)
        if reading is not None:
            length = parse_length(words, self._session.build.info.unit)
            self._session.edit(f"{row.name} by calliper", reading, length_mm=length)
