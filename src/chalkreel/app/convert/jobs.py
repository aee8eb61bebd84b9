"""The jobs: where they are on the three views, and what each takes."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu, QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.answers.conversion import OperationRow
from chalkreel.app.convert import model
from chalkreel.app.measure.sheet_view import SheetView
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.convert.kinds import BY_HAND, WHENS, Verb
from chalkreel.core.draft.sheet import Sheet
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Feature

VERB_STATES = {"remove": "bad", "shorten": "warn", "lengthen": "warn", "add": "good", "check": "quiet"}


class JobsPage(QWidget):
    """Drawing above, table below; a chosen row is ringed on the drawing."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.drawing = SheetView("Where the jobs are")
        self.table = Table(session, "Jobs", self._columns(), self._remove, key=model.job_key)
        self.table.hint = "No job: the kit is already right, or nothing has been compared yet."
        self.add = QPushButton("Another job…")
        both = QSplitter(Qt.Orientation.Vertical)
        both.addWidget(self.drawing)
        both.addWidget(self.table)
        both.setSizes([300, 260])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(both)
        self._drawn: tuple[object, ...] = ()
        self._sheet: Sheet | None = None
        self.add.clicked.connect(self._offer)
        self.drawing.clicked.connect(self.choose_at)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._draw())

    @property
    def row(self) -> OperationRow | None:
        """The job in hand."""
        found = self.table.current
        return found if isinstance(found, OperationRow) else None

    def refresh(self) -> None:
        """Follow the answers."""
        session = self._session
        rows = session.answers.conversion.rows if session.answers and session.answers.conversion else ()
        self.table.show_rows(rows, session.stale)
        self.add.setEnabled(bool(rows))
        self._draw()

    def _draw(self) -> None:
        answers = self._session.answers
        if answers is None or answers.sizes is None or answers.conversion is None or not self.isVisible():
            return
        chosen = self.row.feature_id if self.row is not None else ""
        key = (answers.sizes, answers.faces, answers.conversion.rows, chosen)
        if key == self._drawn:
            return
        self._drawn = key
        from chalkreel.answers.job_places import jobs_drawing

        ids = model.job_features(answers.conversion.rows)
        try:
            sheet, without = jobs_drawing(answers.build, answers.sizes, answers.faces, ids, chosen)
        except RefusedError as refusal:
            self.drawing.show_sheet(None, str(refusal))
            return
        if len(without) == len(ids):
            self.drawing.show_sheet(
                None, "No job has a place yet: say under Versions at which landmark a feature sits."
            )
            return
        self._sheet = sheet
        self.drawing.show_sheet(sheet)

    def choose_at(self, x: float, y: float) -> None:
        """Choose the job whose number on the drawing is nearest to a place of it, mm."""
        answers = self._session.answers
        rows = answers.conversion.rows if answers is not None and answers.conversion is not None else ()
        number = model.number_at(self._sheet, x, y)
        ids = model.job_features(rows)
        if 0 < number <= len(ids):
            row = next(r for r in rows if r.feature_id == ids[number - 1])
            self.table.choose(model.job_key(row))

    def _offer(self) -> None:
        row = self.row
        if row is None:
            self._session.refused.emit("Choose a job first: another one is added to its feature.")
            return
        menu = QMenu(self.add)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for verb in BY_HAND:
            menu.addAction(f"{verb} {row.operation.feature}", partial(self.add_job, row.feature_id, verb))
        menu.popup(self.add.mapToGlobal(QPoint(0, self.add.height())))

    def add_job(self, feature_id: str, verb: Verb) -> None:
        """One job more on a feature."""
        feature = self._session.build.get(Feature, feature_id)
        if feature is not None and verb not in feature.also:
            self._session.commit(f"{verb} {feature.name}", model.with_job(feature, verb))

    def _remove(self, row: OperationRow) -> None:
        feature = self._session.build.get(Feature, row.feature_id)
        if feature is None or row.operation.verb not in feature.also:
            self._session.refused.emit(
                "This job follows from what the table says of the kit and the version: change it under Versions."
            )
            return
        self._session.commit(
            f"no {row.operation.verb} of {feature.name}", model.without_job(feature, row.operation.verb)
        )

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(row: OperationRow, label: str, **fields: object) -> None:
            session.edit(label, session.build.entities[row.feature_id], **fields)

        return (
            Column("№", self._number, right=True),
            Column("job", lambda r: f"{r.operation.verb} {r.operation.feature}",
                   state=lambda r: VERB_STATES.get(r.operation.verb, "plain"), stretch=True),
            Column("material", lambda r: r.operation.material,
                   lambda r, text: put(r, "material", material=text.strip()), stretch=True),
            Column("size", lambda r: r.operation.size_words),
            Column("hours", lambda r: f"{r.operation.hours:.2g} h",
                   lambda r, text: put(r, "hours", hours=model.hours_from(text)), right=True),
            Column("when", lambda r: r.operation.when, lambda r, text: put(r, "when", when=text), lambda: WHENS),
            Column("waits for", lambda r: model.waits_for(session.build, r), state=lambda _: "warn"),
        )  # fmt: skip

    def _number(self, row: OperationRow) -> str:
        answers = self._session.answers
        rows = answers.conversion.rows if answers is not None and answers.conversion is not None else ()
        ids = model.job_features(rows)
        return str(ids.index(row.feature_id) + 1) if row.feature_id in ids else ""
