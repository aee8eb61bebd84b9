"""A second still beside the one that is marked: the same landmarks on it, and the line of what the pointer is over."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from chalkreel.app.measure import landmarks
from chalkreel.app.parts.fields import fill
from chalkreel.app.session import Session
from chalkreel.app.stills import chalk
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.layer import ChalkLayer
from chalkreel.app.stills.picture_view import PictureView
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.core.measure.sides import spoken
from chalkreel.document.entities import LandmarkMark, Still, reel_place

GRAB_PX, DRAG_PX = 9.0, 3.0


class BesideView(PictureView):
    """Another still, to be looked at.

    Signals
    -------
    chosen(str): the landmark of a mark or ghost was clicked.
    """

    chosen = Signal(str)

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__(session, images)
        self.setAccessibleName("Second still with chalk marks")
        self.setMinimumSize(160, 140)
        self.shown_id = ""
        self._strokes: tuple[Stroke, ...] = ()
        self._handles: tuple[Handle, ...] = ()
        self._line: tuple[tuple[float, float], ...] = ()
        self._layer = ChalkLayer()
        self._pressed: QPointF | None = None
        self._last: QPointF | None = None

    @property
    def still(self) -> Still | None:
        """The still that is shown."""
        return self._session.build.get(Still, self.shown_id)

    @property
    def line(self) -> tuple[tuple[float, float], ...]:
        """Along what the pointer on the other still is seen here, in stored pixels."""
        return self._line

    def set_marks(self, strokes: tuple[Stroke, ...], handles: tuple[Handle, ...]) -> None:
        """Replace what is drawn and what can be clicked."""
        self._strokes, self._handles = strokes, handles
        self.update()

    def set_line(self, line: tuple[tuple[float, float], ...]) -> None:
        """Show along what the pointer on the other still is seen here."""
        if line != self._line:
            self._line = line
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.draw_picture(painter):
            self._layer.draw(painter, self, self._strokes, self.port)
            if self._line:
                chalk.draw(painter, Stroke(self._line, "white", crosses=False), self.to_screen)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._last is not None:
            self.pan(event.position().x() - self._last.x(), event.position().y() - self._last.y())
            self._last = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed, self._last = self._pressed, None, None
        if pressed is not None and (event.position() - pressed).manhattanLength() <= DRAG_PX:
            near = [h for h in self._handles if self._gap(h, event.position()) <= GRAB_PX]
            if near:
                nearest = min(near, key=lambda h: self._gap(h, event.position()))
                mark = self._session.build.get(LandmarkMark, nearest.entity_id)
                self.chosen.emit(mark.landmark_id if mark is not None else nearest.entity_id)

    def _gap(self, handle: Handle, point: QPointF) -> float:
        gap = self.to_screen(handle.x_px, handle.y_px) - point
        return float((gap.x() ** 2 + gap.y() ** 2) ** 0.5)


class Beside(QWidget):
    """The second still with the choice of which, and the exchange of the two."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self._names = False
        self.view = BesideView(session, images)
        self.choice = QComboBox()
        self.choice.setAccessibleName("Second still")
        self.exchange = QPushButton("Exchange the two")
        row = QHBoxLayout()
        row.addWidget(self.choice, 1)
        row.addWidget(self.exchange)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(row)
        column.addWidget(self.view, 1)
        self.choice.activated.connect(lambda: self.show_still(str(self.choice.currentData())))
        self.exchange.clicked.connect(self._exchange)
        self.view.chosen.connect(session.select)
        self.hide()

    def turn(self) -> None:
        """Show or hide; the still that has most landmarks in common comes first."""
        if self.isVisible():
            self.hide()
            return
        self.show()
        if self.view.still is None or self.view.shown_id == self._session.still_id:
            self.view.shown_id = landmarks.best_companion(self._session.build, self._session.still_id)
        self.refresh(self._names)

    def show_still(self, still_id: str) -> None:
        """Bring another still up here."""
        self.view.shown_id = still_id
        self.view.set_line(())
        self.refresh(self._names)

    def refresh(self, names: bool) -> None:
        """Follow build, answers and selection; with the names of all landmarks where they are wanted."""
        self._names = names
        if not self.isVisible():
            return
        session = self._session
        others = [s for s in sorted(session.build.all(Still), key=reel_place) if s.id != session.still_id]
        if self.view.shown_id not in {s.id for s in others}:
            self.view.shown_id = landmarks.best_companion(session.build, session.still_id)
        fill(self.choice, [(s.id, f"{s.number}  {spoken(s.side)}") for s in others], self.view.shown_id)
        still = self.view.still
        if still is None:
            self.view.set_marks((), ())
            return
        strokes, handles = landmarks.landmark_strokes(session.build, still, session.answers, session.selection, names)
        of_landmarks = (h for h in handles if h.ghost or session.build.get(LandmarkMark, h.entity_id) is not None)
        self.view.set_marks(tuple(strokes), tuple(of_landmarks))

    def follow(self, x: float, y: float) -> None:
        """Show along what a place on the session's still is seen here; nothing while the answers are old."""
        if self.isVisible():
            reel = None if self._session.stale else landmarks.reel_of(self._session.answers)
            still_id, shown_id = self._session.still_id, self.view.shown_id
            self.view.set_line(() if reel is None else reel.line_between(still_id, (x, y), shown_id))

    def _exchange(self) -> None:
        here, there = self._session.still_id, self.view.shown_id
        if there:
            self.view.shown_id = here
            self._session.choose_still(there)
