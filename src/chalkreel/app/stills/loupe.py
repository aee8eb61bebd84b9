"""The loupe: the still around one point, eight times larger, with the place in pixels."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPen

from chalkreel.app import theme

LOUPE_SIZE = 168.0
MAGNIFIED = 8.0


def draw_loupe(
    painter: QPainter, image: QImage, aspect: float, place: tuple[float, float], area: QRectF, at: QPointF
) -> None:
    """Draw the loupe in the upper corner away from the point that is being placed."""
    left = area.right() - LOUPE_SIZE - 14 if at.x() < area.center().x() else area.left() + 14
    circle = QRectF(left, area.top() + 14, LOUPE_SIZE, LOUPE_SIZE)
    x, y = place
    half_w, half_h = LOUPE_SIZE / MAGNIFIED / aspect / 2, LOUPE_SIZE / MAGNIFIED / 2
    clip = QPainterPath()
    clip.addEllipse(circle)
    painter.save()
    painter.setClipPath(clip)
    painter.fillRect(circle, theme.chalk("halo"))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
    painter.drawImage(circle, image, QRectF(x - half_w, y - half_h, 2 * half_w, 2 * half_h))
    painter.restore()
    centre = circle.center()
    for colour, width in (("halo", 3.0), ("white", 1.0)):
        painter.setPen(QPen(theme.chalk(colour), width))
        for dx, dy in ((1.0, 0.0), (0.0, 1.0)):
            for sign in (-1.0, 1.0):
                near, far = 5.0 * sign, (LOUPE_SIZE / 2 - 2) * sign
                painter.drawLine(centre + QPointF(dx * near, dy * near), centre + QPointF(dx * far, dy * far))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(circle)
    label = QRectF(circle.left() + 4, circle.bottom() + 5, LOUPE_SIZE - 8, 20)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.chalk("halo"))
    painter.drawRoundedRect(label, 4, 4)
    painter.setPen(theme.chalk("white"))
    painter.setFont(theme.font(12))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, f"{MAGNIFIED:g}×   x {x:.2f}   y {y:.2f} px")
