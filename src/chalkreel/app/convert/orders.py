"""What is to be ordered: each as a line from today to the evening it is needed, and the list."""

from __future__ import annotations

from datetime import date

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.answers.ordering import OrderRow
from chalkreel.app import theme
from chalkreel.app.convert import model
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.empty import draw_empty
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.convert.kinds import SOURCE_KINDS
from chalkreel.core.errors import RefusedError
from chalkreel.document.convert_entities import Order
from chalkreel.document.entities import Feature
from chalkreel.document.entity import new_id

ROW, LEFT, RIGHT = 34, 190, 30
FEWEST_DAYS = 14
# So many orders are drawn, the most pressing; the list below has them all.
MOST_DRAWN = 6


class Waits(QWidget):
    """A row an order: how long it takes at worst, from today, and the day it is needed."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(120)
        self.setAccessibleName("Orders over the days")
        self._rows: tuple[OrderRow, ...] = ()
        self._today, self._chosen = date.today(), ""

    def show_rows(self, rows: tuple[OrderRow, ...], today: date, chosen: str) -> None:
        """Replace what is drawn."""
        self._rows, self._today, self._chosen = tuple(r for r in rows if not r.order.came_on), today, chosen
        self.setAccessibleDescription("; ".join(model.due_words(r) for r in self._rows))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, t = QPainter(self), theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.board))
        if not self._rows:
            words = "Nothing on its way: press Add order for what has to come from elsewhere."
            draw_empty(painter, self.rect(), words)
            return
        last = max(max(r.worst, r.needed or r.worst) for r in self._rows)
        days = max(FEWEST_DAYS, (last - self._today).days + 2)
        shown = self._rows[:MOST_DRAWN]
        for number, row in enumerate(shown):
            self._draw(painter, row, 26 + number * ROW, (self.width() - LEFT - RIGHT) / days)
        painter.setPen(QPen(QColor(t.sky), 1.6))
        painter.drawLine(LEFT, 18, LEFT, 26 + ROW * len(shown))
        painter.setFont(theme.font(12))
        painter.drawText(QRectF(LEFT - 60, 0, 120, 18), Qt.AlignmentFlag.AlignCenter, "today")

    def _draw(self, painter: QPainter, row: OrderRow, top: int, day: float) -> None:
        t = theme.current()
        if row.order_id == self._chosen:
            painter.fillRect(QRectF(0, top, self.width(), ROW - 4), QColor(t.chosen))
        painter.setFont(theme.font(12, QFont.Weight.DemiBold))
        painter.setPen(QColor(t.text))
        name = painter.fontMetrics().elidedText(row.order.name, Qt.TextElideMode.ElideRight, LEFT - 14)
        painter.drawText(QRectF(4, top, LEFT - 10, ROW - 4), Qt.AlignmentFlag.AlignVCenter, name)
        start = LEFT + max(0, (row.begun - self._today).days) * day
        usual, worst = (LEFT + (at - self._today).days * day for at in (row.usual, row.worst))
        colour = QColor(t.coral if row.late else t.border)
        painter.setPen(QPen(colour, 1.2, Qt.PenStyle.SolidLine if row.order.ordered_on else Qt.PenStyle.DashLine))
        painter.setBrush(QColor(t.raised))
        painter.drawRect(QRectF(start, top + 8, max(2.0, usual - start), 14))
        painter.setBrush(Qt.BrushStyle.BDiagPattern)
        painter.drawRect(QRectF(usual, top + 8, max(0.0, worst - usual), 14))
        if row.needed is not None:
            x = LEFT + (row.needed - self._today).days * day
            painter.setPen(QPen(QColor(t.coral if row.late else t.mint), 2))
            painter.drawLine(round(x), top + 2, round(x), top + ROW - 8)
            painter.setFont(theme.font(12))
            words = f"needed {row.needed.day} {row.needed:%b}"
            wide = painter.fontMetrics().horizontalAdvance(words)
            at = x + 5 if x + wide + 8 < self.width() else x - wide - 5
            painter.drawText(QRectF(at, top, wide + 4, ROW - 4), Qt.AlignmentFlag.AlignVCenter, words)


class OrdersPage(QWidget):
    """Lines above, list below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.waits, self.add = Waits(), QPushButton("Add order")
        self.table = Table(
            session, "Orders", self._columns(),
            lambda row: session.commit(f"{row.name} removed", {row.id: None}), self._add,
        )  # fmt: skip
        self.table.hint = "No order yet: press Add order."
        both = QSplitter(Qt.Orientation.Vertical)
        both.addWidget(self.waits)
        both.addWidget(self.table)
        both.setSizes([200, 360])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(both)
        self.add.clicked.connect(self.table.add_row)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._show())
        self.rows: tuple[OrderRow, ...] = ()

    def refresh(self) -> None:
        """Follow build and plan."""
        from chalkreel.answers.ordering import order_rows

        answers = self._session.answers
        found = answers.sequence if answers is not None else None
        self.rows = order_rows(self._session.build, found, date.today())
        self.table.show_rows(tuple(row.order for row in self.rows))
        self._show()

    def _show(self) -> None:
        chosen = self.table.current
        self.waits.show_rows(self.rows, date.today(), chosen.id if chosen is not None else "")

    def _add(self) -> str:
        order = Order(id=new_id(), name=f"order {len(self._session.build.all(Order)) + 1}")
        self._session.commit(order.name, {order.id: order})
        return order.id

    def row(self, order: Order) -> OrderRow:
        """What the plan says of an order."""
        return next((r for r in self.rows if r.order.id == order.id), OrderRow(order, None, None, "", date.today()))

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(order: Order, label: str, **fields: object) -> None:
            session.edit(f"{label} of {order.name}", order, **fields)

        def features() -> tuple[str, ...]:
            return ("none", *(f.name for f in session.build.all(Feature)))

        def feature_name(order: Order) -> str:
            feature = session.build.get(Feature, order.feature_id)
            return feature.name if feature is not None else "none"

        def put_feature(order: Order, text: str) -> None:
            found = next((f.id for f in session.build.all(Feature) if f.name == text), "")
            put(order, "feature", feature_id=found)

        return (
            Column("order", lambda o: o.name, lambda o, text: put(o, "name", name=text.strip() or o.name),
                   stretch=True),
            Column("for", feature_name, put_feature, features),
            Column("source", lambda o: o.source, lambda o, text: put(o, "source", source=text), lambda: SOURCE_KINDS),
            Column("days", model.days_words, lambda o, text: put(o, "days", **model.days_from(text)), right=True),
            Column("order by", lambda o: model.due_words(self.row(o)),
                   state=lambda o: "bad" if self.row(o).late else "plain", stretch=True),
            Column("ordered", lambda o: o.ordered_on, lambda o, text: put(o, "order day", ordered_on=_day(text))),
            Column("came", lambda o: o.came_on, lambda o, text: put(o, "arrival", came_on=_day(text))),
        )  # fmt: skip


def _day(text: str) -> str:
    """A day, "today" or nothing.

    Raises
    ------
    RefusedError
        Something else.
    """
    words = text.strip().lower()
    if words in ("", "-", "no"):
        return ""
    if words in ("today", "now", "yes", "x"):
        return date.today().isoformat()
    try:
        return date.fromisoformat(words).isoformat()
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a day of the calendar. Type it like 2026-12-01, or today.") from error
