"""What stands round the stage in front, and how much room it takes: folded, usual, wide, or gone."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QPushButton, QStackedWidget

from chalkreel.app.parts import card
from chalkreel.app.parts.chalkline import ChalkLine
from chalkreel.app.parts.plain import tip
from chalkreel.app.parts.prompt import PromptStrip
from chalkreel.app.parts.reel import Reel
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.slate import Slate
from chalkreel.app.parts.stages import Stages
from chalkreel.app.session import Session

LONGEST_HEAD_PX = 700


@dataclass(frozen=True)
class Surroundings:
    """The parts of a window round its stage; `folded` is the card's first line."""

    slate: Slate
    chalkline: ChalkLine
    reel: Reel
    prompt: PromptStrip
    cards: QStackedWidget
    folded: QPushButton


class Framing(QObject):
    """Lays the surroundings out for the room there is and for the stage in front."""

    def __init__(self, session: Session, stages: Stages, parts: Surroundings) -> None:
        super().__init__(parts.cards)
        self._session, self._stages, self._parts = session, stages, parts
        self.room: Room = "usual"
        self._alone, self.reel_shown = False, True
        # Whether the card is folded to its first line: as the user has it, in close quarters and elsewhere.
        self._folded = {"close": True, "usual": False, "wide": False}
        parts.folded.setObjectName("folded")
        parts.folded.clicked.connect(self.turn_card)

    def fit(self, room: Room) -> None:
        """Lay everything out for a room."""
        self.room = room
        self._parts.prompt.set_room(room)
        for stage in self._stages.made.values():
            stage.set_room(room)
        self.frame()

    def frame(self) -> None:
        """Fold the surroundings where the picture of the stage in front comes first; hide them where it is alone."""
        parts = self._parts
        first = self._stages[self._session.stage].picture_first
        for part in (parts.slate, parts.chalkline, parts.reel):
            part.set_room("close" if first else self.room)
            part.setVisible(not self._alone and (part is not parts.reel or self.reel_shown))
        beside = first and self.room == "usual"
        parts.cards.setFixedWidth(card.BESIDE_PICTURE if beside else card.WIDTH[self.room])
        folded = self._folded[self.room]
        parts.cards.setVisible(not folded and not self._alone)
        parts.folded.setVisible(folded and not self._alone)

    def turn_card(self) -> None:
        """Fold the card, or unfold it."""
        self._folded[self.room] = not self._folded[self.room]
        self.frame()

    def show_reel(self, shown: bool) -> None:
        """Show the reel, or hide it."""
        self.reel_shown = shown
        self.frame()

    def turn_alone(self) -> None:
        """Show the stage alone, or everything again."""
        self._alone = not self._alone
        self.frame()
        if self._alone:
            self._session.prompted.emit("F11 brings everything back.")
        else:
            self._session.rest()

    def ask(self) -> None:
        """The card asks something: let it be seen."""
        self._folded[self.room] = False
        self._alone = False
        self.frame()

    def head(self, words: str) -> None:
        """The first line of the card, for when it is folded."""
        folded = self._parts.folded
        folded.setText(folded.fontMetrics().elidedText(f"▴  {words}", Qt.TextElideMode.ElideRight, LONGEST_HEAD_PX))
        folded.setAccessibleName(f"Unfold the card: {words}")
        folded.setToolTip(tip(f"{words} (Ctrl+E unfolds the card)"))
