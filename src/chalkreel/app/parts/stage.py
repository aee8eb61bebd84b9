"""What every stage is made of: a centre of its own and a card."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from chalkreel.answers.next_step import NextStep, next_step
from chalkreel.answers.stages import StageName
from chalkreel.app.commands import Scope
from chalkreel.app.parts.card import Card
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session

# Answers to many edits are there within this time: then one refresh shows both, and none is greyed in between.
SOON_MS = 12


class Stage(QObject):
    """A stage follows the session while it is in front; `refresh` rewrites centre and card from build and answers.

    Signals
    -------
    reframed(): the picture comes first now, or no longer does; asks(): the card asks something and must be seen.
    """

    reframed = Signal()
    asks = Signal()
    name: StageName
    prompt: str
    # What has the keys when the stage comes to the front.
    first_focus: QWidget | None = None

    def __init__(self, session: Session, centre: QWidget) -> None:
        super().__init__(centre)
        self.session, self.centre = session, centre
        self.card = Card(f"{self.name}: answers")
        self._soon = QTimer(self, singleShot=True)
        self._soon.timeout.connect(self.refresh)
        for signal in (session.build_changed, session.answers_changed, session.still_changed, session.stage_changed):
            signal.connect(self.follow)
        session.selected.connect(self.follow)
        session.selected.connect(self._choose_row)
        session.paged.connect(self._page_asked)

    def say(self, prompt: str) -> None:
        """Another page, another resting prompt."""
        self.prompt = prompt
        if self.session.stage == self.name:
            self.session.resting_prompt = prompt
            self.session.rest()

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        """Where the keys are listened to that act only there."""
        return {}

    def follow(self) -> None:
        """Refresh soon if in front; signals that come together cause one refresh."""
        if self.session.stage == self.name:
            self._soon.start(SOON_MS if self.session.stale else 0)

    def enter(self) -> None:
        """Called when the stage comes to the front."""
        self.refresh()
        self._choose_row(self.session.selection)
        self.session.resting_prompt = self.prompt
        self.session.rest()
        if self.first_focus is not None:
            self.first_focus.setFocus()

    def refresh(self) -> None:
        """Rewrite centre and card."""
        raise NotImplementedError

    def set_room(self, room: Room) -> None:
        """Lay the centre out for the room there is."""
        switch = self.page_switch()
        if switch is not None:
            switch.set_room(room)

    @property
    def picture_first(self) -> bool:
        """Whether slate, chalk line, reel and card make room for the picture now."""
        return False

    def page_switch(self) -> PageSwitch | None:
        """What turns its pages, where it has any."""
        return None

    def lists(self) -> tuple[Table, ...]:
        """Tables whose rows are found by the ids of entities."""
        return ()

    def _choose_row(self, entity_id: str) -> None:
        for table in self.lists():
            table.choose(entity_id)

    def _page_asked(self, pages: tuple[str, ...]) -> None:
        """Turn to a page that shows what was found or changed, unless the present one does."""
        switch = self.page_switch()
        if switch is not None and self.session.stage == self.name and switch.page not in pages:
            wanted = next((page for page in pages if page in switch.buttons), switch.page)
            if wanted != switch.page:
                switch.show_page(wanted)

    def begin(self, step: NextStep) -> None:
        """Begin a next step that this stage has offered."""

    def delete_chosen(self, focus: QWidget) -> None:
        """Del was pressed on something that is no table: remove what is highlighted there, nothing else."""

    def next_step(self) -> None:
        """Begin the card with the one next thing to do, if there is one."""
        step = next_step(self.session.build, self.session.answers, self.name)
        if step is None:
            return
        card = self.card.answers
        card.heading("Next")
        card.sentence(step.words)
        if step.button:
            card.button(step.button, lambda: self.session.begin_asked.emit(step), primary=True)

    def matters(self) -> None:
        """Write the open matters below the answers."""
        answers = self.session.answers
        found = answers.matters(self.name) if answers else ()
        if found:
            self.card.answers.heading("Still open")
        for words in found:
            self.card.answers.sentence(words, "warn")


def board() -> tuple[QWidget, QVBoxLayout]:
    """The centre of a stage and its column."""
    centre = QWidget()
    centre.setObjectName("board")
    centre.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    column = QVBoxLayout(centre)
    column.setContentsMargins(12, 9, 12, 10)
    return centre, column


def heading_row(words: str, *buttons: QWidget) -> QHBoxLayout:
    """A heading with buttons at its right."""
    row = QHBoxLayout()
    label = PlainLabel(words)
    label.setStyleSheet("font-weight: 600; font-size: 14px;")
    row.addWidget(label)
    row.addStretch(1)
    for button in buttons:
        row.addWidget(button)
    return row
