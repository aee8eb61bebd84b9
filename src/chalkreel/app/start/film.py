"""The builds that were open lately as frames of a film, each with its picture, its stage and its next step."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from chalkreel.answers.stages import STAGES
from chalkreel.app import theme
from chalkreel.app.start.recents import Recent, picture_path

HEIGHT, PICTURE = 152, QSize(190, 124)
Index = QModelIndex | QPersistentModelIndex


class Film(QListWidget):
    """One frame a build; Enter or a double click goes on with it.

    Signals
    -------
    chosen(str): a build's file is to be opened.
    """

    chosen = Signal(str)

    def __init__(self, builds: tuple[Recent, ...]) -> None:
        super().__init__()
        self.setObjectName("film")
        self.setAccessibleName("Builds that were open lately")
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._frames = _Frames()
        self.setItemDelegate(self._frames)
        for build in builds:
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.UserRole, build)
            words = f"{build.name}, at {build.stage}. {_next_words(build)}"
            item.setData(Qt.ItemDataRole.AccessibleTextRole, words)
            self.addItem(item)
        self.setCurrentRow(0)
        self.itemActivated.connect(self._go)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentItem() is not None:
            self._go(self.currentItem())
        else:
            super().keyPressEvent(event)

    def _go(self, item: QListWidgetItem) -> None:
        self.chosen.emit(item.data(Qt.ItemDataRole.UserRole).path)


def _next_words(build: Recent) -> str:
    if not build.there:
        return "Not found where it was: open it from its new place."
    return f"Next: {build.next_words}" if build.next_words else ""


class _Frames(QStyledItemDelegate):
    def sizeHint(self, _: QStyleOptionViewItem, __: Index) -> QSize:
        return QSize(400, HEIGHT)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        build: Recent = index.data(Qt.ItemDataRole.UserRole)
        t, place = theme.current(), QRectF(option.rect).adjusted(2, 4, -6, -4)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(QPen(QColor(t.yellow if chosen else t.edge), 2 if chosen else 1))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(place, 4, 4)
        self._picture(painter, build, place)
        words = QRectF(place.left() + PICTURE.width() + 24, place.top() + 10, 0, 0)
        words.setRight(place.right() - 10)
        words.setBottom(place.bottom() - 8)
        self._words(painter, build, words)
        painter.restore()

    def _picture(self, painter: QPainter, build: Recent, place: QRectF) -> None:
        room = QRectF(place.left() + 10, place.top() + 10, PICTURE.width(), PICTURE.height())
        painter.fillRect(room, QColor(theme.JUDGING_GREY))
        image = QImage(str(picture_path(build.path)))
        if not image.isNull():
            size = image.size().scaled(PICTURE, Qt.AspectRatioMode.KeepAspectRatio)
            shown = QRectF(0, 0, size.width(), size.height())
            shown.moveCenter(room.center())
            painter.drawImage(shown, image)

    def _words(self, painter: QPainter, build: Recent, room: QRectF) -> None:
        t, there = theme.current(), build.there
        lines = (
            (build.name, theme.font(16, QFont.Weight.Bold), t.text, 24.0),
            (build.chain, theme.font(12), t.quiet, 22.0),
        )
        y = room.top()
        for words, font, colour, height in lines:
            painter.setFont(font)
            painter.setPen(QColor(colour))
            elided = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(QRectF(room.left(), y, room.width(), height), elided)
            y += height
        self._line(painter, build, room, y + 10)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.text if there else t.coral))
        wrap = int(Qt.TextFlag.TextWordWrap)
        mark = "" if there else "✗ "
        painter.drawText(QRectF(room.left(), y + 36, room.width(), 34), wrap, mark + _next_words(build))
        painter.setFont(theme.font(11))
        painter.setPen(QColor(t.quiet))
        left = build.at
        painter.drawText(QPointF(room.left(), room.bottom()), f"left {left:%a} {left.day} {left:%b %Y, %H:%M}")

    def _line(self, painter: QPainter, build: Recent, room: QRectF, y: float) -> None:
        """The stages on their line, with the one where it was left."""
        t = theme.current()
        step = min(40.0, (room.width() - 12) / (len(STAGES) - 1))
        painter.setPen(QPen(QColor(t.quiet), 1.5))
        painter.drawLine(QPointF(room.left() + 6, y), QPointF(room.left() + 6 + step * (len(STAGES) - 1), y))
        for number, stage in enumerate(STAGES):
            at = QPointF(room.left() + 6 + step * number, y)
            here = stage == build.stage
            painter.setPen(QPen(QColor(t.yellow if here else t.text), 1.5))
            painter.setBrush(QColor(t.yellow if here else t.panel))
            painter.drawEllipse(at, 5, 5)
            if here:
                painter.setFont(theme.font(11, QFont.Weight.DemiBold))
                words = QRectF(at.x() - 40, y + 6, 80, 16)
                words.moveLeft(max(words.left(), room.left()))
                painter.drawText(words, Qt.AlignmentFlag.AlignCenter, stage)
