"""What each still says of the chosen surface: on the plane of hue and chroma, and as it is seen there."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.evidence import VoteRow
from chalkreel.app.colour import swatches
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.app.parts.screen_colour import on_screen
from chalkreel.core.interval import NORMAL_95

PLOT = 178.0
COLUMN = 88.0
CHIP = 42.0


class EvidencePlot(KeyChoices):
    """Left, votes on the a*b* plane with the joint colour and its 95 % reach; right, a column for each vote.

    Signals
    -------
    vote_chosen(str): a vote was clicked; its patch's id.
    """

    vote_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(196)
        self.setAccessibleName("What each still says of this surface")
        self._row: SurfaceRow | None = None
        self._chosen_still = ""

    def show_row(self, row: SurfaceRow | None, still_id: str) -> None:
        """Replace what is shown; the votes of the still in front are marked."""
        self._row, self._chosen_still = row, still_id
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        row = self._row
        if row is None or not row.votes:
            text = (row.problem if row else "") or "Take a neutral (N), then patches (P), to find a surface’s colour."
            swatches.words(painter, QRectF(self.rect()).adjusted(20, 60, -20, 0), text, 14, True,
                           Qt.AlignmentFlag.AlignHCenter)  # fmt: skip
            return
        self._draw_plane(painter, row)
        swatches.words(
            painter, QRectF(PLOT + 34, 4, 600, 18), "each still: as it shows there, and with its light taken out"
        )
        for number, vote in enumerate(row.votes):
            self._draw_vote(painter, vote, self._column(number))
        self.draw_focus(painter, swatches.INK)

    def choices(self) -> tuple[Choice, ...]:
        def choice(number: int, vote: VoteRow) -> Choice:
            place = self._column(number).adjusted(4, 4, -4, -4)
            return vote_words(vote), place, partial(self.vote_chosen.emit, vote.patch_id)

        return tuple(choice(number, vote) for number, vote in enumerate(self._row.votes if self._row else ()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for _, place, act in self.choices():
            if place.contains(event.position()):
                act()

    def _column(self, number: int) -> QRectF:
        wide = min(COLUMN, (self.width() - PLOT - 40) / max(1, len(self._row.votes) if self._row else 1))
        return QRectF(PLOT + 34 + wide * number, 22, wide, self.height() - 24)

    def _draw_plane(self, painter: QPainter, row: SurfaceRow) -> None:
        middle = row.colour.lab if row.colour else next((v.lab for v in row.votes if v.lab), (50.0, 0.0, 0.0))
        far = [math.hypot(v.lab[1] - middle[1], v.lab[2] - middle[2]) for v in row.votes if v.lab]
        reach = NORMAL_95 * row.colour.sigma_ab if row.colour else 2.0
        span = max(6.0, 1.15 * max(far, default=0.0), 1.3 * reach)
        side = min(PLOT, self.height() - 22.0)
        place = QRectF(10, 8, side, side)
        centre, scale = place.center(), side / 2 / span
        swatches.line(painter, QPointF(place.left(), centre.y()), QPointF(place.right(), centre.y()), 0.6)
        swatches.line(painter, QPointF(centre.x(), place.top()), QPointF(centre.x(), place.bottom()), 0.6)
        painter.setPen(QPen(QColor(swatches.INK), 1.4, Qt.PenStyle.DashLine))
        painter.drawEllipse(centre, reach * scale, reach * scale)
        for box, text, align in (
            (QRectF(place.left(), place.top(), side / 2 - 4, 16), "yellower", Qt.AlignmentFlag.AlignRight),
            (QRectF(place.left(), place.bottom() - 15, side / 2 - 4, 16), "bluer", Qt.AlignmentFlag.AlignRight),
            (QRectF(centre.x(), centre.y() + 1, side / 2, 16), "redder", Qt.AlignmentFlag.AlignRight),
            (QRectF(place.left(), centre.y() + 1, side / 2, 16), "greener", Qt.AlignmentFlag.AlignLeft),
        ):
            swatches.words(painter, box, text, 10, align=align)
        labels: list[tuple[QRectF, str]] = []
        for vote in row.votes:
            if vote.lab is not None and vote.swatch is not None:
                spot = centre + QPointF((vote.lab[1] - middle[1]) * scale, -(vote.lab[2] - middle[2]) * scale)
                self._draw_spot(painter, vote, spot)
                labels.append((QRectF(spot.x() + _radius(vote) + 1, spot.y() - 8, 30, 16), str(vote.still_number)))
        # Numbers last, so that no spot covers one.
        for box, number in labels:
            swatches.words(painter, box, number, 11, True)
        swatches.words(painter, QRectF(place.left(), place.bottom() + 1, side, 14), f"± {span:.0f} in a* and b*", 10)

    def _draw_spot(self, painter: QPainter, vote: VoteRow, spot: QPointF) -> None:
        assert vote.swatch is not None
        style = Qt.PenStyle.SolidLine if vote.counts else Qt.PenStyle.DotLine
        painter.setPen(QPen(QColor(swatches.INK), 2.4 if vote.still_id == self._chosen_still else 1.0, style))
        painter.setBrush(on_screen(vote.swatch))
        painter.drawEllipse(spot, _radius(vote), _radius(vote))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _draw_vote(self, painter: QPainter, vote: VoteRow, place: QRectF) -> None:
        chip = min(CHIP, place.width() / 2 - 3)
        swatches.patch(painter, QRectF(place.left(), place.top(), chip, CHIP), vote.shown)
        swatches.patch(painter, QRectF(place.left() + chip, place.top(), chip, CHIP), vote.swatch)
        if vote.still_id == self._chosen_still:
            swatches.line(painter, place.topLeft() + QPointF(0, CHIP + 3),
                          place.topLeft() + QPointF(2 * chip, CHIP + 3), 2.4)  # fmt: skip
        text = vote_words(vote, "\n")
        # Words wrap where columns are narrow, so the bar stands above them.
        swatches.words(painter, QRectF(place.left(), place.top() + CHIP + 13, place.width() - 4, 90), text, 11)
        if vote.counts and not vote.problem:
            bar = QRectF(place.left(), place.top() + CHIP + 6, 2 * chip, 5)
            painter.fillRect(
                QRectF(bar.left(), bar.top(), bar.width() * min(1.0, vote.weight), 5), QColor(swatches.INK)
            )
            painter.setPen(QPen(QColor(swatches.INK), 0.8))
            painter.drawRect(bar)


def vote_words(vote: VoteRow, between: str = ", ") -> str:
    """What a still says, and how much it counts."""
    words = [f"still {vote.still_number}"]
    if vote.problem:
        words.append("left out" if vote.problem == "left out by you" else "not tied in")
    elif not vote.counts:
        words.append("other version or side: apart")
    else:
        words += [f"ΔE00 {vote.apart:.1f}", f"weight {100 * vote.weight:.0f} %", *(["odd one out"] if vote.odd else [])]
    return between.join(words)


def _radius(vote: VoteRow) -> float:
    """A vote's spot grows with its weight."""
    return 5.0 + 8.0 * math.sqrt(max(0.0, vote.weight))
