"""The Colour stage: patches on stills, the target and the mix, the recipe in drops."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QSplitter, QWidget

from chalkreel.app.colour import model
from chalkreel.app.colour.pair import ColourPair
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.tools import NEUTRAL, PATCH, Points, ToolKind
from chalkreel.app.stills.view import StillView
from chalkreel.build.answers.colours import SurfaceRow
from chalkreel.build.answers.matters import StageName
from chalkreel.build.entities import ColourPatch, ShelfPaint, Surface
from chalkreel.build.gestures import Edits, removal
from chalkreel.core.colour.batch import DROP_ML
from chalkreel.core.colour.recipe import Recipe


class ColourStage(Stage):
    """Which drops from my shelf?"""

    name: StageName = "Colour"
    prompt = (
        "N: drag over a known grey. P: drag over the chosen surface. Take flat mid-tones; leave glints and deep shadow."
    )

    def __init__(self, session: Session, images: Images) -> None:
        self.view = StillView(session, images)
        self.pair = ColourPair()
        self.surface, self.reflectance = QComboBox(), QLineEdit()
        self.surface.setEditable(True)
        self.tools = {NEUTRAL: QPushButton("Neutral (N)"), PATCH: QPushButton("Patch (P)")}
        self.clear = QPushButton("Clear this still")
        super().__init__(session, self._lay_out())
        for kind, button in self.tools.items():
            button.setCheckable(True)
            button.clicked.connect(lambda _, kind=kind: self.use(kind))
        self.clear.clicked.connect(self._clear_still)
        self.surface.activated.connect(lambda: session.select(self.surface.currentData() or ""))
        self.view.tool_ended.connect(self._tool_ended)

    def refresh(self) -> None:
        session = self.session
        self._fill_surfaces()
        row = model.chosen_row(session.answers, session.selection)
        still = session.still
        strokes = model.strokes_of(session.build, still, row.surface_id if row else "") if still else ()
        self.view.set_marks(strokes, ())
        self.pair.show_row(row, session.stale)
        self._write_card(row)

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        if self.session.still is None:
            self.session.refused.emit("There is no still to sample. Add one in Gather.")
            return
        for other, button in self.tools.items():
            button.setChecked(other is kind)
        self.view.use_tool(kind, lambda points: attempt(self.session, partial(self._placed, kind, points)))

    def put_practice_range(self) -> None:
        """Put the shipped made-up paints on the shelf."""
        from chalkreel.demo.evidence import bench_range

        self.session.commit("practice range", {paint.id: paint for paint in bench_range()})

    def _lay_out(self) -> QWidget:
        centre, column = board()
        self.surface.setAccessibleName("Surface")
        self.surface.lineEdit().setPlaceholderText("name a surface")  # type: ignore[union-attr]
        self.reflectance.setAccessibleName("Reflectance of the neutral in percent")
        self.reflectance.setPlaceholderText("unknown")
        self.reflectance.setFixedWidth(74)
        self.surface.setMinimumWidth(120)
        tools = QHBoxLayout()
        for widget in (
            self.tools[NEUTRAL],
            QLabel("reflects %"),
            self.reflectance,
            self.tools[PATCH],
            self.surface,
        ):
            tools.addWidget(widget)
        tools.addStretch(1)
        tools.addWidget(self.clear)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.pair)
        split.setStretchFactor(0, 1)
        split.setSizes([390, 220])
        column.addLayout(tools)
        column.addWidget(split, 1)
        return centre

    def _fill_surfaces(self) -> None:
        box = self.surface
        if box.count() != len(self.session.build.all(Surface)):
            fill(box, [(s.id, s.name) for s in self.session.build.all(Surface)])
        at = box.findData(self.session.selection)
        if at >= 0 and not box.lineEdit().hasFocus():  # type: ignore[union-attr]
            box.setCurrentIndex(at)
            box.lineEdit().setCursorPosition(0)  # type: ignore[union-attr]

    def _placed(self, kind: ToolKind, points: Points) -> None:
        still = self.session.still
        assert still is not None
        edits, surface_id = model.patch_edits(
            self.session.build, still, points, self.surface.currentText(), kind is NEUTRAL, self.reflectance.text()
        )
        self.session.commit("neutral" if kind is NEUTRAL else f"patch of {self.surface.currentText()}", edits)
        if surface_id:
            self.session.select(surface_id)

    def _tool_ended(self) -> None:
        for button in self.tools.values():
            button.setChecked(False)
        self.session.prompted.emit(self.prompt)

    def _clear_still(self) -> None:
        edits: Edits = {p.id: None for p in self.session.build.all(ColourPatch) if p.still_id == self.session.still_id}
        self.session.commit("patches taken off", edits)

    def _write_card(self, row: SurfaceRow | None) -> None:
        session, card = self.session, self.card.answers
        card.clear(session.stale)
        if session.answers is None or session.answers.colours is None:
            card.sentence("Sampling stills and searching the shelf…", "quiet")
            return
        if row is None:
            card.sentence("No surface yet. Name one above the still and drag a patch over it.", "warn")
            return
        self._write_colour(row)
        if not session.build.all(ShelfPaint):
            card.sentence("The shelf is empty, so there is no recipe.", "warn")
            words = "Put the practice range on it (made-up paints)"
            card.button(words, self.put_practice_range, primary=True)
        if row.best is not None:
            self._write_recipe(row)
            self._write_batch(row)
        card.heading("Surfaces")
        for other in session.answers.colours.surfaces:
            best = other.best[0] if other.best else None
            words = f"{other.name}: " + (f"ΔE00 {best.delta_e:.1f}, {len(best.drops)} paints" if best else "no recipe")
            card.button(words, partial(session.select, other.surface_id))
        card.button(f"Remove {row.name}", partial(self._remove_surface, row))

    def _write_colour(self, row: SurfaceRow) -> None:
        card = self.card.answers
        card.heading(f"{row.name}: the object, light taken out")
        if row.colour is None:
            card.sentence(row.problem, "warn")
        else:
            card.figure(
                "colour, D65",
                model.lab_words(row.colour.lab).split("  a*")[0],
                f"± {1.96 * row.colour.sigma_l:.0f} in lightness (shading)",
            )
            card.sentence(model.certainty_words(row))
        for words in model.fault_words(row):
            card.sentence(words, "warn")

    def _write_recipe(self, row: SurfaceRow) -> None:
        assert row.best is not None
        card, recipe = self.card.answers, row.best[0]
        card.heading("Recipe in drops" + (", settled" if row.settled else ""))
        for name, count in recipe.drops:
            card.figure("", f"{count}", f"{'drops' if count > 1 else 'drop'} {name}")
        card.sentence(*model.closeness(recipe))
        card.sentence("Other mixes (a click settles on one):", "quiet")
        for other, _ in row.recipes:
            if other.drops != recipe.drops:
                words = f"ΔE00 {other.delta_e:.1f}: {model.recipe_words(other)}"
                button = card.button(_short(words), partial(self._settle, row, other))
                button.setToolTip(words)

    def _write_batch(self, row: SurfaceRow) -> None:
        card, wanted = self.card.answers, model.need(self.session.build, row)
        card.heading("How much to mix")
        if wanted.batch is None:
            card.sentence("No zone in Finish uses this surface yet.", "quiet")
            return
        card.figure(
            f"{wanted.area_cm2:.0f} cm², {wanted.coats} coats, cup losses and touch-up",
            f"{wanted.batch.millilitres:.0f} ml",
            f"the recipe {wanted.batch.repeats} times",
        )
        for name, count in wanted.batch.drops:
            card.sentence(f"{count * DROP_ML:.1f} ml {name} ({count} drops)", "quiet")

    def _remove_surface(self, row: SurfaceRow) -> None:
        self.session.commit(f"{row.name} removed", removal(self.session.build, row.surface_id))

    def _settle(self, row: SurfaceRow, recipe: Recipe) -> None:
        self.session.edit(f"recipe of {row.name}", self.session.build.entities[row.surface_id], drops=recipe.drops)


def _short(words: str) -> str:
    return words if len(words) <= 44 else words[:43] + "…"
