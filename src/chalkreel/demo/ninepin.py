"""The whole demo build as one list of entities, and the file made from it."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

from chalkreel.demo import evidence, lights, photographs, reel
from chalkreel.document.entities import (
    BUILD_ID,
    AnyEntity,
    BuildInfo,
    Feature,
    FeatureInVersion,
    KitPart,
    LogEntry,
    Version,
)
from chalkreel.document.finish_entities import Assembly, Evening, KeptFinish
from chalkreel.document.paint_entities import Zone
from chalkreel.document.store import Store, digest

_PARTS: Final[tuple[dict[str, Any], ...]] = (
    {"id": "part-hull", "name": "A1–A2 hull halves", "fit_note": "0.4 mm step at the stern joint"},
    {"id": "part-deck", "name": "A3 deck", "fit_note": "deck joints shallow: scribe deeper", "calliper_mm": 112.1},
    {"id": "part-house", "name": "B1–B4 wheelhouse", "calliper_mm": 93.2},
    {"id": "part-fan", "name": "B7 fan shrouds", "calliper_mm": 50.0, "fit_note": "flange too narrow"},
    {"id": "part-fin-port", "name": "C2 port tail fin", "state": "missing"},
    {"id": "part-fin-stbd", "name": "C3 starboard tail fin", "calliper_mm": 44.1},
    {"id": "part-skirt", "name": "D1 skirt", "state": "warped", "fit_note": "2 mm high amidships"},
    {"id": "part-louvre", "name": "C9 louvres", "calliper_mm": 30.1},
    {"id": "part-clear", "name": "E clear runner", "state": "missing", "fit_note": "glaze from clear sheet"},
    {"id": "part-decals", "name": "Decal sheet, Special", "state": "damaged", "fit_note": "yellowed, number 12"},
)  # fmt: skip

# Feature, assembly, own choices, then (present, form, place, still) in Series and in Special.
_FEATURES: Final[tuple[tuple[str, str, dict[str, Any], tuple[Any, ...], tuple[Any, ...]], ...]] = (
    ("crane mast", "Deck", {"material": "0.75 mm rod and 1 mm strip, pinned", "hours": 4.0, "when": "after matte coat"},
     (True, "lattice boom", "amidships", "still-2"), (False, "", "", "still-5")),
    ("roof rack", "Wheelhouse", {"moulded_on": True}, (False, "", "", "still-3"),
     (True, "four bars", "roof", "still-5")),
    ("searchlights", "Wheelhouse", {"material": "3 mm tube, clear resin lens", "when": "after matte coat"},
     (True, "two lamps", "roof edge", "still-2"), (True, "four lamps", "roof edge", "still-5")),
    ("extra tanks", "Deck", {"moulded_on": True, "hours": 1.5}, (False, "", "", "still-3"),
     (True, "two tanks", "deck sides", "still-5")),
    ("hull number", "Hull", {"part_id": "part-decals", "material": "mask cut from tape, dark grey", "hours": 1.0,
                             "when": "after base colour"},
     (True, "9", "band, forward", "still-1"), (True, "12", "band, forward", "still-5")),
    ("port tail fin", "Hull", {"part_id": "part-fin-port", "dimension_id": "dim-Fin height, port",
                               "material": "2 × 0.75 mm sheet, laminated", "hours": 1.5},
     (True, "raked fin", "stern", "still-1"), (True, "raked fin", "stern", "still-5")),
    ("fan shrouds", "Deck", {"part_id": "part-fan", "dimension_id": "dim-Fan flange diameter",
                             "material": "0.5 mm sheet ring under the flange"},
     (True, "ring with flange", "aft", "still-3"), (True, "ring with flange", "aft", "still-5")),
    ("skirt", "Hull", {"part_id": "part-skirt"}, (True, "ribbed", "hull foot", "still-1"),
     (True, "ribbed", "hull foot", "still-5")),
    ("windows", "Wheelhouse", {"part_id": "part-clear", "material": "clear food-box sheet", "hours": 1.5,
                               "when": "after matte coat"},
     (True, "seven panes", "front and sides", "still-2"), (True, "seven panes", "front and sides", "still-5")),
    ("towing eye", "Hull", {}, (None, "", "", ""), (True, "ring", "stern", "")),
)  # fmt: skip

_ZONES: Final[tuple[dict[str, Any], ...]] = (
    {"name": "Hull sides", "assembly": "Hull", "surface_id": "surface-hull", "wear": ("pre-shade", "wash", "streaks"),
     "decals": True, "area_cm2": 310.0, "coats": 3},
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
        *evidence.stills(pictures), *(KitPart(**part) for part in _PARTS), *evidence.marks_on_stills(),
        *reel.dimensions(), *reel.reel_marks(), *reel.squared_up(pictures),
        *evidence.patches(), *evidence.shelf(), *evidence.pots(),
    ]  # fmt: skip
    for number, (name, assembly, choices, series, special) in enumerate(_FEATURES):
        feature_id = f"feature-{number}"
        found.append(Feature(id=feature_id, name=name, assembly=assembly, **choices))
        for version, (present, form, place, still) in (("series", series), ("special", special)):
            found.append(
                FeatureInVersion(id=f"{feature_id}-{version}", feature_id=feature_id, version_id=f"version-{version}",
                                 present=present, form=form, place=place, still_id=still)
            )  # fmt: skip
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
    *(f"Hull//{kind}" for kind in (*_PRIMED, *_CLOSED)), "Hull/port tail fin/add/1", "Hull/skirt/reshape/2",
    *(f"Deck//{kind}" for kind in _PRIMED), "Deck/extra tanks/remove/1", "Deck/fan shrouds/reshape/2",
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
