"""The Colour stage: stills, mix, layers, pots and shelf of one surface, and the card."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QStackedWidget, QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.colour import model
from chalkreel.app.colour.desk import SamplingDesk
from chalkreel.app.colour.forms import surface_form, zone_form
from chalkreel.app.colour.layers_page import LayersPage
from chalkreel.app.colour.mix_page import MixPage
from chalkreel.app.colour.pots_page import PotsPage
from chalkreel.app.colour.report import Report
from chalkreel.app.colour.screen_page import ScreenPage
from chalkreel.app.colour.shelf_page import ShelfPage
from chalkreel.app.colour.stripes_page import StripesPage
from chalkreel.app.commands import Scope
from chalkreel.app.parts.fields import fill
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.tools import NEUTRAL, PATCH, ToolKind
from chalkreel.app.stills.view import StillView
from chalkreel.core.colour.recipe import Recipe
from chalkreel.document.paint_entities import Zone

PROMPTS: dict[str, str] = {
    "Stills": "N: a known grey. P, O or B: a patch of the surface. Take flat mid-tones, no glints.",
    "Mix": "Click a target at the left to aim at it; click a spot in the plot to settle on that recipe.",
    "Layers": "Each swatch touches the target above it: where the edge vanishes, the finish is right.",
    "Pots": "Write down what goes in; give the colour of the dry test swatch; then add what the card says.",
    "Shelf": "Enter edits a cell, Del takes a paint off the shelf.",
    "Stripes": "Name the bottles, print, paint, photograph: their paints come onto the shelf.",
    "Screen": "Look at each row in the light that you work in, the screen warm and at its usual brightness.",
}


class ColourStage(Stage):
    """Which drops from my shelf?"""

    name: StageName = "Colour"

    def __init__(self, session: Session, images: Images) -> None:
        self.desk, self.mix, self.layers = SamplingDesk(session, images), MixPage(), LayersPage(session)
        self.pots, self.shelf, self.stripes = PotsPage(session), ShelfPage(session), StripesPage(session)
        self.switch = PageSwitch(tuple(PROMPTS))
        self._of_page: dict[str, QWidget] = {
            "Stills": self.desk, "Mix": self.mix, "Layers": self.layers, "Pots": self.pots, "Shelf": self.shelf,
            "Stripes": self.stripes, "Screen": ScreenPage(),
        }  # fmt: skip
        self._room: Room = "usual"
        super().__init__(session, self._lay_out())
        self.report = Report(
            session, self.card.answers, self.shelf.put_practice_range, self.shelf.bring_my_shelf,
            self.switch.show_page, self.next_step, self._repaint,
        )  # fmt: skip
        self.form = surface_form(session, self._chosen)
        self.zone = QComboBox()
        self.zone.setAccessibleName("Zone whose layers are edited")
        self.zone_form = zone_form(session, self._chosen_zone)
        for widget in (self.form, self.zone, self.zone_form):
            self.card.form.addWidget(widget)
        self.zone.activated.connect(lambda _: self.zone_form.refresh())
        self.switch.changed.connect(self._page_changed)
        self.mix.pair.mode_chosen.connect(self._choose_mode)
        self.mix.trade.recipe_chosen.connect(self._settle)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        """What the page in front is for."""
        return PROMPTS[self.switch.page]

    def page_switch(self) -> PageSwitch:
        return self.switch

    def set_room(self, room: Room) -> None:
        super().set_room(room)
        self._room = room
        self._fold_pages()

    @property
    def picture_first(self) -> bool:
        return self.switch.page == "Stills"

    def _fold_pages(self) -> None:
        self.switch.set_room("close" if self.picture_first else self._room)

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"still": (self.desk.view,)}

    @property
    def view(self) -> StillView:
        """The still."""
        return self.desk.view

    def refresh(self) -> None:
        session, page = self.session, self.switch.page
        row = self._chosen()
        self._front.setCurrentWidget(self._of_page[page])
        shows: dict[str, Callable[[], None]] = {
            "Stills": lambda: self.desk.show_row(row),
            "Mix": lambda: self.mix.show_row(row, session.stale),
            "Layers": lambda: self.layers.show_row(row),
            "Pots": lambda: self.pots.show_row(row),
            "Shelf": lambda: self.shelf.show_row(row, session.answers.colours if session.answers else None),
            "Stripes": self.stripes.refresh,
            "Screen": lambda: None,
        }
        shows[page]()
        self.surface_name.setText(row.name if row else "")
        self.report.write(page, row, self.pots.chosen if page == "Pots" else None)
        self.form.setVisible(row is not None and page == "Mix")
        zones = [z for z in session.build.all(Zone) if row is not None and z.surface_id == row.surface_id]
        fill(self.zone, [(z.id, z.name) for z in zones])
        for widget in (self.zone, self.zone_form):
            widget.setVisible(bool(zones) and page == "Layers")
        self.form.refresh()
        self.zone_form.refresh()

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        self.switch.show_page("Stills")
        self.desk.use(kind)

    def lists(self) -> tuple[Table, ...]:
        return self.shelf.table, self.stripes.table, self.layers.table

    def begin(self, step: NextStep) -> None:
        if step.doing == "shelf":
            self.switch.show_page("Shelf")
        else:
            self.use(PATCH if step.doing == "patch" else NEUTRAL)

    def put_practice_range(self) -> None:
        """Put the shipped made-up paints on the shelf."""
        self.shelf.put_practice_range()

    def _lay_out(self) -> QWidget:
        centre, column = board()
        self._front = QStackedWidget()
        for page in self._of_page.values():
            self._front.addWidget(page)
        self.surface_name = PlainLabel()
        self.surface_name.setStyleSheet("font-weight: 600; font-size: 14px;")
        self.switch.row.addWidget(self.surface_name)
        column.addWidget(self.switch)
        column.addWidget(self._front, 1)
        return centre

    def _chosen(self) -> SurfaceRow | None:
        return model.chosen_row(self.session.answers, self.session.selection)

    def _chosen_zone(self) -> Zone | None:
        return self.session.build.get(Zone, self.zone.currentData() or "")

    def _page_changed(self) -> None:
        self._fold_pages()
        self.refresh()
        self.reframed.emit()
        if self.session.stage == self.name:
            self.session.resting_prompt = self.prompt
            self.session.rest()

    def _repaint(self) -> None:
        """All swatches are painted otherwise from now on."""
        self.refresh()
        self.centre.update()

    def _choose_mode(self, mode: str) -> None:
        row = self._chosen()
        if row is not None:
            self.session.edit(f"target of {row.name}", self.session.build.entities[row.surface_id], mode=mode, drops=())

    def _settle(self, recipe: Recipe) -> None:
        row = self._chosen()
        if row is not None:
            self.report.settle(row, recipe)
