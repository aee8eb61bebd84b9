"""What lies over the picture of a side, each for itself: landmarks, sizes, marks, and which still gave what."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from chalkreel.answers.drawing import places_on_replica, wanted_sizes
from chalkreel.answers.face_marks import landed_ends
from chalkreel.answers.faces import Faces
from chalkreel.answers.layers import Layer
from chalkreel.answers.orthographic import DrawnView
from chalkreel.answers.sizes import Sizes
from chalkreel.answers.wording import name_of
from chalkreel.core.arrays import Array
from chalkreel.core.draft.labels import placed
from chalkreel.core.draft.sheet import Path, Sheet, Words, merged
from chalkreel.core.draft.three_view import dimensioned, is_true_in
from chalkreel.core.faces.frame import Frame
from chalkreel.document.entities import Dimension
from chalkreel.document.snapshot import Build

CROSS_MM, NAME_MM = 1.0, 1.6


@dataclass(frozen=True, eq=False)
class _Onto:
    """From the world, mm of the miniature, onto the sheet of a view in mm of the replica, y up."""

    frame: Frame
    factor: float

    @property
    def axes(self) -> Array:
        return np.stack([self.frame.right, -self.frame.down])

    @property
    def shift(self) -> Array:
        """The sheet's lower left corner is the picture's."""
        height = self.frame.size_px[1] * self.frame.mm_per_px
        return self.factor * np.array([-self.frame.left_mm, self.frame.top_mm + height])

    def __call__(self, points: Array) -> Array:
        return np.asarray(self.factor * points @ self.axes.T + self.shift)


def layered(build: Build, sizes: Sizes, faces: Faces, view: DrawnView, shown: frozenset[Layer]) -> Sheet:
    """The sheet of a side with the layers that are wanted."""
    plain = view.sheet
    parts = [replace(plain, plate=None)] if "lines" in shown else []
    onto = _Onto(view.frame, build.chain.convert(1.0, "miniature", "replica"))
    # What comes first has the first choice of room for its words.
    if "sizes" in shown:
        parts.append(_sizes(build, sizes, onto, plain))
    if "which still" in shown:
        parts.append(view.patchwork)
    if "marks" in shown:
        parts.append(_marks(build, sizes, faces, onto))
    if "landmarks" in shown:
        parts.append(_landmarks(build, sizes, faces, onto))
    sheet = merged(plain.name, parts)
    sheet = replace(sheet, words=placed(sheet.words))
    return replace(sheet, unit=plain.unit, plate=plain.plate if "picture" in shown else None)


def _landmarks(build: Build, sizes: Sizes, faces: Faces, onto: _Onto) -> Sheet:
    """A cross for each landmark in sight, the foremost of those in one place, and its name where there is room."""
    solution = sizes.reel.solution
    assert solution is not None
    keys = [m.key for m in solution.scene.landmarks]
    hidden = faces.skin.hidden_along(-onto.frame.out, solution.points)
    flat = onto(solution.points)
    paths, words, taken = [], [], np.zeros((0, 2))
    for n in np.argsort(-(solution.points @ onto.frame.out)):
        if hidden[n] or np.any(np.linalg.norm(taken - flat[n], axis=1) < CROSS_MM):
            continue
        taken = np.vstack([taken, flat[n]])
        x, y = flat[n].tolist()
        paths.append(Path(((x - CROSS_MM, y), (x + CROSS_MM, y)), "register"))
        paths.append(Path(((x, y - CROSS_MM), (x, y + CROSS_MM)), "register"))
        words.append(Words((x + CROSS_MM, y + CROSS_MM / 2), name_of(build, keys[n]), NAME_MM, spare=True))
    return Sheet("", tuple(paths), words=tuple(words))


def _marks(build: Build, sizes: Sizes, faces: Faces, onto: _Onto) -> Sheet:
    """A stroke and the name of each mark in sight."""
    found = list(landed_ends(build, faces, sizes.reel))
    if not found:
        return Sheet("")
    ends = np.array([places for _, places in found])
    hidden = faces.skin.hidden_along(-onto.frame.out, ends.mean(axis=1))
    paths, words = [], []
    for (spot, _), ((ax, ay), (bx, by)), is_hidden in zip(found, onto(ends).tolist(), hidden, strict=True):
        if not is_hidden:
            paths.append(Path(((ax, ay), (bx, by)), "mask"))
            words.append(Words((max(ax, bx) + CROSS_MM, (ay + by) / 2), spot.name, NAME_MM))
    return Sheet("", tuple(paths), words=tuple(words))


def _sizes(build: Build, sizes: Sizes, onto: _Onto, plain: Sheet) -> Sheet:
    """Sizes that are ticked as drawn, where this side shows them true; they stand outside of everything."""
    wanted = wanted_sizes(build.all(Dimension), sizes, places_on_replica(build, sizes), build.info.unit)
    true = tuple(size for size in wanted if is_true_in(onto.axes, size))
    (x0, y0, x1, y1), (dx, dy) = replace(plain, plate=None).bounds(), onto.shift
    return dimensioned(onto.axes, true, (x0 - dx, y0 - dy, x1 - dx, y1 - dy)).moved(float(dx), float(dy))
