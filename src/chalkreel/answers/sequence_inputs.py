"""What a build says of its finishing sequence."""

from __future__ import annotations

from datetime import datetime

from chalkreel.answers.colours import Colours
from chalkreel.answers.conversion import Conversion
from chalkreel.answers.log import in_time
from chalkreel.answers.sequence import SequenceInputs
from chalkreel.core.bench.lessons import Lesson
from chalkreel.core.finish.drying import USUAL_ROOM, Room
from chalkreel.core.finish.redone import WrongLayer
from chalkreel.core.finish.schedule import Schedule, Slot
from chalkreel.core.finish.stacks import AssemblyPlan, Decal, Fact, Schools, ZonePlan
from chalkreel.core.finish.undercoats import hides_badly
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import BuildInfo, Source
from chalkreel.document.finish_entities import Assembly, Evening
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build


def sequence_inputs(build: Build, conversion: Conversion, colours: Colours | None, now: datetime) -> SequenceInputs:
    """What a build says of its sequence."""
    info = build.info
    log = build.all(LogEntry)
    lessons = tuple(Lesson(e.words, e.step_kind) for e in log if e.lesson)
    took = tuple((e.step_kind, e.minutes) for e in log if e.step_kind and e.minutes)
    dried = tuple((e.step_id, e.dry_hours, _room_of(e)) for e in log if e.step_id and e.dry_hours)
    return SequenceInputs(
        _assemblies(build, conversion, colours),
        Schools(info.chipping, info.filler, info.powders, info.canopy, info.gloss, info.wash),
        info.order, info.done, _done_at(build),
        info.first_bench_day, build.all(Evening), info.days_off, info.deadline,
        Room(info.room_c, info.room_humidity / 100, cabinet=info.cabinet), lessons, took, dried, info.minutes_left,
        _wrong(info), _taken(info), now,
    )  # fmt: skip


def _wrong(info: BuildInfo) -> tuple[WrongLayer, ...]:
    """Layers that went wrong, as long as their step is not done again."""
    return tuple(
        WrongLayer(one.step_id, one.medium, _wall(one.at))
        for one in info.wrong if one.step_id not in info.done
    )  # fmt: skip


def _taken(info: BuildInfo) -> Schedule | None:
    """The plan that was taken, as it was then."""
    if not info.plan:
        return None
    slots = [Slot(s.step_id, _wall(s.start), _wall(s.end), s.what) for s in info.plan]
    return Schedule(tuple(s for s in slots if s.step_id), (), tuple(s for s in slots if not s.step_id))


def _wall(text: str) -> datetime:
    """A time as the clock on the wall had it."""
    return datetime.fromisoformat(text).replace(tzinfo=None)


def _room_of(entry: LogEntry) -> Room:
    """The air of an entry; the usual where it was not said."""
    celsius = USUAL_ROOM.celsius if entry.room_c is None else entry.room_c
    humidity = USUAL_ROOM.humidity if entry.room_humidity is None else entry.room_humidity / 100
    return Room(celsius, humidity)


def _done_at(build: Build) -> tuple[tuple[str, datetime], ...]:
    """When steps ended: as ticked, else as the log has it."""
    logged = {e.step_id: _wall(e.at) for e in in_time(build.all(LogEntry)) if e.step_id}
    found = logged | {step_id: _wall(at) for step_id, at in build.info.done_at}
    return tuple((i, at) for i, at in found.items() if i in build.info.done)


def usual_facts(info: BuildInfo) -> tuple[Fact, ...]:
    """What holds of every assembly of which nothing else is told, where the build is made of one thing only."""
    by_source: dict[tuple[Source, ...], tuple[Fact, ...]] = {
        ("printed parts",): ("printed",), ("soft vinyl",): ("vinyl",)
    }  # fmt: skip
    return by_source.get(info.sources, ())


def _assemblies(build: Build, conversion: Conversion, colours: Colours | None) -> tuple[AssemblyPlan, ...]:
    zones = build.all(Zone)
    names = dict.fromkeys([z.assembly for z in zones] + [row.assembly for row in conversion.rows])
    lit = {lamp.assembly for lamp in build.all(Lamp)}
    facts = {assembly.name: assembly.facts for assembly in build.all(Assembly)}
    clear = {surface.id: surface.clear_over for surface in build.all(Surface)}
    shiny = frozenset(p.name for p in build.all(ShelfPaint) if p.sheen == "gloss")
    return tuple(
        AssemblyPlan(
            name,
            tuple(
                _zone(zone, colours, shiny, clear.get(zone.surface_id, "")) for zone in zones if zone.assembly == name
            ),
            tuple(row.operation for row in conversion.rows if row.assembly == name),
            name in lit,
            facts.get(name, usual_facts(build.info)),
        )
        for name in names
    )


def _zone(zone: Zone, colours: Colours | None, shiny: frozenset[str], clear_over: str) -> ZonePlan:
    row = next((s for s in colours.surfaces if s.surface_id == zone.surface_id), None) if colours else None
    words = "colour still to be found"
    if row is not None:
        words = row.name
        if row.best is not None:
            words += ": " + ", ".join(f"{count} {name}" for name, count in row.best[0].drops)
    # A colour that no still shows may be known as the mix's target.
    lab = row.colour.lab if row and row.colour else row.mixes.target.lab if row and row.mixes.target else None
    vivid = lab is not None and hides_badly(lab) and not clear_over
    drops = row.best[0].drops if row is not None and row.best is not None else ()
    return ZonePlan(
        zone.name, zone.assembly, words, zone.medium, zone.sheen, zone.role, zone.wear, zone.decals,
        lab[0] if lab else None, zone.coats, row.name if row else f"{zone.name}'s colour",
        vivid, tuple(Decal(one.name, one.under) for one in zone.decal_list),
        bool(drops) and all(name in shiny for name, _ in drops),
        filtered=bool(zone.filter_drops), clear_over=clear_over,
    )  # fmt: skip
