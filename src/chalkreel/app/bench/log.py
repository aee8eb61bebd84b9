"""The log as a pinned column of entries with their photographs."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QResizeEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from chalkreel.answers.log import entry_details, found_in_log, pictures_of
from chalkreel.app import theme
from chalkreel.app.bench.log_model import newest_first, step_words, when_words
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.document.bench_entities import LogEntry

PHOTO = QSize(150, 100)
PLAIN_HEIGHT, HEAD, LONGEST = 66, 25, 420
# So many photographs of an entry stand beside its words.
MOST_SHOWN = 3


class LogList(QListWidget):
    """Entries, newest first; Delete removes the chosen one."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setAccessibleName("Log entries")
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self._session, self._words = session, ""
        self._painter = _Entries(session, images, self.viewport().width)
        self.setItemDelegate(self._painter)
        images.thumbnail_ready.connect(self.viewport().update)

    def refresh(self) -> None:
        """Follow the build."""
        entries = newest_first(found_in_log(self._session.build.all(LogEntry), self._words))
        if [self.item(i).data(Qt.ItemDataRole.UserRole) for i in range(self.count())] != [e.id for e in entries]:
            self.clear()
            for entry in entries:
                item = QListWidgetItem()
                item.setData(Qt.ItemDataRole.UserRole, entry.id)
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{when_words(entry)}: {entry.words}")
                self.addItem(item)
        # A photograph or a longer text makes its row higher.
        self.scheduleDelayedItemsLayout()
        self.viewport().update()

    def search(self, words: str) -> None:
        """Show only the entries that hold these words."""
        self._words = words
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.scheduleDelayedItemsLayout()

    def chosen(self) -> LogEntry | None:
        """The chosen entry."""
        item = self.currentItem()
        return self._session.build.get(LogEntry, item.data(Qt.ItemDataRole.UserRole)) if item else None

    def choose(self, entry_id: str) -> None:
        """Choose an entry that is in the list."""
        for row in range(self.count()):
            if self.item(row).data(Qt.ItemDataRole.UserRole) == entry_id:
                self.setCurrentRow(row)
                self.scrollToItem(self.item(row))


class _Entries(QStyledItemDelegate):
    def __init__(self, session: Session, images: Images, width: Callable[[], int]) -> None:
        super().__init__()
        self._session, self._images, self._width = session, images, width

    def sizeHint(self, _: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        entry = self._entry(index)
        if entry is None:
            return QSize(300, PLAIN_HEIGHT)
        pictures = min(MOST_SHOWN, len(pictures_of(entry)))
        room = QRect(0, 0, max(120, self._width() - pictures * (PHOTO.width() + 8) - 40), LONGEST)
        text = QFontMetrics(theme.font(13)).boundingRect(room, int(Qt.TextFlag.TextWordWrap), _body(entry))
        least = PHOTO.height() + 16 if pictures else PLAIN_HEIGHT
        return QSize(300, max(least, min(LONGEST, text.height() + HEAD + 12)))

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
        for blob in pictures_of(entry)[:MOST_SHOWN]:
            left += self._photo(painter, blob, left - 4, place)
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
            QRectF(left, place.top() + HEAD, right, place.height() - HEAD - 3),
            int(Qt.TextFlag.TextWordWrap),
            _body(entry),
        )
        painter.restore()

    def _photo(self, painter: QPainter, blob: str, left: float, place: QRectF) -> float:
        image = self._images.thumbnail(blob)
        if image is None:
            return PHOTO.width() + 12.0
        size = image.size().scaled(PHOTO, Qt.AspectRatioMode.KeepAspectRatio)
        painter.drawImage(QRectF(left, place.top() + 5, size.width(), size.height()), image)
        return size.width() + 8.0

    def _entry(self, index: QModelIndex | QPersistentModelIndex) -> LogEntry | None:
        return self._session.build.get(LogEntry, index.data(Qt.ItemDataRole.UserRole))


def _body(entry: LogEntry) -> str:
    """What happened, and below it how it was done."""
    told = entry_details(entry)
    return f"{entry.words}\n{told}" if told else entry.words
