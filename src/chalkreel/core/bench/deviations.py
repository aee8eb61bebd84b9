"""Which assemblies of the replica are out of true, which way, by how many mm and how surely.

Assemblies are tested one at a time against cameras that all the others hold; the worst is named, taken out, and the
rest judged anew. Whether the whole is stretched is asked before.

References: Baarda, "A Testing Procedure for Use in Geodetic Networks", 1968 (one suspect at a time).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.bench.equations import Equations, Shot, explained, normal_score
from chalkreel.core.bench.places import Places
from chalkreel.core.bench.resect import LEAST_CLICKS, refined, resected
from chalkreel.core.bench.ways import Bent, Way, ways_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.face import Index
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.camera import Camera

# An innocent assembly scatters this much once in ten thousand tests.
STRANGE: Final = 3.72
# The largest assembly is what others are judged against: a neighbour off along the line of sight must not accuse it.
DATUM_STRANGE: Final = 6.0
# One number for an assembly that explains so much (χ² with one degree of freedom) names it however many clicks there
# are: among forty of them one way is lost. The datum asks for as much as its own limit.
ONE_WAY, DATUM_ONE_WAY = 20.0, 36.0
# What explains less than that and more than this is told as a perhaps.
PERHAPS: Final = 12.0
# Another way that explains so little less (in χ²) is told beside the best.
ALIKE: Final = 6.0
# One side is told as its whole where that explains so much more.
WITH_WHOLE = 0.5
# The whole is called stretched only where that explains so much, and is so sure.
STRETCH_GAIN, STRETCH_SIGMAS = 45.0, 5.0
MOST = 12
LEAST_OTHERS = 4


@dataclass(frozen=True)
class Doubt:
    """A way out of true with its size and 1 σ in mm of the miniature."""

    way: Way
    mm: float
    sigma_mm: float


@dataclass(frozen=True)
class Deviation:
    """An assembly out of true: the likeliest way first, then others that these photographs cannot tell from it.

    With `click` one landmark alone is off: its click is to be looked at first.
    """

    assembly: str
    doubts: tuple[Doubt, ...]
    click: str = ""


@dataclass(frozen=True)
class Stretch:
    """The whole longer, wider or taller than its other two measures say, in % with 1 σ."""

    way: Way
    percent: float
    sigma: float


@dataclass(frozen=True, eq=False)
class Judged:
    """What photographs of one state say: what is out of true, and what was looked at and is not.

    `perhaps` are assemblies that may be out of true: too little to be sure, too much to be called right. `true` gives
    for each assembly that is not named how far off it may be, in every way; `unseen` how far (95 %), in mm, along the
    direction that these photographs show worst.
    """

    deviations: tuple[Deviation, ...]
    stretches: tuple[Stretch, ...]
    true: Mapping[str, tuple[Doubt, ...]]
    perhaps: tuple[Deviation, ...]
    unseen: Mapping[str, float]


def judged(places: Places, shots: Sequence[Shot], assemblies: Mapping[str, tuple[str, ...]]) -> Judged:
    """Judge assemblies, given as landmark keys by name, on photographs of one state of the replica.

    They may overlap: both fins as one, and each by itself. Of two that explain alike the smaller is told.

    Raises
    ------
    RefusedError
        A photograph has too few clicks, or no camera explains them.
    """
    members = {name: np.array([places.index[k] for k in keys if k in places.index], np.intp)
               for name, keys in assemblies.items()}  # fmt: skip
    state = _State(places, tuple(shots), tuple(resected(s.clicks(places), s.size_px, s.lens).camera for s in shots))
    stretches = _stretches(state, members)
    state = replace(state, moves=_stretched(places, tuple(s.way for s in stretches)))
    found: list[tuple[str, str]] = []
    for _ in range(MOST):
        left = {name: rows for name, rows in members.items() if name not in {n for n, _ in found}}
        worst = _worst(state, left)
        if worst is None:
            break
        found.append(worst)
        out = {int(r) for name, click in found for r in ([places.index[click]] if click else members[name])}
        moved = _refitted(replace(state, out=frozenset(out)))
        if moved is None:
            break
        state = moved
    return _told(state, members, found, stretches)


@dataclass(frozen=True, eq=False)
class _State:
    """Photographs with their cameras, landmarks taken out (rows), and ways in which all may move (N, 3, k)."""

    places: Places
    shots: tuple[Shot, ...]
    cameras: tuple[Camera, ...]
    out: frozenset[int] = frozenset()
    moves: Array | None = None

    def kept(self, shot: Shot) -> Flags:
        return np.asarray(~np.isin(shot.rows, list(self.out)))

    def equations(self, also: Index) -> Equations:
        """The equations without the landmarks taken out, but with some (rows) that are to be looked at."""
        shots, cameras, weights = [], [], []
        for shot, camera in zip(self.shots, self.cameras, strict=True):
            kept = self.kept(shot) | np.isin(shot.rows, also)
            part = Shot(shot.rows[kept], shot.stored[kept], shot.sigma[kept], shot.size_px, shot.lens)
            if np.count_nonzero(~np.isin(part.rows, also)) >= LEAST_OTHERS:
                shots.append(part)
                cameras.append(camera)
                weights.append(np.ones(len(part.rows)))
        return Equations.of(self.places, shots, cameras, weights, self.moves) if shots else _NOTHING


_NOTHING = Equations(np.zeros(0, np.intp), np.zeros(0), np.zeros((0, 2, 3)), np.eye(0), np.zeros((0, 0)), 0)


def _refitted(state: _State) -> _State | None:
    cameras, held = [], 0
    for shot, camera in zip(state.shots, state.cameras, strict=True):
        kept = state.kept(shot)
        enough = kept.sum() >= LEAST_CLICKS
        held += bool(enough)
        # A photograph of little else than what was named keeps its camera, and says nothing of the rest.
        pose = refined(shot.clicks(state.places, kept), camera, shot.lens) if enough else None
        cameras.append(camera if pose is None else pose.camera)
    return replace(state, cameras=tuple(cameras)) if held else None


def _worst(state: _State, members: Mapping[str, Index]) -> tuple[str, str] | None:
    """The assembly that is out of true for sure, and the one click that carries it, if one does.

    One that is off makes its neighbours look so, too: of several strange ones it is that of which a single number
    explains most. Where two explain alike, the smaller has moved against the larger, unless it is a part of it; and the
    largest of all, against which the others are judged, is named only when nothing else is strange.
    """
    equations = state.equations(np.zeros(0, np.intp))
    datum = _datum(state.places, members)
    strange: list[tuple[float, str, Index]] = []
    for name, all_rows in members.items():
        rows = np.setdiff1d(all_rows, list(state.out))
        gained, freedom = explained(equations.of_clicks(np.isin(equations.rows, rows)), equations.off)
        of_datum, one_way = np.isin(rows, datum).any(), _most(state, equations, rows)
        all_clicks = normal_score(gained, freedom)
        if all_clicks > (DATUM_STRANGE if of_datum else STRANGE) or one_way > (DATUM_ONE_WAY if of_datum else ONE_WAY):
            strange.append((one_way, name, rows))
    strange = [found for found in strange if not np.isin(found[2], datum).any()] or strange
    if not strange:
        return None
    best = max(most for most, _, _ in strange)
    alike = [found for found in strange if found[0] > best - ALIKE]
    most, name, rows = min(alike, key=lambda found: _extent(state.places.points[members[found[1]]]))
    for whole, called, all_of in alike:
        # A side that moved with its whole: the other side's few clicks say so, too.
        if whole > most + WITH_WHOLE and len(all_of) > len(rows) and np.isin(rows, all_of).all():
            most, name, rows = whole, called, all_of
    return name, _one_click(state, equations, rows)


def _datum(places: Places, members: Mapping[str, Index]) -> Index:
    """The largest assembly, against which the others are judged."""
    return max(members.values(), key=lambda rows: _extent(places.points[rows]), default=np.zeros(0, np.intp))


def _extent(points: Array) -> float:
    """How large an assembly is, in mm."""
    return float(np.linalg.norm(np.ptp(points, axis=0))) if len(points) else 0.0


def _one_click(state: _State, equations: Equations, rows: Index) -> str:
    """The landmark that alone makes an assembly strange; nothing where several do, or there are too few to tell."""
    mine = np.isin(equations.rows, rows)
    seen = np.unique(equations.rows[mine])
    if len(seen) == 1:
        return str(state.places.keys[seen[0]])
    if len(seen) < 3:
        return ""
    innocent = []
    for row in seen:
        one = equations.rows == row
        with_one, all_of = (equations.of_clicks(flags) for flags in (one, mine))
        gained, n = explained(with_one, equations.off)
        whole, m = explained(all_of, equations.off)
        if normal_score(whole - gained, m - n) < STRANGE / 2:
            innocent.append(int(row))
    return str(state.places.keys[innocent[0]]) if len(innocent) == 1 else ""


def _told(
    state: _State, members: Mapping[str, Index], found: list[tuple[str, str]], stretches: tuple[Stretch, ...]
) -> Judged:
    deviations: list[Deviation] = []
    true: dict[str, tuple[Doubt, ...]] = {}
    unseen: dict[str, float] = {}
    named = {int(r) for name, click in found if not click for r in members[name]}
    for name, click in found:
        rows = members[name]
        doubts = _doubts(state, rows if not click else np.array([state.places.index[click]]))
        deviations.append(Deviation(name, doubts, click))
    for name, all_rows in members.items():
        if named & {int(r) for r in all_rows}:
            continue
        rows = np.setdiff1d(all_rows, list(state.out))
        equations = state.equations(rows)
        if np.isin(equations.rows, rows).any():
            true[name] = _all_ways(state, equations, rows)
            unseen[name] = _unseen(state, equations, rows)
    return Judged(tuple(deviations), stretches, true, _perhaps(state, members, tuple(true)), unseen)


def _perhaps(state: _State, members: Mapping[str, Index], names: Sequence[str]) -> tuple[Deviation, ...]:
    """Assemblies too strange to be called right; of those that share landmarks the one that is told best."""
    datum = _datum(state.places, members)
    equations = state.equations(np.zeros(0, np.intp))
    told: list[tuple[float, str, Index]] = []
    for name in names:
        rows = np.setdiff1d(members[name], list(state.out)).astype(np.intp)
        most = _most(state, equations, rows)
        if most > PERHAPS and not np.isin(rows, datum).any():
            told.append((most, name, rows))
    found: list[Deviation] = []
    taken: set[int] = set()
    for _, name, rows in sorted(told, key=lambda t: -t[0]):
        if not taken & set(rows.tolist()):
            taken |= set(rows.tolist())
            found.append(Deviation(name, _doubts(state, rows)))
    return tuple(found)


def _unseen(state: _State, equations: Equations, rows: Index) -> float:
    """How far (95 %) an assembly may be shifted, in mm, along whichever direction says most."""
    moves = np.zeros((len(state.places.keys), 3, 3))
    moves[rows] = np.eye(3)
    columns = equations.moved_by(moves)
    sizes, ways = np.linalg.eigh(columns.T @ columns)
    if sizes[0] < 1e-12:
        return math.inf
    best = ways.T @ (columns.T @ equations.off) / sizes
    return float(np.max(np.abs(best) + NORMAL_95 * sizes**-0.5))


def _doubts(state: _State, rows: Index) -> tuple[Doubt, ...]:
    equations = state.equations(rows)
    if not len(equations.rows):
        return ()
    seen = np.unique(equations.rows[np.isin(equations.rows, rows)])
    tried = [(bent.way, *_sized(state, equations, seen, bent)) for bent in ways_of(state.places.points[seen])]
    best = max(gain for _, _, _, gain in tried)
    near = sorted((t for t in tried if t[3] > best - ALIKE), key=lambda t: -t[3])
    return tuple(Doubt(way, mm, sigma) for way, mm, sigma, _ in near)


def _sized(state: _State, equations: Equations, rows: Index, bent: Bent) -> tuple[float, float, float]:
    """How far a way goes, its σ, and how much it explains."""
    moves = np.zeros((len(state.places.keys), 3, 1))
    moves[rows, :, 0] = bent.moves
    return _fitted(equations, moves)


def _fitted(equations: Equations, moves: Array) -> tuple[float, float, float]:
    """How many times changes (N, 3, 1) of the places fit best, the σ of that, and how much it explains."""
    column = equations.moved_by(moves)[:, 0]
    square, along = float(column @ column), float(column @ equations.off)
    return (along / square, square**-0.5, along**2 / square) if square > 1e-12 else (0.0, np.inf, 0.0)


def _all_ways(state: _State, equations: Equations, rows: Index) -> tuple[Doubt, ...]:
    seen = np.unique(equations.rows[np.isin(equations.rows, rows)])
    sized = ((bent.way, _sized(state, equations, seen, bent)) for bent in ways_of(state.places.points[seen]))
    return tuple(Doubt(way, mm, sigma) for way, (mm, sigma, _) in sized)


def _stretched(places: Places, ways: tuple[Way, ...]) -> Array | None:
    """How all places move for one percent of stretches, (N, 3, k)."""
    if not ways:
        return None
    axis = {"longer": 0, "wider": 1, "taller": 2}
    moves = np.zeros((len(places.keys), 3, len(ways)))
    away = places.points - places.points.mean(axis=0)
    for k, way in enumerate(ways):
        moves[:, axis[way], k] = away[:, axis[way]] / 100.0
    return moves


def _stretches(state: _State, members: Mapping[str, Index]) -> tuple[Stretch, ...]:
    """Longer, wider or taller as a whole: at most one of them, and only if no single assembly explains as much."""
    weights = [_weights(shot, state.places, camera) for shot, camera in zip(state.shots, state.cameras, strict=True)]
    equations = Equations.of(state.places, state.shots, state.cameras, weights)
    tried = []
    for way in ("longer", "wider", "taller"):
        moves = _stretched(state.places, (way,))
        assert moves is not None
        percent, sigma, gain = _fitted(equations, moves)
        tried.append((gain, Stretch(way, percent, sigma)))
    gain, best = max(tried, key=lambda t: t[0])
    if gain < max(STRETCH_GAIN, STRETCH_SIGMAS**2):
        return ()
    single = max((_most(state, equations, rows) for rows in members.values()), default=0.0)
    return (best,) if gain > single else ()


def _most(state: _State, equations: Equations, rows: Index) -> float:
    """The most that any way of one assembly explains."""
    seen = np.unique(equations.rows[np.isin(equations.rows, rows)])
    if not len(seen):
        return 0.0
    return max(_sized(state, equations, seen, bent)[2] for bent in ways_of(state.places.points[seen]))


def _weights(shot: Shot, places: Places, camera: Camera) -> Array:
    pose = refined(shot.clicks(places), camera, shot.lens)
    if pose is None:
        raise RefusedError("No camera sees these places so. Are the clicks on the landmarks they are named after?")
    return pose.weights
