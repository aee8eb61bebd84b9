"""Whether this screen can be believed: a pattern in plain sRGB, and what must be seen in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from chalkreel.app import theme
from chalkreel.app.colour import swatches
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.kinds import Swatch

HEADLINE: Final = (
    "Swatches are sent to the screen as sRGB, or through the profile that is chosen for it on the card. What fails "
    "here fails for every swatch: judge by a painted one, dry, in daylight."
)
# Half of white's light is this in sRGB (IEC 61966-2-1): 255·(1.055·0.5^(1/2.4) − 0.055).
HALF_LIGHT: Final = 188
LEFT, TOP, GAP = 18.0, 70.0, 12.0


@dataclass(frozen=True)
class Check:
    """One row of the pattern: what must be seen, and its fields on a `ground`.

    So many fields `touch` before there is a gap. The first of a `lined` row is lines of black and white.
    """

    words: str
    fields: tuple[Swatch, ...]
    ground: int = 0
    touch: int = 1
    lined: bool = False


def checks() -> tuple[Check, ...]:
    """Dark and light steps, a grey scale, half the light, and pairs that differ by about ΔE00 2."""
    pairs = ((50, 0, 0), (52.2, 0, 0), (65, 8, 45), (65, 8, 50), (40, 5, -30), (40, 5, -34))
    greys = tuple(rgb8_of_lab((n, 0.0, 0.0)) for n in range(5, 100, 10))
    half, white = (HALF_LIGHT,) * 3, (255, 255, 255)
    return (
        Check("Six dark steps on black, each told from the next", _greys(5, 10, 15, 20, 26, 32)),
        Check("Six light steps on white, each told from the next", _greys(250, 246, 242, 238, 233, 228), 255),
        Check("Greys in even steps, none of them tinted", greys, touch=len(greys)),
        Check("From two metres the lines are as light as the field beside them", (white, half), touch=2, lined=True),
        Check("Three pairs that differ by about ΔE 2: an edge in each", tuple(rgb8_of_lab(p) for p in pairs), 128, 2),
    )


def _greys(*levels: int) -> tuple[Swatch, ...]:
    return tuple((n, n, n) for n in levels)


class ScreenPage(QWidget):
    """Paints the checks, one under the other."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(360)
        self._checks = checks()
        self.setAccessibleName("Pattern to check this screen by")
        self.setAccessibleDescription(". ".join((HEADLINE, *(check.words for check in self._checks))))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        painter.setFont(theme.font(13))
        painter.setPen(QColor(swatches.INK))
        box = QRectF(LEFT, 10, self.width() - 2 * LEFT, TOP - 16)
        painter.drawText(box, int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap), HEADLINE)
        height = (self.height() - TOP) / len(self._checks)
        for number, check in enumerate(self._checks):
            top = TOP + number * height
            painter.setPen(QColor(swatches.INK))
            painter.drawText(QRectF(LEFT, top, box.width(), 20), check.words)
            self._draw(painter, check, QRectF(LEFT, top + 22, box.width(), height - 22 - GAP))

    def _draw(self, painter: QPainter, check: Check, box: QRectF) -> None:
        # Edges on whole pixels: a blended one would be told as a step that is not there.
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.fillRect(QRectF(box.toRect()), QColor(check.ground, check.ground, check.ground))
        groups = len(check.fields) // check.touch
        gap = GAP if groups > 1 else 0.0
        wide = (box.width() - gap * (groups + 1)) / len(check.fields)
        for number, colour in enumerate(check.fields):
            start = box.left() + gap * (1 + number // check.touch)
            left, right = round(start + number * wide), round(start + (number + 1) * wide)
            field = QRectF(left, round(box.top() + gap / 2), right - left, round(box.height() - gap))
            if check.lined and number == 0:
                painter.drawImage(field.topLeft(), _lines(field, self.devicePixelRatioF()))
            else:
                swatches.patch(painter, field, colour)


def _lines(field: QRectF, ratio: float) -> QImage:
    """Black and white by turns, each line one pixel of the screen."""
    lines = QImage(round(field.width() * ratio), round(field.height() * ratio), QImage.Format.Format_RGB32)
    lines.fill(QColor("black"))
    painter = QPainter(lines)
    for line in range(0, lines.height(), 2):
        painter.fillRect(0, line, lines.width(), 1, QColor("white"))
    painter.end()
    lines.setDevicePixelRatio(ratio)
    return lines
