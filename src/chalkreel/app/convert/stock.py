"""The stock that is owned, drawn at one scale, and its list."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.columns import NO, YES, Column
from chalkreel.app.parts.empty import draw_empty
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.convert.kinds import FORMS
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import INCH_MM, LengthUnit, format_length, parse_length, understood
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.entity import new_id

GAP = 14
MOST_RACKED = 12
# A sheet as it is commonly sold: long, wide, thick, mm.
USUAL_SHEET: Final[dict[LengthUnit, tuple[float, float, float]]] = {
    "mm": (330.0, 200.0, 1.0), "inch": (12 * INCH_MM, 6 * INCH_MM, 0.04 * INCH_MM),
}  # fmt: skip


class Rack(QWidget):
    """Every sheet and bar at one scale, standing side by side."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(140)
        self.setAccessibleName("Stock at one scale")
        self._stock: tuple[StockPiece, ...] = ()
        self._chosen = ""

    def show_stock(self, stock: tuple[StockPiece, ...], chosen: str) -> None:
        """Replace what stands in the rack."""
        # Of a full drawer those round the chosen one stand in the rack.
        at = next((n for n, piece in enumerate(stock) if piece.id == chosen), 0)
        first = max(0, min(at - MOST_RACKED // 2, len(stock) - MOST_RACKED))
        self._stock, self._chosen = stock[first : first + MOST_RACKED], chosen
        self.setAccessibleDescription(f"{len(stock)} kinds")
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, t = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.board))
        if not self._stock:
            words = (
                "No stock yet: press Add stock, or paste rows. Until then sizes are rounded to what is commonly sold."
            )
            draw_empty(painter, self.rect(), words)
            return
        total = sum(s.long_mm for s in self._stock)
        room = max(self.width() - GAP * (len(self._stock) + 1), self.width() / 4)
        scale = min(room / total, (self.height() - 44) / self._tallest())
        x = float(GAP)
        for piece in self._stock:
            wide, high = piece.long_mm * scale, max(5.0, piece.wide_mm * scale)
            self._draw(painter, piece, QRectF(x, self.height() - 26 - high, wide, high), scale)
            x += wide + GAP

    def _tallest(self) -> float:
        return max(s.wide_mm for s in self._stock)

    def _draw(self, painter: QPainter, piece: StockPiece, box: QRectF, scale: float) -> None:
        t = theme.current()
        chosen = piece.id == self._chosen
        painter.setPen(
            QPen(QColor(t.yellow if chosen else t.text), 2 if chosen else 1.2,
                 Qt.PenStyle.SolidLine if piece.count else Qt.PenStyle.DashLine)
        )  # fmt: skip
        painter.setBrush(QColor(t.raised if piece.count else t.board))
        if piece.corners:
            shape = QPolygonF()
            for x, y in piece.corners:
                shape.append(box.bottomLeft() + QPointF(x * scale, -y * scale))
            painter.drawPolygon(shape)
        else:
            painter.drawRect(box)
        painter.setFont(theme.font(11, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.text))
        words = f"{piece.count} × {piece.name}"
        fitted = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(box.width() + GAP - 3))
        painter.drawText(
            QRectF(box.left(), box.bottom() + 4, box.width() + GAP, 18), Qt.AlignmentFlag.AlignLeft, fitted
        )


class StockPage(QWidget):
    """The rack and the list."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rack, self.add = Rack(), QPushButton("Add stock")
        self.inward, self.outward = QPushButton("My stock in"), QPushButton("My stock out")
        self.inward.setToolTip("Put the stock that you have kept into this build")
        self.outward.setToolTip("Keep this build's stock, and the kit with its score, for all builds")
        self.table = Table(
            session, "Stock", self._columns(),
            lambda piece: session.commit(f"{piece.name} removed", {piece.id: None}), self._add,
        )  # fmt: skip
        self.table.hint = "No stock yet: press Add stock, or paste rows from a spreadsheet (Ctrl+V)."
        both = QSplitter(Qt.Orientation.Vertical)
        both.addWidget(self.rack)
        both.addWidget(self.table)
        both.setSizes([170, 400])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(both)
        self.add.clicked.connect(self.table.add_row)
        self.inward.clicked.connect(self.take_in)
        self.outward.clicked.connect(self.put_out)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._show())

    @property
    def piece(self) -> StockPiece | None:
        """The stock in hand."""
        found = self.table.current
        return found if isinstance(found, StockPiece) else None

    def refresh(self) -> None:
        """Follow the build."""
        self.table.show_rows(self._session.build.all(StockPiece))
        self._show()

    def take_in(self) -> None:
        """Put the library's stock into this build."""
        from chalkreel.app.convert.library import taken_in

        session = self._session
        attempt(session, lambda: session.commit("my stock in", taken_in(session.build)))

    def put_out(self) -> None:
        """Keep this build's stock in the library."""
        from chalkreel.app.convert.library import put_out

        session = self._session
        found = session.answers.conversion if session.answers is not None else None
        hours = found.hours if found is not None else 0.0
        attempt(session, lambda: session.prompted.emit(put_out(session.build, hours)))

    def _show(self) -> None:
        chosen = self.table.current
        self.rack.show_stock(self._session.build.all(StockPiece), chosen.id if chosen is not None else "")

    def _add(self) -> str:
        stock = self._session.build.all(StockPiece)
        last = stock[-1] if stock else None
        usual = USUAL_SHEET[self._session.build.info.unit]
        sizes = (last.long_mm, last.wide_mm, last.thick_mm) if last is not None else usual
        piece = StockPiece(
            id=new_id(), name=f"stock {len(stock) + 1}", long_mm=sizes[0], wide_mm=sizes[1], thick_mm=sizes[2],
            form=last.form if last is not None else "sheet", material=last.material if last is not None else "styrene",
        )  # fmt: skip
        self._session.commit(piece.name, {piece.id: piece})
        return piece.id

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(piece: StockPiece, label: str, **fields: object) -> None:
            session.edit(f"{label} of {piece.name}", piece, **fields)

        def length(title: str, field: str) -> Column:
            def get(piece: StockPiece) -> str:
                return format_length(getattr(piece, field), session.build.info.unit)

            def put_mm(piece: StockPiece, text: str) -> None:
                # A new size makes an odd offcut a plain one again.
                put(piece, title, **{field: parse_length(text, session.build.info.unit), "corners": ()})

            return Column(title, get, put_mm, right=True, understand=lambda t: understood(t, session.build.info.unit))

        def tick(title: str, field: str) -> Column:
            return Column(title, lambda p: YES if getattr(p, field) else NO,
                          lambda p, text: put(p, title, **{field: text == YES}), tick=True)  # fmt: skip

        return (
            Column("stock", lambda p: p.name, lambda p, text: put(p, "name", name=text.strip() or p.name),
                   stretch=True),
            Column("form", lambda p: p.form, lambda p, text: put(p, "form", form=text), lambda: FORMS),
            Column("material", lambda p: p.material,
                   lambda p, text: put(p, "material", material=text.strip() or p.material)),
            length("thick", "thick_mm"), length("long", "long_mm"), length("wide", "wide_mm"),
            Column("left", lambda p: str(p.count), lambda p, text: put(p, "count", count=_count(text)), right=True),
            tick("offcut", "offcut"),
        )  # fmt: skip


def _count(text: str) -> int:
    if not text.strip().isdecimal() or int(text) > 10_000:
        raise RefusedError("How many are left? Type a whole number.")
    return int(text)
