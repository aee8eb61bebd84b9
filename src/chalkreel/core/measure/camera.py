"""The camera: a pinhole with one radial coefficient, looking at the model.

World axes: x towards the bow, y to port, z up; lengths in mm of the model. Camera axes: x right, y down,
z forward. Pictures are in stored pixels, the first pixel's centre at (0.5, 0.5); focal length and offset are
in pixels of the picture's height, so that a pixel aspect other than 1 stretches x alone.

Reference: Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., §6.1 and §7.4 (radial distortion).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array


@dataclass(frozen=True, eq=False)
class Camera:
    """Where a still was taken from and through what lens.

    `rotation` (3, 3) and `translation` (3,) take world to camera axes. `bend` is the radial coefficient k1.
    `offset_px` is where the axis meets the picture, from its middle.
    """

    rotation: Array
    translation: Array
    focal_px: float
    bend: float
    offset_px: tuple[float, float]
    size_px: tuple[int, int]
    pixel_aspect: float

    @property
    def position(self) -> Array:
        """The camera's centre in the world, (3,)."""
        return np.asarray(-self.rotation.T @ self.translation)

    def project(self, points: Array) -> Array:
        """Stored pixels (N, 2) of points (N, 3); NaN behind the camera."""
        seen = points @ self.rotation.T + self.translation
        depth = np.where(seen[:, 2] > 0, seen[:, 2], np.nan)
        ideal = seen[:, :2] / depth[:, None]
        bent = ideal * (1.0 + self.bend * np.sum(ideal**2, axis=1, keepdims=True))
        return self.to_stored(self.focal_px * bent + np.array(self.offset_px))

    def to_stored(self, centred: Array) -> Array:
        """Stored pixels (N, 2) from pixels of true shape about the picture's middle."""
        width, height = self.size_px
        return np.asarray(centred / np.array([self.pixel_aspect, 1.0]) + np.array([width / 2, height / 2]))

    def to_centred(self, stored: Array) -> Array:
        """Pixels of true shape about the picture's middle (N, 2) from stored pixels."""
        return centred(stored, self.size_px, self.pixel_aspect)

    def rays(self, stored: Array) -> Array:
        """Unit directions (N, 3) in the world in which stored pixels (N, 2) look."""
        straight = unbent((self.to_centred(stored) - np.array(self.offset_px)) / self.focal_px, self.bend)
        seen = np.column_stack([straight, np.ones(len(straight))])
        return np.asarray((seen / np.linalg.norm(seen, axis=1, keepdims=True)) @ self.rotation)


def centred(stored: Array, size_px: tuple[int, int], pixel_aspect: float) -> Array:
    """Pixels of true shape about the picture's middle (N, 2) from stored pixels."""
    width, height = size_px
    return np.asarray((stored - np.array([width / 2, height / 2])) * np.array([pixel_aspect, 1.0]))


def unbent(bent: Array, bend: float | Array) -> Array:
    """Ideal picture coordinates (…, 2) from bent ones, both for focal length 1, by Newton's method on the radius.

    Beyond the radius where barrel bend folds back, the fold itself is returned.
    """
    radius = np.sqrt(np.sum(bent**2, axis=-1))
    bend = np.asarray(bend, dtype=np.float64)
    fold = np.where(bend < 0, np.sqrt(1.0 / np.maximum(-3.0 * bend, 1e-12)), np.inf)
    straight = np.minimum(radius, fold)
    for _ in range(12):
        slope = np.maximum(1.0 + 3.0 * bend * straight**2, 1e-3)
        step = (straight * (1.0 + bend * straight**2) - radius) / slope
        straight = np.minimum(np.maximum(straight - step, 0.0), fold)
        # What is below this is lost in rounding: most lenses are there after three steps.
        if np.abs(step).max(initial=0.0) < 1e-15:
            break
    scale = np.where(radius > 0, straight / np.where(radius > 0, radius, 1.0), 1.0)
    return np.asarray(bent * scale[..., None])


def rotation_of(vectors: Array) -> Array:
    """Rotation matrices (…, 3, 3) of rotation vectors (…, 3) (Rodrigues' formula)."""
    angle = np.linalg.norm(vectors, axis=-1)[..., None, None]
    cross = cross_matrix(vectors)
    safe = np.where(angle > 1e-8, angle, 1.0)
    first = np.where(angle > 1e-8, np.sin(safe) / safe, 1.0)
    second = np.where(angle > 1e-8, (1.0 - np.cos(safe)) / safe**2, 0.5)
    return np.asarray(np.eye(3) + first * cross + second * (cross @ cross))


def cross_matrix(vectors: Array) -> Array:
    """The matrices (…, 3, 3) that take the cross product with vectors (…, 3)."""
    out = np.zeros((*vectors.shape[:-1], 3, 3))
    x, y, z = vectors[..., 0], vectors[..., 1], vectors[..., 2]
    out[..., 0, 1], out[..., 0, 2], out[..., 1, 2] = -z, y, -x
    out[..., 1, 0], out[..., 2, 0], out[..., 2, 1] = z, -y, x
    return out


def looking(forward: Array, up: Array) -> Array:
    """The rotation (3, 3), world to camera, of a camera that looks along `forward` with `up` upwards."""
    z = forward / np.linalg.norm(forward)
    x = np.cross(z, up)
    x = x / np.linalg.norm(x)
    return np.stack([x, np.cross(z, x), z])
