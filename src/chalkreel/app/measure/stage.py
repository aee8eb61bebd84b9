"""The Measure stage: its pages, the dimension table, and the card with what the reel says."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QStackedWidget, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.answers.wording import name_of, plane_name
from chalkreel.app.commands import Scope
from chalkreel.app.measure import model
from chalkreel.app.measure.calliper import CalliperRow
from chalkreel.app.measure.desk import MarkingDesk
from chalkreel.app.measure.drawing_page import DrawingPage
from chalkreel.app.measure.forms import ChosenForms, still_form
from chalkreel.app.measure.landmark_page import LandmarkPage
from chalkreel.app.measure.pages import PAGES, SHEETS, SheetPage
from chalkreel.app.measure.pending import PendingForm
from chalkreel.app.measure.report import Report
from chalkreel.app.measure.round_page import RoundPage
from chalkreel.app.measure.rulers import RulersPlot
from chalkreel.app.parts.card import AnswerColumn
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.tools import FACE, RULER, SIZE, ToolKind
from chalkreel.app.stills.view import StillView
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Dimension, KitPart, Landmark, LandmarkMark, Reading
from chalkreel.edits.removing import removal

# Columns of the dimension table that only one page needs.
STORY, MINIATURE, STOCK, KIT, PART, DRAWN = 1, 2, 4, 5, 6, 7
# Below this the story and the stock give their room to the names.
NARROW_PX = 700
# From here on the part that each is a size of has its column.
ROOMY_PX = 900
# Beside a picture so much of the list is seen at once; elsewhere it takes what there is.
SHORT_PX, MOST_PX = 300, 16_777_215


MARKING = (
    "L: landmark. S: size, R: ruler between landmarks. G walks the ghosts, Enter accepts one. "
    "Drag a mark to move it. Wheel zooms, 0 fits. 2: two stills."
)
FLAT = (
    "T: outline of a part, for its template. M: mark, N: like parts round a rim, S: size, R: ruler. "
    "A click near a solved landmark means it; Shift holds that off."
)
READING = "Enter edits a cell, a click on a title sorts. F1: what this page is for."
TURNING = "Drag or arrows turn it, 1 to 6: a side, V: as on the still in front. Wheel or + −: lens. Click chooses."
# Pages on which the picture comes first.
PICTURES = ("Stills", "All round")


class MeasureStage(Stage):
    """How big is it on my model?"""

    name: StageName = "Measure"
    prompt = MARKING

    def __init__(self, session: Session, images: Images) -> None:
        self._room: Room = "usual"
        self.pending = PendingForm(session)
        self.desk = MarkingDesk(session, images, self.pending)
        self.rulers = RulersPlot()
        self.table = Table(session, "Sizes", self._columns(session), self._remove_row)
        self.calliper = CalliperRow(session, self.table, session.select)
        self.switch, self.sheet_page, self.landmarks = PageSwitch(PAGES), SheetPage(session), LandmarkPage(session)
        self.drawing, self.all_round = DrawingPage(session), RoundPage(session)
        self.save = QPushButton("Save…")
        self.switch.row.addWidget(self.save)
        self.table.hint = "No size yet: mark landmarks (L) on two stills, then click two of them with Size (S)."
        super().__init__(session, self._lay_out())
        self.more = AnswerColumn()
        self.report = Report(session, self)
        self.forms, self.still_form = (
            ChosenForms(session, self.remove_selected, self.desk.square_up),
            still_form(session),
        )
        # What is asked stands above everything that stays.
        for form in (self.pending, self.more, *self.forms.all, self.rulers, self.still_form):
            self.card.form.addWidget(form)
        self.first_focus = self.desk.view
        self.pending.opened.connect(self._ask)
        self.pending.closed.connect(self.desk.view.setFocus)
        self.switch.changed.connect(self._turn_page)
        self.save.clicked.connect(self._save)
        # The first row becomes current by itself when the table gets the keys: nobody chose it.
        self.table.selectionModel().currentRowChanged.connect(
            lambda _, was: self._row_chosen() if was.isValid() else None
        )
        self.table.clicked.connect(lambda _: self._row_chosen())

    def set_room(self, room: Room) -> None:
        super().set_room(room)
        self._room = room
        self.desk.set_room(room)
        self.refresh()

    def page_switch(self) -> PageSwitch:
        return self.switch

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"still": (self.desk.view,)}

    @property
    def picture_first(self) -> bool:
        return self.switch.page in PICTURES

    def _turn_page(self) -> None:
        self._prompt()
        self.session.rest()
        self.refresh()
        self.reframed.emit()

    def _prompt(self) -> bool:
        """Say what this page, and this still, are for; whether that is another than before."""
        still, before = self.session.still, self.prompt
        marking = FLAT if still is not None and still.squared is not None else MARKING
        self.prompt = {"Stills": marking, "All round": TURNING}.get(self.switch.page, READING)
        self.session.resting_prompt = self.prompt
        return self.prompt != before

    def _save(self) -> None:
        page = self.drawing if self.switch.page == "Drawing" else self.sheet_page
        page.ask_save()

    def _ask(self) -> None:
        """What is asked is brought into sight, once the card is laid out with it."""
        self.asks.emit()
        QTimer.singleShot(0, self, lambda: self.card.ensureWidgetVisible(self.pending))

    @property
    def view(self) -> StillView:
        """The still."""
        return self.desk.view

    def refresh(self) -> None:
        session = self.session
        page = self.switch.page
        fronts = {
            "Stills": self.desk, "Landmarks": self.landmarks, "Drawing": self.drawing, "All round": self.all_round,
        }  # fmt: skip
        self._front.setCurrentWidget(fronts.get(page, self.sheet_page))
        self._front.setVisible(page != "Sizes")
        self.desk.bar.setVisible(page == "Stills")
        self.switch.set_room("close" if page in PICTURES else self._room)
        self.save.setVisible(page in (*SHEETS, "Drawing"))
        self._place_table(page)
        if self._prompt() and not self.view.at_work:
            session.rest()
        if page == "Stills":
            self.desk.refresh()
        elif page == "Landmarks":
            self.landmarks.refresh()
        elif page == "Drawing":
            self.drawing.refresh()
        elif page == "All round":
            self.all_round.refresh()
        elif page != "Sizes":
            self.sheet_page.show_page(page)
        self.table.show_rows(model.dimension_rows(session.answers, session.build.info.unit), session.stale)
        self.calliper.setVisible(page == "Sizes")
        self.calliper.refresh()
        planes = model.ruler_groups(session.answers, session.still_id)
        self.rulers.show_planes(planes, tuple(plane_name(session.build, plane) for plane in planes))
        self.report.write()
        self.forms.show()
        self.still_form.setVisible(session.still is not None)
        if session.still is not None:
            self.still_form.refresh()

    def _place_table(self, page: str) -> None:
        """The sizes: short on the card beside a still, under the three views, or a page of their own."""
        short = page == "Stills"
        self.table.setVisible(page in ("Stills", "Sizes", "Three views"))
        if short:
            if self.card.form.indexOf(self.table) < 0:
                self.card.form.insertWidget(1, self.table)
            self.table.setFixedHeight(SHORT_PX)
        elif self._split.indexOf(self.table) < 0:
            self.table.setMinimumHeight(0)
            self.table.setMaximumHeight(MOST_PX)
            self._split.addWidget(self.table)
        narrow, roomy = self.table.width() < NARROW_PX, self.table.width() > ROOMY_PX
        shown = {
            "Stills": set[int](), "Three views": {MINIATURE, KIT, DRAWN},
            "Sizes": {MINIATURE, KIT} if narrow else {STORY, MINIATURE, STOCK, KIT} | ({PART} if roomy else set()),
        }.get(page, set())  # fmt: skip
        for column in (STORY, MINIATURE, STOCK, KIT, PART, DRAWN):
            self.table.setColumnHidden(column, column not in shown)

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        self.switch.show_page("Stills")
        self.desk.use(kind)

    def lists(self) -> tuple[Table, ...]:
        return (self.table, self.landmarks.table, self.drawing.table)

    def begin(self, step: NextStep) -> None:
        if step.doing == "landmark":
            landmark = self.session.build.get(Landmark, step.entity_id)
            self.switch.show_page("Stills")
            self.desk.mark_next(landmark.name if landmark is not None else "")
        else:
            self.use({"ruler": RULER, "face": FACE}.get(step.doing, SIZE))

    def next_ghost(self) -> None:
        """Walk to the next landmark that is expected on this still."""
        if not self.view.walk_to(lambda handle: handle.ghost):
            raise RefusedError("No ghost here: this still is not tied in, or every landmark is marked on it.")
        self.session.prompted.emit("Arrows nudge ¼ pixel, Enter accepts the ghost, G goes to the next, Esc backs out.")

    def turn_beside(self) -> None:
        """Show or hide a second still beside the first."""
        self.switch.show_page("Stills")
        self.desk.turn_beside()

    def bend_chosen(self) -> None:
        """Bend the outline's point that was walked to."""
        self.desk.bend_chosen()

    def delete_chosen(self, focus: QWidget) -> None:
        if focus is self.desk.view:
            self.remove_selected()

    def remove_selected(self) -> None:
        """Remove the chosen mark."""
        if self.session.selection in self.session.build.entities:
            words = name_of(self.session.build, self.session.selection)
            self.session.commit(f"{words} removed", removal(self.session.build, self.session.selection))
            self.session.select("")

    def _lay_out(self) -> QWidget:
        centre, column = board()
        self._front = QStackedWidget()
        self._front.addWidget(self.desk)
        self._front.addWidget(self.sheet_page)
        self._front.addWidget(self.landmarks)
        self._front.addWidget(self.drawing)
        self._front.addWidget(self.all_round)
        self._split = split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self._front)
        split.addWidget(self.table)
        split.setStretchFactor(0, 1)
        split.setSizes([480, 170])
        bar = QHBoxLayout()
        bar.addWidget(self.switch)
        bar.addWidget(self.desk.bar, 1)
        column.addLayout(bar)
        column.addWidget(split, 1)
        column.addWidget(self.calliper)
        return centre

    def _row_chosen(self) -> None:
        row = self.table.current
        if row is None or not self.table.hasFocus():
            return
        build = self.session.build
        stills = [r.still_id for r in build.all(Reading) if r.dimension_id == row.dimension_id]
        dimension = build.get(Dimension, row.dimension_id)
        if dimension is not None and dimension.a_id:
            ends = {dimension.a_id, dimension.b_id}
            stills = [m.still_id for m in build.all(LandmarkMark) if m.landmark_id in ends]
        if stills and self.session.still_id not in stills:
            self.session.choose_still(stills[0])
        self.session.select(row.dimension_id)

    def _remove_row(self, row: model.DimensionRow) -> None:
        self.session.commit(f"{row.name} removed", removal(self.session.build, row.dimension_id))

    @staticmethod
    def _columns(session: Session) -> tuple[Column, ...]:
        def rename(row: model.DimensionRow, text: str) -> None:
            if text.strip():
                session.edit("name of a size", session.build.entities[row.dimension_id], name=text.strip())

        def draw(row: model.DimensionRow, text: str) -> None:
            session.edit("size on the drawing", session.build.entities[row.dimension_id], drawn=text == "yes")

        def part_names() -> tuple[str, ...]:
            return ("", *dict.fromkeys(p.name for p in session.build.all(KitPart)))

        def give(row: model.DimensionRow, text: str) -> None:
            part = next((p.id for p in session.build.all(KitPart) if p.name == text), "")
            session.edit("kit part of a size", session.build.entities[row.dimension_id], part_id=part)

        return (
            Column("size", lambda r: r.name, rename),
            Column("story", lambda r: r.story, right=True),
            Column("miniature", lambda r: r.miniature, right=True),
            Column("replica", lambda r: r.replica, right=True),
            Column("nearest stock", lambda r: r.stock),
            Column("kit part", lambda r: r.kit, state=lambda r: r.state),
            Column("for part", lambda r: r.part, give, part_names),
            Column("drawn", lambda r: "yes" if r.drawn else "no", draw, tick=True),
        )
