"""The demo's stills with what was clicked on them."""

from __future__ import annotations

import csv
import json
from importlib.resources import files
from itertools import pairwise
from typing import Any, Final

from chalkreel.build.entities import (
    AnyEntity,
    ColourPatch,
    Dimension,
    EdgeMark,
    FlatSet,
    KnownLength,
    Landmark,
    LandmarkMark,
    Plane,
    Reading,
    RimMark,
    RoundShape,
    RulerMark,
    ShelfPaint,
    Still,
    Surface,
    Tie,
)
from chalkreel.build.store import digest
from chalkreel.core.measure.marks import Mark

DATA: Final = files("chalkreel.demo").joinpath("data")

STILLS: Final[tuple[dict[str, Any], ...]] = (
    {
        "id": "still-1",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-1-port-workshop.jpg",
        "title": "Port side on the workshop bench",
        "side": "port",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "tilt_sigma_deg": 1.0,
        "note": "Long lens, tripod, north window. Grey card on the bench.",
    },
    {
        "id": "still-2",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-2-bow-port-workshop.jpg",
        "title": "Bow and port quarter, lamps on",
        "side": "bow",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "note": "Tungsten lamps. The same grey card leans in front.",
    },
    {
        "id": "still-3",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-3-top-workshop.jpg",
        "title": "From the gantry, straight down",
        "side": "top",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "note": "Card lies on the bench, upper right.",
    },
    {
        "id": "still-4",
        "width_px": 720,
        "height_px": 576,
        "file": "still-4-starboard-frame.jpg",
        "title": "Starboard, episode 3",
        "side": "starboard",
        "still_kind": "screen frame",
        "trust": "fair",
        "pixel_aspect": 16 / 15,
        "note": "Graded blue for night. Stored at 720 × 576.",
    },
    {
        "id": "still-5",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-5-special-exhibit.jpg",
        "title": "The Special, exhibit hall",
        "side": "starboard",
        "still_kind": "exhibit",
        "trust": "low",
        "version": "special",
        "note": "Repainted after the Special; not our version.",
    },
    {
        "id": "still-6",
        "width_px": 1200,
        "height_px": 840,
        "file": "still-6-aft-print.jpg",
        "title": "Aft, from a faded print",
        "side": "aft",
        "still_kind": "print",
        "trust": "fair",
        "note": "Print on cream paper, blacks gone brown.",
    },
    {
        "id": "still-7",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-7-wide-starboard.jpg",
        "title": "Close and wide, starboard bow",
        "side": "starboard",
        "still_kind": "photo of the miniature",
        "trust": "fair",
        "note": "Wide lens: straight edges near the rim bend.",
    },
    {
        "id": "still-8",
        "width_px": 1060,
        "height_px": 700,
        "file": "still-8-stern-crop.jpg",
        "title": "Stern, cut from a larger picture",
        "side": "aft",
        "still_kind": "photo of the miniature",
        "trust": "fair",
        "cropped": True,
        "note": "From a book page: the rest of the frame is gone.",
    },
    {
        "id": "still-9",
        "width_px": 480,
        "height_px": 312,
        "file": "still-9-clip-frame.jpg",
        "title": "Bow pass, frame 9 of the clip",
        "side": "bow",
        "still_kind": "screen frame",
        "trust": "fair",
        "pixel_aspect": 16 / 15,
        "note": "Grabbed from clip-bow-pass.mp4, black bars taken off.",
    },
)

# What the modeller knew of the rulers and rectangles, in metres of the story or mm of the miniature.
RULERS: Final = {"set plan": (18_600.0, 100.0, "story"), "road wheel": (21.4, 0.1, "miniature")}
PLANES: Final = {
    "port side": (10_080.0, 50.0, 1_176.0, 15.0),
    "aft deck plate": (5_760.0, 50.0, 5_760.0, 50.0),
    "wheelhouse roof": (1_150.0, 57.5, 1_150.0, 57.5),
}
# Rulers of the whole reel: the same set plan, the same wheel, and the hatch that a script mentions.
KNOWN: Final = (
    {"name": "set plan, overall", "a": "bow tip", "b": "stern corner", "along": "length", "length_mm": 18_600.0,
     "sigma_mm": 50.0, "link": "story"},
    {"name": "donor wheel", "circle": "road wheel", "length_mm": 21.4, "sigma_mm": 0.1, "link": "miniature"},
    {"name": "hatch in the script", "a": "hatch corner, aft", "b": "hatch corner, forward", "length_mm": 1_150.0,
     "sigma_mm": 28.75, "link": "story"},
)  # fmt: skip
# Sizes on the three-view drawing, and edges that make its outlines (port ones; starboard follows by symmetry).
DRAWN: Final = (
    "Length overall", "Side joints, first to last", "Fin height, port", "Fin root length", "Fins apart",
    "Deck plate length", "Deck plate width", "Foredeck panel length", "Wheelhouse width at windows",
    "Hull width at band",
)  # fmt: skip
OUTLINES: Final = (
    ("fin root, aft", "fin top, aft", "fin top, forward", "fin root, forward"),
    ("deck plate, aft", "deck plate, forward", "deck plate, forward/s"),
    ("deck plate, aft", "deck plate, aft/s"),
    ("foredeck panel, aft", "foredeck panel, forward", "foredeck panel, forward/s"),
    ("foredeck panel, aft", "foredeck panel, aft/s"),
    ("hatch corner, aft", "hatch corner, forward", "hatch corner, forward/s"),
    ("hatch corner, aft", "hatch corner, aft/s"),
    ("aft window, top aft", "aft window, foot aft", "aft window, foot forward"),
    ("forward window, foot aft", "forward window, foot forward", "forward window, top forward"),
    ("louvre, foot aft", "louvre, top aft", "louvre, top forward"),
    ("stern corner", "fin root, aft"),
    ("bow tip", "bow tip/s"),
    ("stern corner", "stern corner/s"),
    ("fin root, forward", "foredeck panel, forward"),
    ("band top at aft joint", "band top at second joint", "band top at third joint", "band top at forward joint",
     "band end, upper", "band end, lower", "band foot at forward joint", "band foot at third joint",
     "band foot at second joint", "band foot at aft joint", "band top at aft joint"),
)  # fmt: skip
PART_OF: Final = {
    "Fin height, port": "part-fin-port",
    "Fan flange diameter": "part-fan",
    "Louvre width": "part-louvre",
    "Roof width": "part-house",
    "Hazard band height": "part-decals",
    "Foredeck panel width": "part-deck",
}
SURFACES: Final = {"hull": "Hull grey", "band_series": "Hazard band ochre", "skirt": "Skirt", "deck": "Deck"}
CARD_REFLECTANCE: Final = 0.28


def still_bytes() -> dict[str, bytes]:
    """The shipped pictures by still id."""
    return {str(s["id"]): DATA.joinpath(str(s["file"])).read_bytes() for s in STILLS}


def stills(pictures: dict[str, bytes]) -> list[AnyEntity]:
    """The stills as the modeller entered them."""
    found: list[AnyEntity] = []
    for number, entry in enumerate(STILLS, start=1):
        known = {key: value for key, value in entry.items() if key not in ("file", "version")}
        found.append(
            Still(
                **known,
                number=number,
                blob=digest(pictures[str(entry["id"])]),
                version_id=f"version-{entry.get('version', 'series')}",
            )
        )
    return found


def clicks() -> dict[str, Any]:
    """Everything clicked on the stills."""
    found: dict[str, Any] = json.loads(DATA.joinpath("clicks.json").read_text("ascii"))
    return found


def marks_on_stills() -> list[AnyEntity]:
    """Planes, rulers, dimensions and their readings."""
    data = clicks()
    sigma = float(data["click_sigma_px"])

    def mark(xy: list[float]) -> Mark:
        return Mark(xy[0], xy[1], sigma)

    found: list[AnyEntity] = []
    for row in data["planes"]:
        width, width_sigma, height, height_sigma = PLANES[row["name"]]
        a, b, c, d = (mark(xy) for xy in row["corners"])
        found.append(
            Plane(
                id=_plane_id(row["name"]),
                still_id=row["still"],
                name=row["name"],
                corners=(a, b, c, d),
                width_mm=width,
                width_sigma_mm=width_sigma,
                height_mm=height,
                height_sigma_mm=height_sigma,
                link="story",
            )
        )
    for row in data["rulers"]:
        length, length_sigma, link = RULERS[row["name"]]
        a, b = (mark(xy) for xy in row["marks"])
        found.append(
            RulerMark(
                id=f"ruler-{row['name']}",
                still_id=row["still"],
                plane_id="",
                name=row["name"],
                a=a,
                b=b,
                length_mm=length,
                sigma_mm=length_sigma,
                link="story" if link == "story" else "miniature",
            )
        )
    found += _dimensions(data)
    for number, row in enumerate(data["readings"]):
        a, b = (mark(xy) for xy in row["marks"])
        found.append(
            Reading(
                id=f"reading-{number}",
                dimension_id=f"dim-{row['dimension']}",
                still_id=row["still"],
                plane_id=_plane_id(row["plane"]),
                a=a,
                b=b,
            )
        )
    return found


def _dimensions(data: dict[str, Any]) -> list[AnyEntity]:
    """Sizes read off planes, and sizes between landmarks."""
    known: dict[str, dict[str, Any]] = {row["dimension"]: {} for row in data["readings"]}
    for row in data["spans"]:
        ends = {"a_id": landmark_id(row["a"]), "b_id": landmark_id(row["b"])}
        known[row["name"]] = {
            **ends,
            "along": row["along"] or None,
            "steps": row["steps"],
            "drawn": row["name"] in DRAWN,
        }
    for row in data["angles"]:
        known[row["name"]] = {f"{end}_id": landmark_id(row[end]) for end in ("a", "corner", "b")}
    for row in data["diameters"]:
        known[row["name"]] = {"circle_id": f"circle-{row['circle']}"}
    return [Dimension(id=f"dim-{n}", name=n, part_id=PART_OF.get(n, ""), **how) for n, how in known.items()]


def landmark_id(key: str) -> str:
    """The id of a landmark; "/s" names the twin to starboard."""
    return f"landmark-{key}"


def reel_marks() -> list[AnyEntity]:
    """Landmarks with their twins, circles, edges, and where each was clicked."""
    data = clicks()
    sigma = float(data["click_sigma_px"])

    def mark(xy: list[float]) -> Mark:
        return Mark(xy[0], xy[1], sigma)

    found: list[AnyEntity] = []
    for name in data["landmarks"]:
        for key, side, twin in ((name, "port", f"{name}/s"), (f"{name}/s", "starboard", name)):
            found.append(Landmark(id=landmark_id(key), name=f"{name}, {side}", mirror_id=landmark_id(twin)))
    found += [RoundShape(id=f"circle-{c['name']}", name=c["name"], across=c["across"]) for c in data["circles"]]
    for number, row in enumerate(data["sightings"]):
        found.append(
            LandmarkMark(
                id=f"landmark-mark-{number}",
                still_id=row["still"],
                landmark_id=landmark_id(row["landmark"]),
                mark=mark(row["mark"]),
            )
        )
    for number, row in enumerate(data["rims"]):
        marks = tuple(mark(xy) for xy in row["marks"])
        found.append(
            RimMark(
                id=f"rim-{number}",
                still_id=row["still"],
                circle_id=f"circle-{row['circle']}",
                marks=marks,
                mirrored=row["mirrored"],
            )
        )
    for number, row in enumerate(data["edges"]):
        a, b = (mark(xy) for xy in row["marks"])
        found.append(EdgeMark(id=f"edge-{number}", still_id=row["still"], a=a, b=b, direction=row["direction"]))
    found.append(
        Tie(id="tie-0", a_id=landmark_id("fin root, aft"), b_id=landmark_id("fin root, forward"), direction="length")
    )
    pairs = (pair for line in OUTLINES for pair in pairwise(line))
    found += [
        Tie(id=f"outline-{n}", a_id=landmark_id(a), b_id=landmark_id(b), direction="") for n, (a, b) in enumerate(pairs)
    ]
    corners = ("deck plate, aft", "deck plate, forward", "foredeck panel, aft", "foredeck panel, forward")
    found.append(
        FlatSet(id="flat-deck", name="deck", landmark_ids=tuple(landmark_id(c) for c in corners), across="height")
    )
    return found + _known_lengths()


def _known_lengths() -> list[AnyEntity]:
    found: list[AnyEntity] = []
    for row in KNOWN:
        ends = {f"{end}_id": landmark_id(str(row[end])) for end in ("a", "b") if end in row}
        circle = {"circle_id": f"circle-{row['circle']}"} if "circle" in row else {}
        known = {key: value for key, value in row.items() if key not in ("a", "b", "circle")}
        found.append(KnownLength(id=f"known-{row['name']}", **known, **ends, **circle))  # type: ignore[arg-type]
    return found


def _plane_id(name: str) -> str:
    return f"plane-{name}" if name else ""


def patches() -> list[AnyEntity]:
    """Surfaces and the patches sampled for them; card patches are the neutrals."""
    found: list[AnyEntity] = [Surface(id=f"surface-{key}", name=name) for key, name in SURFACES.items()]
    for number, row in enumerate(clicks()["patches"]):
        (x, y), (width, height) = row["centre"], row["size"]
        neutral = row["surface"] == "neutral"
        found.append(
            ColourPatch(
                id=f"patch-{number}",
                still_id=row["still"],
                surface_id="" if neutral else f"surface-{row['surface']}",
                x_px=x - width / 2,
                y_px=y - height / 2,
                width_px=width,
                height_px=height,
                reflectance=CARD_REFLECTANCE if neutral else None,
            )
        )
    return found


def bench_range() -> list[AnyEntity]:
    """The made-up paints on the modeller's shelf."""
    rows = list(csv.reader(DATA.joinpath("bench_range.csv").read_text("ascii").splitlines()))[1:]
    return [
        ShelfPaint(
            id=f"paint-{k[0]}",
            name=k[0],
            medium="water acrylic",
            absorption=tuple(float(v) for v in k[2:]),
            scattering=tuple(float(v) for v in s[2:]),
        )
        for k, s in zip(rows[::2], rows[1::2], strict=True)
    ]
