"""The Light stage: a drawn wiring diagram over the list of lamps."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.light import model
from chalkreel.app.light.diagram import WiringDiagram
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.stage import Stage, board, heading_row
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.light.circuit import FORWARD_VOLTS
from chalkreel.document.entities import SUPPLY_ID, Feature, Lamp, PowerSupply
from chalkreel.document.paint_entities import Zone
from chalkreel.edits.removing import removal


class LightStage(Stage):
    """Will it light, and for how long?"""

    name: StageName = "Light"
    prompt = "Choose the supply on the card, list the lamps below. Current runs from + through resistor and LED to −."

    def __init__(self, session: Session) -> None:
        self.diagram = WiringDiagram()
        self.lamps = Table(
            session,
            "Lamps",
            self._columns(session),
            lambda lamp: session.commit(f"{lamp.name} removed", removal(session.build, lamp.id)),
            self._add,
        )
        self.lamps.hint = "No lamp yet: press Add lamp, or paste rows from a spreadsheet (Ctrl+V)."
        centre, column = board()
        add = QPushButton("Add lamp")
        self.lit, self.dark = QWidget(), PlainLabel("This model stays dark: there is nothing to light.")
        lit = QVBoxLayout(self.lit)
        lit.setContentsMargins(0, 0, 0, 0)
        lit.addLayout(heading_row("Wiring: one resistor for each branch"))
        lit.addWidget(self.diagram, 3)
        lit.addLayout(heading_row("Lamps", add))
        lit.addWidget(self.lamps, 1)
        self.dark.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.lit, 1)
        column.addWidget(self.dark, 1)
        super().__init__(session, centre)
        add.clicked.connect(self.lamps.add_row)
        self.form = self._supply_form()
        self.card.form.addWidget(self.form)

    def lists(self) -> tuple[Table, ...]:
        return (self.lamps,)

    def begin(self, _: NextStep) -> None:
        self.lamps.add_row()

    def refresh(self) -> None:
        session = self.session
        self.lamps.show_rows(session.build.all(Lamp))
        found = session.answers.lighting if session.answers else None
        self.diagram.show_wiring(found.wiring if found else None)
        self.form.refresh()
        dark = session.build.info.dark
        self.lit.setVisible(not dark)
        self.dark.setVisible(dark)
        card = self.card.answers
        card.clear(session.stale)
        if dark:
            card.sentence("This model stays dark.")
            return
        self.next_step()
        if not session.build.all(Lamp):
            return
        if found is None or found.circuit is None:
            card.sentence(found.problem if found else "Working out the circuit…", "bad" if found else "quiet")
            return
        card.heading("The circuit")
        card.figure("supply", f"{found.power.volts:g} V", note=found.power.name)
        card.figure(
            "total current",
            f"{found.circuit.total_ma:.0f} mA",
            f"of about {found.power.limit_ma:.0f} mA",
            *model.load_words(found),
        )
        nominal = "nominal" if found.circuit.hours else ""
        card.figure("run time by the printed figures", model.run_time_words(found), nominal)
        card.sentence(model.NOMINAL, "warn")
        for words in found.circuit.warnings:
            card.sentence(words, "bad")
        card.heading("Resistors")
        for words in model.resistor_lines(found) or ("none yet",):
            card.sentence(words)
        card.heading("Mind")
        card.sentence(found.power.caution, "warn")
        card.sentence("Solder with ventilation and eye protection; test every branch before closing the hull.", "warn")
        card.rule()

    def _add(self) -> str:
        lamp = model.new_lamp(self.session.build)
        self.session.commit(lamp.name, {lamp.id: lamp})
        return lamp.id

    def _supply(self) -> PowerSupply:
        return self.session.build.get(PowerSupply, SUPPLY_ID) or PowerSupply(id=SUPPLY_ID)

    def _supply_form(self) -> Form:
        session, form = self.session, Form(self.session)
        form.choice(
            "Supply",
            lambda: model.SUPPLIES,
            lambda: self._supply().supply_kind,
            lambda key: session.edit("supply", self._supply(), supply_kind=key),
        )
        form.check(
            "This model stays dark",
            lambda: session.build.info.dark,
            lambda on: session.edit("model stays dark" if on else "model gets lamps", session.build.info, dark=on),
        )
        cells = model.bounded(1, 8, "The number of cells")
        form.text(
            "Cells in series",
            lambda: str(self._supply().cells),
            lambda text: session.edit("cells", self._supply(), cells=model.whole(text, cells)),
        )
        return form

    @staticmethod
    def _columns(session: Session) -> tuple[Column, ...]:
        def put(lamp: Lamp, label: str, **fields: object) -> None:
            session.edit(f"{label} of {lamp.name}", lamp, **fields)

        def put_colour(lamp: Lamp, text: str) -> None:
            put(lamp, "colour", colour=text, forward_volts=next(v for k, v in FORWARD_VOLTS.items() if k == text))

        def put_series(lamp: Lamp, text: str) -> None:
            series = None if text.strip() in ("", "best") else model.whole(text, model.count_from)
            put(lamp, "row", series=series)

        def assemblies() -> tuple[str, ...]:
            build = session.build
            names = [z.assembly for z in build.all(Zone)] + [f.assembly for f in build.all(Feature)]
            return tuple(dict.fromkeys(names)) or ("Hull",)

        return (
            Column("lamp", lambda a: a.name, lambda a, text: put(a, "name", name=text.strip() or a.name), stretch=True),
            Column("colour", lambda a: a.colour, put_colour, lambda: model.COLOURS),
            Column(
                "LEDs",
                lambda a: str(a.count),
                lambda a, text: put(a, "number", count=model.whole(text, model.count_from)),
                right=True,
            ),
            Column(
                "forward, V",
                lambda a: f"{a.forward_volts:.2f}",
                lambda a, text: put(a, "voltage", forward_volts=model.volts_from(text)),
                right=True,
            ),
            Column(
                "current, mA",
                lambda a: f"{a.current_ma:.1f}",
                lambda a, text: put(a, "current", current_ma=model.current_from(text)),
                right=True,
            ),
            Column("in a row", lambda a: "best" if a.series is None else str(a.series), put_series, right=True),
            Column(
                "flashing",
                lambda a: "yes" if a.flashing else "no",
                lambda a, text: put(a, "flashing", flashing=text == "yes"),
                tick=True,
            ),
            Column("in assembly", lambda a: a.assembly, lambda a, text: put(a, "assembly", assembly=text), assemblies),
        )
