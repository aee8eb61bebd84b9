"""Photographs of an invented crane wagon, made up by another camera than the program's: tangential bend, a fifth-power
term and an axis off the middle, none of which it knows of."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.bench.equations import Shot
from chalkreel.core.bench.places import Places

SIZE = (1600, 1200)
CLICK_PX = 0.8


def _box(name: str, low: tuple[float, ...], high: tuple[float, ...]) -> dict[str, Array]:
    return {
        f"{name} {x}{y}{z}": np.array([(low, high)[x][0], (low, high)[y][1], (low, high)[z][2]])
        for x in (0, 1)
        for y in (0, 1)
        for z in (0, 1)
    }


# Wheelsets, frame, cab, boiler, jib: in mm of the miniature.
PARTS: dict[str, dict[str, Array]] = {
    "frame": {**_box("frame", (-300, -80, 40), (300, 80, 70)),
              **{f"rivet {n}": np.array([x, y, 70.0]) for n, (x, y) in enumerate(
                  (x, y) for x in (-250, -120, 10, 150, 260) for y in (-70, 70))}},
    "cab": _box("cab", (-280, -70, 70), (-130, 70, 190)),
    "boiler": _box("boiler", (-90, -45, 70), (120, 45, 150)),
    "jib": _box("jib", (120, -18, 120), (300, 18, 215)),
    "buffers": {f"buffer {n}": np.array([x, y, 55.0]) for n, (x, y) in enumerate(
        (x, y) for x in (-318, 318) for y in (-55, 55))},
}  # fmt: skip
TRUE: dict[str, Array] = {name: place for part in PARTS.values() for name, place in part.items()}
GROUPS: dict[str, tuple[str, ...]] = {part: tuple(points) for part, points in PARTS.items()}


@dataclass(frozen=True)
class Taken:
    """A photograph's exact places of landmarks in sight."""

    places_px: dict[str, Array]


def solved(rng: np.random.Generator, askew: bool = True) -> Places:
    """The wagon as a reel might have solved it: wrong by some tenths, neighbours alike, perhaps askew as a whole."""
    names = tuple(TRUE)
    points = np.stack([TRUE[n] for n in names])
    own = 0.15 * np.eye(3 * len(names))
    # Errors common to all: a stretch along each axis, and a shear.
    ways = np.zeros((4, 3 * len(names)))
    for k in range(3):
        ways[k, k::3] = 4e-4 * points[:, k]
    ways[3, 0::3] = 4e-4 * points[:, 2]
    factors = np.vstack([own, ways])
    error = (rng.standard_normal(len(factors)) @ factors).reshape(-1, 3)
    turn = cv2.Rodrigues(rng.normal(0, 0.2, 3) * askew)[0]
    shift = rng.normal(0, 100, 3)
    turned = factors.reshape(len(factors), -1, 3) @ turn.T
    return Places(names, (points + error) @ turn.T + shift, np.asarray(turned.reshape(len(factors), -1), np.float64))


def taken(rng: np.random.Generator, moved: dict[str, Array] | None = None) -> Taken:
    """A telephone's photograph from port or starboard, of the wagon with some parts moved."""
    names = list(TRUE)
    points = np.stack([TRUE[n] + (moved or {}).get(n, 0.0) for n in names])
    side = rng.choice([-1.0, 1.0])
    round_, above = np.radians(rng.uniform(25, 65)), np.radians(rng.uniform(12, 32))
    way = np.array([np.cos(round_) * np.cos(above), side * np.sin(round_) * np.cos(above), np.sin(above)])
    way *= rng.choice([-1.0, 1.0]) ** np.array([1, 0, 0])
    eye = way * rng.uniform(700, 1100) + np.array([0, 0, 90.0])
    forward = np.array([rng.normal(0, 15), rng.normal(0, 15), 100.0]) - eye
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, [0, 0, 1.0])
    right /= np.linalg.norm(right)
    roll = np.radians(rng.normal(0, 3))
    down = np.cross(forward, right)
    rotation = np.stack(
        [np.cos(roll) * right + np.sin(roll) * down, np.cos(roll) * down - np.sin(roll) * right, forward]
    )
    focal = SIZE[0] * rng.uniform(0.72, 1.1)
    matrix = np.array(
        [[focal, 0, SIZE[0] / 2 + rng.normal(0, 6)], [0, focal, SIZE[1] / 2 + rng.normal(0, 6)], [0, 0, 1]]
    )
    bend = np.array([rng.normal(0, 0.03), rng.normal(0, 0.02), rng.normal(0, 4e-4), rng.normal(0, 4e-4)])
    found = cv2.projectPoints(points, cv2.Rodrigues(rotation)[0], -rotation @ eye, matrix, bend)[0]
    stored = np.asarray(found.reshape(-1, 2), np.float64)
    # The far side of each box is not in sight.
    near = points[:, 1] * side > 0
    seen = (near | (points[:, 2] > 145)) & np.all((stored > 8) & (stored < np.array(SIZE) - 8), axis=1)
    return Taken({n: p for n, p, ok in zip(names, stored, seen, strict=True) if ok})


def clicked(photo: Taken, places: Places, rng: np.random.Generator, names: list[str] | None = None) -> Shot:
    """Clicks on some of the landmarks in sight, or on all."""
    chosen = list(photo.places_px) if names is None else names
    exact = np.stack([photo.places_px[n] for n in chosen])
    rows = np.array([places.index[n] for n in chosen], np.intp)
    return Shot(rows, exact + rng.normal(0, CLICK_PX, exact.shape), np.full(len(chosen), CLICK_PX), SIZE)
