"""What would help a plan: asked for by a button, each change taken by another."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from chalkreel.answers.apart import apart
from chalkreel.answers.helps import Help, helps
from chalkreel.answers.latest_start import latest_start
from chalkreel.answers.sequence import Sequence
from chalkreel.app.jobs import Progress
from chalkreel.app.latest import Latest
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.edits.lightening import without_wear

MOST = 6


def start_words(plan: Sequence, latest: datetime | None) -> str:
    """By when it must be begun for the deadline; nothing where there is none."""
    if plan.asked is None or not plan.asked.deadline:
        return ""
    if latest is None:
        return "Begun at the next evening it is in time less than four times in five."
    day = f"{latest:%a} {latest.day} {latest:%b}, {latest:%H:%M}"
    return f"What is left must be begun by {day}, to be in time four times in five."


class HelpsPanel(QWidget):
    """A button, then the changes it found for the plan that stood when it was pressed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._work = session, Latest(session, "trying evenings", session.background)
        self._plan: Sequence | None = None
        self.ask = QPushButton("What would help this plan?")
        self.ask.clicked.connect(self._ask)
        self.words = PlainLabel("")
        self.words.setWordWrap(True)
        self._rows = QVBoxLayout()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        top = QHBoxLayout()
        top.addWidget(self.ask)
        top.addWidget(self.words, 1)
        column.addLayout(top)
        column.addLayout(self._rows)

    def show_plan(self, found: Sequence | None) -> None:
        """Another plan: what was found for the last one no longer holds."""
        if found is not self._plan:
            self._plan = found
            self._clear("")
        self.ask.setEnabled(found is not None and found.likely is not None)

    def _ask(self) -> None:
        plan = self._plan
        if plan is None:
            return
        self._clear("Planning each change…")

        def work(progress: Progress) -> Iterator[object]:
            yield apart(partial(helps, plan), progress), apart(partial(latest_start, plan), progress)

        self._work.ask(plan, work, lambda found: self._show(plan, found), self._clear)

    def _clear(self, words: str) -> None:
        self.words.setText(words)
        while (item := self._rows.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()

    def _show(self, plan: Sequence, found: object) -> None:
        if plan is not self._plan or not isinstance(found, tuple):
            return
        changes, latest = found
        words = "By these, ending four times in five by:" if changes else "No single change ends it sooner."
        self._clear(f"{start_words(plan, latest)} {words}".strip())
        for one in changes[:MOST]:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            take = QPushButton("Take it")
            take.setAccessibleName(f"Take it: {one.words}")
            take.clicked.connect(lambda _, one=one: self._take(one))
            line.addWidget(take)
            line.addWidget(PlainLabel(f"{one.words}, {one.end:%a} {one.end.day} {one.end:%b %Y}"), 1)
            self._rows.addWidget(row)

    def _take(self, one: Help) -> None:
        if one.evening is not None:
            self._session.commit("bench evening", {one.evening.id: one.evening})
        elif one.wear is not None:
            self._session.commit(f"without {one.wear}", without_wear(self._session.build, one.wear))
