"""The page on which the subject is seen from anywhere, plain or painted from the stills."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, cast

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from chalkreel.app.jobs import Progress
from chalkreel.app.latest import Latest
from chalkreel.app.measure import faces
from chalkreel.app.measure.drawing_page import NO_FACE
from chalkreel.app.measure.round_view import RoundView
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.measure.sides import SIDES

if TYPE_CHECKING:
    from chalkreel.answers.all_round import Subject
    from chalkreel.answers.answers import Answers
    from chalkreel.core.faces.texture import Texture


class RoundPage(QWidget):
    """The stills are laid on the faces in the worker when the page is first looked at; until then faces are plain."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.view = RoundView()
        self.words = PlainLabel()
        self.words.setWordWrap(True)
        self.sides = {side: QPushButton(side) for side in SIDES}
        self.still = QPushButton("as on the still")
        self.painted, self.dots = QCheckBox("from the stills"), QCheckBox("landmarks, marks")
        self.painted.setChecked(True)
        self.dots.setChecked(True)
        self._subject: tuple[Answers, Subject | None] | None = None
        self._laid: tuple[object, tuple[Texture, ...]] | None = None
        self._painting, self._fine = (
            Latest(session, "laying stills on faces", session.background),
            Latest(session, "painting"),
        )
        self._why = ""
        self._lay_out()
        self.view.turned.connect(self._tell)
        self.view.chosen.connect(session.select)
        self.view.still_asked.connect(self._see_still)
        self.view.taken_up.connect(session.rest)
        self.view.fine_asked.connect(self._paint_finely)
        self.still.clicked.connect(self._see_still)
        for box in (self.painted, self.dots):
            box.toggled.connect(self.refresh)
        session.still_changed.connect(self._follow_still)

    def refresh(self) -> None:
        """Follow the answers."""
        session, answers = self._session, self._session.answers
        self.view.dots_shown = self.dots.isChecked()
        self.still.setEnabled(session.still is not None)
        if answers is None or answers.sizes is None:
            self.view.show_subject(None, (), "", "Measuring…")
            return
        subject, key = self._subject_of(answers), faces.view_key(answers)
        laid: tuple[Texture, ...] = ()
        if subject is not None and self.painted.isChecked():
            if self._laid is not None and self._laid[0] == key:
                laid = self._laid[1]
            elif not session.stale and self._painting.asked != key:
                self._paint(subject, key)
        self.view.show_subject(subject, laid, session.selection, NO_FACE)

    def _subject_of(self, answers: Answers) -> Subject | None:
        from chalkreel.answers.all_round import subject_of

        if self._subject is None or self._subject[0] is not answers:
            assert answers.sizes is not None
            self._subject = (answers, subject_of(answers.build, answers.faces, answers.sizes.reel))
        return self._subject[1]

    def _paint(self, subject: Subject, key: object) -> None:
        session = self._session

        def work(progress: Progress) -> Iterator[object]:
            from chalkreel.answers.all_round import painted

            yield key, painted(subject, session.gallery, progress)

        self._why = "Laying the stills on the faces…"
        self._painting.ask(key, work, self._take, self._refuse)

    def _paint_finely(self, picture: Callable[[], object]) -> None:
        """What the eye rests on, as finely as the screen has it; without it the coarser picture stays."""
        self._fine.ask(picture, lambda _: iter((picture(),)), self.view.take_fine, lambda _: None)

    def _take(self, found: object) -> None:
        self._laid, self._why = cast("tuple[object, tuple[Texture, ...]]", found), ""
        self.refresh()

    def _refuse(self, words: str) -> None:
        self._why = words
        self._tell(self.view.accessibleDescription())

    def _see_still(self) -> None:
        still = self._session.still
        if still is None or not self.view.see_as_on(still):
            self._session.refused.emit("This still is not tied in: mark its landmarks first.")
        self.view.setFocus()

    def _follow_still(self) -> None:
        if self.view.as_on_still and self.isVisible():
            self._see_still()

    def _tell(self, words: str) -> None:
        self.words.setText(f"{words} {self._why}".strip())

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        for number, (side, button) in enumerate(self.sides.items(), start=1):
            button.setObjectName("tool")
            button.setToolTip(f"Look straight at this side ({number})")
            button.clicked.connect(lambda _, side=side: self._see(side))
            row.addWidget(button)
        self.still.setObjectName("tool")
        self.still.setToolTip("Look as the still in front does (V)")
        row.addWidget(self.still)
        row.addStretch(1)
        row.addWidget(self.painted)
        row.addWidget(self.dots)
        column.addLayout(row)
        column.addWidget(self.view, 1)
        column.addWidget(self.words)

    def _see(self, side: str) -> None:
        self.view.see_side(side)
        self.view.setFocus()
