"""Turning a structure found in any frame into the world's: mirror plane, edges and side tags say how.

Reference: Kabsch 1976 (the turn that suits weighted pairs of directions).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.facing import facing
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.similarity import similarity
from chalkreel.core.measure.start.estimate import Estimate
from chalkreel.core.measure.start.unknowns_from import edge_normals

MIRROR_WEIGHT, EDGE_WEIGHT = 1e4, 30.0
LEAST_PAIRS = 2
LEAST_PLACES = 3


def in_world(scene: Scene, estimate: Estimate) -> Estimate:
    """The estimate turned and moved so that the world's axes are as `facing` has them and the mirror plane is y = 0."""
    points = np.stack(list(estimate.points.values()))
    middle = np.median(points, axis=0)
    pairs = _tags(scene, estimate, middle)
    beam = _beam(scene, estimate)
    if beam is not None:
        tries = [_kabsch([*pairs, (beam * sign, np.eye(3)[1], MIRROR_WEIGHT)]) for sign in (1.0, -1.0)]
        turn = max(tries, key=lambda t: _agreement(t, pairs))
    else:
        turn = _kabsch(pairs)
    edges = _edges(scene, estimate, turn)
    if edges:
        held = [] if beam is None else [(beam * np.sign(turn[1] @ beam), np.eye(3)[1], MIRROR_WEIGHT)]
        turn = _kabsch([*pairs, *edges, *held])
    shift = -turn @ middle
    if beam is not None:
        shift[1] = -_mirror_offset(scene, estimate, turn)
    return Estimate(
        {
            key: replace(c, rotation=c.rotation @ turn.T, translation=c.translation - c.rotation @ turn.T @ shift)
            for key, c in estimate.cameras.items()
        },
        {name: turn @ point + shift for name, point in estimate.points.items()},
    )


def on_plan(scene: Scene, estimate: Estimate) -> Estimate:
    """The estimate moved, turned and sized to suit landmarks whose place is known, where three or more are."""
    known = [(np.array(m.place_mm), estimate.points[m.key]) for m in scene.landmarks
             if m.place_mm is not None and m.key in estimate.points]  # fmt: skip
    if len(known) < LEAST_PLACES:
        return estimate
    wanted, found = (np.stack(part) for part in zip(*known, strict=True))
    lay = similarity(found, wanted)
    turn, size, shift = lay.turn, lay.size, lay.shift
    return Estimate(
        {
            key: replace(
                c, rotation=c.rotation @ turn.T, translation=size * c.translation - c.rotation @ turn.T @ shift
            )
            for key, c in estimate.cameras.items()
        },
        {name: lay(point) for name, point in estimate.points.items()},
    )


Pair = tuple[Array, Array, float]


def _tags(scene: Scene, estimate: Estimate, middle: Array) -> list[Pair]:
    found: list[Pair] = []
    for view in scene.views:
        camera = estimate.cameras.get(view.key)
        if camera is None:
            continue
        away = camera.position - middle
        towards = facing(view.side)
        upright = view.side not in ("top", "bottom")
        if towards is not None:
            found.append((away / max(float(np.linalg.norm(away)), 1e-9), towards, 1.0))
        if upright:
            found.append((-camera.rotation[1], np.array([0.0, 0.0, 1.0]), 0.7))
    return found


def _twins(scene: Scene, estimate: Estimate) -> list[tuple[Array, Array]]:
    done, found = set(), []
    for m in scene.landmarks:
        known = m.key in estimate.points and m.mirror in estimate.points
        if known and m.mirror != m.key and m.mirror not in done:
            done.add(m.key)
            found.append((estimate.points[m.key], estimate.points[m.mirror]))
    return found


def _beam(scene: Scene, estimate: Estimate) -> Array | None:
    """The normal of the mirror plane, either way round."""
    twins = _twins(scene, estimate)
    if len(twins) < LEAST_PAIRS:
        return None
    lines = np.stack([a - b for a, b in twins])
    # The median spares the estimate from pairs that were swapped or placed badly.
    way = np.linalg.svd(lines)[2][0]
    off = np.linalg.norm(lines - (lines @ way)[:, None] * way, axis=1) / np.maximum(np.linalg.norm(lines, axis=1), 1e-9)
    good = lines[off <= np.median(off) * 2 + 1e-9]
    return np.asarray(np.linalg.svd(good)[2][0])


def _mirror_offset(scene: Scene, estimate: Estimate, turn: Array) -> float:
    middles = [float(turn[1] @ (a + b)) / 2 for a, b in _twins(scene, estimate)]
    middles += [
        float(turn[1] @ estimate.points[m.key])
        for m in scene.landmarks
        if m.mirror == m.key and m.key in estimate.points
    ]
    return float(np.median(middles))


def _edges(scene: Scene, estimate: Estimate, turn: Array) -> list[Pair]:
    found: list[Pair] = []
    for k, axis in enumerate(AXES):
        ways = [
            estimate.points[p.b] - estimate.points[p.a]
            for p in scene.parallels
            if p.direction == axis and p.a in estimate.points and p.b in estimate.points
        ]
        normals = edge_normals(scene, estimate.cameras, axis)
        if ways:
            way = np.linalg.svd(np.stack(ways))[2][0]
        elif len(normals) > 1:
            way = np.linalg.svd(normals)[2][2]
        else:
            continue
        found.append((way * np.sign(turn[k] @ way), np.eye(3)[k], EDGE_WEIGHT))
    return found


def _kabsch(pairs: list[Pair]) -> Array:
    sums = sum((w * np.outer(wanted, found) for found, wanted, w in pairs), np.zeros((3, 3)))
    u, _, v = np.linalg.svd(sums)
    return np.asarray(u @ np.diag([1.0, 1.0, np.sign(np.linalg.det(u @ v))]) @ v)


def _agreement(turn: Array, pairs: list[Pair]) -> float:
    return float(sum(w * wanted @ turn @ found for found, wanted, w in pairs))
