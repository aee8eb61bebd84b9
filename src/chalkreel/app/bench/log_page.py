"""The log: what happened is written down, with photographs; lessons come back at the step that they concern."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from chalkreel.app.bench import log_model as model
from chalkreel.app.bench.entry_form import entry_form
from chalkreel.app.bench.log import LogList
from chalkreel.app.gather.stage import PICTURES
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.stage import heading_row
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.document.bench_entities import LogEntry
from chalkreel.edits.removing import removal


class LogPage(QWidget):
    """Writes, shows and removes entries."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self.log = LogList(session, images)
        self.words, self.minutes, self.cost = QLineEdit(), QLineEdit(), QLineEdit()
        self.step, self.lesson, self.search = QComboBox(), QCheckBox("lesson"), QLineEdit()
        self.write, self.photo, self.photo_off, self.remove = (
            QPushButton(w) for w in ("Write it down", "Add photograph…", "Photograph off", "Remove entry")
        )
        self._lay_out()
        self.words.returnPressed.connect(self.write_entry)
        self.write.clicked.connect(self.write_entry)
        self.photo.clicked.connect(self._add_photo)
        self.photo_off.clicked.connect(self.remove_photo)
        self.remove.clicked.connect(self.remove_entry)
        self.search.textChanged.connect(self.log.search)
        self.form = entry_form(session, self.log.chosen)
        self.log.currentItemChanged.connect(lambda *_: self.show_form())

    def refresh(self) -> None:
        """Follow the build."""
        self.log.refresh()
        self.show_form()
        fill(self.step, model.steps_to_choose(self._session.answers))

    def show_form(self) -> None:
        """What the chosen entry says, on the card."""
        self.form.setVisible(self.log.chosen() is not None and self.isVisible())
        if self.log.chosen() is not None:
            self.form.refresh()

    def write_entry(self) -> None:
        """Put what was typed into the log."""

        def put() -> None:
            entry = model.new_entry(
                self._session.build,
                self.words.text(),
                datetime.now(),
                self._session.answers,
                self.step.currentData() or "",
                self.minutes.text(),
                self.cost.text(),
                self.lesson.isChecked(),
            )
            if self._session.commit("log entry", {entry.id: entry}):
                self.words.clear()
                self.minutes.clear()
                self.cost.clear()
                self.lesson.setChecked(False)
                self.refresh()
                self.log.setCurrentRow(0)

        attempt(self._session, put)

    def put_photo(self, path: Path) -> None:
        """Give the chosen entry one photograph more."""
        entry = self.log.chosen()
        if entry is None:
            self._session.refused.emit("Choose a log entry first, then give it its photograph.")
            return
        self._session.keep_picture(path, lambda blob: self._put_blob(entry.id, blob))

    def _put_blob(self, entry_id: str, blob: str) -> None:
        entry = self._session.build.get(LogEntry, entry_id)
        if entry is not None and not entry.photo:
            self._session.edit("photograph", entry, photo=blob)
        elif entry is not None:
            self._session.edit("photograph", entry, photos=(*entry.photos, blob))

    def remove_photo(self) -> None:
        """Take the last photograph off the chosen entry."""
        entry = self.log.chosen()
        if entry is None or not entry.photo:
            self._session.refused.emit("Choose an entry with a photograph first.")
        elif entry.photos:
            self._session.edit("photograph off", entry, photos=entry.photos[:-1])
        else:
            self._session.edit("photograph off", entry, photo="")

    def remove_entry(self) -> None:
        """Remove the chosen entry."""
        entry = self.log.chosen()
        if entry is not None:
            self._session.commit("log entry removed", removal(self._session.build, entry.id))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.words.setPlaceholderText("What happened? Which mix, how many coats, what pressure, what next time?")
        self.words.setAccessibleName("What happened")
        self.minutes.setPlaceholderText("minutes")
        self.minutes.setAccessibleName("Minutes spent")
        self.minutes.setFixedWidth(76)
        self.cost.setPlaceholderText("cost")
        self.cost.setAccessibleName("Money spent")
        self.cost.setFixedWidth(66)
        self.search.setPlaceholderText("find in the log")
        self.search.setAccessibleName("Find in the log")
        self.search.setMaximumWidth(170)
        self.search.setClearButtonEnabled(True)
        self.step.setAccessibleName("At which step")
        self.step.setMinimumContentsLength(18)
        self.step.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        second = QHBoxLayout()
        for widget in (PlainLabel("at step"), self.step, self.minutes, self.cost, self.lesson, self.write):
            second.addWidget(widget, 1 if widget is self.step else 0)
        self.write.setObjectName("primary")
        column.addLayout(heading_row("What happened", self.search, self.photo, self.photo_off, self.remove))
        column.addWidget(self.words)
        column.addLayout(second)
        column.addWidget(self.log, 1)

    def _add_photo(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Photograph for this entry", "", PICTURES)
        if name:
            self.put_photo(Path(name))
