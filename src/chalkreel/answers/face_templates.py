"""A face as a template at the replica's true size: its outline, with the length of every side and every angle."""

from __future__ import annotations

import numpy as np

from chalkreel.answers.faces import Faces
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.draft.sheet import Path, Point, Ring, Sheet, Words
from chalkreel.core.draft.template import unrolled
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import LEAST_CORNERS
from chalkreel.core.faces.outlines import CREASE
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import format_length, length_pm
from chalkreel.core.measure.quantities import Angle, Distance, Measured, measure
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.document.entities import SkinFace
from chalkreel.document.snapshot import Build

# How far inside its side a number stands, where the list begins, and its lines, mm on paper.
INSIDE_MM, LIST_MM = 2.2, 5.0
WORDS_MM, LINE_MM = 2.4, 5.0
# Corners of neighbouring pieces this near, mm of the miniature, are one.
SHARED_MM = 0.3
# Rims are on one axis if they lean from each other by less than 3° (cosine) and lie aside by less than so much of the
# larger diameter.
STRAIGHT, ASIDE_SHARE = 0.9986, 0.02


def face_template(build: Build, faces: Faces, reel: ReelAnswer, outline: SkinFace) -> Sheet:
    """One face, and beside it its mirror image where the other side has one too.

    Raises
    ------
    RefusedError
        It is not solved, or nothing gives the scale.
    """
    row = next((r for r in faces.rows if r.id == outline.id), None)
    solution, spread = reel.solution, reel.spread
    if row is None or row.problem or solution is None or spread is None:
        raise RefusedError(row.problem if row is not None and row.problem else "Its landmarks are not solved yet.")
    if not (solution.scene.rulers or solution.scene.gauges):
        raise RefusedError("Nothing gives the scale yet. Make one known length a ruler.")
    if outline.circle_ids:
        return _round_template(build, outline, solution)
    if outline.outline_ids:
        return _traced_template(build, faces, outline)
    factor = build.chain.convert(1.0, "miniature", "replica")
    ids = outline.landmark_ids
    corners = _flat(np.array([solution.point(i) for i in ids])) * factor
    after = (*ids[1:], ids[0])
    sides = measure(solution, spread, tuple(Distance(a, b) for a, b in zip(ids, after, strict=True)))
    turns = measure(solution, spread, tuple(
        Angle(before, at, to) for before, at, to in zip((ids[-1], *ids[:-1]), ids, after, strict=True)))  # fmt: skip
    drawn = _drawn(build, outline.name, corners, sides, turns, factor)
    if any(face.key.startswith(outline.id) and face.key != outline.id for face in faces.skin.faces):
        # Below, since the list of sides stands beside.
        below = drawn.bounds()[1] - LIST_MM - float(np.ptp(corners[:, 1]))
        other = corners * np.array([-1.0, 1.0]) + np.array([float(np.ptp(corners[:, 0])), below])
        twin = Path(_points(other), "cut", closed=True)
        words = Words((float(other[:, 0].mean()), float(other[:, 1].mean())), "other side", WORDS_MM, centred=True)
        drawn = Sheet(drawn.name, (*drawn.paths, twin), words=(*drawn.words, words))
    return drawn


def _round_template(build: Build, outline: SkinFace, solution: Solution) -> Sheet:
    """A disc as its circle, a wall unrolled.

    Raises
    ------
    RefusedError
        Its rims do not lie on one axis.
    """
    factor = build.chain.convert(1.0, "miniature", "replica")
    circles = [solution.unknowns.circles[solution.layout.circles[i]] for i in outline.circle_ids]
    across = [2 * float(np.exp(v[6])) * factor for v in circles]
    if len(across) > 1:
        apart, axis = circles[1][:3] - circles[0][:3], circles[0][3:6]
        aside = float(np.linalg.norm(apart - (apart @ axis) * axis)) * factor
        if abs(float(axis @ circles[1][3:6])) < STRAIGHT or aside > ASIDE_SHARE * max(across):
            raise RefusedError("Its two rims do not lie on one axis: it cannot be unrolled as a cone.")
        return unrolled(outline.name, max(across), min(across), float(abs(apart @ axis)) * factor)
    words = Words((0.0, -across[0] / 2 - 6.0), f"{outline.name}, Ø {format_length(across[0], build.info.unit)}", 3.0)
    return Sheet(outline.name, (), rings=(Ring((0.0, 0.0), across[0] / 2, "cut"),), words=(words,))


def _traced_template(build: Build, faces: Faces, outline: SkinFace) -> Sheet:
    """A traced face as its outline, a wall laid flat with its creases scored, and the length of each edge."""
    panel, pieces = faces.panel(outline.id), faces.pieces(outline.id)
    factor = build.chain.convert(1.0, "miniature", "replica")
    points = panel.outline * factor
    paths = [Path(_points(points), "cut", closed=True)]
    for lay, before, after in zip(panel.lays, pieces, pieces[1:], strict=False):
        shared = [p for p in before.corners if np.linalg.norm(after.corners - p, axis=1).min() < SHARED_MM]
        if before.normal @ after.normal < CREASE and len(shared) > 1:
            paths.append(Path(_points(lay.flat(np.array(shared[:2])) * factor), "score"))
    middle, words, told = points.mean(axis=0), [], []
    lengths = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1)
    for edge in range(max(panel.edges, default=-1) + 1):
        mine = np.flatnonzero(np.array(panel.edges) == edge)
        number = str(edge + 1)
        words.append(_inside(points[mine[len(mine) // 2]], middle, number))
        told.append(f"{number}, {panel.names[mine[0]]}: {format_length(float(lengths[mine].sum()), build.info.unit)}")
    if any(len(piece.corners) == LEAST_CORNERS for piece in pieces) and len(pieces) > 1:
        told.append("It bends two ways: no sheet lies on it without stretching. Cut it oversize.")
    left, top = float(points[:, 0].max()) + LIST_MM, float(points[:, 1].max())
    words += [Words((left, top - LINE_MM * (n + 1)), line, WORDS_MM) for n, line in enumerate(told)]
    words.append(Words((0.0, -6.0), outline.name, 3.0))
    return Sheet(outline.name, tuple(paths), words=tuple(words))


def _flat(corners: Array) -> Array:
    """Corners (N, 2) in their plane, the longest side level, from the origin up and right."""
    middle = corners.mean(axis=0)
    normal = np.linalg.svd(corners - middle)[2][2]
    sides = np.roll(corners, -1, axis=0) - corners
    right = sides[int(np.argmax(np.linalg.norm(sides, axis=1)))]
    right = right - (right @ normal) * normal
    right = right / np.linalg.norm(right)
    flat = (corners - middle) @ np.stack([right, np.cross(normal, right)], axis=1)
    return np.asarray(flat - flat.min(axis=0))


def _drawn(
    build: Build, name: str, corners: Array, sides: tuple[Measured, ...], turns: tuple[Measured, ...], factor: float
) -> Sheet:
    """The outline with its sides numbered; lengths and angles in a list beside it, where they are in nobody's way."""
    middle, words, told = corners.mean(axis=0), [], []
    count = len(corners)
    for n, (a, b, side) in enumerate(zip(corners, np.roll(corners, -1, axis=0), sides, strict=True)):
        words.append(_inside((a + b) / 2, middle, str(n + 1)))
        value, pm = length_pm(side.value * factor, NORMAL_95 * side.sigma * factor, build.info.unit)
        told.append(f"side {n + 1}: {value} {pm}")
    for n, turn in enumerate(turns):
        before = (n - 1) % count + 1
        told.append(f"from {before} to {n + 1}: {turn.value:.1f} ± {max(0.1, NORMAL_95 * turn.sigma):.1f}°")
    left, top = float(corners[:, 0].max()) + LIST_MM, float(corners[:, 1].max())
    words += [Words((left, top - LINE_MM * (n + 1)), line, WORDS_MM) for n, line in enumerate(told)]
    words.append(Words((0.0, float(corners[:, 1].min()) - 6.0), name, 3.0))
    return Sheet(name, (Path(_points(corners), "cut", closed=True),), words=tuple(words))


def _inside(at: Array, middle: Array, words: str) -> Words:
    way = middle - at
    x, y = at + way * min(1.0, INSIDE_MM / max(float(np.linalg.norm(way)), 1e-9))
    return Words((float(x), float(y) - WORDS_MM / 2), words, WORDS_MM, centred=True)


def _points(corners: Array) -> tuple[Point, ...]:
    return tuple((float(x), float(y)) for x, y in corners)
