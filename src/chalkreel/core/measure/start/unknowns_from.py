"""From a rough estimate to values for all unknowns of a scene."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Circle, Rim, Scene
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.unknowns import Unknowns
from chalkreel.core.measure.start.estimate import MIRROR, Estimate, lines_along, nearest_to_rays

LEAST_FOR_ELLIPSE = 5


def unknowns_from(layout: Layout, estimate: Estimate) -> Unknowns:
    """Unknowns of a scene all of whose views and landmarks are in the estimate; the rest follows from them."""
    scene = layout.scene
    cameras = [estimate.cameras[view.key] for view in scene.views]
    lenses = np.zeros((len(layout.lenses), 5))
    for lens in range(len(layout.lenses)):
        mine = [c for c, row in zip(cameras, layout.lens_of_view, strict=True) if row == lens]
        lenses[lens] = [
            float(np.mean([np.log(c.focal_px) for c in mine])),
            float(np.mean([c.bend for c in mine])),
            *np.mean([c.offset_px for c in mine], axis=0),
            0.0,
        ]
    blocks = np.zeros((layout.block_count, 3))
    counts = np.zeros(layout.block_count)
    for name, (block, sign) in layout.blocks.items():
        blocks[block] += estimate.points[name] * np.array([1.0, sign, 1.0])
        counts[block] += 1
    blocks /= np.maximum(counts, 1)[:, None]
    blocks[layout.centred_blocks, 1] = 0.0
    places = {n: blocks[block] * np.array([1.0, sign, 1.0]) for n, (block, sign) in layout.blocks.items()}
    return Unknowns(
        rotations=np.stack([c.rotation for c in cameras]),
        translations=np.stack([c.translation for c in cameras]),
        lenses=lenses,
        blocks=blocks,
        directions=np.stack([_direction(scene, estimate, places, name) for name in layout.directions])
        if layout.directions
        else np.zeros((0, 3)),
        flats=np.array([_flat(f.across, np.stack([places[n] for n in f.landmarks])) for f in scene.flats]).reshape(
            -1, 4
        ),
        circles=np.array([_circle(scene, c, estimate, blocks.mean(axis=0)) for c in scene.circles]).reshape(-1, 7),
    )


def edge_normals(scene: Scene, cameras: Mapping[str, Camera], direction: str) -> Array:
    """Normals (N, 3) of the planes through camera and edge; a direction is square to all of its own."""
    found = []
    for key, camera in cameras.items():
        for stored in lines_along(scene, key, direction):
            a, b = camera.rays(stored)
            found.append(np.cross(a, b) / max(float(np.linalg.norm(np.cross(a, b))), 1e-9))
    return np.array(found).reshape(-1, 3)


def _direction(scene: Scene, estimate: Estimate, places: Mapping[str, Array], name: str) -> Array:
    for parallel in scene.parallels:
        if parallel.direction == name:
            line = places[parallel.b] - places[parallel.a]
            return np.asarray(line / np.linalg.norm(line))
    normals = edge_normals(scene, estimate.cameras, name)
    return np.asarray(np.linalg.svd(normals)[2][2]) if len(normals) > 1 else np.array([1.0, 0.0, 0.0])


def _flat(across: str | None, points: Array) -> Array:
    middle = points.mean(axis=0)
    normal = np.eye(3)[AXES.index(across)] if across in AXES else np.linalg.svd(points - middle)[2][2]
    return np.array([*normal, float(normal @ middle)])


def _circle(scene: Scene, circle: Circle, estimate: Estimate, middle: Array) -> Array:
    """As known, or centre from the ellipses' middles, then the axis and radius that fit the clicks best."""
    known = estimate.circles.get(circle.key)
    # The solver leaves a told axis where the start has it: one that was found before it was told is none.
    if known is not None and (circle.across is None or abs(known[3 + AXES.index(circle.across)]) > 1.0 - 1e-12):
        return known
    rims = [rim for rim in scene.rims if rim.circle == circle.key and rim.view in estimate.cameras]
    origins, ways = [], []
    for rim in rims:
        camera, flip = estimate.cameras[rim.view], MIRROR if rim.mirrored else np.ones(3)
        origins.append(camera.position * flip)
        ways.append(camera.rays(_ellipse_middle(rim.marks)[None])[0] * flip)
    if len(rims) > 1:
        centre = nearest_to_rays(np.stack(origins), np.stack(ways))
    else:
        centre = origins[0] + ways[0] * float((middle - origins[0]) @ ways[0])
    axes = [AXES.index(circle.across)] if circle.across else [0, 1, 2]
    fits = [(_rim_radii(rims, estimate, centre, np.eye(3)[axis]), axis) for axis in axes]
    radii, axis = min(fits, key=lambda fit: float(np.std(fit[0]) / np.mean(fit[0])))
    return np.array([*centre, *np.eye(3)[axis], float(np.log(np.median(radii)))])


def _rim_radii(rims: list[Rim], estimate: Estimate, centre: Array, normal: Array) -> Array:
    found = []
    for rim in rims:
        camera, flip = estimate.cameras[rim.view], MIRROR if rim.mirrored else np.ones(3)
        ways = camera.rays(_stored(rim.marks)) * flip
        origin = camera.position * flip
        tilt = ways @ normal
        depth = float((centre - origin) @ normal) / np.where(np.abs(tilt) > 1e-3, tilt, 1e-3)
        found.append(np.linalg.norm(origin + depth[:, None] * ways - centre, axis=1))
    return np.asarray(np.maximum(np.concatenate(found), 1e-3))


def _ellipse_middle(marks: tuple[Mark, ...]) -> Array:
    points = _stored(marks)
    if len(points) < LEAST_FOR_ELLIPSE:
        return np.asarray(points.mean(axis=0))
    return np.array(cv2.fitEllipseDirect(points.astype(np.float32))[0])


def _stored(marks: tuple[Mark, ...]) -> Array:
    return np.array([(m.x_px, m.y_px) for m in marks])
