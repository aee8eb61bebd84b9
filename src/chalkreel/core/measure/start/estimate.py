"""What is roughly known so far: cameras of some views, places of some landmarks; and how to know more.

References: Hartley & Zisserman, 2nd ed., §12.2 (triangulation); Terzakis & Lourakis, "A Consistently Fast and
Globally Optimal Solution to the Perspective-n-Point Problem", 2020 (resection).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Scene, View
from chalkreel.core.measure.solver.normal import USUAL_FOCAL
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.start.drawn import drawn_camera

MIRROR = np.array([1.0, -1.0, 1.0])
FOCAL_STEPS = (0.6, 0.85, 1.1, 1.4, 1.8, 2.3, 3.0, 4.0, 6.0)
LEAST_FOR_POSE = 4
# Rays that meet at less than this angle say little about depth.
NARROW_DEG = 1.0
FAR_OFF_PX = 12.0


@dataclass(frozen=True)
class Estimate:
    """Cameras, landmarks and circles (as `Unknowns` has them) known so far, by key."""

    cameras: Mapping[str, Camera] = field(default_factory=dict)
    points: Mapping[str, Array] = field(default_factory=dict)
    circles: Mapping[str, Array] = field(default_factory=dict)

    def with_camera(self, key: str, camera: Camera) -> Estimate:
        """With one more camera."""
        return replace(self, cameras={**self.cameras, key: camera})


def estimate_of(solution: Solution) -> Estimate:
    """Cameras, places and circles of a solution, to start the next solving from."""
    scene = solution.scene
    return Estimate(
        {v.key: solution.camera(v.key) for v in scene.views},
        dict(zip((m.key for m in scene.landmarks), solution.points, strict=True)),
        {c.key: values for c, values in zip(scene.circles, solution.unknowns.circles, strict=True)},
    )


def lines_along(scene: Scene, view: str, axis: str) -> Iterator[Array]:
    """Ends (2, 2) in stored pixels of all that runs along an axis: edges, and landmarks tied by a parallel."""
    for edge in scene.edges:
        if edge.view == view and edge.direction == axis:
            yield np.array([[edge.a.x_px, edge.a.y_px], [edge.b.x_px, edge.b.y_px]])
    marks = {s.landmark: np.array([s.mark.x_px, s.mark.y_px]) for s in scene.sightings if s.view == view}
    for tie in scene.parallels:
        if tie.direction == axis and tie.a in marks and tie.b in marks:
            yield np.stack([marks[tie.a], marks[tie.b]])


def triangulated(scene: Scene, cameras: Mapping[str, Camera]) -> dict[str, Array]:
    """Places of all landmarks that two rays or more fix, twins' rays mirrored in.

    Rays that pass far from the others (swapped or misplaced marks) are left out one at a time.
    """
    twins = {m.key: m.mirror for m in scene.landmarks if m.mirror}
    rays: dict[str, list[tuple[Array, Array]]] = {}
    for key, marks in scene.marks.items():
        camera = cameras.get(key)
        if camera is None or not marks:
            continue
        directions = camera.rays(np.stack(list(marks.values())))
        for name, direction in zip(marks, directions, strict=True):
            rays.setdefault(name, []).append((camera.position, direction))
            if name in twins:
                rays.setdefault(twins[name], []).append((camera.position * MIRROR, direction * MIRROR))
    found = {name: place for name, mine in rays.items() if (place := _meeting(mine)) is not None}
    for name, place in found.items():
        if twins.get(name) == name:
            found[name] = place * np.array([1.0, 0.0, 1.0])
    return found


def _meeting(rays: list[tuple[Array, Array]]) -> Array | None:
    if len(rays) < 2:
        return None
    origins, ways = (np.stack(part) for part in zip(*rays, strict=True))
    cosines = np.abs(ways @ ways.T)
    if cosines.min() > np.cos(np.radians(NARROW_DEG)):
        return None
    keep = np.ones(len(ways), dtype=np.bool_)
    while True:
        place = nearest_to_rays(origins[keep], ways[keep])
        along = np.sum((place - origins) * ways, axis=1)
        missed = np.linalg.norm(place - origins - along[:, None] * ways, axis=1) / np.maximum(np.abs(along), 1e-9)
        missed[~keep] = 0.0
        worst = int(np.argmax(missed))
        if keep.sum() < 4 or missed[worst] < 0.01:
            return place if np.all(along[keep] > 0) else None
        keep[worst] = False


def nearest_to_rays(origins: Array, ways: Array) -> Array:
    """The place (3,) nearest to all rays from origins (N, 3) along unit vectors (N, 3)."""
    across = np.eye(3) - ways[:, :, None] * ways[:, None, :]
    return np.asarray(np.linalg.lstsq(across.sum(axis=0), np.einsum("nij,nj->i", across, origins), rcond=None)[0])


def resected(view: View, marks: Mapping[str, Array], points: Mapping[str, Array], focal: float = 0.0) -> Camera | None:
    """The camera of a view from its marks on known landmarks, trying focal lengths unless one is given.

    None where fewer than four are known, or no camera comes near them.
    """
    names = [name for name in marks if name in points]
    if len(names) < LEAST_FOR_POSE:
        return None
    stored, places = np.stack([marks[n] for n in names]), np.stack([points[n] for n in names])
    if view.orthographic:
        return drawn_camera(view, stored, places)
    width = max(view.size_px[0] * view.pixel_aspect, view.size_px[1])
    given = focal or view.known_focal_px or 0.0
    focals = [given] if given else [width * step for step in FOCAL_STEPS]
    best: tuple[float, Camera] | None = None
    for guess in focals:
        camera = _posed(view, stored, places, guess)
        if camera is None:
            continue
        missed = np.linalg.norm(camera.to_centred(camera.project(places)) - camera.to_centred(stored), axis=1)
        score = float(np.sum(np.minimum(np.nan_to_num(missed, nan=1e3), FAR_OFF_PX * 2)))
        if best is None or score < best[0]:
            best = score, camera
    return best[1] if best and best[0] / len(names) < FAR_OFF_PX * 1.5 else None


def _posed(view: View, stored: Array, places: Array, focal: float) -> Camera | None:
    camera = plain_camera(view, focal)
    seen = np.ascontiguousarray(camera.to_centred(stored))
    matrix = np.diag([focal, focal, 1.0])
    if len(places) > LEAST_FOR_POSE + 1:
        cv2.setRNGSeed(1)
        try:
            good, _, _, inside = cv2.solvePnPRansac(
                places, seen, matrix, None, reprojectionError=FAR_OFF_PX, iterationsCount=60, flags=cv2.SOLVEPNP_AP3P
            )
        except cv2.error:
            good, inside = False, None
        if good and inside is not None and len(inside) >= LEAST_FOR_POSE:
            places, seen = places[inside[:, 0]], np.ascontiguousarray(seen[inside[:, 0]])
    try:
        good, turn, shift = cv2.solvePnP(places, seen, matrix, None, flags=cv2.SOLVEPNP_SQPNP)
    except cv2.error:
        return None
    if not good or not np.all(np.isfinite(turn)):
        return None
    return replace(
        camera, rotation=np.asarray(cv2.Rodrigues(turn)[0], np.float64), translation=np.asarray(shift[:, 0], np.float64)
    )


def plain_camera(view: View, focal: float) -> Camera:
    """A camera at the origin with a lens that does not bend."""
    return Camera(np.eye(3), np.zeros(3), focal, 0.0, (0.0, 0.0), view.size_px, view.pixel_aspect)


def usual_focal(view: View) -> float:
    """The focal length to try first, in pixels."""
    return view.known_focal_px or USUAL_FOCAL * max(view.size_px[0] * view.pixel_aspect, view.size_px[1])


def ideal(view: View, stored: Iterable[Array], focal: float) -> Array:
    """Ideal picture coordinates (N, 2) of marks through a lens that does not bend."""
    return np.asarray(plain_camera(view, focal).to_centred(np.stack(list(stored))) / focal)
