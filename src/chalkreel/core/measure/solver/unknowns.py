"""The values of all unknowns, and how a step moves them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.camera import Camera, rotation_of
from chalkreel.core.measure.solver.layout import (
    ASPECT,
    BEND,
    DIRECTION,
    FLAT,
    FOCAL,
    LENS,
    OFFSET_X,
    OFFSET_Y,
    POSE,
    ROUND,
    Layout,
)


@dataclass(frozen=True, eq=False)
class Unknowns:
    """Values by row of the layout.

    `rotations` (C, 3, 3), `translations` (C, 3); `lenses` (G, 5) hold log focal length, bend, offset x and y and
    log of the aspect's error; `blocks` (S, 3); `directions` (F, 3) unit; `flats` (P, 4) unit normal and distance
    from the origin; `circles` (K, 7) centre, unit normal, log radius.
    """

    rotations: Array
    translations: Array
    lenses: Array
    blocks: Array
    directions: Array
    flats: Array
    circles: Array

    def moved(self, layout: Layout, step: Array, block_step: Array) -> Unknowns:
        """After a step of the dense parameters (D,) and of all blocks (S, 3); coupled ones move by the dense."""
        at = layout.offsets
        poses = step[: at["lenses"]].reshape(-1, POSE)
        turn = rotation_of(poses[:, :3])
        blocks = self.blocks + block_step
        blocks[layout.coupled_blocks] = self.blocks[layout.coupled_blocks] + step[at["blocks"] :].reshape(-1, 3)
        flats = self.flats + step[at["flats"] : at["circles"]].reshape(-1, FLAT)
        flats = flats / np.linalg.norm(flats[:, :3], axis=1, keepdims=True)
        circles = self.circles + step[at["circles"] : at["blocks"]].reshape(-1, ROUND)
        circles[:, 3:6] = _unit(circles[:, 3:6])
        return Unknowns(
            rotations=turn @ self.rotations,
            translations=self.translations + poses[:, 3:],
            lenses=self.lenses + step[at["lenses"] : at["directions"]].reshape(-1, LENS),
            blocks=blocks,
            directions=_unit(self.directions + step[at["directions"] : at["flats"]].reshape(-1, DIRECTION)),
            flats=flats,
            circles=circles,
        )

    def point(self, layout: Layout, landmark: str) -> Array:
        """A landmark's place, (3,)."""
        block, sign = layout.blocks[landmark]
        return np.asarray(self.blocks[block] * np.array([1.0, sign, 1.0]))

    def camera(self, layout: Layout, view: int) -> Camera:
        """The camera of a view."""
        lens = self.lenses[layout.lens_of_view[view]]
        info = layout.scene.views[view]
        return Camera(
            rotation=self.rotations[view],
            translation=self.translations[view],
            focal_px=float(np.exp(lens[FOCAL])),
            bend=float(lens[BEND]),
            offset_px=(float(lens[OFFSET_X]), float(lens[OFFSET_Y])),
            size_px=info.size_px,
            pixel_aspect=info.pixel_aspect * float(np.exp(lens[ASPECT])),
        )

    def direction(self, layout: Layout, name: str) -> Array:
        """A direction's unit vector, (3,)."""
        if name in AXES:
            return np.asarray(np.eye(3)[AXES.index(name)])
        return np.asarray(self.directions[layout.directions[name]])


def _unit(vectors: Array) -> Array:
    return np.asarray(vectors / np.linalg.norm(vectors, axis=-1, keepdims=True))
