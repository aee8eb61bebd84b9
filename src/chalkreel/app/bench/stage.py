"""The Bench stage: is the replica right, and what happened on the way."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QMenu, QStackedWidget, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.bench import compare_model
from chalkreel.app.bench.card import write_compare, write_log
from chalkreel.app.bench.compare import ComparePage
from chalkreel.app.bench.log_page import LogPage
from chalkreel.app.bench.look_view import Mode
from chalkreel.app.bench.readings import ReadingsPage
from chalkreel.app.commands import Scope
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.figures import plural
from chalkreel.document.bench_entities import LogEntry, ReplicaPhoto
from chalkreel.edits.photographing import accepted, made_a_job, redone, taken_up_again
from chalkreel.edits.writing import written

if TYPE_CHECKING:
    from chalkreel.answers.comparing import Finding
    from chalkreel.core.finish.steps import Step

PAGES = ("Compare", "By calliper", "Log")
LOOKING = "Drag the edge or press ← →; Space shows the other picture. J makes the chosen finding a job, A accepts it."
CLICKING = "Click where the named landmark is on the photograph; drag one to move it. Arrows and Enter do the same."
PROMPTS = {
    "Compare": LOOKING,
    "By calliper": "One size by calliper makes proportions millimetres: choose a size, type what you measured.",
    "Log": "Write what happened and press Enter. Tick “lesson” to be reminded of it at the next step of its kind.",
}


class BenchStage(Stage):
    """What happened, and is it right?"""

    name: StageName = "Bench"
    prompt = LOOKING

    def __init__(self, session: Session, images: Images, exports: tuple[tuple[str, Callable[[], None]], ...]) -> None:
        self.switch = PageSwitch(PAGES)
        self.compare, self.readings = ComparePage(session, images), ReadingsPage(session)
        self.diary = LogPage(session, images)
        self.pages = QStackedWidget()
        self._exports = exports
        super().__init__(session, self._lay_out())
        self.log = self.diary.log
        self.card.form.addWidget(self.diary.form)
        self.log.currentItemChanged.connect(lambda *_: self.follow())
        self.switch.changed.connect(self._turned)
        self.compare.chosen.connect(self.choose_finding)
        self.compare.turned.connect(self._page_words)

    def _lay_out(self) -> QWidget:
        centre, column = board()
        for tool in self.compare.beside_pages:
            self.switch.row.addWidget(tool)
        for page in (self.compare, self.readings, self.diary):
            self.pages.addWidget(page)
        column.addWidget(self.switch)
        column.addWidget(self.pages, 1)
        return centre

    @property
    def picture_first(self) -> bool:
        return self.switch.page == "Compare"

    def set_room(self, room: Room) -> None:
        super().set_room(room)
        self.compare.desk.set_room(room)

    def _choose_row(self, entity_id: str) -> None:
        super()._choose_row(entity_id)
        found = self.session.build.entities.get(entity_id)
        photo_id = found.id if isinstance(found, ReplicaPhoto) else getattr(found, "photo_id", "")
        if photo_id and photo_id != self.compare.photo_id:
            self.compare.show_photo(photo_id)
        if isinstance(found, LogEntry):
            self.log.refresh()
            self.log.choose(entity_id)

    def page_switch(self) -> PageSwitch:
        return self.switch

    def lists(self) -> tuple[Table, ...]:
        return (self.compare.desk.assemblies, self.readings.table)

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"photograph": (self.compare.look, self.compare.desk.photo)}

    def begin(self, step: NextStep) -> None:
        if step.doing == "write":
            self.turn_to("Log")
            self.diary.words.setFocus()
        else:
            self.turn_to("Compare")
            self.compare.add.setFocus()

    def turn_to(self, page: str) -> None:
        """Show a page."""
        self.switch.show_page(page)

    def enter(self) -> None:
        super().enter()
        self._page_words()

    def refresh(self) -> None:
        page = self.switch.page
        for tool in self.compare.beside_pages:
            tool.setVisible(page == "Compare")
        if page == "Compare":
            self.compare.refresh()
        self.readings.refresh()
        if page == "Log":
            self.diary.refresh()
        else:
            self.diary.form.hide()
        card, answers = self.card.answers, self.session.answers
        card.clear(self.session.stale)
        if answers is None:
            card.sentence("Looking at the photographs…" if page == "Compare" else "Reading the log…", "quiet")
        elif page == "Log":
            self.next_step()
            write_log(self, answers, self._exports)
        else:
            write_compare(self, answers)

    def _turned(self) -> None:
        self.pages.setCurrentIndex(PAGES.index(self.switch.page))
        self._page_words()
        self.reframed.emit()
        self.refresh()

    def _page_words(self) -> None:
        clicking = self.switch.page == "Compare" and self.compare.clicking
        self.say(CLICKING if clicking else PROMPTS[self.switch.page])

    # --- findings ---

    def look(self, mode: Mode) -> None:
        """Look in another way."""
        self.compare.turn_look(mode)

    def choose_finding(self, key: str) -> None:
        """Take a finding in hand: on the picture and on the card."""
        self.compare.finding = "" if key == self.compare.finding else key
        self.refresh()

    def _finding(self) -> compare_model.FindingRow | None:
        answers = self.session.answers
        if answers is None:
            return None
        shown, found = self.compare.shown, answers.comparing
        rows = compare_model.finding_rows(answers.build, found.stage(shown.stage) if shown else found.last)
        return next((row for row in rows if row.key == self.compare.finding), None)

    def _chosen(self) -> Finding | None:
        row = self._finding()
        if row is None:
            self.session.refused.emit(
                "Choose a finding first: click its number on the picture or its name on the card."
            )
            return None
        return row.finding

    def accept(self) -> None:
        """Nobody sees it."""
        finding = self._chosen()
        if finding is not None and finding.is_open and finding.amounts:
            group, mm = finding.group, finding.amounts[0].mm
            edits = accepted(self.session.build, group.name, group.side, mm)
            self.session.commit(f"accepted: {group.called}", edits)

    def take_up_again(self) -> None:
        """What was decided about it is decided no longer."""
        finding = self._chosen()
        if finding is not None:
            group = finding.group
            edits = taken_up_again(self.session.build, group.name, group.side)
            self.session.commit(f"taken up again: {group.called}", edits)

    def make_job(self) -> None:
        """Give it to Convert."""
        finding, row = self._chosen(), self._finding()
        if finding is None or row is None or not finding.is_open or finding.click:
            return
        what = row.words.partition(", or")[0]
        mm = finding.amounts[0].mm if finding.amounts else 0.0

        def put() -> None:
            group = finding.group
            made = made_a_job(self.session.build, group.name, group.side, what, mm, finding.state == "missing")
            self.session.commit(f"job: {group.called}", made.edits)

        attempt(self.session, put)

    def steps_to_redo(self, finding: Finding) -> tuple[Step, ...]:
        """Steps that are done and may have gone wrong with a finding."""
        answers = self.session.answers
        return compare_model.steps_done(answers, finding) if answers is not None else ()

    def offer_steps(self) -> None:
        """Ask which step is to be done again."""
        finding = self._chosen()
        if finding is None:
            return
        menu = QMenu(self.card)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for step in self.steps_to_redo(finding):
            menu.addAction(step.title, partial(self.redo_step, step))
        menu.popup(QCursor.pos())

    def redo_step(self, step: Step) -> None:
        """A step went wrong: it and what was laid over it are to be done again, to mend the chosen finding."""
        from chalkreel.edits.redoing import step_again

        answers, finding = self.session.answers, self._chosen()
        found = answers.sequence if answers is not None and not answers.stale else None
        if finding is None or found is None:
            return

        def redo() -> None:
            group, mm = finding.group, finding.amounts[0].mm if finding.amounts else 0.0
            edits, count = step_again(self.session.build, step, found.steps, found.limits, datetime.now())
            edits |= redone(self.session.build, group.name, group.side, mm, step.title)
            self.session.commit(f"{group.called}: “{step.title}” again", edits)
            self.session.prompted.emit(f"To be done again: {plural(count, 'step')}. The plan has them.")

        attempt(self.session, redo)

    def write_finding(self) -> None:
        """Put it into the log as it stands."""
        row = self._finding()
        if row is not None:
            entry = written(self.session.build, f"{row.title}: {row.words}.", datetime.now())
            self.session.commit("log entry", {entry.id: entry})

    def show_click(self) -> None:
        """Go to the click that alone is off."""
        finding = self._chosen()
        if finding is not None and finding.click:
            self.compare.start_clicking(True)
            self.compare.desk.choose(finding.click)

    def delete_chosen(self, focus: QWidget) -> None:
        if focus is self.log:
            self.diary.remove_entry()
        elif focus is self.compare.desk.photo:
            self.compare.desk.take_off_chosen()
