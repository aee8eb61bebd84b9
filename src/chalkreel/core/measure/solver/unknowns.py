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
    log of the aspect's error; `seeds` (S, 3); `directions` (F, 3) unit; `flats` (P, 4) unit normal and distance
    from the origin; `circles` (K, 7) centre, unit normal, log radius.
    """

    rotations: Array
    translations: Array
    lenses: Array
    seeds: Array
    directions: Array
    flats: Array
    circles: Array

    def moved(self, layout: Layout, step: Array, seed_step: Array) -> Unknowns:
        """After a step of the globals (D,) and of all seeds (S, 3); coupled seeds move by their globals."""
        at = layout.offsets
        poses = step[: at["lenses"]].reshape(-1, POSE)
        turn = rotation_of(poses[:, :3])
        seeds = self.seeds + seed_step
        seeds[layout.coupled_seeds] = self.seeds[layout.coupled_seeds] + step[at["seeds"] :].reshape(-1, 3)
        flats = self.flats + step[at["flats"] : at["circles"]].reshape(-1, FLAT)
        flats = flats / np.linalg.norm(flats[:, :3], axis=1, keepdims=True)
        circles = self.circles + step[at["circles"] : at["seeds"]].reshape(-1, ROUND)
        circles[:, 3:6] = _unit(circles[:, 3:6])
        return Unknowns(
            rotations=turn @ self.rotations,
            translations=self.translations + poses[:, 3:],
            lenses=self.lenses + step[at["lenses"] : at["directions"]].reshape(-1, LENS),
            seeds=seeds,
            directions=_unit(self.directions + step[at["directions"] : at["flats"]].reshape(-1, DIRECTION)),
            flats=flats,
            circles=circles,
        )

    def point(self, layout: Layout, landmark: str) -> Array:
        """A landmark's place, (3,)."""
        seed, sign = layout.seeds[landmark]
        return np.asarray(self.seeds[seed] * np.array([1.0, sign, 1.0]))

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
