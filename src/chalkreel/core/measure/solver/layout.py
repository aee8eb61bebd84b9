"""Which unknown stands where: the order of the parameters that a scene asks for.

Landmarks are kept as *blocks*: a mirror pair is one block of three parameters and its image, so that symmetry is
exact. All that is not a block (poses, lenses, directions, flats, circles) is among the *dense* parameters, as are the
blocks that share an observation with another block; the other blocks are eliminated one by one (Schur complement).
"""

from __future__ import annotations

from functools import cached_property

import numpy as np
import numpy.typing as npt

from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.scene import Scene

Index = npt.NDArray[np.intp]
Flags = npt.NDArray[np.bool_]
POSE, LENS, DIRECTION, FLAT, ROUND = 6, 5, 3, 4, 7
FOCAL, BEND, OFFSET_X, OFFSET_Y, ASPECT = range(5)


class Layout:
    """Keys to positions. `views`, `lenses`, `blocks`, `directions`, `flats`, `circles` map keys to rows."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.views = {view.key: i for i, view in enumerate(scene.views)}
        names = [view.lens or f"lens of {view.key}" for view in scene.views]
        self.lenses = {name: i for i, name in enumerate(dict.fromkeys(names))}
        self.lens_of_view = np.array([self.lenses[name] for name in names], dtype=np.intp)
        self.blocks: dict[str, tuple[int, float]] = {}
        self._name_blocks()
        named = [e.direction for e in scene.edges] + [p.direction for p in scene.parallels]
        free = [name for name in dict.fromkeys(named) if name not in AXES]
        self.directions = {name: i for i, name in enumerate(free)}
        self.flats = {flat.key: i for i, flat in enumerate(scene.flats)}
        self.circles = {circle.key: i for i, circle in enumerate(scene.circles)}

    def _name_blocks(self) -> None:
        count = 0
        for landmark in self.scene.landmarks:
            twin = self.blocks.get(landmark.mirror)
            if twin is not None and landmark.mirror != landmark.key:
                self.blocks[landmark.key] = (twin[0], -1.0)
                continue
            self.blocks[landmark.key] = (count, 1.0)
            count += 1

    @cached_property
    def block_count(self) -> int:
        """How many blocks there are."""
        return 1 + max((block for block, _ in self.blocks.values()), default=-1)

    @cached_property
    def landmark_blocks(self) -> tuple[Index, npt.NDArray[np.float64]]:
        """Block of each landmark in the scene's order (L,), and what its block is multiplied by (L, 3)."""
        found = [self.blocks[m.key] for m in self.scene.landmarks]
        signs = np.array([[1.0, sign, 1.0] for _, sign in found]).reshape(-1, 3)
        return np.array([block for block, _ in found], dtype=np.intp), signs

    @cached_property
    def centred_blocks(self) -> Flags:
        """Which blocks lie in the mirror plane, (S,)."""
        flags = np.zeros(self.block_count, dtype=np.bool_)
        flags[[self.blocks[m.key][0] for m in self.scene.landmarks if m.mirror == m.key]] = True
        return flags

    @cached_property
    def coupled_blocks(self) -> Index:
        """Blocks that are kept among the dense parameters, in order."""
        scene = self.scene
        names = {n for p in scene.parallels for n in (p.a, p.b)} | {n for r in scene.rulers for n in (r.a, r.b)}
        names |= {n for flat in scene.flats for n in flat.landmarks}
        names |= {m.key for m in scene.landmarks if m.place_mm is not None}
        return np.array(sorted({self.blocks[n][0] for n in names}), dtype=np.intp)

    @cached_property
    def free_blocks(self) -> Index:
        """Blocks that are eliminated, in order."""
        return np.setdiff1d(np.arange(self.block_count), self.coupled_blocks)

    @cached_property
    def offsets(self) -> dict[str, int]:
        """Where each kind of global starts; "end" is how many there are, without blocks "blocks"."""
        counts = (
            ("poses", POSE * len(self.views)),
            ("lenses", LENS * len(self.lenses)),
            ("directions", DIRECTION * len(self.directions)),
            ("flats", FLAT * len(self.flats)),
            ("circles", ROUND * len(self.circles)),
            ("blocks", 3 * len(self.coupled_blocks)),
        )
        found, at = {}, 0
        for name, count in counts:
            found[name] = at
            at += count
        return {**found, "end": at}

    @cached_property
    def block_columns(self) -> Index:
        """The first global column of each coupled block, (S,); -1 for free ones."""
        columns = np.full(self.block_count, -1, dtype=np.intp)
        columns[self.coupled_blocks] = self.offsets["blocks"] + 3 * np.arange(len(self.coupled_blocks))
        return columns

    @cached_property
    def active(self) -> Flags:
        """Which dense parameters are unknown at all; the others stay where they start."""
        flags = np.ones(self.offsets["end"], dtype=np.bool_)
        lenses = flags[self.offsets["lenses"] : self.offsets["directions"]].reshape(-1, LENS)
        lenses[:, OFFSET_X:] = False
        for view, lens in zip(self.scene.views, self.lens_of_view, strict=True):
            lenses[lens, OFFSET_X : OFFSET_Y + 1] |= view.cropped
            # A drawing has neither focal length nor bend, and where its axis lies is where it was put.
            lenses[lens] &= not view.orthographic
        flats = flags[self.offsets["flats"] : self.offsets["circles"]].reshape(-1, FLAT)
        flats[[f.across is not None for f in self.scene.flats], :3] = False
        circles = flags[self.offsets["circles"] : self.offsets["blocks"]].reshape(-1, ROUND)
        circles[[c.across is not None for c in self.scene.circles], 3:6] = False
        centred = self.centred_blocks[self.coupled_blocks]
        flags[self.offsets["blocks"] + 3 * np.flatnonzero(centred) + 1] = False
        return flags

    def lens_columns(self, view: int) -> Index:
        """Columns of a view's lens, (5,)."""
        return np.asarray(self.offsets["lenses"] + LENS * self.lens_of_view[view] + np.arange(LENS))

    def camera_columns(self, view: int) -> Index:
        """Columns of a view's pose and lens, (11,)."""
        return np.concatenate([POSE * view + np.arange(POSE), self.lens_columns(view)])
