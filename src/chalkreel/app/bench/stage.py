"""The Bench stage: the log with photographs, lessons for the steps ahead, the build book."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QWidget,
)

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.bench import model
from chalkreel.app.bench.log import LogList
from chalkreel.app.gather.stage import PICTURES
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.stage import Stage, board, heading_row
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.figures import plural
from chalkreel.edits.removing import removal


class BenchStage(Stage):
    """What happened, and is it right?"""

    name: StageName = "Bench"
    prompt = "Write what happened and press Enter. Tick “lesson” to be reminded of it at the next step of its kind."

    def __init__(self, session: Session, images: Images, exports: tuple[tuple[str, Callable[[], None]], ...]) -> None:
        self.log = LogList(session, images)
        self.words, self.minutes, self.cost = QLineEdit(), QLineEdit(), QLineEdit()
        self.step, self.lesson = QComboBox(), QCheckBox("lesson")
        self.write, self.photo, self.remove = (
            QPushButton(w) for w in ("Write it down", "Add photograph…", "Remove entry")
        )
        self._exports = exports
        super().__init__(session, self._lay_out())
        self.words.returnPressed.connect(self.write_entry)
        self.write.clicked.connect(self.write_entry)
        self.photo.clicked.connect(self._add_photo)
        self.remove.clicked.connect(self.remove_entry)

    def refresh(self) -> None:
        self.log.refresh()
        fill(self.step, model.steps_to_choose(self.session.answers))
        self._write_card()

    def begin(self, _: NextStep) -> None:
        self.words.setFocus()

    def write_entry(self) -> None:
        """Put what was typed into the log."""

        def put() -> None:
            entry = model.new_entry(
                self.words.text(),
                datetime.now(),
                self.session.answers,
                self.step.currentData() or "",
                self.minutes.text(),
                self.cost.text(),
                self.lesson.isChecked(),
            )
            if self.session.commit("log entry", {entry.id: entry}):
                self.words.clear()
                self.minutes.clear()
                self.cost.clear()
                self.lesson.setChecked(False)
                self.refresh()
                self.log.setCurrentRow(0)

        attempt(self.session, put)

    def put_photo(self, path: Path) -> None:
        """Give the chosen entry a photograph."""
        entry = self.log.chosen()
        if entry is None:
            self.session.refused.emit("Choose a log entry first, then give it its photograph.")
            return
        self.session.keep_picture(path, lambda blob: self.session.edit("photograph", entry, photo=blob))

    def _lay_out(self) -> QWidget:
        centre, column = board()
        self.words.setPlaceholderText("What happened? Which mix, how many coats, what pressure, what next time?")
        self.words.setAccessibleName("What happened")
        self.minutes.setPlaceholderText("minutes")
        self.minutes.setAccessibleName("Minutes spent")
        self.minutes.setFixedWidth(76)
        self.cost.setPlaceholderText("cost")
        self.cost.setAccessibleName("Money spent")
        self.cost.setFixedWidth(66)
        self.step.setAccessibleName("At which step")
        self.step.setMinimumContentsLength(18)
        self.step.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        second = QHBoxLayout()
        for widget in (PlainLabel("at step"), self.step, self.minutes, self.cost, self.lesson, self.write):
            second.addWidget(widget, 1 if widget is self.step else 0)
        self.write.setObjectName("primary")
        column.addLayout(heading_row("The log", self.photo, self.remove))
        column.addWidget(self.words)
        column.addLayout(second)
        column.addWidget(self.log, 1)
        return centre

    def _write_card(self) -> None:
        card, answers = self.card.answers, self.session.answers
        card.clear(self.session.stale)
        self.next_step()
        if answers is None:
            card.sentence("Reading the log…", "quiet")
            return
        card.heading("So far")
        hours = answers.spent.minutes / 60
        card.figure("time at the bench", f"{hours:.1f} h", "in " + plural(answers.spent.entries, "entry", "entries"))
        card.figure("money spent", f"{answers.spent.cost:.2f}", "in your currency")
        card.heading("Lessons for the steps ahead")
        found = answers.sequence.reminders if answers.sequence else ()
        for reminder in found:
            card.sentence(f"At “{reminder.step_title}”", "warn")
            card.sentence(reminder.words)
        if not found:
            card.sentence("No lesson of yours concerns a step ahead.", "quiet")
        card.heading("Take it with you")
        for number, (words, act) in enumerate(self._exports):
            card.button(words, act, primary=number == 0)

    def _add_photo(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.centre, "Photograph for this entry", "", PICTURES)
        if name:
            self.put_photo(Path(name))

    def delete_chosen(self, focus: QWidget) -> None:
        if focus is self.log:
            self.remove_entry()

    def remove_entry(self) -> None:
        """Remove the chosen entry."""
        entry = self.log.chosen()
        if entry is not None:
            self.session.commit("log entry removed", removal(self.session.build, entry.id))
