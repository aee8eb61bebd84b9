"""The Finish stage: lanes on a calendar over the steps, the zones and the bench evenings."""

from __future__ import annotations

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QStackedWidget, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.sequence import Sequence
from chalkreel.answers.stages import StageName
from chalkreel.answers.wording import missed_words
from chalkreel.app.commands import Scope
from chalkreel.app.finish import model
from chalkreel.app.finish.lanes import LaneCalendar
from chalkreel.app.finish.tables import evening_table, step_table, zone_table
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.finish.steps import Step
from chalkreel.document.entities import BUILD_ID, Evening
from chalkreel.document.paint_entities import Zone
from chalkreel.edits.ordering import moved_step


class FinishStage(Stage):
    """In what order, and when?"""

    name: StageName = "Finish"
    prompt = "Alt+Up and Alt+Down move the chosen step; D marks it done. A broken rule says why on the card."

    def __init__(self, session: Session) -> None:
        self.calendar = LaneCalendar()
        self.steps = step_table(session, self._move_row)
        self.zones, self.evenings = zone_table(session), evening_table(session)
        self.steps.hint = "No step yet: turn to Zones and add what is to be painted."
        self.zones.hint = "No zone yet: press Add zone for each area with a finish of its own."
        self.evenings.hint = "No bench evening yet: press Add evening."
        self.pages = QStackedWidget()
        self.tables = (self.steps, self.zones, self.evenings)
        for table in self.tables:
            self.pages.addWidget(table)
        self.choices = [QPushButton(words) for words in ("Steps", "Zones", "Bench evenings")]
        self.up, self.down, self.done = QPushButton("Earlier"), QPushButton("Later"), QPushButton("Done")
        self.add = QPushButton("Add zone")
        super().__init__(session, self._lay_out())
        for number, button in enumerate(self.choices):
            button.clicked.connect(lambda _, number=number: self.turn_to(number))
        self.up.clicked.connect(lambda: self.move(-1))
        self.down.clicked.connect(lambda: self.move(1))
        self.done.clicked.connect(self.toggle_done)
        self.add.clicked.connect(self._add_row)
        self.calendar.step_chosen.connect(session.select)
        self.steps.selectionModel().currentRowChanged.connect(self._row_chosen)
        self.form = Form(session)
        self.form.text("From day", lambda: session.build.info.first_bench_day, self._put_first_day).setPlaceholderText(
            "today"
        )
        self.card.form.addWidget(self.form)
        self.first_focus = self.steps

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"steps": (self.steps, self.calendar)}

    def refresh(self) -> None:
        session = self.session
        found = session.answers.sequence if session.answers else None
        if found is not None:
            self.steps.show_rows(model.step_rows(found, session.build.info.done), session.stale)
            self.calendar.show_lanes(model.lanes(found), session.selection)
        self.zones.show_rows(session.build.all(Zone))
        self.evenings.show_rows(session.build.all(Evening))
        self.form.refresh()
        self._write_card(found)

    def turn_to(self, page: int) -> None:
        """Show steps, zones or evenings."""
        self.pages.setCurrentIndex(page)
        self.choices[page].setChecked(True)
        for button in (self.up, self.down, self.done):
            button.setVisible(page == 0)
        self.add.setVisible(page > 0)
        self.add.setText("Add zone" if page == 1 else "Add evening")

    def lists(self) -> tuple[Table, ...]:
        return (self.steps, self.zones)

    def begin(self, step: NextStep) -> None:
        found = self.session.answers.sequence if self.session.answers else None
        if step.doing == "put right" and found is not None:
            self._repair(found.repaired)
            return
        self.turn_to(1 if step.doing == "add zone" else 2)
        self._add_row()

    def move(self, by: int) -> None:
        """Move the chosen step."""
        step = model.selected_step(self.session.answers, self.session.selection)
        if step is not None:
            self._move_step(step, by)

    def _move_row(self, row: model.StepRow, by: int) -> None:
        self._move_step(row.step, by)
        self.session.select(row.step.id)

    def _move_step(self, step: Step, by: int) -> None:
        found = self.session.answers.sequence if self.session.answers else None
        if found is None or self.session.stale:
            self.session.refused.emit("The plan is still being computed. Try again in a moment.")
            return
        order = moved_step(tuple(s.id for s in found.steps), step.id, by)
        self.session.edit(f"place of “{step.title}”", self.session.build.entities[BUILD_ID], order=order)

    def toggle_done(self) -> None:
        """Mark the chosen step done, or not."""
        step = model.selected_step(self.session.answers, self.session.selection)
        if step is None:
            return
        changed, at = model.done_toggled(self.session.build.info, step.id)
        self.session.edit(f"“{step.title}” done", self.session.build.entities[BUILD_ID], done=changed, done_at=at)

    def _add_row(self) -> None:
        self.tables[self.pages.currentIndex()].add_row()

    def _lay_out(self) -> QWidget:
        centre, column = board()
        row = QHBoxLayout()
        group = QButtonGroup(centre)
        for button in self.choices:
            button.setCheckable(True)
            group.addButton(button)
            row.addWidget(button)
        row.addStretch(1)
        for button in (self.up, self.down, self.done, self.add):
            row.addWidget(button)
        column.addWidget(self.calendar)
        column.addLayout(row)
        column.addWidget(self.pages, 1)
        self.turn_to(0)
        return centre

    def _write_card(self, found: Sequence | None) -> None:
        session, card = self.session, self.card.answers
        card.clear(session.stale)
        self.next_step()
        if found is None:
            card.sentence("Ordering the steps…", "quiet")
            return
        self._write_broken(found)
        self._write_step()
        self._write_next(found)
        if found.problem:
            card.sentence(found.problem, "bad")

    def _write_broken(self, found: Sequence) -> None:
        card = self.card.answers
        card.heading("Order rules")
        titles = {s.id: s.title for s in found.steps}
        missed = found.timetable.missed if found.timetable else ()
        words, state = model.rules_words(found)
        card.sentence(words, state)
        for one in missed[:4]:
            card.sentence(missed_words(one, titles), "bad")
        if len(missed) > 4:
            card.sentence(f"… and {len(missed) - 4} more waits too long", "bad")
        for v in found.broken[:4]:
            card.sentence(
                f"{titles[v.first]} must come before {titles[v.then]}."
                if v.by_order
                else f"{titles[v.first]} over {titles[v.then]}.",
                "bad",
            )
            card.sentence(v.reason)
        if len(found.broken) > 4:
            card.sentence(f"… and {len(found.broken) - 4} more", "quiet")

    def _write_step(self) -> None:
        card, step = self.card.answers, model.selected_step(self.session.answers, self.session.selection)
        if step is None:
            return
        card.heading("Chosen step")
        card.figure(step.title, f"{step.minutes} min", "at the bench, curing not counted")
        for words in step.materials:
            card.sentence(words)
        for words in step.cautions:
            card.sentence(words, "warn")
        if step.cautions:
            card.sentence("The label and safety data sheet of your own product decide.", "quiet")

    def _write_next(self, found: Sequence) -> None:
        card, evening = self.card.answers, model.next_evening(found)
        card.heading("Next bench evening")
        if evening is None:
            card.sentence("Nothing left to do." if found.timetable else "No evening planned.", "quiet")
            return
        card.figure(
            "be at the bench",
            f"{evening.start:%a} {evening.start.day} {evening.start:%b}",
            f"{evening.start:%H:%M}–{evening.end:%H:%M}",
        )
        for words in evening.titles:
            card.sentence(words)
        if found.timetable and found.timetable.finish:
            finish = found.timetable.finish
            card.figure(
                "finished", f"{finish:%a} {finish.day} {finish:%b %Y}", note="at 20 °C; colder or damper takes longer"
            )

    def _put_first_day(self, text: str) -> None:
        self.session.edit("first day", self.session.build.entities[BUILD_ID], first_bench_day=model.day_from(text))

    def _repair(self, order: tuple[str, ...]) -> None:
        self.session.edit("order put right", self.session.build.entities[BUILD_ID], order=order)

    def _row_chosen(self) -> None:
        row = self.steps.current
        if row is not None and row.step.id != self.session.selection:
            self.session.select(row.step.id)
