"""The Light stage: the circuit drawn and judged, its lamps, what else could be done, routes, tests."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.commands import Scope
from chalkreel.app.light import model, page_words
from chalkreel.app.light.card import write_card
from chalkreel.app.light.diagram import WiringDiagram
from chalkreel.app.light.fade import FadeCurve
from chalkreel.app.light.forms import branch_form, display_form, fit_form, lamp_form, supply_form
from chalkreel.app.light.tables import lamp_table, reading_table, row_table, supply_table, wire_table
from chalkreel.app.light.wrong_panel import WrongPanel
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.page_switch import PageSwitch
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.stage import Stage, board, heading_row
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.document.light_entities import Lamp, LightBranch
from chalkreel.edits.removing import removal

if TYPE_CHECKING:
    from chalkreel.answers.lighting import Lighting, Solved

PAGES = ("Circuit", "Lamps", "What if", "Routes", "Tests")


class LightStage(Stage):
    """Will it light, and for how long?"""

    name: StageName = "Light"
    prompt = (
        "Click a branch or lamp. R turns a lamp, Del takes a branch apart. Drag a lamp to another branch, or beside "
        "them all."
    )

    prompts: Final = {
        "Circuit": prompt,
        "Lamps": "V at mA as on the sheet, parted by semicolons: 3.1 V at 20 mA; 2.7 V at 1 mA.",
        "What if": "Choose a supply or a row of lamps, then Take it.",
        "Routes": "Say where the lamps stand under Lamps, and on the card where the wires leave: they get lengths.",
        "Tests": "Type the mA that the meter shows in the + of each branch.",
    }

    def __init__(self, session: Session) -> None:
        self.switch = PageSwitch(PAGES)
        self.diagram, self.wrong, self.fade = WiringDiagram(), WrongPanel(), FadeCurve()
        self.lamps, self.supplies, self.rows = lamp_table(session), supply_table(session), row_table(session)
        self.wires, self.readings = wire_table(session), reading_table(session)
        self.lamps.hint = "No lamp yet: press Add lamp, or paste rows from a spreadsheet (Ctrl+V)."
        self.supplies.hint = "No circuit to try on other supplies yet."
        self.rows.hint = "Every lamp is wired by hand: the program plans no rows."
        self.wires.hint = self.readings.hint = "No branch yet."
        self.add, self.wire, self.turn = QPushButton("Add lamp"), QPushButton("Wire it as…"), QPushButton("Turn round")
        self.take = QPushButton("Take it")
        self.pages, self.dark = QStackedWidget(), PlainLabel("This model stays dark: there is nothing to light.")
        self.whether, self.routes_words, self.tests_words = PlainLabel(""), PlainLabel(""), PlainLabel("")
        super().__init__(session, self._lay_out())
        self.forms = {
            "branch": branch_form(session, self._branch), "lamp": lamp_form(session), "supply": supply_form(session),
            "fit": fit_form(session), "display": display_form(session),
        }  # fmt: skip
        for form in self.forms.values():
            self.card.form.addWidget(form)
        self.switch.changed.connect(self._turned)
        self.add.clicked.connect(self._add)
        self.turn.clicked.connect(self.turn_round)
        self.take.clicked.connect(self._take_option)
        self.wire.clicked.connect(self._offer_layouts)
        self.diagram.chosen.connect(self._choose)
        self.diagram.moved.connect(self._move)
        self.wrong.looked.connect(lambda _: self.refresh())
        self.wrong.previewed.connect(lambda _: self.refresh())
        self.wrong.taken.connect(self._cure)
        self.lamps.selectionModel().currentRowChanged.connect(lambda *_: self._row_chosen())
        self._at: tuple[int, int, int] | None = None
        self._turned()

    def _lay_out(self) -> QWidget:
        centre, column = board()
        for button in (self.wire, self.turn, self.take, self.add):
            button.setObjectName("tool")
            self.switch.row.addWidget(button)
        drawing = QScrollArea()
        drawing.setWidget(self.diagram)
        below = QHBoxLayout()
        below.addWidget(self.wrong, 5)
        below.addWidget(self.fade, 4)
        circuit = QVBoxLayout()
        circuit.addWidget(drawing, 5)
        circuit.addLayout(below, 3)
        for words in (self.whether, self.routes_words, self.tests_words):
            words.setWordWrap(True)
        what_if = QVBoxLayout()
        what_if.addLayout(heading_row("The same lamps on other supplies, resistors chosen anew"))
        what_if.addWidget(self.supplies, 3)
        what_if.addLayout(heading_row("Lamps in rows: fewer mA against light that lasts"))
        what_if.addWidget(self.rows, 2)
        self._page(circuit)
        self._page_of(self.lamps, self.whether)
        self._page(what_if)
        self._page_of(self.wires, self.routes_words)
        self._page_of(self.readings, self.tests_words)
        self.dark.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.switch)
        column.addWidget(self.pages, 1)
        column.addWidget(self.dark, 1)
        return centre

    def _page(self, layout: QVBoxLayout) -> None:
        page = QWidget()
        layout.setContentsMargins(0, 0, 0, 0)
        page.setLayout(layout)
        self.pages.addWidget(page)

    def _page_of(self, table: QWidget, *below: QWidget) -> None:
        layout = QVBoxLayout()
        layout.addWidget(table, 1)
        for widget in below:
            layout.addWidget(widget)
        self._page(layout)

    def key_places(self) -> dict[Scope, tuple[QWidget, ...]]:
        return {"wiring": (self.diagram,)}

    def page_switch(self) -> PageSwitch:
        return self.switch

    def lists(self) -> tuple[Table, ...]:
        return (self.lamps, self.readings)

    def begin(self, _: NextStep) -> None:
        self._add()

    def turn_to(self, page: str) -> None:
        """Show a page."""
        self.switch.show_page(page)

    def _turned(self) -> None:
        self.say(self.prompts[self.switch.page])
        self.pages.setCurrentIndex(PAGES.index(self.switch.page))
        self.refresh()

    def refresh(self) -> None:
        session, page = self.session, self.switch.page
        answers = session.answers
        lighting = answers.lighting if answers else None
        dark = session.build.info.dark
        self.pages.setVisible(not dark)
        self.switch.setVisible(not dark)
        self.dark.setVisible(dark)
        self.lamps.show_rows(session.build.all(Lamp))
        if answers is not None and lighting is not None and not dark:
            if page == "Circuit":
                self._show_circuit(lighting)
            self.supplies.show_rows(answers.light_options.supplies, session.stale)
            self.rows.show_rows(model.row_choices(session.build, answers.light_options.rows, lighting), session.stale)
            found = answers.routes
            self.wires.show_rows(found.rows if found else (), session.stale)
            self.routes_words.setText(page_words.routes_words(session.build, found))
            rows = model.branch_rows(session.build, lighting)
            self.readings.show_rows(rows, session.stale)
            self.tests_words.setText(page_words.tests_words(rows))
        self.whether.setText(page_words.whether_words(session.build, model.solved_of(lighting)))
        self._show_tools(page)
        write_card(self, lighting)

    def _show_tools(self, page: str) -> None:
        branch = self._branch()
        dark = self.session.build.info.dark
        self.add.setVisible(page in ("Circuit", "Lamps"))
        self.wire.setVisible(page == "Circuit")
        self.wire.setEnabled(self._planned_lamp() is not None)
        self.turn.setVisible(page == "Circuit")
        self.turn.setEnabled(branch is not None and self._at is not None and self._at[1] >= 0)
        self.take.setVisible(page == "What if")
        self.forms["branch"].setVisible(page in ("Circuit", "Routes") and branch is not None and not dark)
        self.forms["supply"].setVisible(page in ("Circuit", "Lamps", "What if") or dark)
        self.forms["lamp"].setVisible(
            page == "Lamps" and self.session.build.get(Lamp, self.session.selection) is not None
        )
        self.forms["display"].setVisible(page == "Lamps" and not dark)
        self.forms["fit"].setVisible(page == "Routes" and not dark)
        for form in self.forms.values():
            if not form.isHidden():
                form.refresh()

    # --- the circuit ---

    def _show_circuit(self, lighting: Lighting) -> None:
        from chalkreel.answers.light_words import cured_words

        session, found = self.session, lighting.solved
        answers = session.answers
        cured = answers.light_options.cured if answers is not None and not session.stale else ()
        self.fade.setVisible(found is not None and bool(session.build.all(Lamp)))
        if found is None or not session.build.all(Lamp):
            self.diagram.show_wiring(None, (), None)
            self.wrong.show_findings((), (), (), lighting.problem)
            self.fade.show_curve((), ())
            return
        gives = tuple(
            cured_words(f, found, c) if c is not None else "" for f, c in zip(found.findings, cured, strict=False)
        )
        self.wrong.show_findings(found.findings, cured, gives, page_words.NOTHING_FOUND)
        looked_at = cured[self.wrong.number] if self.wrong.number < len(cured) else None
        shown = looked_at or found if self.wrong.show_cured.isChecked() else found
        names = tuple(b.name for b in shown.circuit.branches)
        self.diagram.show_wiring(shown.wiring, names, self._at if shown is found else None)
        self._show_fade(shown)

    def _show_fade(self, shown: Solved) -> None:
        if shown.done is None:
            self.fade.show_curve((), (), empty="As long as it is plugged in, the light stays as it is.")
            return
        self.fade.show_curve(*page_words.fade(shown))

    def _solved(self) -> Solved | None:
        answers = self.session.answers
        return model.solved_of(answers.lighting if answers is not None else None)

    def _branch(self) -> LightBranch | None:
        """The branch that is chosen, where it is wired by hand."""
        return self.session.build.get(LightBranch, self.session.selection)

    def _choose(self, number: int, strand: int, place: int) -> None:
        found = self._solved()
        if found is None or number >= len(found.circuit.branches):
            return
        self._at = (number, strand, place)
        branch = found.circuit.branches[number]
        self.session.select(branch.id if branch.id in self.session.build.entities else self._kind_of(number))
        self.refresh()

    def _kind_of(self, number: int) -> str:
        """The lamp kind of a planned branch."""
        found = self._solved()
        if found is None or number >= len(found.circuit.branches):
            return ""
        return found.circuit.branches[number].strands[0].lamps[0].kind

    def _planned_lamp(self) -> Lamp | None:
        """The kind of lamp that is chosen, where the program still plans its rows."""
        lamp = self.session.build.get(Lamp, self.session.selection)
        answers = self.session.answers
        if lamp is None or answers is None or answers.lighting is None:
            return None
        planned = any(key.startswith(f"planned:{lamp.id}") for key in answers.lighting.planned)
        return lamp if planned else None

    def turn_round(self) -> None:
        """Turn the chosen lamp."""
        from chalkreel.edits.wiring import turned_lamp

        branch, at = self._branch(), self._at
        if branch is None or at is None or at[1] < 0:
            self.session.refused.emit("Choose a lamp of a branch that you have wired. Planned ones are always right.")
            return
        self.session.commit(f"a lamp of {branch.name} turned", turned_lamp(branch, at[1], at[2]))

    def _move(self, number: int, strand: int, place: int, to: int) -> None:
        from chalkreel.edits.wiring import moved_lamp

        found = self._solved()
        if found is None or self.session.stale:
            return
        branch, goal = found.circuit.branches[number], to if to >= 0 else None
        if goal is None and branch.times == 1 and [len(s.lamps) for s in branch.strands] == [1]:
            return  # it has a branch of its own
        edits = moved_lamp(self.session.build, found.circuit, (number, strand, place), goal)
        self._at = None
        name = "a branch of its own" if goal is None else found.circuit.branches[goal].name
        self.session.commit(f"lamp moved to {name}", edits)

    def delete_chosen(self, focus: QWidget) -> None:
        branch = self._branch()
        if focus is self.diagram and branch is not None:
            self._at = None
            self.session.commit(f"branch {branch.name} taken apart", removal(self.session.build, branch.id))

    def _offer_layouts(self) -> None:
        from chalkreel.edits.wiring import LAYOUTS

        lamp = self._planned_lamp()
        if lamp is None:
            return
        menu = QMenu(self.wire)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("as planned, resistors kept", partial(self.wire_planned, lamp))
        for layout in LAYOUTS:
            menu.addAction(layout, partial(self.wire_as, lamp, layout))
        menu.popup(self.wire.mapToGlobal(QPoint(0, self.wire.height())))

    def wire_planned(self, lamp: Lamp) -> None:
        """Take a kind's planned rows in hand as they are."""
        from chalkreel.edits.wiring import wired_as_planned

        found = self._solved()
        if found is not None and not self.session.stale:
            self._at = None
            edits = wired_as_planned(self.session.build, found.circuit, lamp.id)
            self.session.commit(f"{lamp.name} wired as planned", edits)

    def wire_as(self, lamp: Lamp, layout: str) -> None:
        """Make branches of a kind's lamps in one of the usual ways."""
        from chalkreel.edits.wiring import LAYOUTS, new_branches

        wanted = next(name for name in LAYOUTS if name == layout)

        def wire() -> None:
            edits = new_branches(self.session.build, lamp, wanted)
            self._at = None
            self.session.commit(f"{lamp.name} wired {layout}", edits)
            self.session.select(next(iter(edits)))

        attempt(self.session, wire)

    def _cure(self) -> None:
        """Do what the cure of the finding in hand says."""
        from chalkreel.edits.wiring import changed_circuit

        found = self._solved()
        if found is None or self.session.stale or self.wrong.number >= len(found.findings):
            return
        finding = found.findings[self.wrong.number]
        if finding.cure is None:
            return
        cure = finding.cure
        self._at = None
        self.wrong.show_cured.setChecked(False)
        edits = changed_circuit(self.session.build, found.asked, cure(found.asked))
        self.session.commit(f"cured: {finding.title}", edits)

    # --- lamps and options ---

    def _add(self) -> None:
        self.turn_to("Lamps")
        self.lamps.add_row()

    def _row_chosen(self) -> None:
        row = self.lamps.current
        if row is not None and row.id != self.session.selection and self.switch.page == "Lamps":
            self.session.select(row.id)

    def _take_option(self) -> None:
        """Take the supply or the rows of the row in hand."""
        if self.rows.hasFocus() and self.rows.current is not None:
            choice = self.rows.current
            lamp = self.session.build.get(Lamp, choice.lamp_id)
            if lamp is not None:
                self.session.edit(f"{lamp.name}: {choice.in_row} in a row", lamp, series=choice.in_row)
            return
        row = self.supplies.current
        if row is None:
            self.session.refused.emit("Choose a supply or a row of lamps in the tables first.")
            return
        supply = row.supply
        main = model.main_supply(self.session.build)
        self.session.edit(
            f"supply {supply.name}", main, supply_kind=supply.kind, cells=supply.cells, rows=1,
        )  # fmt: skip
