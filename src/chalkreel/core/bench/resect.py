"""Where a photograph of the replica was taken from, and through what lens, by clicks on landmarks of known place.

Eight unknowns: turn (3), place (3), logarithm of the focal length, bend. Known places carry their own errors, which are
common to all clicks, so the fit is a generalised one; clicks far off lose weight.

References: Terzakis & Lourakis, "A Consistently Fast and Globally Optimal Solution to the Perspective-n-Point
Problem", 2020 (the starts); Hartley & Zisserman, 2nd ed., §7.2 (resection); Huber 1964 (weights).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.camera import Camera, centred, cross_matrix, rotation_of

LEAST_CLICKS = 4
# Focal lengths to begin with, in widths of the picture: from an ultra-wide telephone to a long lens.
STARTS = np.geomspace(0.6, 6.0, 9)
# What is known of a lens before anything is clicked: bend, and the focal length in widths with its relative spread.
BEND_SIGMA = 0.06
FOCAL_WIDTHS, FOCAL_SIGMA = 1.0, 0.8
# Lenses straighter than this share of a line across the clicks say nothing of a place in depth.
FLAT_SHARE = 0.01
LINE_SHARE = 0.02
HUBER = 2.5
# So many of the cameras to begin with are worth improving.
TRIED = 5
ROUGH_STEPS, FINE_STEPS, SETTLED = 12, 30, 1e-7
UNKNOWNS = 8


@dataclass(frozen=True)
class Lens:
    """What is known of a photograph's focal length beforehand: in widths of the picture, with its relative σ."""

    widths: float = FOCAL_WIDTHS
    sigma: float = FOCAL_SIGMA


ANY_LENS = Lens()


@dataclass(frozen=True, eq=False)
class Clicks:
    """Clicks (n, 2) in stored pixels with their errors (n,), on places (n, 3) with factors (M, n, 3) of theirs."""

    stored: Array
    sigma: Array
    points: Array
    factors: Array

    def without(self, left: Array) -> Clicks:
        """Only the clicks for which `left` (n,) is True."""
        return Clicks(self.stored[left], self.sigma[left], self.points[left], self.factors[:, left])


@dataclass(frozen=True, eq=False)
class Pose:
    """A photograph's camera, the covariance (8, 8) of its unknowns, what is left over, and how much each click counted.

    `residuals` (n, 2) are clicked less expected in pixels; `weights` (n,) are 1 for clicks that fit.
    """

    camera: Camera
    covariance: Array
    residuals: Array
    weights: Array
    cost: float


def resected(clicks: Clicks, size_px: tuple[int, int], lens: Lens = ANY_LENS) -> Pose:
    """The camera that explains clicks best.

    Raises
    ------
    RefusedError
        Fewer than four clicks, all close to one line, or no camera shows them so.
    """
    check_spread(clicks.stored)
    nearest = sorted(starts(clicks, size_px), key=lambda camera: _miss(clicks, camera))[:TRIED]
    tried = [_settled(clicks, camera, lens, ROUGH_STEPS, exact=True) for camera in nearest]
    found = sorted((f for f in tried if f is not None), key=lambda f: f.cost)
    best = [_settled(clicks, pose.camera, lens, FINE_STEPS, exact=False) for pose in found[:3]]
    kept = [pose for pose in best if pose is not None]
    if not kept:
        raise RefusedError("No camera sees these places so. Are the clicks on the landmarks they are named after?")
    return min(kept, key=lambda pose: pose.cost)


def _miss(clicks: Clicks, camera: Camera) -> float:
    """How far off the clicks are, with far ones counting less; beyond all where a place is behind the camera."""
    gap = np.linalg.norm(clicks.stored - camera.project(clicks.points), axis=1)
    return float(np.sqrt(gap).sum()) if np.isfinite(gap).all() else np.inf


def refined(clicks: Clicks, camera: Camera, lens: Lens = ANY_LENS) -> Pose | None:
    """The same from a camera that is nearly right; None where it loses sight of the places."""
    return _settled(clicks, camera, lens, FINE_STEPS, exact=False)


def check_spread(stored: Array) -> None:
    """Refuse clicks that cannot fix a camera.

    Raises
    ------
    RefusedError
        Fewer than four, or all close to one line.
    """
    if len(stored) < LEAST_CLICKS:
        raise RefusedError(f"Click {LEAST_CLICKS - len(stored)} more: four landmarks far apart lay the photograph.")
    spread = np.linalg.svd(stored - stored.mean(axis=0), compute_uv=False)
    if spread[1] < LINE_SHARE * max(spread[0], 1e-9):
        raise RefusedError("These landmarks lie in one line on the photograph. Click one well away from it.")


def starts(clicks: Clicks, size_px: tuple[int, int]) -> Sequence[Camera]:
    """Cameras to begin with: one or more for each focal length."""
    middle = clicks.points.mean(axis=0)
    points = clicks.points - middle
    pixels = centred(clicks.stored, size_px, 1.0)
    ways = [cv2.SOLVEPNP_SQPNP]
    spread = np.linalg.svd(points, compute_uv=False)
    if spread[2] < FLAT_SHARE * spread[0]:
        ways.append(cv2.SOLVEPNP_IPPE)
    found = []
    for widths in STARTS:
        focal = widths * size_px[0]
        matrix = np.array([[focal, 0, 0], [0, focal, 0], [0, 0, 1.0]])
        for way in ways:
            try:
                _, turns, shifts, _ = cv2.solvePnPGeneric(points, pixels, matrix, None, flags=way)
            except cv2.error:
                continue
            for turn, shift in zip(turns, shifts, strict=True):
                rotation = rotation_of(np.asarray(turn, np.float64).ravel())
                translation = np.asarray(shift, np.float64).ravel() - rotation @ middle
                if np.isfinite(translation).all():
                    found.append(Camera(rotation, translation, focal, 0.0, (0.0, 0.0), size_px, 1.0))
    return found


def linearised(camera: Camera, points: Array) -> tuple[Array, Array, Array]:
    """Stored pixels (n, 2) of points, and their slopes by the unknowns (n, 2, 8) and by the points (n, 2, 3).

    NaN behind the camera.
    """
    seen = points @ camera.rotation.T
    local = seen + camera.translation
    depth = np.where(local[:, 2] > 0, local[:, 2], np.nan)
    ideal = local[:, :2] / depth[:, None]
    square = np.sum(ideal**2, axis=1)
    factor = 1.0 + camera.bend * square
    by_ideal = camera.focal_px * (
        factor[:, None, None] * np.eye(2) + 2.0 * camera.bend * ideal[:, :, None] * ideal[:, None, :]
    )
    by_local = np.zeros((len(points), 2, 3))
    by_local[:, 0, 0] = by_local[:, 1, 1] = 1.0 / depth
    by_local[:, :, 2] = -ideal / depth[:, None]
    by_local = by_ideal @ by_local
    slopes = np.empty((len(points), 2, UNKNOWNS))
    slopes[:, :, :3] = -by_local @ cross_matrix(seen)
    slopes[:, :, 3:6] = by_local
    offset = camera.focal_px * factor[:, None] * ideal
    slopes[:, :, 6] = offset
    slopes[:, :, 7] = camera.focal_px * square[:, None] * ideal
    narrow = np.array([1.0 / camera.pixel_aspect, 1.0])
    stored = camera.to_stored(offset + np.array(camera.offset_px))
    return stored, slopes * narrow[:, None], (by_local @ camera.rotation) * narrow[:, None]


def moved(camera: Camera, step: Array) -> Camera:
    """A camera whose unknowns have changed by a step (8,)."""
    return replace(
        camera,
        rotation=rotation_of(step[:3]) @ camera.rotation,
        translation=camera.translation + step[3:6],
        focal_px=camera.focal_px * math.exp(float(np.clip(step[6], -1.0, 1.0))),
        bend=camera.bend + float(step[7]),
    )


def prior(camera: Camera, lens: Lens) -> tuple[Array, Array]:
    """How far the lens lies from what is expected of it, in σ (2,), and the slopes of that (2, 8)."""
    slopes = np.zeros((2, UNKNOWNS))
    slopes[0, 6], slopes[1, 7] = 1.0 / lens.sigma, 1.0 / BEND_SIGMA
    off = np.array([math.log(camera.focal_px / (lens.widths * camera.size_px[0])) / lens.sigma,
                    camera.bend / BEND_SIGMA])  # fmt: skip
    return off, slopes


def scatter(clicks: Clicks, by_point: Array, weights: Array) -> Array:
    """Covariance (2n, 2n) of what clicks leave over: their own errors, and those of the places."""
    count = len(clicks.sigma)
    each = clicks.factors.transpose(1, 0, 2) @ by_point.transpose(0, 2, 1)
    moving = each.transpose(1, 0, 2).reshape(len(clicks.factors), 2 * count)
    own = np.repeat(clicks.sigma**2 / np.maximum(weights, 1e-6), 2)
    return np.asarray(moving.T @ moving + np.diag(own))


def _settled(clicks: Clicks, camera: Camera, lens: Lens, steps: int, exact: bool) -> Pose | None:
    """Levenberg and Marquardt's way; with `exact` the places count as exact, which is quicker."""
    weights, damping = np.ones(len(clicks.sigma)), 1e-3
    state = _State.at(clicks, camera, lens, weights, exact)
    for _ in range(steps):
        if state is None:
            return None
        normal = state.normal
        step = np.asarray(np.linalg.solve(normal + damping * np.diag(np.diag(normal)), state.downhill), np.float64)
        tried = _State.at(clicks, moved(state.camera, step), lens, weights, exact)
        if tried is None or tried.cost > state.cost:
            damping *= 8.0
            if damping > 1e8:
                break
            continue
        gained, state, damping = state.cost - tried.cost, tried, max(damping / 5.0, 1e-9)
        weights = state.huber()
        reweighted = _State.at(clicks, state.camera, lens, weights, exact)
        if gained < SETTLED * state.cost and np.allclose(weights, state.weights, atol=1e-3):
            break
        state = reweighted
    if state is None:
        return None
    residuals = clicks.stored - linearised(state.camera, clicks.points)[0]
    covariance = np.asarray(np.linalg.inv(state.normal), np.float64)
    return Pose(state.camera, covariance, residuals, weights, state.robust())


@dataclass(frozen=True, eq=False)
class _State:
    """The equations at a camera, with errors taken out of them (whitened)."""

    camera: Camera
    slopes: Array
    off: Array
    weights: Array

    @staticmethod
    def at(clicks: Clicks, camera: Camera, lens: Lens, weights: Array, exact: bool) -> _State | None:
        stored, slopes, by_point = linearised(camera, clicks.points)
        off = (clicks.stored - stored).ravel()
        if not np.isfinite(off).all() or abs(camera.bend) > 1.0:
            return None
        flat = slopes.reshape(-1, UNKNOWNS)
        if exact:
            scale = np.repeat(np.sqrt(weights) / clicks.sigma, 2)
            flat, off = flat * scale[:, None], off * scale
        else:
            root = np.linalg.cholesky(scatter(clicks, by_point, weights))
            whole = np.linalg.solve(root, np.column_stack([flat, off]))
            flat, off = whole[:, :UNKNOWNS], whole[:, UNKNOWNS]
        strange, pull = prior(camera, lens)
        return _State(camera, np.vstack([flat, pull]), np.concatenate([off, -strange]), weights)

    @property
    def normal(self) -> Array:
        return np.asarray(self.slopes.T @ self.slopes)

    @property
    def downhill(self) -> Array:
        return np.asarray(self.slopes.T @ self.off)

    @property
    def cost(self) -> float:
        return float(self.off @ self.off)

    def _sizes(self) -> Array:
        """How many σ each click is off, (n,), before it lost weight."""
        own = self.off[:-2].reshape(-1, 2)
        return np.asarray(np.linalg.norm(own, axis=1) / np.sqrt(self.weights))

    def huber(self) -> Array:
        return np.asarray(np.minimum(1.0, HUBER / np.maximum(self._sizes(), 1e-9)))

    def robust(self) -> float:
        sizes = self._sizes()
        bent = np.where(sizes < HUBER, sizes**2, 2 * HUBER * sizes - HUBER**2)
        return float(bent.sum() + self.off[-2:] @ self.off[-2:])
