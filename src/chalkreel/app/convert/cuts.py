"""The cut list: sheets drawn above, the pieces below, each lit in both."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton, QScrollArea, QSplitter, QVBoxLayout, QWidget

from chalkreel.answers.cuts import CutRow
from chalkreel.app.convert import cuts_model as model
from chalkreel.app.convert.cuts_view import CutsView
from chalkreel.app.exports import Exports
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.draft.sheet import Sheet
from chalkreel.core.lengths import INCH_MM, LengthUnit, format_length, parse_length, understood
from chalkreel.document.convert_entities import CutPiece
from chalkreel.document.entity import new_id

# What a new piece is until its sizes are typed, mm.
USUAL_PIECE: Final[dict[LengthUnit, tuple[float, float]]] = {"mm": (20.0, 10.0), "inch": (INCH_MM, INCH_MM / 2)}
KINDS = "Sheet at true size (*.pdf);;Drawing (*.svg);;Drawing (*.dxf);;Picture (*.png)"


class CutsPage(QWidget):
    """Sheets and pieces."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._rows: dict[str, CutRow] = {}
        self.view, self.add, self.save = CutsView(), QPushButton("Add piece"), QPushButton("Save at true size…")
        self.exports = Exports(session, self)
        self.table = Table(session, "Pieces to cut", self._columns(), self._remove, self.add_piece)
        self.table.hint = "No piece yet: press Add piece. Templates traced in Measure come by themselves."
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.view)
        both = QSplitter(Qt.Orientation.Vertical)
        both.addWidget(scroll)
        both.addWidget(self.table)
        both.setStretchFactor(0, 3)
        both.setStretchFactor(1, 2)
        both.setSizes([440, 150])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(both, 1)
        self.view.chosen.connect(self._choose)
        self.save.clicked.connect(self.ask_save)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._row_chosen())

    def refresh(self) -> None:
        """Follow build and answers."""
        from chalkreel.answers.cut_pieces import listed_pieces

        session = self._session
        answers = session.answers
        found = answers.cuts if answers is not None else None
        build = answers.build if answers is not None else session.build
        self._rows = {row.piece_id: row for row in found.rows} if found is not None else {}
        self.table.show_rows(listed_pieces(session.build))
        chosen = self.table.current
        self.view.show_cuts(build, found, chosen.id if chosen is not None else "", session.stale)

    def group(self) -> int | None:
        """The number of the sheets that the piece in hand is cut from first."""
        answers, piece = self._session.answers, self.piece
        found = answers.cuts if answers is not None else None
        if found is None or piece is None:
            return None
        return next((n for n, g in enumerate(found.groups) if model.holds(g, piece.id)), None)

    def ask_save(self) -> None:
        """Save the sheets of the piece in hand, or all, as PDF, SVG or DXF."""
        answers, group = self._session.answers, self.group()
        if answers is None or answers.cuts is None:
            self._session.refused.emit("Still laying out.")
            return
        found = answers.cuts
        groups = (group,) if group is not None else tuple(range(len(found.groups)))
        sheets: list[Sheet] = []

        def draw() -> None:
            from chalkreel.answers.cut_sheets import cut_sheet

            sheets.append(cut_sheet(answers.build, found, groups))

        if attempt(self._session, draw):
            suggested = f"{sheets[0].name}.pdf".replace("/", "-").replace(":", "-")
            name, _ = QFileDialog.getSaveFileName(self, "Save the cut list", suggested, KINDS)
            if name:
                self.exports.write_sheet(sheets[0], Path(name))

    @property
    def piece(self) -> CutPiece | None:
        """The entry in hand; a template of which nothing was told has its template's id."""
        found = self.table.current
        return found if isinstance(found, CutPiece) else None

    def add_piece(self) -> str:
        """A new entry."""
        number = len(self._session.build.all(CutPiece)) + 1
        last = next(reversed(self._session.build.all(CutPiece)), None)
        piece = CutPiece(
            id=new_id(),
            name=f"piece {number}",
            sizes_mm=USUAL_PIECE[self._session.build.info.unit],
            thick_mm=last.thick_mm if last else None,
        )
        self._session.commit(piece.name, {piece.id: piece})
        return piece.id

    def put(self, piece: CutPiece, label: str, **fields: object) -> None:
        """Say something of an entry."""
        from chalkreel.edits.cutting import put

        self._session.commit(f"{label} of {piece.name}", put(self._session.build, piece.id, **fields))

    def _remove(self, piece: CutPiece) -> None:
        if piece.id in self._session.build.entities and piece.id != piece.source_id:
            self._session.commit(f"{piece.name} removed", {piece.id: None})
        else:
            self._session.refused.emit("This template comes from Measure: it goes there, or when its layer is no cut.")

    def _choose(self, piece_id: str) -> None:
        self.table.choose(piece_id)
        self._row_chosen()

    def _row_chosen(self) -> None:
        piece = self.piece
        if piece is not None:
            self.view.piece_id = piece.id
            self.view.update()

    def _told(self, piece: CutPiece) -> CutRow | None:
        """What the answers say of an entry; None while it is laid out."""
        return self._rows.get(piece.id)

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put_thick(piece: CutPiece, text: str) -> None:
            self.put(piece, "thickness", thick_mm=parse_length(text, session.build.info.unit) if text.strip() else None)

        def put_name(piece: CutPiece, text: str) -> None:
            self.put(piece, "name", name=text.strip() or piece.name)

        def taken_for(text: str) -> str:
            return understood(text, session.build.info.unit)

        def size(piece: CutPiece) -> str:
            row = self._told(piece)
            return row.size if row is not None else "…"

        def layers(piece: CutPiece) -> str:
            row = self._told(piece)
            return model.layers_words(row, session.build.info.unit) if row is not None else ""

        def to_know(piece: CutPiece) -> str:
            row = self._told(piece)
            return row.problem or row.note if row is not None else ""

        def thick(piece: CutPiece) -> str:
            return "?" if piece.thick_mm is None else format_length(piece.thick_mm, session.build.info.unit)

        return (
            Column("piece", lambda p: p.name, put_name, stretch=True),
            Column("size", size, stretch=True),
            Column("×", lambda p: str(p.count), lambda p, text: self.put(p, "count", count=_count(text)), right=True),
            Column("thick", thick, put_thick, right=True, understand=taken_for, state=self._state),
            Column("from", layers),
            Column("to know", to_know, state=self._state, stretch=True),
        )

    def _state(self, piece: CutPiece) -> str:
        row = self._told(piece)
        return "warn" if row is not None and row.problem else "plain"


def _count(text: str) -> int:
    from chalkreel.core.errors import RefusedError

    if not text.strip().isdecimal() or not 1 <= int(text) <= 2000:
        raise RefusedError("A piece is cut 1 to 2,000 times.")
    return int(text)
