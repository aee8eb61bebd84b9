"""The demo's landmarks: where each was clicked, what lies between them, and what was traced on the squared-up side."""

from __future__ import annotations

import json
from itertools import pairwise
from typing import Any, Final

from chalkreel.core.measure.marks import Mark
from chalkreel.demo.evidence import DATA, clicks
from chalkreel.document.entities import (
    AnyEntity,
    Collar,
    Dimension,
    EdgeMark,
    FlatSet,
    KnownLength,
    Landmark,
    LandmarkMark,
    Outline,
    RepeatedParts,
    RimMark,
    RoundShape,
    SkinFace,
    Spot,
    SquaredPlane,
    Still,
    StraightEdge,
    Tie,
)
from chalkreel.document.store import digest

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
    ("bow tip", "stern corner"),
    ("band top at aft joint", "band top at second joint", "band top at third joint", "band top at forward joint",
     "band end, upper", "band end, lower", "band foot at forward joint", "band foot at third joint",
     "band foot at second joint", "band foot at aft joint", "band top at aft joint"),
)  # fmt: skip
# Round faces by name, and the circles that they are within or between.
ROUND: Final = {"fan duct": ("fan flange", "fan ring"), "searchlight glass": ("searchlight",)}
# Faces by name, round their landmarks; those that do not cross the middle have a twin.
SKIN: Final = {
    "hull side": (
        "stern corner",
        "fin root, aft",
        "deck edge, forward",
        "bow tip",
        "hull foot, forward",
        "hull foot, aft",
    ),
    "deck": ("fin root, aft", "fin root, aft/s", "deck edge, forward/s", "deck edge, forward"),
    "foredeck": ("deck edge, forward", "deck edge, forward/s", "bow tip/s", "bow tip"),
    "bow, underside": ("bow tip", "bow tip/s", "hull foot, forward/s", "hull foot, forward"),
    "stern": ("stern corner", "fin root, aft", "fin root, aft/s", "stern corner/s"),
    "stern, foot": ("stern corner", "stern corner/s", "hull foot, aft/s", "hull foot, aft"),
    "fin": ("fin root, aft", "fin top, aft", "fin top, forward", "fin root, forward"),
    "wheelhouse side": ("house foot, aft", "house roof, aft", "house roof, forward", "house foot, forward"),
    "wheelhouse front": (
        "house roof, forward",
        "house roof, forward/s",
        "house foot, forward/s",
        "house foot, forward",
    ),
    "wheelhouse back": ("house roof, aft", "house roof, aft/s", "house foot, aft/s", "house foot, aft"),
    "wheelhouse roof": ("house roof, aft", "house roof, forward", "house roof, forward/s", "house roof, aft/s"),
}
PART_OF: Final = {
    "Fin height, port": "part-fin-port",
    "Fan flange diameter": "part-fan",
    "Louvre width": "part-louvre",
    "Roof width": "part-house",
    "Hazard band height": "part-decals",
    "Foredeck panel width": "part-deck",
}


def dimensions() -> list[AnyEntity]:
    """Sizes read off planes, and sizes between landmarks."""
    data = clicks()
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
            found.append(Landmark(id=landmark_id(key), name=f"{name}, {side}", mirror_id=landmark_id(twin),
                                  assembly=_assembly(name)))  # fmt: skip
    found += [
        # The kit lacks a fin: its template is wanted.
        SkinFace(
            id=f"face-{name}",
            name=name,
            landmark_ids=tuple(landmark_id(key) for key in corners),
            template=name == "fin",
            zone_id="zone-Wheelhouse" if name.startswith("wheelhouse") else "",
        )
        for name, corners in SKIN.items()
    ]
    found += [
        SkinFace(id=f"face-{name}", name=name, circle_ids=tuple(f"circle-{circle}" for circle in circles))
        for name, circles in ROUND.items()
    ]
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
    for number, row in enumerate(data["straights"]):
        line = tuple(mark(xy) for xy in row["marks"])
        found.append(StraightEdge(id=f"straight-{number}", still_id=row["still"], marks=line))
    blades = tuple(mark(xy) for xy in data["blades"])
    found.append(
        RepeatedParts(id="blades", still_id="still-3", name="fan blades", marks=blades, circle_id="circle-fan ring")
    )
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
    flush = (
        "fin root, aft", "fin top, aft", "fin top, forward", "band top at second joint", "band top at forward joint",
        "band foot at second joint", "band foot at forward joint", "band foot at aft joint",
    )  # fmt: skip
    found.append(
        FlatSet(
            id="flat-side", name="port side", landmark_ids=tuple(landmark_id(name) for name in flush), across="beam"
        )
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


def squared_bytes() -> dict[str, bytes]:
    """The squared-up picture by still id, where it has been made."""
    return {"still-10": DATA.joinpath("still-10-side-squared.jpg").read_bytes()} if _squared() else {}


def _squared() -> dict[str, Any] | None:
    found: dict[str, Any] | None = json.loads(DATA.joinpath("squared.json").read_text("ascii"))
    return found


def squared_up(pictures: dict[str, bytes]) -> list[AnyEntity]:
    """The port side laid flat, the missing fin traced on it, marks on the paint, and a collar to unroll."""
    known = _squared()
    if known is None:
        return []
    plane = SquaredPlane(
        known["mm_per_px"], tuple(known["corner_mm"]), tuple(known["right"]), tuple(known["down"]), "flat-side",
        tuple((key, x, y) for key, x, y in known["anchors"]), tuple(known["source_ids"]),
    )  # fmt: skip
    still = Still(
        id="still-10", title="port side, squared up from still 1", blob=digest(pictures["still-10"]), number=10,
        width_px=known["width_px"], height_px=known["height_px"], side="port", still_kind="plan",
        version_id="version-series", trust="high", squared=plane, note="Laid flat from the solved landmarks.",
    )  # fmt: skip

    def marks(points: list[list[float]]) -> tuple[Mark, ...]:
        return tuple(Mark(x, y, 0.6) for x, y in points)

    found: list[AnyEntity] = [still]
    found.append(
        Outline(id="outline-fin", still_id="still-10", name="port tail fin", points=marks(known["fin"]),
                bends=tuple("corner" for _ in known["fin"]), mirror=True)
    )  # fmt: skip
    for number, (name, ends) in enumerate(known["spots"].items()):
        a, b = marks(ends)
        found.append(Spot(id=f"spot-{number}", still_id="still-10", name=name, a=a, b=b))
    found.append(Collar(id="collar-fan", name="fan bell", lower_mm=46.0, upper_mm=42.0, height_mm=7.5))
    return found


def _assembly(name: str) -> str:
    """What a landmark moves with on the replica."""
    if name.startswith(("house", "aft window", "forward window")):
        return "wheelhouse"
    for called, assembly in (("hatch", "roof hatch"), ("fin ", "tail fin"), ("louvre", "louvres")):
        if name.startswith(called):
            return assembly
    return "hull"
