"""The Pots page: what went into a cup, what its test swatch showed, and what to add now."""

from __future__ import annotations

from datetime import datetime
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.mixes import PotRow, paint_of
from chalkreel.app.colour import pots, swatches
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.errors import RefusedError
from chalkreel.demo.devices.colour_meter import ColourMeter
from chalkreel.document.paint_entities import Drops, PaintPot, ShelfPaint, Surface
from chalkreel.edits import painting

CELL = 132.0


class PotStrip(QWidget):
    """The pot's history as swatches that touch the target, then the additions that bring it there."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(260)
        self.setAccessibleName("The pot's history and what to add; the card says the same in words")
        self._row: SurfaceRow | None = None
        self._pot: PotRow | None = None

    def show_pot(self, row: SurfaceRow | None, pot: PotRow | None) -> None:
        """Replace what is shown."""
        self._row, self._pot = row, pot
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        pot = self._pot
        if pot is None:
            text = "No pot yet. “Start a pot” puts the recipe into a cup; then give the colour of its dry test swatch."
            swatches.words(painter, QRectF(self.rect()).adjusted(20, 80, -20, 0), text, 14, True,
                           Qt.AlignmentFlag.AlignHCenter)  # fmt: skip
            return
        cells = pots.cells(pot)
        wide = min(CELL, (self.width() - 32.0) / max(1, len(cells)))
        top = 34.0
        swatches.words(painter, QRectF(16, 8, self.width() - 32, 20), pots.title(pot), 13, True)
        swatches.patch(painter, QRectF(16, top, wide * len(cells), 40), self._row.swatch if self._row else None)
        swatches.words(painter, QRectF(22, top + 10, 300, 20), "target", 12)
        high = min(300.0, self.height() - top - 150)
        for number, cell in enumerate(cells):
            place = QRectF(16 + wide * number, top + 40, wide, high)
            self._draw_cell(painter, cell, place)

    @staticmethod
    def _draw_cell(painter: QPainter, cell: pots.Cell, place: QRectF) -> None:
        swatches.patch(painter, place.adjusted(0, 0, -1, 0) if cell.ahead else place, cell.swatch)
        if cell.ahead:
            swatches.line(
                painter, QPointF(place.left(), place.top()), QPointF(place.left(), place.bottom() + 6), 1.4, True
            )
        swatches.words(painter, QRectF(place.left() + 3, place.bottom() + 6, place.width() - 6, 96),
                       cell.words, 11, cell.ahead)  # fmt: skip


class PotsPage(QWidget):
    """The strip, and the row that keeps the pot's book."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._row: SurfaceRow | None = None
        self._meter = ColourMeter()
        self.strip = PotStrip()
        self.pot = QComboBox()
        self.pot.setAccessibleName("Pot")
        self.start = QPushButton("Start a pot")
        self.drops, self.swatch, self.kept = QLineEdit(), QLineEdit(), QLineEdit()
        self.drops.setPlaceholderText("went in: 6 titanium white, 1 yellow ochre")
        self.drops.setAccessibleName("Drops that went in")
        self.swatch.setPlaceholderText("dry swatch: L* a* b* or #rrggbb")
        self.swatch.setAccessibleName("Colour of the dry test swatch")
        self.kept.setPlaceholderText("ml kept")
        self.kept.setAccessibleName("Remainder kept for touch-up in ml")
        self.kept.setFixedWidth(80)
        self.meter, self.add, self.carry_out = (
            QPushButton("Simulated meter"),
            QPushButton("Stir in"),
            QPushButton("Added as told"),
        )
        self.carry_out.setObjectName("primary")
        self.meter.setVisible(session.stand_ins)
        self.teaches = QPushButton("Teaches the shelf")
        self.teaches.setCheckable(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.strip, 1)
        first, second = QHBoxLayout(), QHBoxLayout()
        book: tuple[QWidget, ...] = (self.pot, self.start, self.drops, self.add, self.carry_out)
        for one in book:
            first.addWidget(one, 1 if one is self.drops else 0)
        others: tuple[QWidget, ...] = (
            PlainLabel("Swatch"), self.swatch, self.meter, self.teaches, PlainLabel("Touch-up"), self.kept,
        )  # fmt: skip
        for one in others:
            second.addWidget(one, 1 if one is self.swatch else 0)
        column.addLayout(first)
        column.addLayout(second)
        self.pot.activated.connect(lambda _: self._show())
        for button, act in (
            (self.start, self._start), (self.add, self._stir), (self.carry_out, self._carry_out),
            (self.meter, self._read_meter), (self.teaches, self._teach),
        ):  # fmt: skip
            button.clicked.connect(partial(self._try, act))
        self.drops.returnPressed.connect(partial(self._try, self._stir))
        self.swatch.returnPressed.connect(partial(self._try, self._take_swatch))
        self.kept.returnPressed.connect(partial(self._try, self._keep))

    @property
    def chosen(self) -> PotRow | None:
        """The pot in front."""
        found = self._row.mixes.pots if self._row else ()
        return next((p for p in found if p.pot.id == self.pot.currentData()), next(reversed(found), None))

    def show_row(self, row: SurfaceRow | None) -> None:
        """Show the pots of the chosen surface."""
        self._row = row
        found = row.mixes.pots if row else ()
        ids = [p.pot.id for p in found]
        kept = self.pot.currentData() if self.pot.currentData() in ids else (ids[-1] if ids else None)
        fill(self.pot, [(p.pot.id, p.pot.label) for p in found], kept)
        self._show()

    def _show(self) -> None:
        pot = self.chosen
        self.strip.show_pot(self._row, pot)
        self.pot.setVisible(pot is not None)
        for widget in (self.add, self.drops, self.swatch, self.meter, self.kept, self.teaches):
            widget.setEnabled(pot is not None)
        steps = pot.rescue.steps if pot is not None and pot.rescue is not None else ()
        self.carry_out.setVisible(bool(steps))
        # The stand-in reads coats that hide.
        clear = self._row is not None and self._row.mixes.clear is not None
        self.meter.setVisible(self._session.stand_ins and not clear)
        self.teaches.setChecked(pot is not None and pot.pot.teaches)
        if pot is not None and not self.kept.hasFocus():
            self.kept.setText(f"{pot.pot.kept_ml:g} ml" if pot.pot.kept_ml else "")

    def _try(self, act: object, *_: object) -> None:
        assert callable(act)
        attempt(self._session, act)

    def _needed(self) -> PotRow:
        pot = self.chosen
        if pot is None:
            raise RefusedError("Start a pot first.")
        return pot

    def _start(self) -> None:
        if self._row is None or self._row.best is None:
            raise RefusedError("There is no recipe to start a pot with yet.")
        pot = pots.new_pot(self._session.build, self._row, _now())
        self._session.commit(f"{pot.label} started", {pot.id: pot})
        self.pot.addItem(pot.label, pot.id)
        self.pot.setCurrentIndex(self.pot.count() - 1)

    def _stir(self) -> None:
        self._add(pots.drops_from(self.drops.text(), self._session.build))
        self.drops.clear()

    def _carry_out(self) -> None:
        rescue = self._needed().rescue
        assert rescue is not None
        self._add(tuple((step.name, step.drops) for step in rescue.steps))

    def _add(self, drops: Drops) -> None:
        pot = self._needed().pot
        self._session.commit(f"drops into {pot.label}", painting.stirred(self._session.build, pot, drops, _now()))

    def _take_swatch(self) -> None:
        pot = self._needed().pot
        self._commit_swatch(pot, lab_of_words(self.swatch.text()))
        self.swatch.clear()

    def _read_meter(self) -> None:
        row = self._needed()
        shelf = tuple(paint_of(p) for p in self._session.build.all(ShelfPaint))
        lab = pots.lab_of_file(self._meter.file(row.pot.label, row.drops, shelf))
        self._commit_swatch(row.pot, lab)

    def _commit_swatch(self, pot: PaintPot, lab: Lab) -> None:
        surface = self._session.build.get(Surface, pot.surface_id)
        best = self._row.best if self._row is not None else None
        ground = surface.clear_over if surface is not None else ""
        coats = best[0].coats if best is not None and ground else 0
        self._session.commit(f"swatch of {pot.label}", painting.swatched(pot, lab, _now(), ground, coats))

    def _keep(self) -> None:
        pot = self._needed().pot
        self._session.edit(f"remainder of {pot.label}", pot, kept_ml=pots.kept_from(self.kept.text(), pot))

    def _teach(self) -> None:
        pot = self._needed().pot
        self._session.edit(f"lessons of {pot.label}", pot, teaches=not pot.teaches)


def _now() -> str:
    return datetime.now().isoformat(timespec="minutes")
