"""The Finish stage: the plan over evenings, tonight's sheet, zones with their finishes, evenings at the bench."""

from __future__ import annotations

from datetime import datetime
from typing import Final

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.rings import rings
from chalkreel.answers.sequence import Sequence
from chalkreel.answers.stages import StageName
from chalkreel.app.commands import Scope
from chalkreel.app.finish import model
from chalkreel.app.finish.card import write_card
from chalkreel.app.finish.folds import EveningRow, folded, steps_passed
from chalkreel.app.finish.forms import ZoneForm, evening_form, step_form
from chalkreel.app.finish.helps_panel import HelpsPanel
from chalkreel.app.finish.plan_model import EMPTY, PlanPicture, order_with, plan_picture
from chalkreel.app.finish.plan_search import PlanSearch
from chalkreel.app.finish.plan_view import PlanView
from chalkreel.app.finish.ringer import Ringer
from chalkreel.app.finish.tables import assembly_table, evening_table, step_table, zone_table
from chalkreel.app.finish.tonight_page import TonightPage
from chalkreel.app.parts.fields import Form, attempt
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.figures import plural
from chalkreel.core.finish.redone import WRONG
from chalkreel.core.finish.steps import Step
from chalkreel.document.changes import Edits
from chalkreel.document.entities import BUILD_ID
from chalkreel.document.finish_entities import Evening
from chalkreel.document.paint_entities import Zone
from chalkreel.edits.ordering import moved_step
from chalkreel.edits.planning import with_plan, without_plan
from chalkreel.edits.redoing import step_again

PAGES = ("Plan", "Tonight", "Zones", "Evenings")


class FinishStage(Stage):
    """In what order, and when?"""

    name: StageName = "Finish"
    prompt = "Drag a step to another hour, or Alt+Up, Alt+Down. D marks it done. A click or Enter opens an evening."
    prompts: Final = {
        "Plan": prompt,
        "Tonight": "D marks the chosen step done, now. Half an hour less or more is told at the right.",
        "Zones": "A zone gets its layers by the name of a finish; what is known of the parts stands below.",
        "Evenings": "Weekly evenings, or one on a day only; it may end past midnight.",
    }

    def __init__(self, session: Session) -> None:
        self.switch = PageSwitch(PAGES)
        self.plan, self.sheet = PlanView(), TonightPage()
        self.steps = step_table(session, self._move_row)
        self.zones, self.assemblies = zone_table(session), assembly_table(session)
        self.evenings, self.helps = evening_table(session), HelpsPanel(session)
        self.steps.hint = "No step yet: turn to Zones and add what is to be painted."
        self.zones.hint = "No zone yet: press Add zone for each area with a finish of its own."
        self.assemblies.hint = "No assembly yet: zones, lamps and jobs name them."
        self.evenings.hint = "No bench evening yet: press Add evening."
        self.pages = QStackedWidget()
        self.done, self.again = QPushButton("Done"), QPushButton("Went wrong")
        self.clock, self.begun = QPushButton("Start the clock"), dict[str, datetime]()
        self.ring, self.ringer = QPushButton("Ring"), Ringer(session)
        self.ring.setCheckable(True)
        self.ring.setToolTip("Ring at the times of the sheet while the program is open")
        self.replan, self.search = QPushButton("Plan anew"), PlanSearch(session)
        self.add = QPushButton("Add zone")
        super().__init__(session, self._lay_out())
        self.switch.changed.connect(self._turned)
        self.done.clicked.connect(self.toggle_done)
        self.again.clicked.connect(self.redo_step)
        self.clock.clicked.connect(self.start_clock)
        self.ring.toggled.connect(self._set_rings)
        self.ringer.rang.connect(self._rang)
        session.answers_changed.connect(self._await_rings)
        self.replan.clicked.connect(self.plan_anew)
        self.search.changed.connect(self.refresh)
        self.add.clicked.connect(self._add_row)
        self.plan.step_chosen.connect(session.select)
        self.sheet.step_chosen.connect(session.select)
        self.plan.step_dragged.connect(self._drag)
        for table in (self.steps, self.zones):
            table.selectionModel().currentRowChanged.connect(lambda *_, table=table: self._row_chosen(table))
        self.forms: dict[str, Form | ZoneForm] = {
            "Evenings": evening_form(session), "Zones": ZoneForm(session), "Tonight": step_form(session, self._chosen)
        }  # fmt: skip
        for form in self.forms.values():
            self.card.form.addWidget(form)
        self.first_focus = self.steps
        self._opened = dict[str, bool]()
        self.steps.clicked.connect(self._fold)
        self.steps.row_entered.connect(self._fold)
        self._drawn: tuple[Sequence | None, PlanPicture, tuple[model.StepRow, ...]] = (None, EMPTY, ())
        self.plan.lanes.surfaces_at = self._surfaces_at
        self._turned()

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"steps": (self.steps, self.plan.lanes, self.sheet)}

    def page_switch(self) -> PageSwitch:
        return self.switch

    def refresh(self) -> None:
        session = self.session
        answers = session.answers
        found = answers.sequence if answers else None
        page = self.switch.page
        if found is not None and answers is not None:
            if page == "Plan":
                _, picture, rows = self._prepared(found)
                self.steps.show_rows(folded(rows, self._opened, session.selection), session.stale)
                self.plan.show_plan(picture, session.selection, datetime.now())
            elif page == "Tonight":
                self.sheet.show_sheet(answers.tonight, session.selection, session.build.info.unit)
        self.zones.show_rows(session.build.all(Zone))
        self.evenings.show_rows(session.build.all(Evening))
        if page == "Zones":
            self.assemblies.show_rows(model.assembly_rows(session.build, found))
        self.helps.show_plan(found if not session.stale else None)
        if not session.stale:
            self.search.show_plan(found)
        if page in self.forms:
            self.forms[page].refresh()
        own = bool(session.build.info.order or session.build.info.plan)
        self.replan.setVisible(page == "Plan" and own)
        write_card(self, found)

    def _prepared(self, found: Sequence) -> tuple[Sequence | None, PlanPicture, tuple[model.StepRow, ...]]:
        """What the page of the plan shows, made once for every plan."""
        if self._drawn[0] is not found:
            done = found.asked.done if found.asked is not None else ()
            self._drawn = (found, plan_picture(found), model.step_rows(found, done))
        return self._drawn

    def _surfaces_at(self, assembly: str, at: datetime) -> str:
        found = self.session.answers.sequence if self.session.answers else None
        return model.surfaces_words(found, self.session.build.info.done, assembly, at) if found is not None else ""

    def turn_to(self, page: str) -> None:
        """Show a page."""
        self.switch.show_page(page)

    def _turned(self) -> None:
        page = self.switch.page
        self.say(self.prompts[page])
        self.pages.setCurrentIndex(PAGES.index(page))
        for button in (self.done, self.again):
            button.setVisible(page in ("Plan", "Tonight"))
        for button in (self.clock, self.ring):
            button.setVisible(page == "Tonight")
        self.sheet.large.setVisible(page == "Tonight")
        self.add.setVisible(page in ("Zones", "Evenings"))
        self.add.setText("Add zone" if page == "Zones" else "Add evening")
        for name, form in self.forms.items():
            form.setVisible(name == page)
        self.refresh()

    def lists(self) -> tuple[Table, ...]:
        return (self.steps, self.zones)

    def begin(self, step: NextStep) -> None:
        found = self.session.answers.sequence if self.session.answers else None
        if step.doing == "put right" and found is not None:
            self._repair(found.repaired)
            return
        self.turn_to("Zones" if step.doing == "add zone" else "Evenings")
        self._add_row()

    def plan_anew(self) -> None:
        """Give up the user's own order, and the plan that was taken."""
        self.session.forget_plan()
        info = self.session.build.info
        if info.order or info.plan:
            self.session.commit("plan anew", without_plan(self.session.build))
        else:
            self.session.think()

    def search_plan(self) -> None:
        """Search for a better plan, beside the one that stands."""
        found = self._fresh()
        if found is not None:
            self.search.ask(found)

    def take_better(self) -> None:
        """The better plan in place of the one that stands; it is kept with the build."""
        found = self._fresh()
        better = self.search.offered(found).better if found is not None else None
        if better is not None:
            self.session.commit("better plan", with_plan(self.session.build, better))

    def move(self, by: int) -> None:
        """Move the chosen step among the rows."""
        step = self._chosen()
        if step is not None:
            self._move_step(step, by)

    def _chosen(self) -> Step | None:
        return model.selected_step(self.session.answers, self.session.selection)

    def _choose_row(self, entity_id: str) -> None:
        # Its evening may be folded.
        hidden = self.steps.rows_model.row_of(entity_id) < 0
        if hidden and any(row.step.id == entity_id for row in self._drawn[2]):
            self.refresh()
        super()._choose_row(entity_id)

    def _fold(self) -> None:
        """Open an evening's steps, or fold them away."""
        row = self.steps.current
        if isinstance(row, EveningRow):
            self._opened[row.id] = not row.is_open
            self.refresh()

    def _move_row(self, row: model.StepRow | EveningRow, by: int) -> None:
        if isinstance(row, EveningRow):
            return
        self._move_step(row.step, steps_passed(self.steps.rows_model.rows, self._drawn[2], row, by))
        self.session.select(row.step.id)

    def _move_step(self, step: Step, by: int) -> None:
        found = self._fresh()
        if found is not None:
            order = tuple(row.step.id for row in self._prepared(found)[2])
            self._put_order(step, moved_step(order, step.id, by))

    def _drag(self, step_id: str, at: datetime) -> None:
        found = self._fresh()
        step = next((s for s in found.steps if s.id == step_id), None) if found is not None else None
        if found is not None and step is not None:
            self._put_order(step, order_with(found, self.session.build.info.done, step_id, at))
            self.session.select(step_id)

    def _fresh(self) -> Sequence | None:
        found = self.session.answers.sequence if self.session.answers else None
        if found is None or self.session.stale:
            self.session.refused.emit("The plan is still being computed. Try again in a moment.")
            return None
        return found

    def _put_order(self, step: Step, order: tuple[str, ...]) -> None:
        self.session.edit(f"place of “{step.title}”", self.session.build.entities[BUILD_ID], order=order)

    def _repair(self, order: tuple[str, ...]) -> None:
        self.session.edit("order put right", self.session.build.entities[BUILD_ID], order=order)

    def toggle_done(self) -> None:
        """Mark the chosen step done, or not."""
        step = self._chosen()
        if step is None:
            return
        if step.kind == WRONG:
            self.session.refused.emit("That layer lies there until its sanding is marked done.")
            return
        info = self.session.build.info
        changed, at = model.done_toggled(info, step.id)
        edits: Edits = {BUILD_ID: msgspec.structs.replace(info, done=changed, done_at=at)}
        begun = self.begun.pop(step.id, None)
        if begun is not None and step.id in changed:
            entry = model.timed_entry(self.session.build, step, begun, datetime.now())
            edits[entry.id] = entry
        if self.session.commit(f"“{step.title}” done", edits) and begun is not None:
            self.session.prompted.emit("Written into the log with its minutes: Bench, Log has what else to say of it.")

    def start_clock(self) -> None:
        """The chosen step begins now: marked done, it is written into the log with its minutes."""
        step = self._chosen()
        if step is not None:
            self.begun[step.id] = datetime.now()
            self.session.prompted.emit(
                f"“{step.title}” began at {datetime.now():%H:%M}. D marks it done, with its minutes."
            )

    def _set_rings(self, on: bool) -> None:
        self._await_rings()
        coming = self.ringer.coming
        if on and not coming:
            self.session.prompted.emit("Nothing of the planned evening is still to come: there is nothing to ring for.")
        elif on:
            first = f"{coming[0].at:%a %H:%M}, {coming[0].words}"
            self.session.prompted.emit(
                f"Rings {len(coming)} times while the program is open, in every stage. First: {first}."
            )
        else:
            self.session.prompted.emit("Rings no more.")

    def _await_rings(self) -> None:
        """Rings follow the plan; while it is made anew the old ones stand."""
        answers = self.session.answers
        if not self.ring.isChecked():
            self.ringer.wait_for(())
        elif answers is not None and answers.sequence is not None and not answers.stale:
            self.ringer.wait_for(rings(answers.tonight))

    def _rang(self, words: str) -> None:
        self.session.prompted.emit(words)
        QApplication.beep()
        QApplication.alert(self.ring.window())

    def ask_for_help(self) -> None:
        """Try evenings that are in time for what the plan misses, and what else ends it sooner."""
        self.turn_to("Evenings")
        self.helps.ask.click()

    def redo_step(self) -> None:
        """The chosen step went wrong: it is to be done again, with all that was laid over it."""
        step, found = self._chosen(), self._fresh()
        if step is None or found is None:
            return

        def redo() -> None:
            edits, count = step_again(self.session.build, step, found.steps, found.limits, datetime.now())
            self.session.commit(f"“{step.title}” again", edits)
            self.session.prompted.emit(f"To be done again: {plural(count, 'step')}.")

        attempt(self.session, redo)

    def _add_row(self) -> None:
        (self.zones if self.switch.page == "Zones" else self.evenings).add_row()

    def _lay_out(self) -> QWidget:
        centre, column = board()
        for button in (self.sheet.large, self.ring, self.clock, self.replan, self.again, self.done, self.add):
            button.setObjectName("tool")
            self.switch.row.addWidget(button)
        lanes = QScrollArea()
        lanes.setWidgetResizable(True)
        lanes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        lanes.setWidget(self.plan)
        parts_of = PlainLabel("Parts: what changes how they are prepared")
        pages: tuple[tuple[QWidget, ...], ...] = (
            (lanes, self.steps), (self.sheet,), (self.zones, parts_of, self.assemblies), (self.evenings, self.helps),
        )  # fmt: skip
        for parts in pages:
            page = QWidget()
            rows = QVBoxLayout(page)
            rows.setContentsMargins(0, 0, 0, 0)
            for part in parts:
                rows.addWidget(part, 0 if part in (parts_of, self.helps) else 2 if part is parts[-1] else 3)
            self.pages.addWidget(page)
        column.addWidget(self.switch)
        column.addWidget(self.pages, 1)
        return centre

    def _row_chosen(self, table: Table) -> None:
        row = table.current
        if isinstance(row, EveningRow):
            return
        chosen = row.step.id if isinstance(row, model.StepRow) else row.id if row is not None else ""
        if chosen and chosen != self.session.selection:
            self.session.select(chosen)
