"""Residuals of marked landmarks, with analytic derivatives: by far the most of the work."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.camera import centred, cross_matrix
from chalkreel.core.measure.scene import Sighting
from chalkreel.core.measure.solver.layout import ASPECT, BEND, FOCAL, LENS, OFFSET_X, OFFSET_Y, POSE, Index, Layout
from chalkreel.core.measure.solver.unknowns import Unknowns

CAMERA = POSE + LENS


@dataclass(frozen=True, eq=False)
class Sighted:
    """All sightings as arrays, sorted by view and block.

    `place` (M, 2) is the mark in pixels of true shape about the picture's middle, `sigma` (M, 2) its σ;
    `order` (M,) is the row of the scene that each came from.
    """

    view: Index
    lens: Index
    block: Index
    sign: Array
    place: Array
    sigma: Array
    order: Index

    @classmethod
    def of(cls, layout: Layout, sightings: tuple[Sighting, ...]) -> Sighted:
        """Sightings of a scene's landmarks on its views."""
        view = np.array([layout.views[s.view] for s in sightings], dtype=np.intp)
        blocks = [layout.blocks[s.landmark] for s in sightings]
        block = np.array([i for i, _ in blocks], dtype=np.intp)
        order = np.lexsort((block, view))
        stored = np.array([(s.mark.x_px, s.mark.y_px) for s in sightings]).reshape(-1, 2)
        click = np.array([s.mark.sigma_px for s in sightings])
        aspect = np.array([v.pixel_aspect for v in layout.scene.views])[view]
        size = np.array([v.size_px for v in layout.scene.views], dtype=np.float64)[view]
        place = (stored - size / 2) * np.column_stack([aspect, np.ones_like(aspect)])
        return cls(
            view=view[order],
            lens=layout.lens_of_view[view[order]],
            block=block[order],
            sign=np.array([s for _, s in blocks])[order],
            place=place[order],
            sigma=np.column_stack([click * aspect, click])[order],
            order=order,
        )

    def residuals(self, unknowns: Unknowns) -> Array:
        """(M, 2) in σ; infinite where a landmark lies behind the camera."""
        _, seen = self._seen(unknowns)
        lens = unknowns.lenses[self.lens]
        front = seen[:, 2] > 0
        ideal = seen[:, :2] / np.where(front, seen[:, 2], 1.0)[:, None]
        bend = 1.0 + lens[:, BEND, None] * np.sum(ideal**2, axis=1, keepdims=True)
        image = np.exp(lens[:, FOCAL, None]) * bend * ideal + lens[:, OFFSET_X : OFFSET_Y + 1]
        found = (image - self._stretched(lens)) / self.sigma
        return np.asarray(np.where(front[:, None], found, np.inf))

    def linearised(self, unknowns: Unknowns) -> tuple[Array, Array]:
        """Derivatives by camera (M, 2, 11: turn, translation, lens) and by block (M, 2, 3), in σ."""
        turned, seen = self._seen(unknowns)
        lens = unknowns.lenses[self.lens]
        focal, bend = np.exp(lens[:, FOCAL]), lens[:, BEND]
        inverse = 1.0 / seen[:, 2]
        u, v = seen[:, 0] * inverse, seen[:, 1] * inverse
        square = u * u + v * v
        widen = 1.0 + bend * square
        by_ideal = np.empty((len(u), 2, 2))
        by_ideal[:, 0, 0] = focal * (widen + 2 * bend * u * u)
        by_ideal[:, 1, 1] = focal * (widen + 2 * bend * v * v)
        by_ideal[:, 0, 1] = by_ideal[:, 1, 0] = focal * 2 * bend * u * v
        by_seen = np.empty((len(u), 2, 3))
        by_seen[:, :, :2] = by_ideal * inverse[:, None, None]
        by_seen[:, :, 2] = -(by_ideal[:, :, 0] * u[:, None] + by_ideal[:, :, 1] * v[:, None]) * inverse[:, None]
        by_camera = np.zeros((len(u), 2, CAMERA))
        by_camera[:, :, :3] = by_seen @ -cross_matrix(turned)
        by_camera[:, :, 3:6] = by_seen
        ideal = np.stack([u, v], axis=1)
        by_camera[:, :, POSE + FOCAL] = (focal * widen)[:, None] * ideal
        by_camera[:, :, POSE + BEND] = (focal * square)[:, None] * ideal
        by_camera[:, 0, POSE + OFFSET_X] = by_camera[:, 1, POSE + OFFSET_Y] = 1.0
        by_camera[:, 0, POSE + ASPECT] = -self._stretched(lens)[:, 0]
        by_block = by_seen @ unknowns.rotations[self.view]
        by_block[:, :, 1] *= self.sign[:, None]
        scale = 1.0 / self.sigma[:, :, None]
        return by_camera * scale, by_block * scale

    def _seen(self, unknowns: Unknowns) -> tuple[Array, Array]:
        points = unknowns.blocks[self.block]
        points = np.column_stack([points[:, 0], points[:, 1] * self.sign, points[:, 2]])
        turned = np.einsum("mij,mj->mi", unknowns.rotations[self.view], points)
        return turned, turned + unknowns.translations[self.view]

    def _stretched(self, lens: Array) -> Array:
        return np.column_stack([self.place[:, 0] * np.exp(lens[:, ASPECT]), self.place[:, 1]])


def centred_marks(layout: Layout, view: str, stored: Array) -> Array:
    """Marks on a view in pixels of true shape about its middle, (N, 2)."""
    info = layout.scene.views[layout.views[view]]
    return centred(stored, info.size_px, info.pixel_aspect)
