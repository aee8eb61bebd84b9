"""Photographs of a replica of the tender, as a kit, primed or painted, with parts out of true; and the truth of each.

Run in the tools environment: `python -m tools.tender.replica OUT [--spp N] [--random COUNT --seed N]`. Without
`--random` it renders the demo's photographs; with it pairs for `benchmarks/comparing.py`.
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from manifold3d import Manifold
from tools.tender import marks
from tools.tender.cameras import SHOTS, Shot, Vector, project
from tools.tender.model import FAN_X, FAN_Y, FIN, Part, aft_parts, house_parts, hull_parts
from tools.tender.render import FONT, Array, develop, render


@dataclass(frozen=True)
class Fault:
    """What is wrong with a replica, in mm of the miniature: how far parts were moved, and what share they are."""

    house: Vector = (0.0, 0.0, 0.0)
    hatch: Vector = (0.0, 0.0, 0.0)
    fins: Vector = (0.0, 0.0, 0.0)
    fin_taller: float = 1.0
    fans: float = 1.0
    stretch: Vector = (1.0, 1.0, 1.0)
    port_fin: bool = True


def replica(version: str, fault: Fault) -> list[Part]:
    """The parts of a version with a fault."""
    moved = [Part(p.surface, p.solid.translate(list(fault.house))) for p in house_parts(version)]
    moved[2] = Part(moved[2].surface, moved[2].solid.translate(list(fault.hatch)))
    rings, fins, pits, blades, *rest = aft_parts(version, bare=not fault.port_fin)
    around = [Part(p.surface, _widened(p.solid, fault.fans)) for p in (rings, pits, blades)]
    foot = FIN[0][1]
    fin = fins.solid.translate([0, 0, -foot]).scale([1, 1, fault.fin_taller])
    fins = Part(fins.surface, fin.translate([fault.fins[0], fault.fins[1], foot + fault.fins[2]]))
    parts = [*hull_parts(version, FONT), *moved, *around, fins, *rest]
    return [Part(p.surface, p.solid.scale(list(fault.stretch))) for p in parts]


def _widened(both: Manifold, share: float) -> Manifold:
    """Fans wider about their own middles."""
    port = both ^ Manifold.cube([2000, 1000, 2000]).translate([-1000, 0, -1000])
    port = port.translate([-FAN_X, -FAN_Y, 0]).scale([share, share, 1]).translate([FAN_X, FAN_Y, 0])
    return port + port.mirror([0, 1, 0])


def moved(name: str, place: Vector, fault: Fault) -> Array:
    """Where a landmark lies on a replica with a fault."""
    found = np.array(place, float)
    if name.startswith(("house", "hatch", "aft window", "forward window")):
        found += fault.house
    if name.startswith("hatch"):
        found += fault.hatch
    if name.startswith("fin "):
        found[2] = FIN[0][1] + (found[2] - FIN[0][1]) * fault.fin_taller
        found += fault.fins
    return np.asarray(found * fault.stretch)


def seen(shot: Shot, parts: list[Part], fault: Fault) -> dict[str, list[float]]:
    """Landmarks that a photograph shows, with their exact places in stored pixels."""
    pairs = marks.PAIRS | marks.SKIN_PAIRS
    names = [n for name in pairs for n in (name, f"{name}/s")]
    names = [n for n in names if fault.port_fin or not (n.startswith("fin ") and not n.endswith("/s"))]
    places = [tuple(float(v) for v in moved(n, marks.place(n), fault)) for n in names]
    faces = np.concatenate([_triangles(part.solid) for part in parts])
    shown = marks.visible(shot, places, faces)  # type: ignore[arg-type]
    stored = project(shot, np.array(places))
    return {n: [round(float(v), 3) for v in at] for n, at, ok in zip(names, stored, shown, strict=True) if ok}


def _triangles(solid: Manifold) -> Array:
    mesh = solid.to_mesh()
    return np.asarray(np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)], np.float64)


def written(shot: Shot, fault: Fault, out: Path, spp: int) -> dict[str, Any]:
    """Render a photograph; what is true of it."""
    parts = replica(shot.version, fault)
    work = out / "work"
    work.mkdir(exist_ok=True)
    develop(render(shot, work, spp, parts), shot).save(out / f"{shot.name}.jpg", quality=88)
    return {"name": shot.name, "still": "", "landmarks": seen(shot, parts, fault), "fault": asdict(fault),
            "shot": asdict(shot)}  # fmt: skip


# The demo: the kit's own version, dry fitted; then the same with the wheelhouse moved and the rings widened, primed.
AS_BOUGHT = Fault(house=(-3.2, 0.0, 0.0), hatch=(-4.0, 0.0, 0.0), fans=50.0 / 52.0, port_fin=False)
MENDED = Fault(hatch=(-4.0, 0.0, 0.0), fans=50.0 / 52.0)
# What was clicked is seen to so many pixels.
CLICK_SIGMA_PX = 0.7
DEMO = (
    (Shot("replica-dry-fit", "special", (700.0, 880.0, 430.0), (2.0, 0.0, 92.0), 45.0, "daylight",
          width_px=1280, height_px=960, bare=True, roll_deg=1.2, white_balance=0.6), AS_BOUGHT),
    (Shot("replica-dry-fit-aft", "special", (-860.0, 640.0, 470.0), (-20.0, 30.0, 95.0), 45.0, "daylight",
          width_px=1280, height_px=960, bare=True, roll_deg=-0.6, white_balance=0.6), AS_BOUGHT),
    (Shot("replica-primed", "special", (735.0, 850.0, 455.0), (2.0, 6.0, 92.0), 44.0, "tungsten",
          width_px=1280, height_px=960, bare=True, roll_deg=-0.9, white_balance=0.8), MENDED),
)  # fmt: skip


def drawn_pairs(count: int, seed: int) -> Iterator[tuple[str, Shot, Fault]]:
    """Photographs taken roughly as stills were, by a hand-held telephone, of replicas with a fault each."""
    rng = np.random.default_rng(seed)
    stills = [s for s in SHOTS if s.name[:7] in ("still-2", "still-4", "still-5", "still-6", "still-8")]
    for number in range(count):
        still = stills[number % len(stills)]
        yield still.name[:7], _taken_like(still, f"pair-{seed}-{number}", rng), _drawn_fault(rng)


def _taken_like(still: Shot, name: str, rng: np.random.Generator) -> Shot:
    way = np.subtract(still.origin, still.target)
    reach = float(np.linalg.norm(way)) * rng.uniform(0.5, 0.85)
    turn = np.radians(rng.normal(0, 7))
    cos, sin = np.cos(turn), np.sin(turn)
    way = np.array([cos * way[0] - sin * way[1], sin * way[0] + cos * way[1], way[2] * rng.uniform(0.75, 1.35)])
    way *= reach / np.linalg.norm(way)
    target = np.array([rng.normal(0, 25), rng.normal(0, 25), rng.normal(100, 12)])
    fov = float(np.degrees(2 * np.arctan(500.0 / reach)) * rng.uniform(0.95, 1.25))
    origin = target + way
    return replace(
        still, name=name, origin=tuple(origin), target=tuple(target), fov_deg=fov, roll_deg=float(rng.normal(0, 2)),
        light=str(rng.choice(["daylight", "tungsten"])), width_px=1024, height_px=768, pixel_aspect=1.0, finish="photo",
        version=str(rng.choice(["series", "special"])), bare=bool(rng.random() < 0.5), frame=None, card=False,
        white_balance=float(rng.uniform(0.4, 0.9)), bend=float(rng.choice([0.0, -0.04, 0.03])), exposure=1.0,
    )  # fmt: skip


def _drawn_fault(rng: np.random.Generator) -> Fault:
    kind = rng.integers(0, 5)
    size = rng.choice([-1, 1]) * rng.uniform(2.0, 8.0)
    if kind == 0:
        return Fault()
    if kind == 1:
        return Fault(house=tuple(float(v) for v in np.eye(3)[rng.integers(0, 2)] * size))
    if kind == 2:
        return Fault(fins=tuple(float(v) for v in np.eye(3)[rng.integers(0, 1)] * size))
    if kind == 3:
        return Fault(fin_taller=1.0 + size / 88.5)
    return Fault(fans=1.0 + size / 104.0)


def _clicked(told: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What somebody clicked on photographs: exact places with a hand's error added."""
    rng = np.random.default_rng(48)
    return [
        {"name": one["name"], "clicks": {n: [round(float(v + rng.normal(0, CLICK_SIGMA_PX)), 2) for v in at]
                                         for n, at in one["landmarks"].items()}}
        for one in told
    ]  # fmt: skip


def main() -> None:
    """Render the demo's photographs, or pairs drawn at random."""
    parser = argparse.ArgumentParser()
    parser.add_argument("out", type=Path)
    parser.add_argument("--spp", type=int, default=96)
    parser.add_argument("--random", type=int, default=0)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    wanted: list[tuple[str, Shot, Fault]] = list(drawn_pairs(args.random, args.seed))
    wanted = wanted or [("", shot, fault) for shot, fault in DEMO]
    told = [written(shot, fault, args.out, args.spp) | {"still": still} for still, shot, fault in wanted]
    if not args.random:
        (args.out / "replica.json").write_text(json.dumps(_clicked(told), indent=1) + "\n")
    (args.out / f"truth-{args.seed}.json").write_text(json.dumps(told) + "\n")


if __name__ == "__main__":
    main()
