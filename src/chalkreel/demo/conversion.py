"""The demo's conversion: what came in the box, features by version, stock, pieces to cut, orders."""

from __future__ import annotations

from typing import Any, Final

from chalkreel.core.convert.kinds import PartState
from chalkreel.demo.reel import landmark_id
from chalkreel.document.convert_entities import CUTTING_ID, KIT_ID, CutPiece, Cutting, KitRecord, Order, StockPiece
from chalkreel.document.entities import AnyEntity, Feature, FeatureInVersion, KitPart

_PARTS: Final[tuple[dict[str, Any], ...]] = (
    {"id": "part-hull", "name": "A1–A2 hull halves", "fit_note": "0.4 mm step at the stern joint"},
    {"id": "part-deck", "name": "A3 deck", "fit_note": "deck joints shallow: scribe deeper", "calliper_mm": 112.1},
    {"id": "part-house", "name": "B1–B4 wheelhouse", "calliper_mm": 93.2},
    {"id": "part-fan", "name": "B7–B8 fan shrouds", "calliper_mm": 50.0, "fit_note": "flange too narrow"},
    {"id": "part-hatch", "name": "B12 roof hatch", "state": "damaged", "fit_note": "one corner broken off"},
    {"id": "part-fin-port", "name": "C2 port tail fin", "state": "missing"},
    {"id": "part-fin-stbd", "name": "C3 starboard tail fin", "calliper_mm": 44.1},
    {"id": "part-louvre", "name": "C9 louvres", "calliper_mm": 30.1},
    {"id": "part-skirt", "name": "D1 skirt", "state": "warped", "fit_note": "2 mm high amidships"},
    {"id": "part-clear", "name": "E1–E9 clear runner", "state": "missing", "fit_note": "glaze from clear sheet"},
    {"id": "part-decals", "name": "Decal sheet, Special", "state": "damaged", "fit_note": "yellowed, number 12"},
)  # fmt: skip
# How many parts hang on each runner.
_RUNNERS: Final = {"A": 17, "B": 16, "C": 12, "D": 4}

# Feature, assembly, own choices, then (present, form, place, still) in Series and in Special.
_FEATURES: Final[tuple[tuple[str, str, dict[str, Any], tuple[Any, ...], tuple[Any, ...]], ...]] = (
    ("crane mast", "Deck", {"material": "0.75 mm rod and 1 mm strip, pinned", "hours": 4.0, "when": "after matte coat",
                            "also": ("pin",)},
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
    ("towing eye", "Hull", {"late": True}, (None, "", "", ""), (True, "ring", "stern", "")),
)  # fmt: skip

# Where features sit.
_SITS_AT: Final = {
    "crane mast": "house foot, aft", "roof rack": "hatch corner, forward", "searchlights": "house roof, forward",
    "extra tanks": "deck plate, aft", "hull number": "band top at forward joint", "skirt": "hull foot, forward",
    "windows": "forward window, top forward",
}  # fmt: skip
_CLEAR_OFFCUT: Final = ((0.0, 0.0), (150.0, 0.0), (150.0, 38.0), (94.0, 38.0), (94.0, 72.0), (0.0, 72.0))
_STOCK: Final[tuple[dict[str, Any], ...]] = (
    {"name": "styrene 0.75", "thick_mm": 0.76, "long_mm": 330.0, "wide_mm": 200.0, "count": 2, "price": 3.2},
    {"name": "styrene 0.5", "thick_mm": 0.51, "long_mm": 330.0, "wide_mm": 200.0, "price": 2.9},
    {"name": "styrene 0.25", "thick_mm": 0.26, "long_mm": 330.0, "wide_mm": 200.0, "price": 2.7},
    {"name": "end of 0.5", "thick_mm": 0.51, "long_mm": 118.0, "wide_mm": 58.0, "offcut": True},
    {"name": "clear 0.4", "material": "clear", "thick_mm": 0.4, "long_mm": 150.0, "wide_mm": 72.0, "offcut": True,
     "corners": _CLEAR_OFFCUT, "where": "window box"},
    {"name": "strip 1 × 1", "form": "strip", "thick_mm": 1.0, "wide_mm": 1.0, "long_mm": 250.0, "count": 5,
     "price": 0.4},
    {"name": "end of strip", "form": "strip", "thick_mm": 1.0, "wide_mm": 1.0, "long_mm": 92.0, "offcut": True},
    {"name": "brass rod 0.8", "form": "rod", "material": "brass", "thick_mm": 0.8, "wide_mm": 0.8, "long_mm": 305.0,
     "count": 2, "price": 0.9},
)  # fmt: skip
_PIECES: Final[tuple[dict[str, Any], ...]] = (
    {"name": "port tail fin", "shape": "template", "source_id": "outline-fin", "thick_mm": 1.75,
     "feature_id": "feature-5"},
    {"name": "ramp door rib", "sizes_mm": (66.0, 45.0), "thick_mm": 0.76, "count": 2},
    {"name": "joint backing", "sizes_mm": (120.0, 13.5), "thick_mm": 0.76, "count": 3, "along_grain": True},
    {"name": "tank scar", "sizes_mm": (56.0, 20.0), "thick_mm": 0.76, "count": 2, "feature_id": "feature-3"},
    {"name": "mast base", "shape": "box", "sizes_mm": (26.0, 20.0, 6.0), "thick_mm": 0.76, "feature_id": "feature-0"},
    {"name": "fan ring", "shape": "ring", "sizes_mm": (51.9, 42.0), "thick_mm": 0.51, "count": 2,
     "feature_id": "feature-6"},
    {"name": "bow coaming", "shape": "bend", "sizes_mm": (30.0, 8.0, 22.0, 1.0, 90.0), "thick_mm": 0.51},
    {"name": "front pane", "sizes_mm": (27.0, 26.0), "material": "clear", "thick_mm": 0.4, "count": 3,
     "feature_id": "feature-8"},
    {"name": "side pane", "sizes_mm": (22.0, 18.0), "material": "clear", "thick_mm": 0.4, "count": 4,
     "feature_id": "feature-8"},
    {"name": "mast rail", "shape": "length", "form": "strip", "sizes_mm": (86.0, 1.0), "thick_mm": 1.0, "count": 4,
     "feature_id": "feature-0"},
    {"name": "mast brace", "shape": "length", "form": "strip", "sizes_mm": (12.2, 1.0), "thick_mm": 1.0, "count": 12,
     "feature_id": "feature-0"},
)  # fmt: skip


def conversion() -> list[AnyEntity]:
    """Box, features, stock, pieces and orders."""
    found: list[AnyEntity] = [KitPart(**part) for part in _PARTS]
    named = {"A": {1, 2, 3}, "B": {1, 2, 3, 4, 7, 8, 12}, "C": {2, 3, 9}, "D": {1}}
    worse: dict[str, PartState] = {"A9": "short", "C7": "warped", "D3": "brittle"}
    found += [
        KitPart(id=f"part-{runner}{n}", name=f"{runner}{n}", state=worse.get(f"{runner}{n}", "present"))
        for runner, last in _RUNNERS.items() for n in range(1, last + 1) if n not in named[runner]
    ]  # fmt: skip
    for number, (name, assembly, choices, series, special) in enumerate(_FEATURES):
        feature_id = f"feature-{number}"
        at = landmark_id(_SITS_AT[name]) if name in _SITS_AT else ""
        found.append(Feature(id=feature_id, name=name, assembly=assembly, landmark_id=at, **choices))
        for version, (present, form, place, still) in (("series", series), ("special", special)):
            found.append(
                FeatureInVersion(id=f"{feature_id}-{version}", feature_id=feature_id, version_id=f"version-{version}",
                                 present=present, form=form, place=place, still_id=still)
            )  # fmt: skip
    found += [StockPiece(id=f"stock-{n}", **one) for n, one in enumerate(_STOCK)]
    found += [CutPiece(id=f"cut-{n}", **one) for n, one in enumerate(_PIECES)]
    return [
        *found, Cutting(id=CUTTING_ID, kerf_mm=0.3, straight=True),
        Order(id="order-lens", name="clear lenses, 3 mm", feature_id="feature-2", usual_days=14, worst_days=60,
              price=6.5, seller="lamp parts by post"),
        Order(id="order-eye", name="printed towing eye", source="print", feature_id="feature-9", usual_days=3,
              worst_days=7, price=2.0),
        KitRecord(id=KIT_ID, price=38.0, bought_at="a fair, second-hand", value=6, quality=5, appeal=9),
    ]  # fmt: skip
