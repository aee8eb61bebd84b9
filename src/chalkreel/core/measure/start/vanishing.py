"""Turn and focal length of one view from edges along two or three of the world's axes.

Reference: Caprile & Torre, "Using Vanishing Points for Camera Calibration", 1990.
"""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.facing import facing
from chalkreel.core.measure.scene import Scene, View
from chalkreel.core.measure.start.estimate import FOCAL_STEPS, lines_along, plain_camera

LEAST_EDGES = 2
# Below this the lines of a family are parallel on the picture and say nothing of the focal length.
FINITE = 1e-4


def turned_cameras(scene: Scene, view: View) -> tuple[Camera, ...]:
    """Cameras at the origin whose turn and focal length suit the view's edges, the likeliest first.

    Empty where fewer than two axes have two edges or more on this view.
    """
    width = max(view.size_px[0] * view.pixel_aspect, view.size_px[1])
    points: dict[str, Array] = {
        axis: v for axis in AXES if (v := _vanishing_point(scene, view, axis, width)) is not None
    }
    if len(points) < 2:
        return ()
    focals = [view.known_focal_px / width] if view.known_focal_px else _focals(list(points.values()))
    found = []
    for focal in focals or FOCAL_STEPS:
        for rotation in _rotations(points, focal):
            camera = replace(plain_camera(view, focal * width), rotation=rotation)
            found.append((_likelihood(rotation, view.side), camera))
    found.sort(key=lambda pair: -pair[0])
    most = 4 if focals else 2 * len(FOCAL_STEPS)
    return tuple(camera for _, camera in found[:most])


def _vanishing_point(scene: Scene, view: View, axis: str, width: float) -> Array | None:
    lines = []
    for stored in lines_along(scene, view.key, axis):
        ends = plain_camera(view, 1.0).to_centred(stored)
        line = np.cross([*ends[0] / width, 1.0], [*ends[1] / width, 1.0])
        # Longer edges point more surely: their lines are left at their length.
        lines.append(line)
    if len(lines) < LEAST_EDGES:
        return None
    return np.asarray(np.linalg.svd(np.stack(lines))[2][2])


def _focals(points: list[Array]) -> list[float]:
    """Focal lengths, as shares of the width, that make pairs of vanishing points square to each other."""
    found = []
    for a, b in itertools.combinations(points, 2):
        if abs(a[2] * b[2]) > FINITE:
            square = -float(a[:2] @ b[:2]) / float(a[2] * b[2])
            if 0.15 < square < 100.0:
                found.append(float(np.sqrt(square)))
    return [float(np.median(found))] if found else []


def _rotations(points: dict[str, Array], focal: float) -> list[Array]:
    """World to camera turns for each choice of which way along its axis each vanishing point lies."""
    names = list(points)
    ways = []
    for name in names:
        way = points[name] * np.array([1.0, 1.0, focal])
        ways.append(way / np.linalg.norm(way))
    found = []
    for signs in itertools.product((1.0, -1.0), repeat=len(names)):
        columns = np.zeros((3, 3))
        for name, way, sign in zip(names, ways, signs, strict=True):
            columns[:, AXES.index(name)] = sign * way
        if len(names) == 2:
            missing = next(i for i, axis in enumerate(AXES) if axis not in points)
            columns[:, missing] = np.cross(columns[:, (missing + 1) % 3], columns[:, (missing + 2) % 3])
        if np.linalg.det(columns) > 0:
            u, _, v = np.linalg.svd(columns)
            found.append(np.asarray(u @ v))
    return found


def _likelihood(rotation: Array, side: str) -> float:
    """How well a turn suits the side tag and an upright picture."""
    up = -float(rotation[1, 2])
    towards = facing(side)
    return up + (0.0 if towards is None else 2.0 * -float(rotation[2] @ towards))
