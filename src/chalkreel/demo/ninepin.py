"""The whole demo build as one list of entities, and the file made from it."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

from chalkreel.demo import conversion, evidence, lights, photographs, reel
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import BUILD_ID, AnyEntity, BuildInfo, Version
from chalkreel.document.finish_entities import Assembly, Evening, KeptFinish
from chalkreel.document.paint_entities import Zone, ZoneDecal
from chalkreel.document.store import Store, digest

_ZONES: Final[tuple[dict[str, Any], ...]] = (
    {"name": "Hull sides", "assembly": "Hull", "surface_id": "surface-hull", "wear": ("pre-shade", "wash", "streaks"),
     "decals": True, "area_cm2": 310.0, "coats": 3,
     "decal_list": (ZoneDecal(name="arrow at the louvres", under=True), ZoneDecal(name="9, port"),
                    ZoneDecal(name="9, starboard"))},
    {"name": "Hazard band", "assembly": "Hull", "surface_id": "surface-band_series", "role": "stripe",
     "area_cm2": 48.0},
    {"name": "Skirt", "assembly": "Hull", "surface_id": "surface-skirt", "role": "stripe", "wear": ("powders",),
     "area_cm2": 120.0},
    {"name": "Deck plating", "assembly": "Deck", "surface_id": "surface-deck",
     "wear": ("chipping", "wash", "dry-brush"), "area_cm2": 260.0},
    {"name": "Fan lips", "assembly": "Deck", "surface_id": "", "role": "bright metal", "sheen": "gloss",
     "area_cm2": 14.0},
    {"name": "Wheelhouse", "assembly": "Wheelhouse", "surface_id": "surface-hull", "wear": ("wash",),
     "area_cm2": 140.0, "coats": 3},
    {"name": "Windows", "assembly": "Wheelhouse", "surface_id": "", "role": "glass", "sheen": "gloss",
     "area_cm2": 18.0},
    {"name": "Crane lattice", "assembly": "Crane", "surface_id": "", "role": "metal", "medium": "lacquer",
     "sheen": "satin", "wear": ("wash", "dry-brush"), "area_cm2": 22.0},
)  # fmt: skip

_ASSEMBLIES: Final = (
    Assembly(id="assembly-hull", name="Hull", facts=("shallow lines", "two halves")),
    Assembly(id="assembly-wheelhouse", name="Wheelhouse", facts=("glue faces",)),
)
_FINISHES: Final = (
    KeptFinish(id="finish-deck", name="working deck", sheen="matte", wear=("chipping", "wash", "dry-brush")),
)


def entities(pictures: dict[str, bytes], photo: bytes) -> list[AnyEntity]:
    """Everything in the demo build."""
    info = BuildInfo(
        id=BUILD_ID, name="Ninepin, Series version", story_mm=18_600.0, miniature_mm=775.0, replica_mm=387.5,
        version_id="version-series", kit_version_id="version-special", first_bench_day="2026-12-01",
        space_name="Showcase shelf", space_mm=420.0, done=_DONE,
        deadline="2027-03-20", days_off=(("2026-12-24", "2026-12-26"),),
    )  # fmt: skip
    found: list[AnyEntity] = [
        info, Version(id="version-series", name="Series"), Version(id="version-special", name="Special"),
        *evidence.stills(pictures), *evidence.marks_on_stills(),
        *reel.dimensions(), *reel.reel_marks(), *reel.squared_up(pictures),
        *evidence.patches(), *evidence.shelf(), *evidence.clears(), *evidence.stripes(),
        *evidence.chips(), *evidence.pots(),
    ]  # fmt: skip
    found += conversion.conversion()
    found += lights.lights()
    found += [Zone(id=f"zone-{zone['name']}", **zone) for zone in _ZONES]
    found += [
        *_ASSEMBLIES,
        *_FINISHES,
        Evening(id="evening-tue", weekday=1, start="19:30", end="22:00"),
        Evening(id="evening-thu", weekday=3, start="19:30", end="22:00"),
        Evening(id="evening-sat", weekday=5, start="14:00", end="18:00"),
    ]
    return found + _log(photo) + photographs.photographs()


# Hull and deck stand primed; of the rest only what their log says is known.
_PRIMED: Final = ("clean", "fill", "sand", "prime", "inspect")
_CLOSED: Final = ("scribe", "drill", "black inside", "silver inside", "wire", "test lights", "close", "test again")
_DONE: Final = (
    *(f"Hull//{kind}" for kind in (*_PRIMED, *_CLOSED)), "Hull/port tail fin/add", "Hull/skirt/straighten",
    *(f"Deck//{kind}" for kind in _PRIMED), "Deck/extra tanks/remove", "Deck/fan shrouds/lengthen",
)  # fmt: skip


def _log(photo: bytes) -> list[AnyEntity]:
    return [
        LogEntry(id="log-1", at="2026-11-14T15:20", words="Opened the box: clear runner gone, one tail fin missing. "
                 "Dry fit good but for the stern joint.", photo=digest(photo), minutes=70, cost=38.0),
        LogEntry(id="log-2", at="2026-11-17T20:10", words="Washed hull and deck in warm soapy water, each.", minutes=22,
                 step_id="Hull//clean", step_kind="clean"),
        LogEntry(id="log-3", at="2026-11-17T21:30", words="Tape pulled a skin off the last hull: wait a full day "
                 "before masking and press the edge only.", step_kind="stripe", lesson=True),
        LogEntry(id="log-4", at="2026-11-19T20:40", words="Primer spat at 2 bar. Next time 1.5 bar and a test on card "
                 "first.", step_kind="prime", lesson=True),
        LogEntry(id="log-5", at="2026-11-21T16:00", words="Bought rod, strip and clear sheet.", minutes=30, cost=14.5),
    ]  # fmt: skip


def create_demo(path: Path) -> Store:
    """Write the demo build to a new file."""
    pictures = evidence.still_bytes() | reel.squared_bytes()
    photo = evidence.DATA.joinpath("bench-dry-fit.jpg").read_bytes()
    taken = photographs.photograph_bytes()
    blobs = {digest(data): data for data in (*pictures.values(), photo, *taken.values())}
    return Store.create(path, {entity.id: entity for entity in entities(pictures, photo)}, blobs)
