"""The subject from one side without perspective, at the replica's true size, with the faces that it is made of."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final, cast

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from chalkreel.answers.layers import LAYERS, Layer
from chalkreel.app.exports import Exports
from chalkreel.app.jobs import Progress
from chalkreel.app.latest import Latest
from chalkreel.app.measure import faces
from chalkreel.app.measure.sheet_view import SheetView
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.measure.sides import SIDES
from chalkreel.document.entities import SkinFace
from chalkreel.edits.removing import removal

if TYPE_CHECKING:
    from chalkreel.answers.orthographic import DrawnView
    from chalkreel.core.draft.sheet import Sheet

KINDS = "PDF at true size (*.pdf);;Picture with its scale (*.png);;Drawing (*.svg);;Lines (*.dxf)"
# Dots to an inch of the replica: enough for print, and quick enough to look at.
DOTS = 200.0
FIRST_SHOWN: Final[tuple[Layer, ...]] = ("picture", "lines", "sizes")
NO_FACE = (
    "No face yet. On a still press W, click the landmarks round a flat piece of the skin in order, and Enter. "
    "Pictures of the sides without perspective are made of faces."
)
OFFERED = (
    "No face yet, but landmarks that are joined by edges enclose flat pieces: make them faces with the button above. "
    "Pictures of the sides without perspective are made of faces."
)


class DrawingPage(QWidget):
    """Six views; the one in front is painted in the worker when it is first looked at."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.exports = Exports(session, self)
        self.side = "port"
        self.view = SheetView("Orthographic picture at the replica's scale")
        self.words = PlainLabel()
        self.words.setWordWrap(True)
        self.sides = {side: QPushButton(side) for side in SIDES}
        self.layers = {layer: QCheckBox(layer) for layer in LAYERS}
        self.offer = QPushButton()
        self.offer.clicked.connect(lambda: attempt(session, lambda: faces.take_offered(session)))
        self.table = Table(session, "Faces", self._columns(), self._remove)
        self.table.hint = NO_FACE
        # What was painted, by side, and what for: the same faces and stills are not painted twice.
        self._painted: dict[str, tuple[object, DrawnView]] = {}
        self._painting = Latest(session, "painting the side", session.background)
        self._lay_out()
        self.table.clicked.connect(lambda _: self._row_chosen())

    def refresh(self) -> None:
        """Follow the answers: show what is painted, or have it painted."""
        session, answers = self._session, self._session.answers
        rows = faces.face_rows(session.build, answers)
        self.table.show_rows(rows, session.stale)
        self.offer.setText(faces.offer_words(answers))
        self.offer.setVisible(bool(self.offer.text()) and not session.stale)
        if answers is None or answers.sizes is None:
            self._say("Measuring…")
            return
        if not answers.faces.skin.faces:
            self._say(OFFERED if self.offer.text() else NO_FACE)
            return
        kept, key = self._painted.get(self.side), faces.view_key(answers)
        if kept is not None and kept[0] == key:
            self._show(kept[1])
        elif not session.stale and self._painting.asked != (self.side, key):
            self._paint(key)

    def show_side(self, side: str) -> None:
        """Another view."""
        self.side = side
        self.sides[side].setChecked(True)
        self.refresh()

    def ask_save(self) -> None:
        """Save the view as PDF, PNG, SVG or DXF."""
        kept, answers = self._painted.get(self.side), self._session.answers
        if kept is None or answers is None or not answers.faces.skin.faces:
            self._session.refused.emit("There is nothing on this sheet yet.")
            return
        suggested = f"{kept[1].sheet.name}.pdf".replace("/", "-").replace(":", "-")
        name, _ = QFileDialog.getSaveFileName(self, "Save drawing", suggested, KINDS)
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write the view to a path, with the layers that are shown; a picture alone is the picture."""
        view = self._painted[self.side][1]
        self.exports.write_sheet(view.sheet if path.suffix.lower() == ".png" else self._layered(view), path)

    def _paint(self, key: object) -> None:
        session, side = self._session, self.side
        answers = session.answers
        assert answers is not None and answers.sizes is not None
        build, skin, reel = answers.build, answers.faces, answers.sizes.reel

        def work(progress: Progress) -> Iterator[object]:
            from chalkreel.answers.orthographic import orthographic_view

            yield key, orthographic_view(build, skin, reel, session.gallery, side, DOTS, progress)

        self._say("Painting from the stills…")
        self._painting.ask((side, key), work, self._take, self._say)

    def _take(self, found: object) -> None:
        key, view = cast("tuple[object, DrawnView]", found)
        self._painted[view.name] = (key, view)
        # Shown only if it is still of what there is: the faces may be gone by now.
        self.refresh()

    def _show(self, view: DrawnView) -> None:
        self.view.show_sheet(self._layered(view))
        self.words.setText(faces.view_words(view))
        for side, button in self.sides.items():
            kept = self._painted.get(side)
            button.setText(side if kept is None else f"{side}  {faces.share_words(kept[1])}")

    def _layered(self, view: DrawnView) -> Sheet:
        from chalkreel.answers.view_layers import layered

        answers = self._session.answers
        assert answers is not None and answers.sizes is not None
        shown = frozenset(layer for layer, box in self.layers.items() if box.isChecked())
        return layered(self._session.build, answers.sizes, answers.faces, view, shown)

    def _say(self, words: str) -> None:
        self.view.show_sheet(None, words)
        self.words.setText("")

    def _row_chosen(self) -> None:
        row = self.table.current
        if row is not None:
            self._session.select(row.id)

    def _remove(self, row: faces.Row) -> None:
        self._session.commit(f"face {row.name} removed", removal(self._session.build, row.id))

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def face(row: faces.Row) -> SkinFace:
            found = session.build.entities[row.id]
            assert isinstance(found, SkinFace)
            return found

        return (
            Column("face", lambda r: r.name, lambda r, text: faces.rename(session, face(r), text), stretch=True),
            Column("area", lambda r: r.area, right=True),
            Column("corners", lambda r: r.corners, right=True),
            Column("flat", lambda r: r.flatness, state=lambda r: r.state, stretch=True),
            Column("painted as", lambda r: r.zone,
                   lambda r, text: faces.paint_as(session, face(r), text), lambda: faces.zone_names(session.build)),
            Column("twin", lambda r: "yes" if r.twin else "no",
                   lambda r, text: session.edit(f"twin of {r.name}", face(r), twin=text == "yes"), tick=True),
            Column("template", lambda r: "yes" if r.template else "no",
                   lambda r, text: session.edit(f"template of {r.name}", face(r), template=text == "yes"), tick=True),
        )  # fmt: skip

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        # Where one row is too short for both, what lies over the picture goes below.
        row, group = FlowLayout(), QButtonGroup(self)
        for side, button in self.sides.items():
            button.setObjectName("tool")
            button.setCheckable(True)
            button.clicked.connect(lambda _, side=side: self.show_side(side))
            group.addButton(button)
            row.addWidget(button)
        self.sides[self.side].setChecked(True)
        over = QHBoxLayout()
        over.setContentsMargins(8, 0, 0, 0)
        for layer, box in self.layers.items():
            box.setChecked(layer in FIRST_SHOWN)
            box.clicked.connect(self.refresh)
            over.addWidget(box)
        layers = QWidget()
        layers.setLayout(over)
        row.addWidget(layers)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.table)
        split.setStretchFactor(0, 1)
        split.setSizes([460, 170])
        bar = QWidget()
        bar.setLayout(row)
        column.addWidget(bar)
        told = QHBoxLayout()
        told.addWidget(self.words, 1)
        told.addWidget(self.offer)
        column.addLayout(told)
        column.addWidget(split, 1)
