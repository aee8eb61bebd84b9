"""The tables of Finish: steps, zones, bench evenings."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from chalkreel.answers.zone_areas import ZoneArea, area_of
from chalkreel.app.finish import model
from chalkreel.app.finish.folds import EveningRow
from chalkreel.app.parts.columns import NO, YES, Column
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.calendar import WEEKDAYS
from chalkreel.core.finish.stacks import FACTS, Fact
from chalkreel.document.entity import new_id
from chalkreel.document.finish_entities import Assembly, Evening
from chalkreel.document.paint_entities import Surface, Zone
from chalkreel.document.snapshot import Build
from chalkreel.edits.removing import removal

FACT_WORDS = {
    "shallow lines": "shallow lines",
    "foam": "of foam",
    "glue faces": "glue faces",
    "two halves": "in two halves",
    "printed": "printed",
    "vinyl": "soft vinyl",
}


def step_table(session: Session, move: Callable[[Any, int], object]) -> Table:
    """Steps in the order that stands, under their evenings."""

    def of(write: Callable[[Any], str]) -> Callable[[Any], str]:
        return lambda row: "" if isinstance(row, EveningRow) else write(row)

    def rule(row: Any) -> str:
        if isinstance(row, EveningRow):
            return f"✗ {row.wrong} broken" if row.wrong else ""
        return "✗ broken" if row.broken else "✓"

    return Table(
        session,
        "Steps",
        (
            Column("", of(lambda r: str(r.number)), right=True),
            Column("when", of(lambda r: r.when), state=lambda r: "good" if getattr(r, "done", False) else "plain"),
            Column("step", lambda r: r.title if isinstance(r, EveningRow) else r.step.title, stretch=True),
            Column("assembly", of(lambda r: r.step.assembly)),
            Column("min", lambda r: str(r.minutes if isinstance(r, EveningRow) else r.step.minutes), right=True),
            Column("rule", rule, state=lambda r: "bad" if rule(r).startswith("✗") else "good"),
        ),
        key=lambda row: f"evening {row.id}" if isinstance(row, EveningRow) else row.step.id,
        sortable=False,
        move=move,
    )


def zone_table(session: Session) -> Table:
    """Zones: one finish each."""

    def put(zone: Zone, label: str, **fields: object) -> None:
        session.edit(f"{label} of {zone.name}", zone, **fields)

    def put_assembly(zone: Zone, text: str) -> None:
        put(zone, "assembly", assembly=text.strip() or zone.assembly)

    def put_surface(zone: Zone, text: str) -> None:
        surface = next((s for s in session.build.all(Surface) if s.name == text), None)
        put(zone, "surface", surface_id=surface.id if surface else "")

    def put_coats(zone: Zone, text: str) -> None:
        put(zone, "coats", coats=int(model.number_between(text, 1, 20, "The number of coats")))

    def area(zone: Zone) -> ZoneArea:
        return area_of(zone, session.answers.areas if session.answers is not None else {})

    def put_area(zone: Zone, text: str) -> None:
        if area(zone).basis:
            raise RefusedError(
                "Its area follows from its faces or sizes. Take those from it first: Measure, Drawing; Colour, Layers."
            )
        put(zone, "area", area_cm2=model.number_between(text, 0.1, 1e6, "An area in cm²"))

    def put_finish(zone: Zone, text: str) -> None:
        finish = model.finish_named(session.build, text)
        put(zone, "finish", role=finish.role, sheen=finish.sheen, wear=finish.wear)

    return Table(
        session,
        "Zones",
        (
            Column("zone", lambda z: z.name, lambda z, text: put(z, "name", name=text.strip() or z.name), stretch=True),
            Column("assembly", lambda z: z.assembly, put_assembly),
            Column(
                "surface",
                lambda z: model.zone_surface(session.build, z),
                put_surface,
                lambda: ("", *(s.name for s in session.build.all(Surface))),
            ),
            Column(
                "finish",
                lambda z: model.finish_of(session.build, z),
                put_finish,
                lambda: model.finish_names(session.build),
                stretch=True,
            ),
            Column(
                "medium", lambda z: z.medium, lambda z, text: put(z, "medium", medium=text), lambda: model.MEDIUM_NAMES
            ),
            Column(
                "decals",
                lambda z: "yes" if z.decals else "no",
                lambda z, text: put(z, "decals", decals=text == "yes"),
                tick=True,
            ),
            Column("coats", lambda z: str(z.coats), put_coats, right=True),
            Column("area, cm²", lambda z: area(z).words(), put_area, right=True),
        ),
        lambda zone: session.commit(f"{zone.name} removed", removal(session.build, zone.id)),
        lambda: _added(session, new_zone(session.build)),
    )


def evening_table(session: Session) -> Table:
    """Weekly bench sessions."""

    def put_clock(evening: Evening, field: str, text: str) -> None:
        value = model.clock(text)
        start, end = (value, evening.end) if field == "start" else (evening.start, value)
        if start == end:
            raise RefusedError("A bench evening must have some length. It may end past midnight: 21:00 to 00:30.")
        session.edit("bench evening", evening, **{field: value})

    return Table(
        session,
        "Bench evenings",
        (
            Column(
                "weekday",
                lambda e: WEEKDAYS[e.weekday] if not e.day else "",
                lambda e, text: session.edit("bench evening", e, weekday=WEEKDAYS.index(text), day=""),
                lambda: WEEKDAYS,
                stretch=True,
            ),
            Column(
                "or on one day only",
                lambda e: e.day,
                lambda e, text: session.edit("bench evening", e, day=model.day_from(text)),
            ),
            Column("from", lambda e: e.start, lambda e, text: put_clock(e, "start", text)),
            Column("to", lambda e: e.end, lambda e, text: put_clock(e, "end", text)),
        ),
        lambda evening: session.commit("bench evening removed", removal(session.build, evening.id)),
        lambda: _added(session, new_evening()),
    )


def assembly_table(session: Session) -> Table:
    """What is known of the parts of each assembly: it changes how they are prepared."""

    def fact_column(fact: Fact) -> Column:
        return Column(
            FACT_WORDS[fact],
            lambda row: YES if fact in row.facts else NO,
            lambda row, text: _put_assembly(session, model.fact_put(row, fact, text == YES)),
            tick=True,
        )

    return Table(
        session, "Assemblies", (Column("assembly", lambda row: row.name, stretch=True), *map(fact_column, FACTS))
    )


def _put_assembly(session: Session, assembly: Assembly) -> None:
    session.commit(f"parts of {assembly.name}", {assembly.id: assembly})


def _added(session: Session, entity: Zone | Evening) -> str:
    session.commit(entity.name if isinstance(entity, Zone) else "bench evening", {entity.id: entity})
    return entity.id


def new_zone(build: Build) -> Zone:
    """A matte zone of 50 cm² on the first assembly."""
    zones = build.all(Zone)
    return Zone(
        id=new_id(), name=f"Zone {len(zones) + 1}", assembly=zones[0].assembly if zones else "Hull", surface_id=""
    )


def new_evening() -> Evening:
    """A Wednesday evening."""
    return Evening(id=new_id(), weekday=2, start="19:30", end="22:00")
