"""The log as a pinned column of entries with their photographs."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from chalkreel.app import theme
from chalkreel.app.bench.model import newest_first, step_words, when_words
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.document.entities import LogEntry

PHOTO = QSize(150, 100)
PLAIN_HEIGHT = 66


class LogList(QListWidget):
    """Entries, newest first; Delete removes the chosen one."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setAccessibleName("Log entries")
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self._session = session
        self._painter = _Entries(session, images)
        self.setItemDelegate(self._painter)
        images.thumbnail_ready.connect(self.viewport().update)

    def refresh(self) -> None:
        """Follow the build."""
        entries = newest_first(self._session.build.all(LogEntry))
        if [self.item(i).data(Qt.ItemDataRole.UserRole) for i in range(self.count())] != [e.id for e in entries]:
            self.clear()
            for entry in entries:
                item = QListWidgetItem()
                item.setData(Qt.ItemDataRole.UserRole, entry.id)
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{when_words(entry)}: {entry.words}")
                self.addItem(item)
        self.viewport().update()

    def chosen(self) -> LogEntry | None:
        """The chosen entry."""
        item = self.currentItem()
        return self._session.build.get(LogEntry, item.data(Qt.ItemDataRole.UserRole)) if item else None


class _Entries(QStyledItemDelegate):
    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session, self._images = session, images

    def sizeHint(self, _: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        entry = self._entry(index)
        return QSize(300, PHOTO.height() + 16 if entry and entry.photo else PLAIN_HEIGHT)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        entry = self._entry(index)
        if entry is None:
            return
        t = theme.current()
        place = QRectF(option.rect).adjusted(2, 3, -2, -3)
        painter.save()
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QColor(t.yellow if chosen else t.edge))
        painter.setBrush(QColor(t.panel))
        painter.drawRoundedRect(place, 4, 4)
        left = place.left() + 12
        if entry.photo:
            left += self._photo(painter, entry, place)
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.quiet))
        parts = [
            when_words(entry),
            step_words(entry),
            f"{entry.minutes} min" if entry.minutes else "",
            f"cost {entry.cost:.2f}" if entry.cost else "",
            "✎ lesson" if entry.lesson else "",
        ]
        right = place.right() - left - 12
        painter.drawText(QRectF(left, place.top() + 6, right, 18), "   ".join(part for part in parts if part))
        painter.setFont(theme.font(13))
        painter.setPen(QColor(t.text))
        painter.drawText(
            QRectF(left, place.top() + 25, right, place.height() - 28), int(Qt.TextFlag.TextWordWrap), entry.words
        )
        painter.restore()

    def _photo(self, painter: QPainter, entry: LogEntry, place: QRectF) -> float:
        image = self._images.thumbnail(entry.photo)
        if image is None:
            return PHOTO.width() + 12.0
        size = image.size().scaled(PHOTO, Qt.AspectRatioMode.KeepAspectRatio)
        painter.drawImage(QRectF(place.left() + 8, place.top() + 5, size.width(), size.height()), image)
        return size.width() + 8.0

    def _entry(self, index: QModelIndex | QPersistentModelIndex) -> LogEntry | None:
        return self._session.build.get(LogEntry, index.data(Qt.ItemDataRole.UserRole))
