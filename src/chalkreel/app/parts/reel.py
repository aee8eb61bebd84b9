"""The reel: a vertical strip of film, one frame a still, with edge print and ticks for marks and samples."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from chalkreel.app import theme
from chalkreel.app.parts.plain import tip
from chalkreel.app.parts.room import Room
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.measure.sides import spoken
from chalkreel.document.entities import LandmarkMark, Reading, RulerMark, Still, Version, reel_place
from chalkreel.document.gallery import picture_name
from chalkreel.document.paint_entities import ColourPatch

WIDTH = 156
# Where there is little room only numbers are left of the frames.
CLOSE_WIDTH, CLOSE_HEIGHT = 50, 34
FRAME = QRectF(22, 6, 112, 72)
HEIGHT = 114


class Reel(QListWidget):
    """One frame a still; the chosen one is the session's still."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setObjectName("reel")
        self.setAccessibleName("Reel of stills")
        self.setFixedWidth(WIDTH)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self._session, self._frames = session, _Frames(session, images)
        self.setItemDelegate(self._frames)
        self.currentItemChanged.connect(self._choose)
        session.build_changed.connect(self.refresh)
        session.still_changed.connect(self.refresh)
        session.stage_changed.connect(self.viewport().update)
        images.thumbnail_ready.connect(self.viewport().update)
        self.refresh()

    def set_room(self, room: Room) -> None:
        """Frames or numbers."""
        self._frames.close = room == "close"
        self.setFixedWidth(CLOSE_WIDTH if self._frames.close else WIDTH)
        self.scheduleDelayedItemsLayout()

    def refresh(self) -> None:
        """Follow the build and the session's still."""
        stills = sorted(self._session.build.all(Still), key=reel_place)
        self.blockSignals(True)
        if [self.item(i).data(Qt.ItemDataRole.UserRole) for i in range(self.count())] != [s.id for s in stills]:
            self.clear()
            for still in stills:
                item = QListWidgetItem()
                item.setData(Qt.ItemDataRole.UserRole, still.id)
                self.addItem(item)
        for row, still in enumerate(stills):
            self.item(row).setData(Qt.ItemDataRole.AccessibleTextRole, f"Still {still.number}, {still.title}")
            self.item(row).setToolTip(tip(still.title))
            if still.id == self._session.still_id:
                self.setCurrentRow(row)
        self.blockSignals(False)
        self.viewport().update()

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._session.choose_still(item.data(Qt.ItemDataRole.UserRole))


class _Frames(QStyledItemDelegate):
    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session, self._images, self.close = session, images, False

    def sizeHint(self, _: QStyleOptionViewItem, __: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(CLOSE_WIDTH - 12, CLOSE_HEIGHT) if self.close else QSize(WIDTH - 12, HEIGHT)

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        still = self._session.build.get(Still, index.data(Qt.ItemDataRole.UserRole))
        if still is None:
            return
        t = theme.current()
        rect: QRectF = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(rect.topLeft())
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if self.close:
            self._number(painter, still, chosen)
            painter.restore()
            return
        self._holes(painter)
        image = self._images.thumbnail(picture_name(still), still.pixel_aspect)
        painter.fillRect(FRAME, QColor(theme.JUDGING_GREY))
        if image is not None:
            size = QSize(image.size()).scaled(FRAME.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            place = QRectF(0, 0, size.width(), size.height())
            place.moveCenter(FRAME.center())
            painter.drawImage(place, image)
        painter.setPen(QPen(QColor(t.yellow if chosen else t.edge), 2.5 if chosen else 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(FRAME)
        self._edge_print(painter, still, chosen)
        painter.restore()

    def _number(self, painter: QPainter, still: Still, chosen: bool) -> None:
        t, frame = theme.current(), QRectF(3, 3, CLOSE_WIDTH - 18, CLOSE_HEIGHT - 6)
        painter.setPen(QPen(QColor(t.yellow if chosen else t.edge), 2 if chosen else 1))
        painter.drawRect(frame)
        painter.setFont(theme.font(13, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        painter.drawText(frame, Qt.AlignmentFlag.AlignCenter, str(still.number))

    def _holes(self, painter: QPainter) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.current().edge))
        for y in range(6, HEIGHT, 18):
            painter.drawRoundedRect(QRectF(6, y, 8, 9), 2, 2)
            painter.drawRoundedRect(QRectF(WIDTH - 18, y, 8, 9), 2, 2)

    def _edge_print(self, painter: QPainter, still: Still, chosen: bool) -> None:
        t = theme.current()
        version = self._session.build.get(Version, still.version_id)
        metrics = painter.fontMetrics()
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.yellow if chosen else t.text))
        side = "squared up" if still.squared is not None else spoken(still.side)
        words = f"{still.number}  {side}" + (f", {version.name}" if version else "")
        painter.drawText(QRectF(22, 79, 112, 17), metrics.elidedText(words, Qt.TextElideMode.ElideRight, 112))
        painter.setFont(theme.font(11))
        painter.setPen(QColor(t.quiet))
        kind = "miniature" if still.still_kind == "photo of the miniature" else still.still_kind
        painter.drawText(QRectF(22, 94, 80, 16), kind)
        self._ticks(painter, still)

    def _ticks(self, painter: QPainter, still: Still) -> None:
        build = self._session.build
        if self._session.stage == "Colour":
            count = sum(p.still_id == still.id for p in build.all(ColourPatch))
        else:
            count = sum(r.still_id == still.id for r in build.all(Reading))
            count += sum(r.still_id == still.id for r in build.all(RulerMark))
            count += sum(m.still_id == still.id for m in build.all(LandmarkMark))
        painter.setPen(QPen(QColor(theme.current().sky), 1.6))
        for number in range(min(count, 9)):
            x = 133 - 4 * number
            painter.drawLine(QPointF(x - 3, 107), QPointF(x, 98))
