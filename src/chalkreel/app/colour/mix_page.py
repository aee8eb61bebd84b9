"""The Mix page: three ways to read the stills, target and mix as one large pair, and the trade-off of recipes."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.app import theme
from chalkreel.app.colour import model, swatches
from chalkreel.app.parts.key_choices import Choice, KeyChoices
from chalkreel.app.parts.plain import tip
from chalkreel.core.colour.recipe import Recipe

MODE_WIDE = 132.0
MOST_SHOWN = 6.0
EYE = 1.0


class TargetPair(KeyChoices):
    """Target and mix touch, so that a difference shows as an edge; left of them the three targets to choose from.

    Signals
    -------
    mode_chosen(str): one of the three targets was clicked.
    """

    mode_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(220)
        self.setAccessibleName("Target and mix on neutral grey, and the three targets to choose from")
        self._row: SurfaceRow | None = None
        self._stale = False

    def show_row(self, row: SurfaceRow | None, stale: bool) -> None:
        """Replace what is shown."""
        self._row, self._stale = row, stale
        self.update()

    def choices(self) -> tuple[Choice, ...]:
        targets = self._row.mixes.targets if self._row else ()
        return tuple(
            (f"Target: {target.mode}", self._mode_place(number), partial(self.mode_chosen.emit, target.mode))
            for number, target in enumerate(targets)
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for _, place, act in self.choices():
            if place.contains(event.position()):
                act()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = swatches.begin(self)
        row = self._row
        if row is None:
            swatches.words(painter, QRectF(20, 60, self.width() - 40, 40), "No surface yet. Sample one on a still.", 14)
            return
        for number in range(len(row.mixes.targets)):
            self._draw_mode(painter, row, number)
        self.draw_focus(painter, swatches.INK)
        painter.setPen(QColor(swatches.INK))
        left = MODE_WIDE + 44.0
        side = min(self.height() - 62.0, (self.width() - left - 20) / 2)
        top = 28.0
        target, best = row.mixes.target, row.best
        words = (
            "target"
            if target is None or target.lightened_by < 0.05
            else f"target, lightened ΔE00 {target.lightened_by:.1f}"
        )
        swatches.words(painter, QRectF(left, 6, side, 20), words, 13, True)
        swatches.patch(painter, QRectF(left, top, side, side), row.swatch)
        if target is not None:
            swatches.words(painter, QRectF(left, top + side + 4, side, 20), model.lab_words(target.lab))
        if best is None:
            swatches.words(
                painter, QRectF(left + side + 16, top + 20, side - 16, 80), row.problem or "no recipe yet", 13
            )
            return
        swatches.patch(painter, QRectF(left + side, top, side, side), best[1])
        right = Qt.AlignmentFlag.AlignRight
        name = "mix, before varnish" if target is not None and target.aim != target.lab else "mix"
        swatches.words(painter, QRectF(left + side, 6, side, 20), name, 13, True, right)
        old = " (searching)" if self._stale else ""
        apart = f"ΔE00 {best[0].delta_e:.1f} to what it aims at{old}"
        swatches.words(painter, QRectF(left + side, top + side + 4, side, 20), apart, align=right)

    def _mode_place(self, number: int) -> QRectF:
        high = (self.height() - 20.0) / 3
        return QRectF(14, 10 + high * number, MODE_WIDE, high - 8)

    def _draw_mode(self, painter: QPainter, row: SurfaceRow, number: int) -> None:
        target, place = row.mixes.targets[number], self._mode_place(number)
        chosen = row.mixes.target is not None and row.mixes.target.mode == target.mode
        swatches.patch(painter, place.adjusted(0, 18, 0, 0), target.swatch)
        painter.setPen(QPen(QColor(swatches.INK), 2.6 if chosen else 0.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(place.adjusted(0, 18, 0, 0))
        sign = "● " if chosen else "○ "
        swatches.words(painter, QRectF(place.left(), place.top(), place.width(), 18),
                       sign + model.MODE_WORDS[target.mode], 12, chosen)  # fmt: skip
        if target.lab is None:
            swatches.words(painter, place.adjusted(6, 22, -4, 0), target.problem, 10)


class TradeOff(KeyChoices):
    """Recipes by drops and ΔE00; the figure in each spot is its number of paints.

    Signals
    -------
    recipe_chosen(object): a recipe was clicked.
    """

    recipe_chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(150)
        self.setMouseTracking(True)
        self.setAccessibleName("Recipes by number of drops and nearness; the list on the card says the same in words")
        self._recipes: tuple[Recipe, ...] = ()
        self._best: Recipe | None = None

    def show_row(self, row: SurfaceRow | None) -> None:
        """Replace the recipes."""
        self._recipes = tuple(r for r, _ in row.mixes.recipes) if row else ()
        self._best = row.best[0] if row and row.best else None
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.panel))
        painter.setFont(theme.font(12))
        painter.setPen(QColor(t.quiet))
        area = self._area()
        for level in range(int(self._top()) + 1):
            y = self._spot(1, float(level)).y()
            painter.setPen(QPen(QColor(t.edge), 0.8))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(QColor(t.quiet))
            painter.drawText(QRectF(4, y - 9, 40, 18), Qt.AlignmentFlag.AlignRight, str(level))
        y = self._spot(1, EYE).y()
        painter.setPen(QPen(QColor(t.mint), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        painter.drawText(
            QRectF(area.left() + 6, y + 1, 258, 16),
            Qt.AlignmentFlag.AlignLeft,
            "below: unseen, if all is right",
        )
        painter.setPen(QColor(t.quiet))
        painter.drawText(QRectF(52, 3, 400, 18), "ΔE00 to the target, over drops in the pot; the figure counts paints")
        most = self._most()
        for drops in range(0, most + 1, 4 if most <= 32 else 10):
            at = self._spot(max(1, drops), 0.0)
            painter.drawText(
                QRectF(at.x() - 20, area.bottom() + 2, 40, 16), Qt.AlignmentFlag.AlignCenter, str(max(1, drops))
            )
        for recipe in self._recipes:
            self._draw_recipe(painter, recipe)
        self.draw_focus(painter)

    def choices(self) -> tuple[Choice, ...]:
        return tuple(
            (f"ΔE00 {recipe.delta_e:.1f}: {model.recipe_words(recipe)}", self._ring(recipe),
             partial(self.recipe_chosen.emit, recipe))
            for recipe in sorted(self._recipes, key=lambda r: (r.total, r.delta_e))
        )  # fmt: skip

    def _ring(self, recipe: Recipe) -> QRectF:
        spot = self._spot(recipe.total, recipe.delta_e)
        return QRectF(spot.x() - 10, spot.y() - 10, 20, 20)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._near(event.position())
        if found is not None:
            self.recipe_chosen.emit(found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._near(event.position())
        self.setToolTip(tip(f"ΔE00 {found.delta_e:.1f}: {model.recipe_words(found)}" if found else ""))

    def _near(self, point: QPointF) -> Recipe | None:
        def gap(recipe: Recipe) -> float:
            off = self._spot(recipe.total, recipe.delta_e) - point
            return float(off.x() ** 2 + off.y() ** 2)

        nearest = min(self._recipes, key=gap, default=None)
        return nearest if nearest is not None and gap(nearest) < 16.0**2 else None

    def _draw_recipe(self, painter: QPainter, recipe: Recipe) -> None:
        t = theme.current()
        chosen = self._best is not None and recipe.drops == self._best.drops
        spot = self._spot(recipe.total, recipe.delta_e)
        painter.setPen(QPen(QColor(t.yellow if chosen else t.text), 2.4 if chosen else 1.2))
        painter.setBrush(QColor(t.raised))
        painter.drawEllipse(spot, 10, 10)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawText(
            QRectF(spot.x() - 10, spot.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(len(recipe.drops))
        )

    def _area(self) -> QRectF:
        return QRectF(52, 26, self.width() - 70, self.height() - 48)

    def _most(self) -> int:
        return max((r.total for r in self._recipes), default=24)

    def _top(self) -> float:
        return min(MOST_SHOWN, max(2.0, max((r.delta_e for r in self._recipes), default=2.0)))

    def _spot(self, drops: int, delta_e: float) -> QPointF:
        area = self._area()
        share = (drops - 1) / max(1, self._most() - 1)
        high = min(1.0, delta_e / (1.08 * self._top()))
        return QPointF(area.left() + 12 + share * (area.width() - 24), area.bottom() - high * area.height())


class MixPage(QWidget):
    """The pair above, the trade-off below."""

    def __init__(self) -> None:
        super().__init__()
        self.pair, self.trade = TargetPair(), TradeOff()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.pair, 3)
        column.addWidget(self.trade, 2)
        self.options = QHBoxLayout()
        column.addLayout(self.options)

    def show_row(self, row: SurfaceRow | None, stale: bool) -> None:
        """Show the chosen surface."""
        self.pair.show_row(row, stale)
        self.trade.show_row(row)
