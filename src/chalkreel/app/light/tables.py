"""The tables of Light: lamps, supplies to choose from, rows, wires, readings."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from chalkreel.app.light import model
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.lengths import rough_length, small_length
from chalkreel.core.light.kinds import COLOURS, GATES, PACKAGES, USUAL_VOLTS, Gate
from chalkreel.document.light_entities import Lamp
from chalkreel.edits.removing import removal

GATE_TITLES: dict[Gate, str] = {
    "soldered": "soldered, mA", "before closing": "before closing", "closed": "closed", "on the stand": "on the stand",
}  # fmt: skip
# A reading that fits, but would with a lamp dark as well, is no tick.
VERDICTS = {"right": "✓ right", "fits": "fits: see each lit", "off": "✗ look"}


def lamp_table(session: Session) -> Table:
    """Kinds of lamp, with what their sheet says and what is wanted of each."""

    def put(lamp: Lamp, label: str, **fields: object) -> None:
        session.edit(f"{label} of {lamp.name}", lamp, **fields)

    def put_colour(lamp: Lamp, text: str) -> None:
        colour = next(c for c in COLOURS if c == text)
        put(lamp, "colour", colour=colour, forward_volts=USUAL_VOLTS[colour], sheet_ma=20.0, points=())

    def put_points(lamp: Lamp, text: str) -> None:
        volts, ma, more = model.points_from(text)
        checked = model.checked_lamp(lamp, forward_volts=volts, sheet_ma=ma, points=more)
        session.commit(f"voltage of {lamp.name}", {lamp.id: checked})

    def put_series(lamp: Lamp, text: str) -> None:
        series = None if text.strip() in ("", "best") else model.whole(text, model.count_from)
        put(lamp, "row", series=series)

    def put_package(lamp: Lamp, text: str) -> None:
        put(lamp, "size", package=text, strip_mm=50.0 if text.startswith("strip") else 0.0)

    def add() -> str:
        lamp = model.new_lamp(session.build)
        session.commit(lamp.name, {lamp.id: lamp})
        return lamp.id

    return Table(
        session,
        "Lamps",
        (
            Column("lamp", lambda a: a.name, lambda a, text: put(a, "name", name=text.strip() or a.name), stretch=True),
            Column("colour", lambda a: a.colour, put_colour, lambda: COLOURS),
            Column("size", lambda a: a.package, put_package, lambda: PACKAGES),
            Column("number", lambda a: str(a.count), lambda a, text: put(
                a, "number", count=model.whole(text, model.count_from)), right=True),
            Column("sheet: V at mA", model.points_words, put_points, stretch=True),
            Column("wanted, mA", lambda a: f"{a.current_ma:g}", lambda a, text: put(
                a, "current", current_ma=model.current_from(text)), right=True),
            Column("in a row", lambda a: "best" if a.series is None else str(a.series), put_series, right=True),
            Column("flashes", lambda a: "yes" if a.flashing else "no", lambda a, text: put(
                a, "flashing", flashing=text == "yes"), tick=True),
        ),
        lambda lamp: session.commit(f"{lamp.name} removed", removal(session.build, lamp.id)),
        add,
    )  # fmt: skip


def supply_table(session: Session) -> Table:
    """The circuit on other supplies, side by side."""

    def cell(place: int) -> Any:
        return lambda row: model.option_words(row)[place]

    return Table(
        session,
        "Supplies",
        (
            Column("supply", lambda r: r.supply.name, stretch=True),
            Column("lights", cell(5), state=lambda r: "bad" if r.wrong else "good" if r.option.lasts else "warn"),
            Column("light kept", cell(0), right=True),
            Column("to half", cell(1), right=True),
            Column("draws", cell(2), right=True),
            Column("heat", cell(3), right=True),
            Column("resistors", cell(4), right=True),
            Column("stand", cell(6), state=lambda r: {True: "good", False: "bad"}.get(r.fits, "plain")),
        ),
        key=lambda row: row.supply.name,
        sortable=False,
    )


def row_table(session: Session) -> Table:
    """The lamps of each kind alone, two in a row, three: the trade."""
    return Table(
        session,
        "Rows",
        (
            Column("lamp", lambda r: r.lamp, stretch=True),
            Column("in a row", lambda r: str(r.in_row), right=True),
            Column("light kept", lambda r: r.kept, right=True),
            Column("to half", lambda r: r.half, right=True),
            Column("draws", lambda r: r.ma, right=True),
            Column("heat", lambda r: r.heat, right=True),
            Column("resistors", lambda r: r.resistors, right=True),
            Column("now", lambda r: r.now, state=lambda r: "good" if r.lasts else "warn"),
        ),
        key=lambda row: f"{row.lamp_id}/{row.in_row}",
        sortable=False,
    )


def wire_table(session: Session) -> Table:
    """What each branch needs of wire."""

    def small(mm: float) -> str:
        return small_length(mm, session.build.info.unit)

    def length(row: Any) -> str:
        if row.one_way_mm is None:
            return "not known"
        return f"{rough_length(row.one_way_mm, session.build.info.unit)}{' as measured' if row.measured else ''}"

    return Table(
        session,
        "Wires",
        (
            Column("branch", lambda r: r.name, stretch=True),
            Column("wire", lambda r: r.wire.name, state=lambda r: "bad" if r.tight else "plain"),
            Column("its + is", lambda r: r.colour),
            Column("length, one way", length, right=True),
            Column("pairs", lambda r: str(r.count), right=True),
            Column("drill", lambda r: small(r.hole_mm), right=True),
            Column("groove", lambda r: f"{small(r.groove_mm[0])} × {small(r.groove_mm[1])}", right=True),
            Column("carries", lambda r: f"{r.ma:.0f} of {r.wire.steady_ma:.0f} mA", right=True,
                   state=lambda r: "bad" if r.tight else "plain"),
        ),
        key=lambda row: row.branch,
        sortable=False,
    )  # fmt: skip


def reading_table(session: Session) -> Table:
    """What each branch should draw, and what was read at each gate."""

    def gate_column(gate: Gate) -> Column:
        def put(row: model.BranchRow, text: str) -> None:
            session.commit(f"reading of {row.name}", model.reading_put(row, gate, text, datetime.now()))

        def get(row: model.BranchRow) -> str:
            found = dict(row.readings).get(gate)
            return f"{found.ma:g}" if found is not None else ""

        return Column(GATE_TITLES[gate], get, put, right=True)

    return Table(
        session,
        "Readings",
        (
            Column("branch", lambda r: f"{r.name} × {r.times}" if r.times > 1 else r.name, stretch=True),
            Column("should draw", lambda r: f"{r.ma:.1f} ± {r.plus_minus:.1f} mA", right=True),
            *map(gate_column, GATES),
            Column("so", lambda r: VERDICTS.get(r.verdict, ""),
                   state=lambda r: {"right": "good", "off": "bad"}.get(r.verdict, "warn" if r.verdict else "plain")),
        ),
        sortable=False,
    )  # fmt: skip
