"""A wall stretched between two profiles in space, such as hull sections or canopy curves, as flat pieces side by side.

Every place of one profile is joined to its counterpart on the other by a straight line: a ruled surface.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from shapely import Polygon

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import LEAST_WIDTH, Face, face_of

# Pieces along one bent run between two corners, and round a closed profile without corners.
RUN_PIECES, ROUND_PIECES = 16, 36
# A wall of more would slow every picture down: its profiles are then taken as one bent run each.
MOST_PIECES = 160
# A closed one without corners may begin anywhere: so many times as many places are tried.
FINER = 8
# A run hardly longer than its chord is straight: one piece.
STRAIGHT_SHARE = 1.0005
# Four corners no farther off one plane than this share of their spread are one flat piece, else two triangles.
FLAT_SHARE = 0.004
# Corners nearer than this, mm of the miniature, are one; profiles nearer everywhere are one profile.
SAME_MM = 0.05
# A wall that encloses less than this share of what it could has no inside of its own: the subject's middle tells.
HOLLOW_SHARE = 0.1


@dataclass(frozen=True, eq=False)
class Profile:
    """A curve in space as runs (N, 3) in mm from corner to corner, each beginning where the one before ended.

    A closed one ends where it begins; one that is not `cornered` is a single smooth run.
    """

    runs: tuple[Array, ...]
    closed: bool
    cornered: bool = True

    @property
    def points(self) -> Array:
        """All its points in order, (N, 3); of a closed one the first is not repeated."""
        joined = np.concatenate([self.runs[0], *(run[1:] for run in self.runs[1:])])
        return joined[:-1] if self.closed else joined

    def turned(self) -> Profile:
        """The same, run through the other way."""
        return Profile(tuple(run[::-1] for run in self.runs[::-1]), self.closed, self.cornered)

    def mirrored(self) -> Profile:
        """Its twin across the mirror plane y = 0."""
        return Profile(tuple(run * np.array([1.0, -1.0, 1.0]) for run in self.runs), self.closed, self.cornered)


def stretched(key: str, first: Profile, second: Profile, inside: Array) -> tuple[Face, ...]:
    """The wall between two profiles; its outside looks away from what it encloses, else from `inside` (3,).

    Corners meet corners where both have as many; else places meet by their share of the length. Of all ways to begin
    and to run round, the one with the shortest lines between both is taken.

    Raises
    ------
    RefusedError
        One is closed and the other open, or both lie in the same place.
    """
    if first.closed != second.closed:
        raise RefusedError("One of the two outlines is closed and the other open: a wall needs two of a kind.")
    a, b = _matched(first, second)
    if first.closed:
        a, b = np.concatenate([a, a[:1]]), np.concatenate([b, b[:1]])
    pieces = [corners for n in range(len(a) - 1) for corners in _pieces(a[n], a[n + 1], b[n + 1], b[n])]
    length = float(np.linalg.norm(np.diff(a, axis=0), axis=1).sum())
    if sum(float(np.linalg.norm(_doubled(piece))) for piece in pieces) < 2 * SAME_MM * length:
        raise RefusedError("Both outlines lie in the same place: a wall needs two.")
    sign = _outwards(pieces, np.concatenate([a, b]).mean(axis=0), inside, first.closed)
    return tuple(
        face_of(key, corners, corners.mean(axis=0) + sign * _doubled(corners)) for corners in pieces
    )  # fmt: skip


def simplified(points: Array, within_mm: float) -> Array:
    """Of a closed curve (N, 3) the fewest points that keep it within a distance (Douglas & Peucker 1973).

    Fewer pieces are cut off it, and it has as many corners as a face may have.
    """
    middle = points.mean(axis=0)
    right, up = np.linalg.svd(points - middle)[2][:2]
    ring = Polygon(np.stack([(points - middle) @ right, (points - middle) @ up], axis=1)).exterior
    kept = np.array(ring.simplify(within_mm).coords)[:-1]
    return np.asarray(middle + kept[:, :1] * right + kept[:, 1:] * up)


def _matched(first: Profile, second: Profile) -> tuple[Array, Array]:
    """Counterparts (N, 3) on both."""
    unlike = len(first.runs) != len(second.runs) or first.cornered != second.cornered
    if unlike or _count(first, second) > MOST_PIECES:
        first, second = _whole(first), _whole(second)
    pairs = [(first, other) for turned in (second, second.turned()) for other in _begun(turned)]
    found = [_sampled(one, other) for one, other in pairs]
    if first.closed and not first.cornered:
        found = [(a[::FINER], np.roll(b, k, axis=0)[::FINER]) for a, b in found for k in range(len(b))]
    return min(found, key=lambda pair: float(np.linalg.norm(pair[0] - pair[1], axis=1).sum()))


def _whole(profile: Profile) -> Profile:
    """As one run, whatever its corners."""
    points = profile.points
    return Profile((np.concatenate([points, points[:1]]) if profile.closed else points,), profile.closed, False)


def _begun(profile: Profile) -> list[Profile]:
    """A closed one begun at each of its corners; an open one as it is."""
    if not profile.closed:
        return [profile]
    runs = profile.runs
    return [Profile((*runs[k:], *runs[:k]), True, profile.cornered) for k in range(len(runs))]


def _sampled(first: Profile, second: Profile) -> tuple[Array, Array]:
    """As many places (N, 3) on both, run by run; the end of a closed one is not repeated."""
    a, b = [], []
    for one, other in zip(first.runs, second.runs, strict=True):
        smooth = ROUND_PIECES * (FINER if first.closed else 1)
        count = _count_of(one, other) if first.cornered else smooth
        a.append(evenly_along(one, count)[:-1])
        b.append(evenly_along(other, count)[:-1])
    if not first.closed:
        a.append(first.runs[-1][-1:])
        b.append(second.runs[-1][-1:])
    return np.concatenate(a), np.concatenate(b)


def _count(first: Profile, second: Profile) -> int:
    """How many pieces two profiles would be stretched between, corner for corner."""
    return sum(_count_of(one, other) for one, other in zip(first.runs, second.runs, strict=True))


def _count_of(one: Array, other: Array) -> int:
    return 1 if _is_straight(one) and _is_straight(other) else RUN_PIECES


def _is_straight(run: Array) -> bool:
    length = float(np.linalg.norm(np.diff(run, axis=0), axis=1).sum())
    return length <= STRAIGHT_SHARE * float(np.linalg.norm(run[-1] - run[0]))


def evenly_along(line: Array, count: int) -> Array:
    """Places (count + 1, K), as far from each other along it, on a line through points (N, K), its ends among them."""
    lengths = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    at = np.linspace(0.0, lengths[-1], count + 1)
    return np.stack([np.interp(at, lengths, column) for column in line.T], axis=1)


def _pieces(*corners: Array) -> list[Array]:
    """One flat piece of four corners in order, or two triangles; fewer where corners meet."""
    ring = [p for p, before in zip(corners, (corners[-1], *corners[:-1]), strict=True)
            if np.linalg.norm(p - before) >= SAME_MM]  # fmt: skip
    if len(ring) < 4:
        return [np.stack(ring)] if len(ring) == 3 and _has_width(np.stack(ring)) else []
    four = np.stack(ring)
    short = np.linalg.norm(four[0] - four[2]) <= np.linalg.norm(four[1] - four[3])
    halves = (four[[0, 1, 2]], four[[0, 2, 3]]) if short else (four[[0, 1, 3]], four[[1, 2, 3]])
    off = np.linalg.svd(four - four.mean(axis=0), compute_uv=False)
    if off[2] <= FLAT_SHARE * off[0] and _doubled(halves[0]) @ _doubled(halves[1]) > 0:
        return [four] if _has_width(four) else []
    return [half for half in halves if _has_width(half)]


def _has_width(corners: Array) -> bool:
    extent = np.linalg.svd(corners - corners.mean(axis=0), compute_uv=False)
    return bool(extent[1] > 2 * LEAST_WIDTH * extent[0])


def _doubled(corners: Array) -> Array:
    """Twice the area of a ring (N, 3), along its normal."""
    return np.asarray(sum(np.cross(a, b) for a, b in itertools.pairwise([*corners, corners[0]])), float)


def _outwards(pieces: list[Array], middle: Array, inside: Array, closed: bool) -> float:
    """1 where the normals of the rings look outwards, −1 where inwards."""
    spots = np.array([p.mean(axis=0) for p in pieces])
    normals = np.array([_doubled(p) for p in pieces])
    away = spots - middle
    flow = np.sum(normals * away)
    if not closed or abs(flow) < HOLLOW_SHARE * np.sum(np.linalg.norm(normals, axis=1) * np.linalg.norm(away, axis=1)):
        flow = np.sum(normals * (spots - inside))
    return float(np.sign(flow)) or 1.0
