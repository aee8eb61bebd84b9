"""The prompt strip: what the next click or key will do, what was refused, progress and Stop."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.plain import ElidedLabel, tip
from chalkreel.app.parts.room import Room
from chalkreel.app.session import Session

SAVED, READ_ONLY = "saved as you work", "read only: open in another window"
WIDEST_STATE = 230


class ShareBar(QWidget):
    """How much of the work is done; drawn when the window is, since the toolkit's own bar redraws it at every value."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(120, 10)
        self.setAccessibleName("Share of the work that is done")
        self._share = 0.0

    def show_share(self, share: float) -> None:
        """Show a share, 0 to 1."""
        self._share = min(max(share, 0.0), 1.0)
        self.setAccessibleDescription(f"{100 * self._share:.0f} %")
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, t = QPainter(self), theme.current()
        painter.fillRect(self.rect(), QColor(t.raised))
        painter.fillRect(QRectF(0, 0, self._share * self.width(), self.height()), QColor(t.sky))
        painter.setPen(QColor(t.edge))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class PromptStrip(QWidget):
    """One line at the bottom of the window."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("prompt")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(36)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 2, 12, 2)
        self.words = ElidedLabel()
        self.words.setAccessibleName("What the next key or click does")
        self.state = ElidedLabel("", "quiet")
        self.state.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self.bar = ShareBar()
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(session.stop_work)
        row.addWidget(self.words, 1)
        self.help = QPushButton("?")
        self.help.setObjectName("tool")
        self.help.setFixedSize(24, 24)
        self.help.setAccessibleName("Help on this stage")
        self.help.setToolTip("Help on this stage, and all keys (F1)")
        for widget in (self.state, self.bar, self.stop, self.help):
            row.addWidget(widget)
        self._session = session
        self._refusing, self._doing = False, ""
        session.prompted.connect(lambda words: self._say(words, "plain"))
        session.refused.connect(lambda words: self._say(f"✗ {words}", "bad"))
        # A refusal stands until the next thing that is done.
        for signal in (session.build_changed, session.still_changed):
            signal.connect(self._forgive)
        session.progressed.connect(self._progress)
        session.answers_changed.connect(self._tell_state)
        self._progress(1.0, "")

    def set_room(self, room: Room) -> None:
        """Lower where there is little room."""
        self.setFixedHeight(28 if room == "close" else 36)

    def _forgive(self) -> None:
        if self._refusing:
            self._session.rest()

    def _say(self, words: str, state: str) -> None:
        self._refusing = state == "bad"
        self.words.setText(words)
        self.words.setToolTip(tip(words))
        self.words.set_state(state)

    def _progress(self, share: float, doing: str) -> None:
        busy, self._doing = self._session.busy, doing
        self.bar.setVisible(busy)
        self.stop.setVisible(busy)
        self.bar.show_share(share)
        self._tell_state()

    def _tell_state(self) -> None:
        busy = self._session.busy
        words = READ_ONLY if self._session.store.read_only else self._doing if busy else SAVED
        # As wide as what might be said, so that what stands beside it does not move with every word.
        least = self.state.fontMetrics().horizontalAdvance(READ_ONLY if words == READ_ONLY else SAVED) + 2
        self.state.setFixedWidth(max(least, WIDEST_STATE) if busy else least)
        self.state.setText(words)
