"""The Measure stage: one still with chalk marks, the dimension table, the rulers' agreement."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QSplitter, QWidget

from chalkreel.app.measure import model
from chalkreel.app.measure.pending import LINKS, PendingForm
from chalkreel.app.measure.rulers import RulersPlot
from chalkreel.app.parts.fields import Form, fill
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Column, Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.strokes import Handle
from chalkreel.app.stills.tools import RECTANGLE, RULER, SIZE, Points, ToolKind
from chalkreel.app.stills.view import StillView
from chalkreel.build.answers.matters import StageName
from chalkreel.build.answers.sizes import Sizes
from chalkreel.build.entities import BUILD_ID, Dimension, KitPart, Plane, Reading, RulerMark, Still
from chalkreel.build.gestures import removal
from chalkreel.core.errors import RefusedError
from chalkreel.core.units import format_length, parse_length, parse_number


class MeasureStage(Stage):
    """How big is it on my model?"""

    name: StageName = "Measure"
    prompt = "R: ruler. S: size. P: squared-up plane. Drag a mark to move it, Tab walks the marks. Wheel zooms, 0 fits."

    def __init__(self, session: Session, images: Images) -> None:
        self.view = StillView(session, images)
        self.rulers = RulersPlot()
        self.table = Table(session, "Sizes", self._columns(session), self._remove_row)
        self.plane, self.dimension = QComboBox(), QComboBox()
        self.tools = {
            kind: QPushButton(f"{kind.name} ({key})") for kind, key in ((RULER, "R"), (SIZE, "S"), (RECTANGLE, "P"))
        }
        self.table.hint = "No size yet: mark a ruler (R), then the size you want (S)."
        super().__init__(session, self._lay_out())
        self.pending = PendingForm(session)
        self.mark_form, self.still_form = self._mark_form(), self._still_form()
        for form in (self.pending, self.rulers, self.mark_form, self.still_form):
            self.card.form.addWidget(form)
        for kind, button in self.tools.items():
            button.setCheckable(True)
            button.clicked.connect(lambda _, kind=kind: self.use(kind))
        self.view.tool_ended.connect(self._tool_ended)
        self.view.mark_moved.connect(self._move_mark)
        self.view.mark_chosen.connect(session.select)
        self.table.selectionModel().currentRowChanged.connect(self._row_chosen)

    def refresh(self) -> None:
        session = self.session
        still, build = session.still, session.build
        if still is not None:
            strokes, handles = model.marks_of(build, still, session.answers, session.selection)
            self.view.set_marks(tuple(strokes), tuple(handles))
        else:
            self.view.set_marks((), ())
        self.table.show_rows(model.dimension_rows(session.answers, build.info.unit), session.stale)
        planes = session.answers.sizes.planes if session.answers and session.answers.sizes else ()
        self.rulers.show_planes(tuple(p for p in planes if p.still_id == session.still_id))
        self._fill_choices()
        self._write_card()
        marked = isinstance(build.entities.get(session.selection), (Plane, RulerMark, Reading))
        self.mark_form.setVisible(marked)
        if marked:
            self.mark_form.refresh()
        self.still_form.setVisible(still is not None)
        if still is not None:
            self.still_form.refresh()

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        if self.session.still is None:
            self.session.refused.emit("There is no still to mark. Add one in Gather.")
            return
        self.pending.hide()
        for other, button in self.tools.items():
            button.setChecked(other is kind)
        self.view.use_tool(kind, lambda points: self._placed(kind, points))

    def remove_selected(self) -> None:
        """Remove the chosen mark."""
        if self.session.selection in self.session.build.entities:
            words = model.name_of(self.session.build, self.session.selection)
            self.session.commit(f"{words} removed", removal(self.session.build, self.session.selection))
            self.session.select("")

    def _lay_out(self) -> QWidget:
        centre, column = board()
        tools = QHBoxLayout()
        for button in self.tools.values():
            tools.addWidget(button)
        tools.addSpacing(10)
        for words, box in (("in plane", self.plane), ("size of", self.dimension)):
            tools.addWidget(QLabel(words))
            box.setAccessibleName(words)
            box.setMinimumContentsLength(7)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            tools.addWidget(box, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.table)
        split.setStretchFactor(0, 1)
        split.setSizes([430, 190])
        column.addLayout(tools)
        column.addWidget(split, 1)
        return centre

    def _fill_choices(self) -> None:
        build, still_id = self.session.build, self.session.still_id
        planes = [("", "square on to the camera")]
        planes += [(p.id, p.name) for p in build.all(Plane) if p.still_id == still_id]
        dimensions = [("", "a new size")] + [(d.id, d.name) for d in build.all(Dimension)]
        fill(self.plane, planes)
        fill(self.dimension, dimensions)

    def _placed(self, kind: ToolKind, points: Points) -> None:
        session, still, zoom = self.session, self.session.still, self.view.zoom
        assert still is not None
        plane_id = self.plane.currentData() or ""
        if kind is SIZE:
            edits = model.reading_edits(
                session.build, still, plane_id, self.dimension.currentData() or "", points, zoom
            )
            session.commit("size", edits)
            session.select(next(reversed(edits)))
        elif kind is RULER:
            self.pending.ask(
                "How long is it, and how surely?", False, lambda: self._keep_ruler(still, plane_id, points, zoom)
            )
        else:
            self.pending.ask(
                "What is known of this rectangle? Width is the side from its first to its second corner.",
                True,
                lambda: self._keep_plane(still, points, zoom),
            )

    def _keep_ruler(self, still: Still, plane_id: str, points: Points, zoom: float) -> None:
        form = self.pending
        words = (form.name.text(), form.length.text(), form.plus_minus.text(), form.link_key)
        edits = model.ruler_edits(self.session.build, still, plane_id, points, zoom, words)
        self.session.commit("ruler", edits)
        self.session.select(next(iter(edits)))

    def _keep_plane(self, still: Still, points: Points, zoom: float) -> None:
        form = self.pending
        words = (form.name.text(), form.length.text(), form.height_field.text(), form.plus_minus.text(), form.link_key)
        edits = model.plane_edits(self.session.build, still, points, zoom, words)
        self.session.commit("squared-up plane", edits)
        self.session.select(next(iter(edits)))
        self._fill_choices()
        self.plane.setCurrentIndex(max(0, self.plane.findData(next(iter(edits)))))

    def _tool_ended(self) -> None:
        for button in self.tools.values():
            button.setChecked(False)
        self.session.prompted.emit(self.prompt)

    def _move_mark(self, handle: Handle) -> None:
        name = model.name_of(self.session.build, handle.entity_id)
        self.session.commit(f"mark of {name}", model.moved_mark(self.session.build, handle, self.view.zoom))

    def _row_chosen(self) -> None:
        row = self.table.current
        if row is None or not self.table.hasFocus():
            return
        stills = [r.still_id for r in self.session.build.all(Reading) if r.dimension_id == row.dimension_id]
        if stills and self.session.still_id not in stills:
            self.session.choose_still(stills[0])
        self.session.select(row.dimension_id)

    def _remove_row(self, row: model.DimensionRow) -> None:
        self.session.commit(f"{row.name} removed", removal(self.session.build, row.dimension_id))

    def _write_card(self) -> None:
        session, card = self.session, self.card.answers
        card.clear(session.stale)
        answers = session.answers
        if answers is None or answers.sizes is None:
            card.sentence("Measuring…", "quiet")
            return
        here = {r.dimension_id for r in session.build.all(Reading) if r.still_id == session.still_id}
        rows = [row for row in answers.sizes.rows if row.dimension_id in here and row.replica is not None]
        card.heading(f"Sizes on this still at 1:{session.build.chain.replica_ratio:.4g}")
        for row in rows:
            assert row.replica is not None
            value, plus_minus = model.size_figure(row.replica, session.build.info.unit)
            card.figure(row.name, value, plus_minus, row.verdict.words, model.STATES[row.verdict.action])
        if not rows:
            card.sentence("Nothing measured here yet. Mark a ruler (R), then sizes (S).", "warn")
        card.sentence("Each ± holds 19 times in 20.", "quiet")
        for plane in answers.sizes.planes:
            if plane.still_id == session.still_id:
                card.sentence(f"{plane.name}: {model.plane_words(plane)}", model.plane_state(plane))
        self._write_selected(answers.sizes)
        doubt = model.doubt_advice(answers)
        if doubt is not None:
            card.heading("Largest doubt")
            card.sentence(doubt[0], "warn")
            card.sentence(doubt[1])
        self._write_fit()
        card.rule()

    def _write_selected(self, sizes: Sizes) -> None:
        build, card = self.session.build, self.card.answers
        entity = build.entities.get(self.session.selection)
        dimension_id = entity.dimension_id if isinstance(entity, Reading) else self.session.selection
        row = next((r for r in sizes.rows if r.dimension_id == dimension_id), None)
        if row is None:
            return
        card.heading(f"{row.name} rests on")
        for words in row.rests_on or (row.problem,):
            card.sentence(words)
        if row.replica is not None:
            card.sentence(
                f"± {196 * row.clicks_share:.1f} % from clicks and view, "
                f"± {196 * row.rulers_share:.1f} % from rulers, shared by all sizes in the plane",
                "quiet",
            )

    def _write_fit(self) -> None:
        answers, info, card = self.session.answers, self.session.build.info, self.card.answers
        fit = answers.sizes.fit if answers and answers.sizes else None
        card.heading("Does it fit?")
        if fit is None:
            card.sentence("Name a space below and its length.", "quiet")
        elif fit.fits:
            card.sentence(f"{info.space_name}: fits with {fit.room_mm:.0f} mm to spare", "good")
        else:
            card.sentence(
                f"{info.space_name}: {-fit.room_mm:.0f} mm too short for it; 1:{fit.largest_ratio:.0f} would fit", "bad"
            )

    def _mark_form(self) -> Form:
        session, form = self.session, Form(self.session)

        def entity() -> Plane | RulerMark | Reading:
            found = session.build.entities[session.selection]
            assert isinstance(found, (Plane, RulerMark, Reading))
            return found

        def rename(text: str) -> None:
            found = entity()
            target = session.build.entities[found.dimension_id] if isinstance(found, Reading) else found
            if text.strip():
                session.edit("name", target, name=text.strip())

        def put_length(text: str) -> None:
            found = entity()
            if not isinstance(found, RulerMark):
                raise RefusedError("Only a ruler has a known length. Remove this mark and place it anew.")
            length, _, plus_minus = text.partition("±")
            keep = plus_minus or f"{100 * found.sigma_mm / found.length_mm} %"
            mm, sigma = model.length_and_sigma(length, keep, found.link)
            session.edit("ruler length", found, length_mm=mm, sigma_mm=sigma)

        def length() -> str:
            found = entity()
            if not isinstance(found, RulerMark):
                return "—"
            return f"{format_length(found.length_mm)} ± {format_length(found.sigma_mm)}"

        def link() -> str:
            found = entity()
            return found.link if isinstance(found, RulerMark) else "miniature"

        def part() -> str:
            found = entity()
            dimension = session.build.get(Dimension, found.dimension_id) if isinstance(found, Reading) else None
            return dimension.part_id if dimension else ""

        def put_part(key: str) -> None:
            found = entity()
            if isinstance(found, Reading):
                session.edit("kit part of a size", session.build.entities[found.dimension_id], part_id=key)

        form.heading(lambda: f"Chosen: {model.name_of(session.build, session.selection)}")
        form.text("Name", lambda: model.name_of(session.build, session.selection), rename)
        form.text("Length ±", length, put_length)
        form.choice(
            "Length is",
            lambda: LINKS,
            link,
            lambda key: (
                session.edit("what a ruler is of", entity(), link=key) if isinstance(entity(), RulerMark) else None
            ),
        )
        form.choice(
            "Kit part", lambda: [("", "none"), *((p.id, p.name) for p in session.build.all(KitPart))], part, put_part
        )
        remove = QPushButton("Remove mark (Del)")
        remove.clicked.connect(self.remove_selected)
        form.layout().addRow("", remove)  # type: ignore[union-attr]
        return form

    def _still_form(self) -> Form:
        session, form = self.session, Form(self.session)

        def put_tilt(text: str) -> None:
            value = parse_number(text.replace("°", "")) / 2
            if not 0.05 <= value <= 15:
                raise RefusedError("Square on means within 0.1° to 30°. Beyond that mark a squared-up plane.")
            still = session.still
            if still is not None:
                session.edit(f"tilt of still {still.number}", still, tilt_sigma_deg=value)

        def put_space(text: str) -> None:
            session.edit(
                "space", session.build.entities[BUILD_ID], space_mm=parse_length(text) if text.strip() else None
            )

        def space() -> str:
            mm = session.build.info.space_mm
            return format_length(mm) if mm else ""

        form.text(
            "Square on within ± °", lambda: f"{2 * session.still.tilt_sigma_deg:g}" if session.still else "", put_tilt
        )
        form.text(
            "Space for it",
            lambda: session.build.info.space_name,
            lambda text: session.edit("space", session.build.entities[BUILD_ID], space_name=text.strip()),
        )
        form.text("its length", space, put_space)
        return form

    @staticmethod
    def _columns(session: Session) -> tuple[Column, ...]:
        def rename(row: model.DimensionRow, text: str) -> None:
            if text.strip():
                session.edit("name of a size", session.build.entities[row.dimension_id], name=text.strip())

        return (
            Column("size", lambda r: r.name, rename),
            Column("story", lambda r: r.story, right=True),
            Column("miniature", lambda r: r.miniature, right=True),
            Column("replica", lambda r: r.replica, right=True),
            Column("nearest stock", lambda r: r.stock),
            Column("kit part", lambda r: r.kit, state=lambda r: r.state),
        )
