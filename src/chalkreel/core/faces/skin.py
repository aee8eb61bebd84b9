"""All faces together, and where rays meet them.

Reference: Möller & Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", 1997.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.faces.face import Face, Index
from chalkreel.core.measure.camera import Camera

# What lies nearer to a point than this, in mm of the miniature and as a share of the distance, is its own face.
TOUCH_MM, TOUCH_SHARE = 4.0, 0.002
GROWN_MM = 1.0
# From here every face lies ahead.
FAR_MM = 1e5
# More rays and triangles at once than this fit no processor's own memory, and take several times longer.
MOST_AT_ONCE = 40_000


@dataclass(frozen=True, eq=False)
class Skin:
    """Faces that hide what lies behind them, from either side."""

    faces: tuple[Face, ...]

    @cached_property
    def triangles(self) -> Array:
        """All triangles (T, 3, 3)."""
        return np.concatenate([f.corners[f.triangles] for f in self.faces]) if self.faces else np.zeros((0, 3, 3))

    @cached_property
    def owner(self) -> Index:
        """The face of each triangle, (T,)."""
        return np.repeat(np.arange(len(self.faces)), [len(f.triangles) for f in self.faces]).astype(np.intp)

    @cached_property
    def _grown(self) -> Skin:
        """Every face a little larger: the corners of rounded edges are clicked inside of where the faces would meet."""
        return Skin(tuple(replace(face, corners=_grown(face.corners)) for face in self.faces))

    def first_hits(self, origins: Array, ways: Array) -> tuple[Array, Index]:
        """How many times their own length rays (N, 3) from origins (N, 3) or (3,) go to the first face, and which.

        Infinite, and −1, where they meet none.
        """
        far, which = np.full(len(ways), np.inf), np.full(len(ways), -1, np.intp)
        step = max(1, MOST_AT_ONCE // max(len(self.triangles), 1))
        for start in range(0, len(ways) if len(self.triangles) else 0, step):
            part = slice(start, start + step)
            times = (
                self._times_from(origins, ways[part]) if origins.ndim == 1 else self._times(origins[part], ways[part])
            )
            first = np.argmin(times, axis=1)
            far[part] = times[np.arange(len(times)), first]
            which[part] = np.where(np.isfinite(far[part]), self.owner[first], -1)
        return far, which

    def hidden(self, camera: Camera, points: Array) -> Array:
        """Whether a face stands between a camera and points (N, 3)."""
        return np.asarray(self.hiding(camera, points) >= 0)

    def hiding(self, camera: Camera, points: Array) -> Index:
        """The face that stands between a camera and each of points (N, 3); −1 for none."""
        ways = points - camera.position
        far, which = self._grown.first_hits(camera.position, ways)
        length = np.linalg.norm(ways, axis=1)
        hides = far < 1.0 - TOUCH_SHARE - TOUCH_MM / np.maximum(length, 1e-9)
        return np.where(hides, which, -1).astype(np.intp)

    def hidden_along(self, way: Array, points: Array) -> Flags:
        """Whether a face stands before points (N, 3) for an eye infinitely far away, which looks along `way` (3,)."""
        ways = np.repeat(way[None], len(points), axis=0)
        far = self._grown.first_hits(points - FAR_MM * way, ways)[0]
        return np.asarray(far < FAR_MM - TOUCH_MM)

    def _times_from(self, origin: Array, ways: Array) -> Array:
        """The same as `_times` for rays from one place: all that is asked of a way is then linear in it."""
        a, b, c = self.triangles.transpose(1, 0, 2)
        ab, ac, s = b - a, c - a, origin - a
        q = np.cross(s, ab)
        det, u, v = (ways @ np.asarray(across).T for across in (np.cross(ac, ab), np.cross(ac, s), q))
        with np.errstate(divide="ignore", invalid="ignore"):
            u, v, t = u / det, v / det, np.sum(ac * q, axis=1) / det
            meets = (np.abs(det) > 1e-12) & (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 1e-9)
        return np.asarray(np.where(meets, t, np.inf))

    def _times(self, origins: Array, ways: Array) -> Array:
        """(N, T) lengths along rays to triangles, infinite where they miss."""
        a, b, c = self.triangles.transpose(1, 0, 2)
        ab, ac = b - a, c - a
        p = np.cross(ways[:, None], ac[None])
        det = np.einsum("ntk,tk->nt", p, ab)
        with np.errstate(divide="ignore", invalid="ignore"):
            inverse = 1.0 / det
            s = origins[:, None] - a[None]
            u = np.einsum("ntk,ntk->nt", s, p) * inverse
            q = np.cross(s, ab[None])
            v = np.einsum("nk,ntk->nt", ways, q) * inverse
            t = np.einsum("tk,ntk->nt", ac, q) * inverse
            meets = (np.abs(det) > 1e-12) & (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 1e-9)
        return np.asarray(np.where(meets, t, np.inf))


def _grown(corners: Array) -> Array:
    outwards = corners - corners.mean(axis=0)
    return np.asarray(corners + GROWN_MM * outwards / np.linalg.norm(outwards, axis=1, keepdims=True))
