"""The Layers page: swatches from primer to last varnish with the target along above, and the chips that teach them."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.stack import StackRow
from chalkreel.app.colour import chips, model, swatches
from chalkreel.app.colour.pots import drops_from, drops_words
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.materials import SHEENS
from chalkreel.document.paint_entities import CHIP_LAYERS, FinishChip

CHIPS_PX = 150
WHAT_CHIPS_ARE = "Chips: a dry swatch, read before a layer and after it, teaches how yours come out."


class LayerStrip(QWidget):
    """One strip a zone. Each swatch is a layer's look; it touches the target so that a difference shows as an edge."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(200)
        self.setAccessibleName("The look after every layer; the card says the same in words")
        self._row: SurfaceRow | None = None

    def show_row(self, row: SurfaceRow | None) -> None:
        """Replace what is shown."""
        self._row = row
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        row = self._row
        stacks = row.mixes.stacks if row else ()
        if row is None or not stacks:
            text = "No zone in Finish uses this surface yet, so nothing is known of its layers."
            if row is None:
                text = "No surface chosen: name one on Stills. Chips can be read before there is any."
            elif row.best is None:
                text = row.problem or "No recipe yet."
            swatches.words(painter, QRectF(self.rect()).adjusted(20, 60, -20, 0), text, 14, True,
                           Qt.AlignmentFlag.AlignHCenter)  # fmt: skip
            return
        high = (self.height() - 12.0) / len(stacks)
        for number, stack in enumerate(stacks):
            self._draw_stack(painter, row, stack, QRectF(16, 8 + high * number, self.width() - 32, high - 8))

    def _draw_stack(self, painter: QPainter, row: SurfaceRow, stack: StackRow, place: QRectF) -> None:
        swatches.words(painter, QRectF(place.left(), place.top(), place.width(), 18), stack.zone, 13, True)
        if stack.problem:
            swatches.words(painter, place.adjusted(0, 24, 0, 0), stack.problem, 12)
            return
        wide = place.width() / len(stack.looks)
        top = place.top() + 22
        high = min(260.0, place.height() - 76)
        swatches.patch(painter, QRectF(place.left(), top, place.width(), 22), row.swatch)
        swatches.words(painter, QRectF(place.left() + 6, top + 2, 200, 18), "target", 11)
        for number, look in enumerate(stack.looks):
            box = QRectF(place.left() + wide * number, top + 22, wide, high - 22)
            swatches.patch(painter, box, look.swatch)
            if number:
                swatches.line(painter, QPointF(box.left(), box.bottom()), QPointF(box.left(), box.bottom() + 4))
            text = f"{look.name}\nΔE00 {look.to_target:.1f}"
            swatches.words(painter, QRectF(box.left() + 2, box.bottom() + 4, wide - 4, 54), text, 11,
                           number == len(stack.looks) - 1)  # fmt: skip


class LayersPage(QWidget):
    """The strip, and below it the chips."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.strip, self.add = LayerStrip(), QPushButton("Add a chip")
        self.add.setToolTip("A swatch of any paint; a dark one tells most of a varnish, a light one most of a wash")
        self.table = Table(session, "Chips", self._columns(), self._remove, lambda: chips.added(session))
        self.table.setMaximumHeight(CHIPS_PX)
        self.add.clicked.connect(lambda: attempt(session, self._add))
        column, below = QVBoxLayout(self), QHBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        told = PlainLabel(WHAT_CHIPS_ARE)
        told.setWordWrap(True)
        below.addWidget(told, 1)
        below.addWidget(self.add)
        column.addWidget(self.strip, 1)
        column.addLayout(below)
        column.addWidget(self.table)

    def show_row(self, row: SurfaceRow | None) -> None:
        """Follow the build."""
        self.strip.show_row(row)
        found = self._session.build.all(FinishChip)
        self.table.setVisible(bool(found))
        self.table.show_rows(found)

    def _add(self) -> None:
        # A row is edited where it is seen.
        self.table.setVisible(True)
        self.table.add_row()

    def _remove(self, chip: FinishChip) -> None:
        self._session.commit(f"chip of {chip.layer} removed", {chip.id: None})

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(chip: FinishChip, field: str, value: object) -> None:
            session.edit(f"chip of {chip.layer}: {field}", chip, **{field: value})

        return (
            Column("layer", lambda c: c.layer, lambda c, text: put(c, "layer", text), lambda: CHIP_LAYERS),
            Column("over", lambda c: c.over, lambda c, text: put(c, "over", text), lambda: SHEENS),
            Column(
                "coats", lambda c: str(c.coats), lambda c, text: put(c, "coats", chips.read_coats(text)), right=True
            ),
            Column("wash", lambda c: drops_words(c.wash) if c.layer == "wash" else "",
                   lambda c, text: put(c, "wash", drops_from(text, session.build) if text.strip() else ()),
                   stretch=True),
            Column("before, L*a*b*", lambda c: model.typed_lab(c.before),
                   lambda c, text: put(c, "before", model.lab_from(text)), right=True),
            Column("after, L*a*b*", lambda c: model.typed_lab(c.after),
                   lambda c, text: put(c, "after", model.lab_from(text)), right=True),
            Column("now", lambda c: chips.state(session, c)[0], state=lambda c: chips.state(session, c)[1]),
        )  # fmt: skip
