"""All sheets and bars at one scale, with what is cut from them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy

from chalkreel.answers.cuts import Cuts
from chalkreel.app import theme
from chalkreel.app.convert.cuts_model import DrawnField, DrawnPiece, drawn, widest_span
from chalkreel.app.parts.empty import draw_empty
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.core.convert.nest.pieces import Point
from chalkreel.document.snapshot import Build

EMPTY = "Nothing to cut yet: press Add piece, or trace outlines in Measure. Enter your sheets under Stock."
BADGE = 8
# Left of the sheets there is room for the number of a cut, px.
LEFT = BADGE + 2
# A piece smaller than this has no words on it, px.
SMALLEST = 14
# How far a sheet's title stands above it, px.
ABOVE = 24
# Of one sheet so many cuts have their number; nobody reads more.
MOST_NUMBERED = 60


class CutsView(KeyChoices):
    """Paints the cut list. A piece is chosen by click or arrows.

    Signals
    -------
    chosen(str): the entry that a piece belongs to.
    """

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Sheets and what is cut from them")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._shown: tuple[Build, Cuts] | None = None
        self._fields: tuple[DrawnField, ...] = ()
        self._stale, self.piece_id = False, ""

    def show_cuts(self, build: Build, found: Cuts | None, piece_id: str, stale: bool) -> None:
        """Replace what is drawn; old answers stay at half strength while new ones are made."""
        self._shown = (build, found) if found is not None else None
        self.piece_id, self._stale = piece_id, stale
        self._lay()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self._lay()

    def _lay(self) -> None:
        self._fields, height = (), 0.0
        if self._shown is not None:
            self._fields, height = drawn(*self._shown, max(self.width() - 2.0 * LEFT - 4.0, 300.0))
        self.setFixedHeight(max(200, round(height) + 12))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, t = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.board))
        if not self._fields:
            words = "Laying the pieces out…" if self._shown is None or self._stale else EMPTY
            draw_empty(painter, self.rect(), words)
            return
        painter.setOpacity(0.5 if self._stale else 1.0)
        painter.translate(LEFT, 0)
        # Of a long list only what shows is painted.
        shown = QRectF(event.rect()).adjusted(0, 0, 0, ABOVE)
        for field in self._fields:
            if _polygon(field.outline).boundingRect().intersects(shown):
                self._draw_field(painter, field)
        painter.translate(-LEFT, 0)
        self.draw_focus(painter)

    def _draw_field(self, painter: QPainter, field: DrawnField) -> None:
        t = theme.current()
        box = _polygon(field.outline).boundingRect()
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(box.left(), box.top() - 7), field.title)
        painter.setPen(QPen(QColor(t.border), 1.3))
        painter.setBrush(QColor(t.panel))
        painter.drawPolygon(_polygon(field.outline))
        for corners, told in field.stays:
            painter.setPen(QPen(QColor(t.mint), 1, Qt.PenStyle.DotLine))
            painter.setBrush(QBrush(QColor(t.edge), Qt.BrushStyle.BDiagPattern))
            stays = _polygon(corners).boundingRect()
            painter.drawRect(stays)
            _words(painter, stays, told, t.mint, t.panel)
        for piece in field.pieces:
            self._draw_piece(painter, piece)
        taken: list[QRectF] = []
        for start, end in field.cuts[MOST_NUMBERED:]:
            painter.setPen(QPen(QColor(t.sky), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(*start), QPointF(*end))
        for number, (start, end) in enumerate(field.cuts[:MOST_NUMBERED], start=1):
            taken.append(self._draw_cut(painter, number, QPointF(*start), QPointF(*end), taken))
        if field.left_words:
            painter.setPen(QColor(t.quiet))
            painter.setFont(theme.font(12))
            painter.drawText(QPointF(box.right() + 10, box.center().y() + 5), field.left_words)

    def _draw_piece(self, painter: QPainter, piece: DrawnPiece) -> None:
        t, shape = theme.current(), _polygon(piece.outline)
        chosen = piece.piece_id == self.piece_id
        painter.setPen(QPen(QColor(t.yellow if chosen else t.text), 2.2 if chosen else 1.2))
        painter.setBrush(QColor(t.chosen if chosen else t.raised))
        painter.drawPolygon(shape)
        # Words stand where the piece is widest about its middle height, not where a neighbour is.
        frame = shape.boundingRect().adjusted(2, 1, -2, -1)
        if frame.height() < SMALLEST or frame.width() < SMALLEST:
            return
        left, right = widest_span(piece.outline, frame.center().y() + 0.01)
        box = QRectF(left + 2, frame.top(), max(0.0, right - left - 4), frame.height())
        painter.setFont(theme.font(11, QFont.Weight.DemiBold))
        metrics = painter.fontMetrics()
        line = metrics.height()
        if box.height() < line or box.width() < SMALLEST:
            return
        both = box.height() > 2 * line
        name = metrics.elidedText(piece.words, Qt.TextElideMode.ElideRight, round(box.width()))
        single = piece.small if metrics.horizontalAdvance(piece.words) > box.width() and not both else name
        painter.setPen(QColor(t.text))
        top = box.center().y() - (line if both else line / 2)
        painter.drawText(
            QRectF(box.left(), top, box.width(), line), Qt.AlignmentFlag.AlignCenter, name if both else single
        )
        if both and metrics.horizontalAdvance(piece.small) <= box.width():
            painter.setFont(theme.font(11))
            painter.setPen(QColor(t.quiet))
            painter.drawText(
                QRectF(box.left(), top + line, box.width(), line), Qt.AlignmentFlag.AlignCenter, piece.small
            )

    def _draw_cut(self, painter: QPainter, number: int, start: QPointF, end: QPointF, taken: list[QRectF]) -> QRectF:
        """A cut with its number where no other stands, as near its end as may be; where that was."""
        t = theme.current()
        painter.setPen(QPen(QColor(t.sky), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(start, end)
        places = [_badge(end + (start - end) * share) for share in (0.0, 1.0, 0.12, 0.88, 0.25, 0.75, 0.5, 0.38, 0.62)]
        at = next((p for p in places if not any(p.intersects(other) for other in taken)), places[0])
        painter.setBrush(QColor(t.board))
        painter.setPen(QPen(QColor(t.sky), 1.4))
        painter.drawEllipse(at)
        painter.setFont(theme.font(11, QFont.Weight.Bold))
        painter.drawText(at, Qt.AlignmentFlag.AlignCenter, str(number))
        return at

    # --- mouse and keys ---

    def choices(self) -> tuple[Choice, ...]:
        return tuple(
            (f"{p.words}, {p.small}, on {field.title}", _polygon(p.outline).boundingRect().translated(LEFT, 0),
             partial(self.chosen.emit, p.piece_id))
            for field in self._fields for p in field.pieces
        )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position() - QPointF(LEFT, 0)
        for field in self._fields:
            for piece in field.pieces:
                if _polygon(piece.outline).containsPoint(at, Qt.FillRule.OddEvenFill):
                    self.chosen.emit(piece.piece_id)
                    return


def _polygon(outline: tuple[Point, ...]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in outline])


def _badge(middle: QPointF) -> QRectF:
    return QRectF(middle.x() - BADGE, middle.y() - BADGE, 2 * BADGE, 2 * BADGE)


def _words(painter: QPainter, box: QRectF, words: str, colour: str, ground: str) -> None:
    """Words in the middle of a hatched box, on a plain ground; the size alone where there is no more room."""
    painter.setFont(theme.font(12, QFont.Weight.DemiBold))
    width = painter.fontMetrics().horizontalAdvance(words) + 12
    if width > box.width():
        words = words.rpartition(": ")[2]
        width = painter.fontMetrics().horizontalAdvance(words) + 12
    if width > box.width() or box.height() < 22:
        return
    place = QRectF(box.center().x() - width / 2, box.center().y() - 11, width, 22)
    painter.fillRect(place, QColor(ground))
    painter.setPen(QColor(colour))
    painter.drawText(place, Qt.AlignmentFlag.AlignCenter, words)
