"""The pages of Measure that show a sheet: three views, templates, the map of marks; each with its table."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Final

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from chalkreel.answers.drawing import three_view
from chalkreel.answers.face_marks import face_map, face_spot_rows
from chalkreel.answers.faces import face_name
from chalkreel.answers.templates import SpotRow, repeats_of, repeats_words, spot_map, spot_rows, template_of, templates
from chalkreel.app.exports import Exports
from chalkreel.app.measure.collar_row import CollarRow
from chalkreel.app.measure.sheet_view import SheetView
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.draft.corners import EDGE_CORNERS
from chalkreel.core.draft.sheet import LAYERS, Sheet
from chalkreel.core.draft.template import curve
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.wear_marks import made_with
from chalkreel.core.lengths import format_length, length_or_none, rough_length
from chalkreel.core.scale_effects import (
    FIGURE_MM,
    FINEST_CUT_MM,
    SMALL_LAMP_MM,
    THIN_SHEET_MM,
    ScaleEffect,
    scale_effects,
)
from chalkreel.document.entities import Collar, Outline, RepeatedParts
from chalkreel.edits.removing import removal

PAGES: Final = (
    "Stills", "Sizes", "Landmarks", "Drawing", "All round", "Three views", "Templates", "Mark map", "Scales",
)  # fmt: skip
Made = Outline | Collar | RepeatedParts
SHEETS: Final = ("Three views", "Templates", "Mark map")
# On which face a mark lies is told where there is room: the map is one of faces anyway.
ON, ROOMY_PX = 1, 900
KINDS: Final = "PDF at true size (*.pdf);;Drawing (*.svg);;Drawing (*.dxf)"


class SheetPage(QWidget):
    """The sheet of the page in front, and the table of what is on it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.exports = Exports(session, self)
        self.sheet: Sheet | None = None
        self.view = SheetView("Drawing at the replica's scale")
        self.outlines = Table(session, "Templates", self._template_columns(), self._remove)
        self.outlines.hint = (
            "Faces are drawn above. A part traced (T) on a squared-up flat, or set round a rim, is a row here."
        )
        self.spots = Table(session, "Marks on panels", self._spot_columns(), self._remove)
        self.spots.hint = "On any still that is tied in mark chips, hits and streaks from end to end (M)."
        self.scales = Table(session, "What another scale would do", self._scale_columns())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view, 3)
        for table in (self.outlines, self.spots, self.scales):
            column.addWidget(table, 1)
        self.collar = CollarRow(session)
        column.addWidget(self.collar)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.spots.setColumnHidden(ON, self.width() < ROOMY_PX)

    def show_page(self, page: str) -> None:
        """Draw the sheet of a page from the present answers."""
        session = self._session
        self.outlines.setVisible(page == "Templates")
        self.collar.setVisible(page == "Templates")
        self.spots.setVisible(page == "Mark map")
        self.scales.setVisible(page == "Scales")
        self.view.setVisible(page in SHEETS)
        if page == "Scales":
            self._follow_unit()
            self.scales.show_rows(scale_effects(session.build.chain, session.build.info.space_mm))
            return
        made = (session.build.all(kind) for kind in (Outline, Collar, RepeatedParts))
        self.outlines.show_rows(tuple(row for rows in made for row in rows))
        self.spots.show_rows(self._marks())
        try:
            self.sheet, problems = self._drawn(page)
            self.view.show_sheet(self.sheet, f"Not drawn: {'; '.join(problems)}" if problems else "")
        except RefusedError as refusal:
            self.sheet = None
            self.view.show_sheet(None, str(refusal))

    def _follow_unit(self) -> None:
        """The titles of what another scale would do name lengths, so they change with the unit."""
        columns = self._scale_columns()
        if [c.title for c in columns] != [c.title for c in self.scales.rows_model.columns]:
            self.scales.set_columns(columns)

    def ask_save(self) -> None:
        """Save the sheet as PDF, SVG or DXF."""
        if self.sheet is None:
            self._session.refused.emit("There is nothing on this sheet yet.")
            return
        suggested = f"{self.sheet.name}.pdf".replace("/", "-").replace(":", "-")
        name, _ = QFileDialog.getSaveFileName(self, "Save sheet", suggested, KINDS)
        if name:
            self.exports.write_sheet(self.sheet, Path(name))

    def _drawn(self, page: str) -> tuple[Sheet, tuple[str, ...]]:
        """The sheet of a page, and what could not be drawn on it.

        Raises
        ------
        RefusedError
            Nothing can be drawn.
        """
        session, answers = self._session, self._session.answers
        if answers is None or answers.sizes is None:
            raise RefusedError("Measuring…")
        if page == "Three views":
            return three_view(session.build, answers.sizes, answers.faces), ()
        if page == "Mark map":
            if session.still is not None and session.still.squared is not None:
                return spot_map(session.build, answers.sizes, session.still), ()
            return face_map(session.build, answers.faces, answers.sizes.reel), ()
        sheet, problems = templates(session.build, answers.sizes, answers.faces)
        if not sheet.paths:
            raise RefusedError(
                "; ".join(problems)
                or "No template yet. Tick one for a face on the page Drawing, or trace a part on a squared-up still."
            )
        return sheet, problems

    def _marks(self) -> tuple[SpotRow, ...]:
        """Those on squared-up stills, and those that landed on faces."""
        build, answers = self._session.build, self._session.answers
        if answers is None or answers.sizes is None:
            return ()
        on_faces = face_spot_rows(build, answers.faces, answers.sizes.reel)
        return (*spot_rows(build, answers.sizes), *on_faces)

    def _remove(self, row: object) -> None:
        entity_id = getattr(row, "spot_id", "") or getattr(row, "id", "")
        self._session.commit("removed", removal(self._session.build, entity_id))

    def _template_columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(field: str, read: Callable[[str], object]) -> Callable[[Made, str], object]:
            def write(row: Made, text: str) -> object:
                if field not in row.__struct_fields__:
                    raise RefusedError("This column is for another kind of template.")
                return session.edit(f"template {field}", row, **{field: read(text)})

            return write

        def long(mm: float) -> str:
            return format_length(mm, session.build.info.unit)

        def size(row: Made) -> str:
            if isinstance(row, Collar):
                lower, upper, high = (long(mm) for mm in (row.lower_mm, row.upper_mm, row.height_mm))
                return f"Ø {lower} to Ø {upper}, {high} high"
            return _parts(session, row) if isinstance(row, RepeatedParts) else _extent(session, row)

        return (
            Column("template", lambda r: r.name, put("name", lambda text: text.strip() or "Template"),
                   stretch=True),
            Column("size", size, stretch=True),
            Column("line", lambda r: getattr(r, "layer", "cut"), put("layer", str), lambda: LAYERS),
            Column("mirror", lambda r: "yes" if getattr(r, "mirror", False) else "no",
                   put("mirror", lambda text: text == "yes"), tick=True),
            Column("allowance", lambda r: long(r.allowance_mm) if getattr(r, "allowance_mm", 0) else "",
                   put("allowance_mm", lambda text: length_or_none(text, session.build.info.unit))),
            Column("corners", lambda r: getattr(r, "corner", ""), put("corner", str), lambda: EDGE_CORNERS),
            Column("sheet", lambda r: long(r.sheet_mm) if getattr(r, "sheet_mm", 0) else "",
                   put("sheet_mm", lambda text: length_or_none(text, session.build.info.unit))),
            Column("alternate", lambda r: "yes" if getattr(r, "alternate", False) else "no",
                   put("alternate", lambda text: text == "yes"), tick=True),
            Column("edges", lambda r: ", ".join(map(str, getattr(r, "edges", ()))) or "all", put("edges", _edges)),
        )  # fmt: skip

    def _scale_columns(self) -> tuple[Column, ...]:
        unit = self._session.build.info.unit

        def long(mm: float) -> str:
            return rough_length(mm, unit)

        def room(row: ScaleEffect) -> str:
            if row.room_mm is None:
                return "name a space on the card"
            return f"{long(abs(row.room_mm))} {'to spare' if row.room_mm >= 0 else 'too long'}"

        def fits(row: ScaleEffect) -> str:
            return "plain" if row.room_mm is None else "good" if row.room_mm >= 0 else "bad"

        return (
            Column("scale", lambda r: f"1:{r.ratio:.4g}{'  ← chosen' if r.chosen else ''}"),
            Column("length", lambda r: long(r.length_mm), right=True),
            Column(f"figure of {format_length(FIGURE_MM, unit)}", lambda r: long(r.figure_mm), right=True),
            Column(
                f"{format_length(FINEST_CUT_MM, unit)} cut is",
                lambda r: f"{long(r.finest_in_story_mm)} in the story",
                right=True,
            ),
            Column(f"{format_length(SMALL_LAMP_MM, unit)} lamp is", lambda r: long(r.lamp_in_story_mm), right=True),
            Column(f"{format_length(THIN_SHEET_MM, unit)} sheet is", lambda r: long(r.sheet_in_story_mm), right=True),
            Column("in its space", room, state=fits),
        )

    def _spot_columns(self) -> tuple[Column, ...]:
        def long(mm: float) -> str:
            return format_length(mm, self._session.build.info.unit)

        def away(row: SpotRow, index: int) -> str:
            return f"{long(row.nearest[index][1])} from {row.nearest[index][0]}" if index < len(row.nearest) else ""

        return (
            Column("mark", lambda r: r.name, stretch=True),
            Column("on", lambda r: face_name(self._session.build, r.face_key) if r.face_key else "squared-up still"),
            Column("length", lambda r: long(r.length_mm), right=True),
            Column("made with", lambda r: made_with(r.name, r.length_mm)),
            Column("direction", lambda r: f"{r.angle_deg:.0f}°", right=True),
            Column("nearest", lambda r: away(r, 0)),
            Column("and", lambda r: away(r, 1), stretch=True),
            Column("within", lambda r: f"± {long(r.within_mm)}" if r.within_mm else "", right=True),
        )


def _parts(session: Session, parts: RepeatedParts) -> str:
    sizes = session.answers.sizes if session.answers else None
    try:
        return repeats_words(repeats_of(session.build, sizes, parts), session.build.info.unit) if sizes else ""
    except RefusedError as refusal:
        return str(refusal)


def _extent(session: Session, outline: Outline) -> str:
    try:
        points = curve(template_of(session.build, outline).nodes, outline.closed)
    except RefusedError as refusal:
        return str(refusal)
    xs, ys = zip(*points, strict=True)
    across, high = (format_length(max(v) - min(v), session.build.info.unit) for v in (xs, ys))
    return f"{across} × {high}"


def _edges(text: str) -> tuple[int, ...]:
    stripped = text.strip()
    if stripped in ("", "all"):
        return ()
    try:
        return tuple(int(part) for part in stripped.replace(",", " ").split())
    except ValueError as error:
        raise RefusedError("Name edges by their numbers, like 1, 3; or all.") from error
