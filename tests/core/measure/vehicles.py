"""A second maker of reels: a lorry-like vehicle of boxes, of which only what faces the camera is marked.

Nothing here is shared with the solver: pictures are made by a camera of its own, whose lens bends by two coefficients,
which stands a little askew, and whose clicks have heavier tails than a Gaussian.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Edge, Landmark, Parallel, Ruler, Scene, Sighting, View

Array = npt.NDArray[np.float64]
# Boxes by their fore and aft ends, half beam, foot and top, in mm.
BOXES = {
    "body": (-310.0, 120.0, 95.0, 30.0, 190.0),
    "cab": (120.0, 260.0, 90.0, 30.0, 150.0),
    "bumper": (260.0, 285.0, 70.0, 25.0, 60.0),
    "hatch": (-180.0, -60.0, 40.0, 190.0, 225.0),
    "step": (-120.0, 40.0, 118.0, 12.0, 28.0),
}
SIDES = {"port": (25, 65), "bow": (-20, 20), "starboard": (-70, -25), "aft": (150, 210)}


@dataclass(frozen=True, eq=False)
class Shot:
    """How one still is taken."""

    turn: Array
    place: Array
    focal: float
    bends: tuple[float, float]
    size: tuple[int, int]
    axis: tuple[float, float]

    def seen(self, points: Array) -> Array:
        """Stored pixels (N, 2) of points (N, 3)."""
        local = (points - self.place) @ self.turn.T
        flat = local[:, :2] / local[:, 2:]
        square = np.sum(flat**2, axis=1, keepdims=True)
        bent = flat * (1 + self.bends[0] * square + self.bends[1] * square**2)
        return np.asarray(bent * self.focal + np.array(self.size) / 2 + np.array(self.axis))


@dataclass(frozen=True, eq=False)
class Vehicle:
    """Places by landmark, the shots, and the scene as somebody marked it."""

    scene: Scene
    points: dict[str, Array]
    shots: dict[str, Shot]

    def length(self, a: str, b: str) -> float:
        return float(np.linalg.norm(self.points[a] - self.points[b]))


def corners() -> tuple[dict[str, Array], dict[str, list[Array]], list[tuple[str, str, str]]]:
    """Places, the outward normals of the faces at each corner, and the edges with their directions."""
    points, normals, edges = {}, {}, []
    for box, (aft, fore, half, foot, top) in BOXES.items():
        for ex, x in (("a", aft), ("f", fore)):
            for ey, y in (("p", half), ("s", -half)):
                for ez, z in (("l", foot), ("u", top)):
                    key = f"{box} {ex}{ey}{ez}"
                    points[key] = np.array([x, y, z])
                    normals[key] = [
                        np.array([1.0 if ex == "f" else -1.0, 0, 0]), np.array([0, np.sign(y), 0]),
                        np.array([0, 0, 1.0 if ez == "u" else -1.0]),
                    ]  # fmt: skip
        for one in ("pl", "pu", "sl", "su"):
            edges.append((f"{box} a{one}", f"{box} f{one}", "length"))
        for one in ("al", "au", "fl", "fu"):
            edges.append((f"{box} {one[0]}p{one[1]}", f"{box} {one[0]}s{one[1]}", "beam"))
        for one in ("ap", "as", "fp", "fs"):
            edges.append((f"{box} {one}l", f"{box} {one}u", "height"))
    return points, normals, edges


def shot(rng: np.random.Generator, side: str, size: tuple[int, int], axis: tuple[float, float] = (0.0, 0.0)) -> Shot:
    azimuth, rise = np.radians(rng.uniform(*SIDES[side])), np.radians(rng.uniform(6, 38))
    out = np.array([np.cos(rise) * np.cos(azimuth), np.cos(rise) * np.sin(azimuth), np.sin(rise)])
    focal = float(rng.uniform(1.1, 2.6)) * max(size)
    middle = np.array([-10.0, 0.0, 90.0]) + rng.normal(0, 15, 3)
    place = middle + out * focal / max(size) * 640 * rng.uniform(1.2, 1.5)
    forward = middle - place
    forward = forward / np.linalg.norm(forward)
    right = np.cross(forward, [0, 0, 1.0])
    right = right / np.linalg.norm(right)
    roll = np.radians(rng.normal(0, 2.0))
    down = np.cross(forward, right)
    turn = np.stack([np.cos(roll) * right + np.sin(roll) * down, np.cos(roll) * down - np.sin(roll) * right, forward])
    return Shot(turn, place, focal, (float(rng.normal(0, 0.04)), float(rng.normal(0, 0.02))), size, axis)


def clicks(rng: np.random.Generator, stored: Array, sigma: float) -> Array:
    """Heavier tails than a Gaussian of the same width, as hands have."""
    return np.asarray(stored + rng.standard_t(6, stored.shape) * sigma * np.sqrt(4 / 6))


def vehicle(
    seed: int, sides: tuple[str, ...] = ("port", "bow", "starboard", "port", "aft"), sigma: float = 0.8,
    share: float = 0.85, with_edges: int = 2, ties: bool = False, axes: dict[int, tuple[float, float]] | None = None,
    paired: bool = True, filmed: dict[int, float] | None = None,
) -> Vehicle:  # fmt: skip
    """Stills of one vehicle: corners that face the camera, some edges along each direction, a ruler over the body.

    Those that were `filmed` share a lens, zoomed by a factor.
    """
    rng = np.random.default_rng(10_000 + seed)
    points, normals, edges = corners()
    shots, sightings, lines, views = {}, [], [], []
    for number, side in enumerate(sides):
        key = f"still {number}"
        size = (1436, 1080) if number % 2 else (1920, 816)
        taken = shot(rng, side, size, (axes or {}).get(number, (0.0, 0.0)))
        lens = "film" if number in (filmed or {}) else ""
        if filmed is not None and lens:
            # One lens, zoomed by so much, from where it takes the subject in as before.
            first = shots[f"still {min(filmed)}"] if number > min(filmed) else taken
            taken = replace(
                taken, focal=first.focal / filmed[min(filmed)] * filmed[number], bends=first.bends, size=first.size
            )
            size = taken.size
        shots[key] = taken
        views.append(View(key, size, side=side, lens=lens))
        visible = [n for n, ways in normals.items() if any(w @ (taken.place - points[n]) > 0 for w in ways)]
        stored = dict(zip(points, taken.seen(np.stack(list(points.values()))), strict=True))
        inside = {n for n in visible if np.all((stored[n] > 4) & (stored[n] < np.array(size) - 4))}
        chosen = [n for n in points if n in inside and rng.random() < share]
        for name in chosen:
            x, y = clicks(rng, stored[name], sigma)
            sightings.append(Sighting(key, name, Mark(float(x), float(y), sigma)))
        for axis in ("length", "beam", "height"):
            mine = [e for e in edges if e[2] == axis and e[0] in inside and e[1] in inside]
            rng.shuffle(mine)
            for a, b, _ in mine[:with_edges]:
                ends = clicks(rng, np.stack([stored[a], stored[b]]), sigma)
                marks = (Mark(float(x), float(y), sigma) for x, y in ends)
                lines.append(Edge(key, *marks, axis))  # type: ignore[call-arg, arg-type]
    twin = {n: f"{n[:-2]}{'s' if n[-2] == 'p' else 'p'}{n[-1]}" for n in points}
    landmarks = tuple(Landmark(n, twin[n] if paired else "") for n in points)
    marked = {s.landmark for s in sightings}
    most = max((e for e in edges if {e[0], e[1]} <= marked), key=lambda e: np.linalg.norm(points[e[0]] - points[e[1]]))
    length = float(np.linalg.norm(points[most[0]] - points[most[1]]))
    ruler = Ruler("known", most[0], most[1], length + float(rng.normal(0, 0.3)), 0.3)
    parallels = tuple(Parallel(a, b, d) for a, b, d in edges if {a, b} <= marked) if ties else ()
    scene = Scene(tuple(views), landmarks, tuple(sightings), tuple(lines), parallels, rulers=(ruler,))
    return Vehicle(scene, points, shots)
