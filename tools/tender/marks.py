"""What somebody clicked on the demo's stills, and the truth that only tests read.

Every click is the true place of a visible point, projected by the known camera, with a hand's error
added. Run: `python -m tools.tender.marks` (needs the tools environment).
"""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from tools.tender import model as m
from tools.tender.cameras import CLIP_STILL, SHOTS, Shot, clip_shots, project
from tools.tender.model import tender
from tools.tender.surfaces import SURFACES, WAVELENGTHS_NM

ROOT = Path(__file__).parents[2]
FONT = ROOT / "src/chalkreel/fonts/OpenSans-Bold.ttf"
CLICK_SIGMA_PX = 0.6
Point = tuple[float, float, float]

SIDE = m.HALF_WIDTH
X0, X1, PLATE_Y = m.PLATE
# The rounded bow tip that one sees lies a little inside the drawn corner.
BOW_TIP: Point = (386.6, 147.5, 96.0)
STERN: Point = (-387.5, 147.0, 90.0)
HATCH_Z = m.ROOF_Z + 1.6
HALF_HATCH = m.HATCH_SIDE / 2

RULERS: dict[str, dict[str, tuple[Point, Point]]] = {
    "still-1": {
        "set plan": (BOW_TIP, STERN),
        "road wheel": (
            (m.WHEEL_AT[0] - m.WHEEL_D / 2, 154.5, m.WHEEL_AT[1]),
            (m.WHEEL_AT[0] + m.WHEEL_D / 2, 154.5, m.WHEEL_AT[1]),
        ),
    },
}
PLANES: dict[str, dict[str, tuple[Point, Point, Point, Point]]] = {
    "still-2": {"port side": ((160, SIDE, 147), (-260, SIDE, 147), (-260, SIDE, 98), (160, SIDE, 98))},
    "still-3": {
        "aft deck plate": ((X0, PLATE_Y, 150), (X1, PLATE_Y, 150), (X1, -PLATE_Y, 150), (X0, -PLATE_Y, 150)),
        "wheelhouse roof": (
            (m.HATCH_X - HALF_HATCH, HALF_HATCH, HATCH_Z),
            (m.HATCH_X + HALF_HATCH, HALF_HATCH, HATCH_Z),
            (m.HATCH_X + HALF_HATCH, -HALF_HATCH, HATCH_Z),
            (m.HATCH_X - HALF_HATCH, -HALF_HATCH, HATCH_Z),
        ),
    },
}
VX0, VX1, VZ0, VZ1 = m.VENT
DIMENSIONS: dict[str, tuple[Point, Point]] = {
    "Length overall": (BOW_TIP, STERN),
    "Side joints, first to last": ((160, SIDE, 80), (-260, SIDE, 80)),
    "Hazard band height": ((-60, SIDE, 98), (-60, SIDE, 130)),
    "Fin height, port": ((-356, SIDE, 150), (-356, SIDE, 238.5)),
    "Fin root length": ((-384, SIDE, 150), (-290, SIDE, 150)),
    "Louvre width": ((VX0, 152.5, 76), (VX1, 152.5, 76)),
    "Louvre height": ((-60, 152.5, VZ0), (-60, 152.5, VZ1)),
    "Fan flange diameter": ((m.FAN_X - m.FLANGE_D / 2, m.FAN_Y, 152), (m.FAN_X + m.FLANGE_D / 2, m.FAN_Y, 152)),
    "Foredeck panel width": ((225, 112, 150), (225, -112, 150)),
    "Roof width": ((60, 90, 232), (60, -90, 232)),
    "Roof length": ((31, 40, 232), (141.5, 40, 232)),
}
READINGS: tuple[tuple[str, str, str], ...] = (
    *((name, "still-1", "") for name in (
        "Length overall", "Side joints, first to last", "Hazard band height", "Fin height, port", "Fin root length",
        "Louvre width", "Louvre height")),
    ("Hazard band height", "still-2", "port side"),
    ("Louvre width", "still-2", "port side"),
    ("Fin root length", "still-2", "port side"),
    ("Fan flange diameter", "still-3", "aft deck plate"),
    ("Foredeck panel width", "still-3", "aft deck plate"),
    ("Roof width", "still-3", "wheelhouse roof"),
    ("Roof length", "still-3", "wheelhouse roof"),
)  # fmt: skip
# Landmarks of the port side, each with a twin to starboard: name and place.
GROOVE_NAMES = ("aft", "second", "third", "forward")
PAIRS: dict[str, Point] = {
    **{f"band top at {n} joint": (x, SIDE, m.BAND_Z[1]) for n, x in zip(GROOVE_NAMES, m.GROOVES_X, strict=True)},
    **{f"band foot at {n} joint": (x, SIDE, m.BAND_Z[0]) for n, x in zip(GROOVE_NAMES, m.GROOVES_X, strict=True)},
    "band end, upper": (262.0, SIDE + 0.15, m.BAND_Z[1]),
    "band end, lower": (262.0, SIDE + 0.15, m.BAND_Z[0]),
    "bow tip": BOW_TIP,
    "stern corner": STERN,
    "fin root, aft": (m.FIN[0][0], SIDE, 150.0),
    "fin top, aft": (m.FIN[1][0], SIDE, 238.5),
    "fin top, forward": (m.FIN[2][0], SIDE, 238.5),
    "fin root, forward": (m.FIN[3][0], SIDE, 150.0),
    "deck plate, aft": (X0, PLATE_Y, 150.0),
    "deck plate, forward": (X1, PLATE_Y, 150.0),
    "foredeck panel, aft": (-60.0, 112.0, 150.0),
    "foredeck panel, forward": (235.0, 112.0, 150.0),
    "hatch corner, aft": (m.HATCH_X - HALF_HATCH, HALF_HATCH, HATCH_Z),
    "hatch corner, forward": (m.HATCH_X + HALF_HATCH, HALF_HATCH, HATCH_Z),
    "aft window, foot aft": (36.0, m.HOUSE_HALF_WIDTH, 186.0),
    "aft window, top aft": (39.0, m.HOUSE_HALF_WIDTH, 222.0),
    "aft window, foot forward": (84.0, m.HOUSE_HALF_WIDTH, 186.0),
    "forward window, foot aft": (92.0, m.HOUSE_HALF_WIDTH, 186.0),
    "forward window, top forward": (136.0, m.HOUSE_HALF_WIDTH, 222.0),
    "forward window, foot forward": (165.0, m.HOUSE_HALF_WIDTH, 186.0),
    "louvre, foot aft": (m.VENT[0], 152.5, m.VENT[2]),
    "louvre, top aft": (m.VENT[0], 152.5, m.VENT[3]),
    "louvre, top forward": (m.VENT[1], 152.5, m.VENT[3]),
}
# Corners of the skin, clicked after everything else: on rounded edges they lie a little inside the drawn ones.
SKIN_PAIRS: dict[str, Point] = {
    "deck edge, forward": (251.6, 148.8, 149.2),
    "hull foot, aft": (-383.0, 149.4, 58.0),
    "hull foot, forward": (364.4, 149.4, 58.0),
    "house foot, aft": (22.8, 90.4, 151.2),
    "house foot, forward": (206.2, 90.4, 151.2),
    "house roof, aft": (30.9, 90.0, 231.2),
    "house roof, forward": (141.4, 90.0, 231.2),
}
# Centre of the port (or only) circle, the axis that it is square to, its diameter, and whether it has a twin.
CIRCLES: dict[str, tuple[Point, str, float, bool]] = {
    "fan flange": ((m.FAN_X, m.FAN_Y, 152.0), "height", m.FLANGE_D, True),
    "fan ring": ((m.FAN_X, m.FAN_Y, 165.0), "height", 92.0, True),
    "road wheel": ((m.WHEEL_AT[0], 154.5, m.WHEEL_AT[1]), "beam", m.WHEEL_D, True),
    "searchlight": ((138.6, 62.0, m.ROOF_Z + 15), "length", 17.0, True),
}
# Sizes between landmarks: two of them, and the axis along which it counts.
SPANS: dict[str, tuple[str, str, str]] = {
    "Length overall": ("bow tip", "stern corner", "length"),
    "Side joints, first to last": ("band top at aft joint", "band top at forward joint", "length"),
    "Hazard band height": ("band top at second joint", "band foot at second joint", "height"),
    "Fin height, port": ("fin root, aft", "fin top, aft", "height"),
    "Fin root length": ("fin root, aft", "fin root, forward", "length"),
    "Louvre width": ("louvre, top aft", "louvre, top forward", "length"),
    "Louvre height": ("louvre, top aft", "louvre, foot aft", "height"),
    "Foredeck panel width": ("foredeck panel, forward", "foredeck panel, forward/s", ""),
    "Joint spacing": ("band top at aft joint", "band top at forward joint", "length"),
    "Fin top length": ("fin top, aft", "fin top, forward", ""),
    "Fin leading edge": ("fin top, forward", "fin root, forward", ""),
    "Fins apart": ("fin top, aft", "fin top, aft/s", "beam"),
    "Deck plate length": ("deck plate, aft", "deck plate, forward", "length"),
    "Deck plate width": ("deck plate, aft", "deck plate, aft/s", ""),
    "Foredeck panel length": ("foredeck panel, aft", "foredeck panel, forward", ""),
    "Hatch length": ("hatch corner, aft", "hatch corner, forward", ""),
    "Hatch width": ("hatch corner, forward", "hatch corner, forward/s", ""),
    "Aft window height": ("aft window, foot aft", "aft window, top aft", "height"),
    "Aft window foot": ("aft window, foot aft", "aft window, foot forward", ""),
    "Forward window foot": ("forward window, foot aft", "forward window, foot forward", ""),
    "Forward window slant": ("forward window, top forward", "forward window, foot forward", ""),
    "Wheelhouse width at windows": ("aft window, foot aft", "aft window, foot aft/s", "beam"),
    "Roof above deck": ("hatch corner, aft", "deck plate, forward", "height"),
    "Window sill above deck": ("aft window, foot aft", "deck plate, forward", "height"),
    "Hull width at band": ("band top at forward joint", "band top at forward joint/s", "beam"),
    "Band end to bow": ("band end, upper", "bow tip", "length"),
    "Band end height": ("band end, upper", "band end, lower", ""),
    "Band top above louvre": ("band foot at third joint", "louvre, top forward", "height"),
    "Plate to fin": ("deck plate, aft", "fin root, aft", "length"),
    "Stern to aft joint": ("stern corner", "band foot at aft joint", "length"),
}
STEPS = {"Joint spacing": 3}
ANGLES = {"Fin leading edge angle": ("fin top, forward", "fin root, forward", "fin root, aft")}
DIAMETERS = {
    "Fan flange diameter": "fan flange",
    "Fan ring diameter": "fan ring",
    "Searchlight diameter": "searchlight",
}
# Straight edges: still, direction, and two points on each.
EDGES: tuple[tuple[str, str, Point, Point], ...] = tuple(
    (still, "length", (x0, side * SIDE, z), (x1, side * SIDE, z))
    for still, side, x0, x1 in (("still-7", -1, -240, 240), ("still-2", 1, -240, 240), ("still-4", -1, -240, 240))
    for z in m.BAND_Z
) + tuple(
    (still, "height", (x, side * SIDE, 75.0), (x, side * SIDE, 140.0))
    for still, side in (("still-7", -1), ("still-2", 1), ("still-1", 1))
    for x in (20.0, 160.0)
)  # fmt: skip
# Edges that show the lens's bend: still, beam and height; clicked at these lengths.
STRAIGHTS = (("still-7", -SIDE, 130.0), ("still-7", -SIDE, 98.0))
STRAIGHT_X = (-240.0, -120.0, 0.0, 80.0, 160.0, 240.0)
# Blade tips of the port fan that were clicked from above: six of the eight.
BLADE_MM, BLADES_DEG = 38.0, (0, 45, 90, 180, 225, 315)
HIDDEN_MM = 2.0
AWAY_FROM_RIM_PX = 6.0
# Centre on the model and size in pixels of colour patches.
PATCHES: tuple[tuple[str, str, Point, tuple[int, int]], ...] = (
    ("neutral", "still-1", (150, 697, 32), (52, 34)),
    ("hull", "still-1", (95, SIDE, 80), (110, 24)),
    ("band_series", "still-1", (90, SIDE, 114), (120, 26)),
    ("skirt", "still-1", (106, 160, 38), (24, 12)),
    ("neutral", "still-2", (150, 330, 40), (90, 70)),
    ("hull", "still-2", (95, SIDE, 80), (60, 20)),
    ("band_series", "still-2", (90, SIDE, 114), (60, 14)),
    ("skirt", "still-2", (106, 160, 38), (14, 12)),
    ("deck", "still-2", (-105, 100, 150), (40, 10)),
    ("neutral", "still-3", (300, 245, 2), (80, 52)),
    ("deck", "still-3", (-322, 0, 150), (50, 150)),
    ("hull", "still-3", (318, 0, 124), (70, 160)),
    ("hull", "still-4", (95, -SIDE, 80), (40, 12)),
    ("hull", "still-6", (-387.5, 0, 100), (90, 30)),
)  # fmt: skip
# Patches that came later: stills without a card, tied in by the surfaces they share.
# What lies on one facet of a still with what: the card and the deck lie flat, hull and band share a side.
FACETS = {("still-3", "neutral"): "flat", ("still-3", "deck"): "flat"} | {
    (f"still-{n}", surface): "side" for n in (1, 2, 4, 7, 8) for surface in ("hull", "band_series")
}
MORE_PATCHES: tuple[tuple[str, str, Point, tuple[int, int]], ...] = (
    ("band_series", "still-4", (90, -SIDE, 114), (36, 10)),
    ("skirt", "still-4", (106, -160, 38), (14, 8)),
    ("deck", "still-6", (-322, 0, 150), (70, 14)),
    ("band_series", "still-6", (-205, SIDE, 114), (26, 14)),
    ("skirt", "still-6", (-250, 160, 38), (16, 10)),
    ("hull", "still-7", (95, -SIDE, 80), (50, 30)),
    ("band_series", "still-7", (90, -SIDE, 114), (50, 20)),
    ("skirt", "still-7", (106, -160, 38), (16, 12)),
    ("hull", "still-8", (-250, -SIDE, 80), (40, 16)),
    ("band_series", "still-8", (-205, -SIDE, 114), (40, 12)),
    ("skirt", "still-8", (-250, -160, 38), (14, 10)),
    ("deck", "still-8", (-322, 0, 150), (50, 14)),
    ("hull", "still-5", (95, -SIDE, 80), (50, 20)),
)  # fmt: skip


def place(name: str) -> Point:
    """A landmark's true place; "/s" names the twin to starboard."""
    x, y, z = (PAIRS | SKIN_PAIRS)[name.removesuffix("/s")]
    return (x, -y, z) if name.endswith("/s") else (x, y, z)


def span_truth() -> dict[str, float]:
    """True sizes between landmarks, diameters, and angles in degrees."""
    found = {}
    for name, (a, b, along) in SPANS.items():
        line = np.subtract(place(b), place(a))
        length = float(np.linalg.norm(line)) if not along else abs(line[("length", "beam", "height").index(along)])
        found[name] = round(float(length) / STEPS.get(name, 1), 3)
    for name, (a, corner, b) in ANGLES.items():
        u, v = np.subtract(place(a), place(corner)), np.subtract(place(b), place(corner))
        found[name] = round(float(np.degrees(np.arccos(u @ v / np.linalg.norm(u) / np.linalg.norm(v)))), 3)
    return found | {name: CIRCLES[circle][2] for name, circle in DIAMETERS.items()}


def reel_clicks(shots: dict[str, Shot], click: Callable[[str, Point], list[float]]) -> dict[str, Any]:
    """Landmarks, rims and edges wherever they are to be seen."""
    solids = {version: triangles(version) for version in ("series", "special")}
    sightings, rims = [], []
    for still, shot in shots.items():
        names = [*PAIRS, *(f"{n}/s" for n in PAIRS)]
        for name, seen in zip(names, visible(shot, [place(n) for n in names], solids[shot.version]), strict=True):
            if seen:
                sightings.append({"still": still, "landmark": name, "mark": click(still, place(name))})
        for circle, (centre, axis, across, paired) in CIRCLES.items():
            for mirrored in (False, True) if paired else (False,):
                rim = rim_points(centre, axis, across, mirrored)
                shown = [p for p, seen in zip(rim, visible(shot, rim, solids[shot.version]), strict=True) if seen]
                special = shot.version == "special" and circle == "searchlight"
                if len(shown) >= 7 and not special:
                    marks = [click(still, p) for p in shown]
                    rims.append({"still": still, "circle": circle, "mirrored": mirrored, "marks": marks})
    return {
        "landmarks": list(PAIRS),
        "sightings": sightings,
        "circles": [{"name": n, "across": axis} for n, (_, axis, _, _) in CIRCLES.items()],
        "rims": rims,
        "edges": [{"still": s, "direction": d, "marks": [click(s, a), click(s, b)]} for s, d, a, b in EDGES],
        "spans": [{"name": n, "a": a, "b": b, "along": along, "steps": STEPS.get(n, 1)}
                  for n, (a, b, along) in SPANS.items()],
        "angles": [{"name": n, "a": a, "corner": c, "b": b} for n, (a, c, b) in ANGLES.items()],
        "diameters": [{"name": n, "circle": c} for n, c in DIAMETERS.items()],
        "blades": [click("still-3", (m.FAN_X + BLADE_MM * np.cos(t), m.FAN_Y + BLADE_MM * np.sin(t), m.DECK_Z + 7.5))
                   for t in np.radians(BLADES_DEG)],
        "straights": [{"still": s, "marks": [click(s, (x, y, z)) for x in STRAIGHT_X]} for s, y, z in STRAIGHTS],
    }  # fmt: skip


def skin_clicks(shots: dict[str, Shot], click: Callable[[str, Point], list[float]]) -> list[dict[str, Any]]:
    """Corners of the skin wherever they are to be seen."""
    solids = {version: triangles(version) for version in ("series", "special")}
    names = [*SKIN_PAIRS, *(f"{n}/s" for n in SKIN_PAIRS)]
    return [
        {"still": still, "landmark": name, "mark": click(still, place(name))}
        for still, shot in shots.items()
        for name, seen in zip(names, visible(shot, [place(n) for n in names], solids[shot.version]), strict=True)
        if seen
    ]


def rim_points(centre: Point, axis: str, across: float, mirrored: bool) -> list[Point]:
    """Ten points round a circle."""
    turn = np.linspace(0.2, 2 * np.pi + 0.2, 10, endpoint=False)
    flat = np.stack([np.cos(turn), np.sin(turn)], axis=1) * across / 2
    rim = np.asarray(centre) + np.insert(flat, ("length", "beam", "height").index(axis), 0.0, axis=1)
    return [(float(x), -float(y) if mirrored else float(y), float(z)) for x, y, z in rim]


def triangles(version: str) -> npt.NDArray[np.float64]:
    """All faces of a version, (F, 3, 3)."""
    found = []
    for part in tender(version, FONT):
        mesh = part.solid.to_mesh()
        found.append(np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)])
    return np.concatenate(found).astype(np.float64)


def visible(shot: Shot, points: list[Point], faces: npt.NDArray[np.float64]) -> list[bool]:
    """Whether each point lies in the picture with nothing in front of it."""
    return [bool(gap <= HIDDEN_MM) for gap in gaps_mm(shot, points, faces)]


def gaps_mm(shot: Shot, points: list[Point], faces: npt.NDArray[np.float64]) -> list[float]:
    """How far before each point the first surface stands (Möller & Trumbore 1997): 0 for one that is bare, infinite for
    one outside the picture.
    """
    stored = project(shot, np.array(points))
    size = np.array([shot.width_px, shot.height_px])
    inside = np.all((stored > AWAY_FROM_RIM_PX) & (stored < size - AWAY_FROM_RIM_PX), axis=1)
    origin = np.array(shot.origin)
    first, second = faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0]
    start = origin - faces[:, 0]
    cross = np.cross(start, first)
    found = []
    for point, shown in zip(points, inside, strict=True):
        way = np.asarray(point) - origin
        reach = float(np.linalg.norm(way))
        way = way / reach
        normal = np.cross(way, second)
        with np.errstate(divide="ignore", invalid="ignore"):
            inverse = 1.0 / np.sum(normal * first, axis=1)
            u, v = np.sum(start * normal, axis=1) * inverse, (cross @ way) * inverse
            depth = np.sum(second * cross, axis=1) * inverse
        hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (depth > 0) & (depth < reach)
        found.append(reach - float(depth[hit].min(initial=reach)) if shown else np.inf)
    return found


def main() -> None:
    """Write the demo's clicks and the tests' truth."""
    rng = np.random.default_rng(1981)
    shots = {shot.name[:7]: shot for shot in SHOTS if shot.name.startswith("still")}
    shots["still-9"] = clip_shots()[CLIP_STILL]

    def click(still: str, point: Point) -> list[float]:
        exact = project(shots[still], np.array([point]))[0]
        return [round(float(v), 2) for v in exact + rng.normal(0, CLICK_SIGMA_PX, 2)]

    clicks: dict[str, Any] = {
        "click_sigma_px": CLICK_SIGMA_PX,
        "rulers": [{"still": s, "name": n, "marks": [click(s, p) for p in ends]}
                   for s, named in RULERS.items() for n, ends in named.items()],
        "planes": [{"still": s, "name": n, "corners": [click(s, p) for p in corners]}
                   for s, named in PLANES.items() for n, corners in named.items()],
        "readings": [{"dimension": d, "still": s, "plane": plane, "marks": [click(s, p) for p in DIMENSIONS[d]]}
                     for d, s, plane in READINGS],
        "patches": [{"surface": name, "still": s, "centre": click(s, centre), "size": size}
                    for name, s, centre, size in PATCHES],
    }  # fmt: skip
    clicks |= reel_clicks(shots, click)
    clicks["patches"] += [{"surface": name, "still": s, "centre": click(s, centre), "size": size}
                          for name, s, centre, size in MORE_PATCHES]  # fmt: skip
    clicks["landmarks"] += list(SKIN_PAIRS)
    clicks["sightings"] += skin_clicks(shots, click)
    for patch in clicks["patches"]:
        patch["facet"] = FACETS.get((patch["still"], patch["surface"]), "")
    truth = {
        "miniature_mm": {n: round(float(np.linalg.norm(np.subtract(a, b))), 3) for n, (a, b) in DIMENSIONS.items()}
        | span_truth(),
        "wavelengths_nm": WAVELENGTHS_NM.tolist(),
        "reflectance": {name: np.round(values, 5).tolist() for name, values in SURFACES.items()},
    }
    (ROOT / "src/chalkreel/demo/data/clicks.json").write_text(json.dumps(clicks, indent=1) + "\n")
    (ROOT / "tests/data/truth.json").write_text(json.dumps(truth) + "\n")


if __name__ == "__main__":
    main()
