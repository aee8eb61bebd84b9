"""The Convert stage: what came in the box, features by version, jobs, cut list, stock, orders."""

from __future__ import annotations

from typing import Final

from PySide6.QtWidgets import QPushButton, QStackedWidget, QWidget

from chalkreel.answers.conversion import JobOffer
from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.convert import forms, model
from chalkreel.app.convert.box import BoxPage
from chalkreel.app.convert.card import write_card
from chalkreel.app.convert.cuts import CutsPage
from chalkreel.app.convert.jobs import JobsPage
from chalkreel.app.convert.orders import OrdersPage
from chalkreel.app.convert.stock import StockPage
from chalkreel.app.convert.versions import VersionsPage
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.stage import Stage, board
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.document.entities import Feature

PAGES: Final = ("Box", "Versions", "Jobs", "Cuts", "Stock", "Orders")
PROMPTS: Final = {
    "Box": "Click a part or type its number, then one letter. PgDn: next runner. What is not named is here.",
    "Versions": "Say how the kit and the version have each feature: “form at place”, “not there” or “?”. Jobs follow.",
    "Jobs": "Choose a job: it is ringed on the drawing. Material, hours and when are yours to change.",
    "Cuts": "Click a piece: it is lit on sheet and list. Numbers are cuts in their order, along the ruler.",
    "Stock": "What you own, as measured. Ins adds a row; Ctrl+V pastes rows from a spreadsheet.",
    "Orders": "Usual and worst days: “14, 60”. Type today where something was ordered or came.",
}

Page = BoxPage | VersionsPage | JobsPage | CutsPage | StockPage | OrdersPage


class ConvertStage(Stage):
    """What must I change, from what stock?"""

    name: StageName = "Convert"
    prompt = PROMPTS["Box"]

    def __init__(self, session: Session, images: Images) -> None:
        self.switch, self.pages = PageSwitch(PAGES), QStackedWidget()
        self.box, self.versions, self.jobs = BoxPage(session, images), VersionsPage(session, images), JobsPage(session)
        self.cuts, self.stock, self.orders = CutsPage(session), StockPage(session), OrdersPage(session)
        self._writing = False
        super().__init__(session, self._lay_out())
        self.forms = {
            "Box": forms.box_form(session, lambda: self.box.part_id), "Cuts": forms.piece_form(session, self.cuts),
            "kit": forms.kit_form(session), "Versions": forms.version_form(session),
            "cutting": forms.cutting_form(session), "Jobs": forms.job_form(session, self._job_feature),
            "Stock": forms.stock_form(session, self.stock),
        }  # fmt: skip
        for form in (self.versions.form, *self.forms.values()):
            self.card.form.addWidget(form)
        self.switch.changed.connect(self._turned)
        self.box.view.chosen.connect(lambda _: self.refresh())
        for table in (self.cuts.table, self.jobs.table, self.stock.table, self.orders.table):
            table.selectionModel().currentRowChanged.connect(lambda *_: self._row_chosen())
        self.switch.show_page("Box" if "kit" in session.build.info.sources else "Versions")

    def _lay_out(self) -> QWidget:
        centre, column = board()
        self.tools: dict[str, QPushButton] = {
            "Versions": self.versions.add, "Jobs": self.jobs.add, "Cuts": self.cuts.add, "Save": self.cuts.save,
            "Stock": self.stock.add, "Stock in": self.stock.inward, "Stock out": self.stock.outward,
            "Orders": self.orders.add,
        }  # fmt: skip
        for button in self.tools.values():
            button.setObjectName("tool")
            self.switch.row.addWidget(button)
        for page in (self.box, self.versions, self.jobs, self.cuts, self.stock, self.orders):
            self.pages.addWidget(page)
        self.cuts.add.clicked.connect(self.cuts.table.add_row)
        column.addWidget(self.switch)
        column.addWidget(self.pages, 1)
        return centre

    def page_switch(self) -> PageSwitch:
        return self.switch

    def lists(self) -> tuple[Table, ...]:
        return (self.versions.table, self.stock.table, self.orders.table)

    def begin(self, step: NextStep) -> None:
        if step.doing == "list parts":
            self.turn_to("Box")
            self.box.ranges.setFocus()
        else:
            self.turn_to("Versions")
            self.versions.table.add_row()

    def turn_to(self, page: str) -> None:
        """Show a page."""
        self.switch.show_page(page)

    def _turned(self) -> None:
        self.pages.setCurrentIndex(PAGES.index(self.switch.page))
        self.say(PROMPTS[self.switch.page])
        self.refresh()

    def refresh(self) -> None:
        page = self.switch.page
        for name, button in self.tools.items():
            button.setVisible(name.startswith(page) or (name == "Save" and page == "Cuts"))
        shown: dict[str, Page] = {
            "Box": self.box, "Versions": self.versions, "Jobs": self.jobs, "Cuts": self.cuts, "Stock": self.stock,
            "Orders": self.orders,
        }  # fmt: skip
        self._writing = True
        shown[page].refresh()
        self._writing = False
        self._write_card()

    def _write_card(self) -> None:
        card, answers = self.card.answers, self.session.answers
        card.clear(self.session.stale)
        if answers is None:
            card.sentence("Comparing versions…", "quiet")
        else:
            write_card(self, answers)
        self._show_forms()

    def _row_chosen(self) -> None:
        """The card follows the row in hand."""
        if not self._writing:
            self._write_card()

    def _show_forms(self) -> None:
        page = self.switch.page
        wanted = {
            "Box": page == "Box" and bool(self.box.part_id), "kit": page == "Box", "Versions": page == "Versions",
            "Jobs": page == "Jobs" and self.jobs.row is not None,
            "Cuts": page == "Cuts" and self.cuts.piece is not None, "cutting": page == "Cuts",
            "Stock": page == "Stock" and self.stock.piece is not None,
        }  # fmt: skip
        for name, form in self.forms.items():
            form.setVisible(wanted[name])
            if wanted[name]:
                form.refresh()
        self.versions.form.setVisible(page == "Versions" and self.versions.feature is not None)

    def _job_feature(self) -> str:
        return self.jobs.row.feature_id if self.jobs.row is not None else ""

    def make_jobs(self, offers: tuple[JobOffer, ...]) -> None:
        """Let what parts ask for become jobs."""
        from chalkreel.edits.intake import jobs_made

        attempt(
            self.session,
            lambda: self.session.commit(
                f"{len(offers)} jobs from the box", jobs_made(self.session.build, offers).edits
            ),
        )

    def make_orders(self, found: tuple[Feature, ...]) -> None:
        """An order for each part that is to be had from elsewhere."""
        self.session.commit(f"{len(found)} orders", model.orders_for(found))

    def tell_templates(self, piece_ids: tuple[str, ...], thick_mm: float) -> None:
        """Templates of which nobody has said how thick are cut from one sheet."""
        from chalkreel.edits.cutting import all_templates_told

        edits = all_templates_told(self.session.build, piece_ids, thick_mm)
        self.session.commit("thickness of the templates", edits)

    def cut_now(self, number: int) -> None:
        """All pieces of one material and thickness are cut."""
        from chalkreel.edits.cutting import cut_now

        answers = self.session.answers
        if answers is None or answers.cuts is None or self.session.stale:
            self.session.refused.emit("Still laying out: try again when the sheets are no longer greyed.")
            return
        group = answers.cuts.groups[number]
        found = answers.cuts
        attempt(
            self.session,
            lambda: self.session.commit(
                f"cut: {group.material} {group.form}", cut_now(self.session.build, found, group)
            ),
        )
