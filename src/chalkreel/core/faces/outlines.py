"""The sides of all faces as a view shows them: what another face hides is left out.

Reference: Appel, "The Notion of Quantitative Invisibility and the Machine Rendering of Solids", 1967.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.frame import Frame
from chalkreel.core.faces.raster import front
from chalkreel.core.faces.skin import Skin

# A side lies on its own face: it is hidden only by what is nearer by more than this, mm of the miniature.
NEARER_MM = 2.0
# Two sides whose ends lie as near as this are one.
SAME_MM = 1.0
STEP_PX = 1.5
# Pieces of a wall that lean from each other by more than 25° (cosine) meet in a crease.
CREASE = 0.906


@dataclass(frozen=True, eq=False)
class ShownSide:
    """A piece of a line, its ends (2, 3) in pixels and mm of depth; `outer` where nothing lies beyond it."""

    ends: Array
    outer: bool


def shown_sides(skin: Skin, frame: Frame) -> tuple[ShownSide, ...]:
    """What is seen of every side, each once."""
    return shown_pieces(skin, frame, np.array(sides_of(skin, frame.out)).reshape(-1, 2, 3))


def shown_pieces(skin: Skin, frame: Frame, lines: Array) -> tuple[ShownSide, ...]:
    """What is seen of straight lines (N, 2, 3) in mm of the miniature."""
    depth = front(frame.to_px(skin.triangles), skin.owner, frame.size_px)[0]
    return tuple(piece for line in lines for piece in _seen(frame.to_px(line), depth))


def sides_of(skin: Skin, out: Array) -> list[tuple[Array, Array]]:
    """The sides of all faces as seen from far away along `out` (3,); two that are nearly one count once.

    Between two pieces of one wall there is a line only where the one faces the eye and the other does not, or where it
    has a crease.
    """
    found: dict[frozenset[tuple[int, ...]], tuple[Array, Array]] = {}
    between: dict[tuple[str, frozenset[tuple[int, ...]]], list[Array]] = {}
    for face in skin.faces:
        for a, b in zip(face.corners, np.roll(face.corners, -1, axis=0), strict=True):
            ends = frozenset(tuple(int(v) for v in np.rint(p / SAME_MM)) for p in (a, b))
            found.setdefault(ends, (a, b))
            between.setdefault((face.key, ends), []).append(face.normal)
    smooth = {ends for (_, ends), normals in between.items() if len(normals) > 1 and _is_smooth(normals, out)}
    return [line for ends, line in found.items() if ends not in smooth]


def _is_smooth(normals: list[Array], out: Array) -> bool:
    facing = {bool(normal @ out > 0) for normal in normals}
    return len(facing) == 1 and bool(normals[0] @ normals[1] > CREASE)


def _seen(ends: Array, depth: Array) -> list[ShownSide]:
    """Pieces of one side (2, 3) in pixels and mm of depth, cut where something nearer begins or ends."""
    length = float(np.linalg.norm(ends[1, :2] - ends[0, :2]))
    if length < 0.5:
        return []
    count = max(2, int(np.ceil(length / STEP_PX)))
    along = ends[0] + np.linspace(0, 1, count)[:, None] * (ends[1] - ends[0])
    height, width = depth.shape
    # Beside the side, not on it: there the buffer holds one face or the other by chance.
    across = np.array([-(ends[1] - ends[0])[1], (ends[1] - ends[0])[0]]) / length
    beside = []
    for way in (-1.5, 1.5):
        x, y = (along[:, :2] + way * across).T
        inside = (x >= 0) & (x < width) & (y >= 0) & (y < height)
        there = np.full(count, np.inf)
        there[inside] = depth[y[inside].astype(int), x[inside].astype(int)]
        beside.append(there)
    # Seen where on one side at least nothing nearer stands.
    seen = np.max(beside, axis=0) > along[:, 2] - NEARER_MM
    outer = np.isinf(np.max(beside, axis=0))
    pieces = []
    state = np.where(seen, 1 + outer, 0)
    cuts = [0, *(np.flatnonzero(np.diff(state)) + 1), count]
    for start, stop in itertools.pairwise(cuts):
        if (state[start] and stop - start > 1) or (state[start] and count == 2):
            last = min(stop, count - 1)
            pieces.append(ShownSide(along[[start, last]], bool(state[start] == 2)))
    return pieces
