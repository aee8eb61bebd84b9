"""Residuals of edges, rims, rulers, parallels, flats and known places.

There are few of them, so their derivatives are central differences in the handful of unknowns that each
one touches; every kind is a small function of those unknowns.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.camera import rotation_of, unbent
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Ruler
from chalkreel.core.measure.solver.layout import ASPECT, BEND, FOCAL, OFFSET_X, OFFSET_Y, Index, Layout
from chalkreel.core.measure.solver.sightings import centred_marks
from chalkreel.core.measure.solver.unknowns import Unknowns

# The residuals (M, K) of the observations in rows (M,), their unknowns moved by steps (M, J).
Evaluate = Callable[[Unknowns, Index, Array], Array]
DIFFERENCE = 1e-6


@dataclass(frozen=True, eq=False)
class Constraint:
    """N observations of one kind. `columns` (N, J) are their dense parameters, -1 for what is no unknown of theirs.

    `steps` (J,) are the sizes of step on which the residual is straight.
    """

    kind: str
    names: tuple[str, ...]
    columns: Index
    steps: Array
    evaluate: Evaluate

    def residuals(self, unknowns: Unknowns) -> Array:
        """(N, K), in σ."""
        return self.evaluate(unknowns, np.arange(len(self.columns)), np.zeros(self.columns.shape))

    def linearised(self, unknowns: Unknowns) -> Array:
        """Derivatives (N, K, J)."""
        count, width = self.columns.shape
        # All nudges of all observations in one go: 2 J copies of the rows, one unknown nudged in each.
        nudges = np.concatenate([np.diag(self.steps), -np.diag(self.steps)]) * DIFFERENCE
        rows = np.tile(np.arange(count), 2 * width)
        found = self.evaluate(unknowns, rows, np.repeat(nudges, count, axis=0)).reshape(2, width, count, -1)
        slopes = (found[0] - found[1]) / (2 * DIFFERENCE * self.steps)[:, None, None]
        return np.asarray(np.moveaxis(slopes, 0, -1))


def constraints_of(layout: Layout) -> tuple[Constraint, ...]:
    """All that a scene holds besides its sightings."""
    makers = (_edges, _bends, _rims, _rulers, _gauges, _parallels, _flats, _places)
    return tuple(made for make in makers if (made := make(layout)) is not None)


def _edges(layout: Layout) -> Constraint | None:
    edges = layout.scene.edges
    if not edges:
        return None
    view = np.array([layout.views[e.view] for e in edges])
    lens = layout.lens_of_view[view]
    ends = np.stack([centred_marks(layout, e.view, _stored((e.a, e.b))) for e in edges])
    aspect = np.array([layout.scene.views[v].pixel_aspect for v in view])
    # The clicks shift an end against the middle by half their difference.
    sigma = np.array([np.hypot(e.a.sigma_px, e.b.sigma_px) / 2 for e in edges]) * np.sqrt((aspect**2 + 1) / 2)
    free = np.array([layout.directions.get(e.direction, -1) for e in edges])
    axis = np.array([AXES.index(e.direction) if e.direction in AXES else 0 for e in edges])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        lenses = unknowns.lenses[lens[rows]] + step[:, 3:8]
        seen = _unbent_marks(lenses, ends[rows])
        along = _along(unknowns, free[rows], axis[rows], step[:, 8:11])
        vanishing = np.einsum("nij,nj->ni", rotation_of(step[:, :3]) @ unknowns.rotations[view[rows]], along)
        middle, end = _homogeneous(seen.mean(axis=1)), _homogeneous(seen[:, 0])
        line = np.cross(middle, vanishing)
        width = np.maximum(np.hypot(line[:, 0], line[:, 1]), 1e-12)
        return np.asarray(np.exp(lenses[:, FOCAL]) * np.sum(line * end, axis=1) / width / sigma[rows])[:, None]

    turns = 6 * view[:, None] + np.arange(3)
    columns = np.column_stack([turns, _lens_columns(layout, view), _from(layout.offsets["directions"], 3, free)])
    return Constraint(
        "edge", tuple(e.direction for e in edges), columns, np.array([1, 1, 1, 1, 1, 10, 10, 1, 1, 1, 1.0]), evaluate
    )


def _bends(layout: Layout) -> Constraint | None:
    """What straight edges said of k1 / f², lens by lens."""
    known = [(i, v.bend) for i, v in enumerate(layout.scene.views) if v.bend is not None]
    if not known:
        return None
    view = np.array([i for i, _ in known])
    lens = layout.lens_of_view[view]
    found = np.array([bend.per_px2 for _, bend in known])
    sigma = np.array([bend.sigma_per_px2 for _, bend in known])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        lenses = unknowns.lenses[lens[rows]] + step
        shares = lenses[:, BEND] * np.exp(-2.0 * lenses[:, FOCAL])
        return np.asarray((shares - found[rows]) / sigma[rows])[:, None]

    names = tuple(layout.scene.views[i].key for i in view)
    return Constraint("bend", names, _lens_columns(layout, view), np.array([1, 1, 10, 10, 1.0]), evaluate)


def _rims(layout: Layout) -> Constraint | None:
    clicks = [(rim, mark) for rim in layout.scene.rims for mark in rim.marks]
    if not clicks:
        return None
    view = np.array([layout.views[rim.view] for rim, _ in clicks])
    lens = layout.lens_of_view[view]
    circle = np.array([layout.circles[rim.circle] for rim, _ in clicks])
    flip = np.array([[1.0, -1.0 if rim.mirrored else 1.0, 1.0] for rim, _ in clicks])
    place = np.stack([centred_marks(layout, rim.view, _stored((mark,))) for rim, mark in clicks])
    aspect = np.array([layout.scene.views[v].pixel_aspect for v in view])
    sigma = np.array([mark.sigma_px for _, mark in clicks]) * np.sqrt((aspect**2 + 1) / 2)

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        lenses = unknowns.lenses[lens[rows]] + step[:, 6:11]
        seen = _homogeneous(_unbent_marks(lenses, place[rows])[:, 0])
        turn = rotation_of(step[:, :3]) @ unknowns.rotations[view[rows]]
        shift = unknowns.translations[view[rows]] + step[:, 3:6]
        values = unknowns.circles[circle[rows]] + step[:, 11:18]
        centre = np.einsum("nij,nj->ni", turn, values[:, :3] * flip[rows]) + shift
        normal = np.einsum("nij,nj->ni", turn, values[:, 3:6] * flip[rows])
        residual, gradient = _rim_residual(seen, centre, normal, values[:, 6])
        return np.asarray(np.exp(lenses[:, FOCAL]) * residual / gradient / sigma[rows])[:, None]

    columns = np.column_stack(
        [6 * view[:, None] + np.arange(6), _lens_columns(layout, view), _from(layout.offsets["circles"], 7, circle)]
    )
    steps = np.array([1, 1, 1, 100, 100, 100, 1, 1, 10, 10, 1, 100, 100, 100, 1, 1, 1, 1.0])
    return Constraint("rim", tuple(rim.circle for rim, _ in clicks), columns, steps, evaluate)


def _rim_residual(seen: Array, centre: Array, normal: Array, log_radius: Array) -> tuple[Array, Array]:
    """Share of the radius by which rays (N, 3) miss a circle's rim in its plane, and the slope of that per ray."""
    tilt = np.sum(normal * seen, axis=1)
    tilt = np.where(np.abs(tilt) > 1e-9, tilt, 1e-9)
    depth = np.sum(normal * centre, axis=1) / tilt
    gap = depth[:, None] * seen - centre
    distance = np.maximum(np.linalg.norm(gap, axis=1), 1e-9)
    # d(depth·ray)/d(ray) = depth (1 − ray normalᵀ / tilt), of which the first two columns count.
    inward = np.sum(gap * seen, axis=1) / tilt
    slope = (depth / distance**2)[:, None] * (gap[:, :2] - inward[:, None] * normal[:, :2])
    return np.log(distance) - log_radius, np.maximum(np.hypot(slope[:, 0], slope[:, 1]), 1e-9)


def _rulers(layout: Layout) -> Constraint | None:
    rulers = layout.scene.rulers
    if not rulers:
        return None
    ends = _Ends(layout, [(r.a, r.b) for r in rulers])
    length = np.array([r.length_mm for r in rulers])
    sigma = np.array([r.sigma_mm for r in rulers])
    along = np.stack([_axis_mask(r) for r in rulers])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        across = ends.difference(unknowns, rows, step) * along[rows]
        return np.asarray((np.linalg.norm(across, axis=1) - length[rows]) / sigma[rows])[:, None]

    return Constraint("ruler", tuple(r.key for r in rulers), ends.columns, ends.steps, evaluate)


def _axis_mask(ruler: Ruler) -> Array:
    return np.ones(3) if ruler.along is None else np.eye(3)[AXES.index(ruler.along)]


def _gauges(layout: Layout) -> Constraint | None:
    gauges = layout.scene.gauges
    if not gauges:
        return None
    circle = np.array([layout.circles[g.circle] for g in gauges])
    across = np.array([g.diameter_mm for g in gauges])
    sigma = np.array([g.sigma_mm for g in gauges])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        found = 2 * np.exp(unknowns.circles[circle[rows], 6:7] + step)
        return np.asarray((found - across[rows, None]) / sigma[rows, None])

    columns = layout.offsets["circles"] + 7 * circle[:, None] + 6
    return Constraint("ruler", tuple(g.key for g in gauges), columns, np.ones(1), evaluate)


def _parallels(layout: Layout) -> Constraint | None:
    parallels = layout.scene.parallels
    if not parallels:
        return None
    ends = _Ends(layout, [(p.a, p.b) for p in parallels])
    free = np.array([layout.directions.get(p.direction, -1) for p in parallels])
    axis = np.array([AXES.index(p.direction) if p.direction in AXES else 0 for p in parallels])
    sigma = np.radians([p.sigma_deg for p in parallels])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        line = ends.difference(unknowns, rows, step[:, :6])
        along = _along(unknowns, free[rows], axis[rows], step[:, 6:])
        sine = np.cross(line, along) / np.maximum(np.linalg.norm(line, axis=1, keepdims=True), 1e-9)
        return np.asarray(sine / sigma[rows, None])

    columns = np.column_stack([ends.columns, _from(layout.offsets["directions"], 3, free)])
    names = tuple(f"{p.a} – {p.b}" for p in parallels)
    return Constraint("parallel", names, columns, np.concatenate([ends.steps, np.ones(3)]), evaluate)


def _flats(layout: Layout) -> Constraint | None:
    members = [(i, flat, name) for i, flat in enumerate(layout.scene.flats) for name in flat.landmarks]
    if not members:
        return None
    row = np.array([i for i, _, _ in members])
    block, flip, columns = _block_parts(layout, [name for _, _, name in members])
    sigma = np.array([flat.sigma_mm for _, flat, _ in members])

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        plane = unknowns.flats[row[rows]] + step[:, :4]
        points = (unknowns.blocks[block[rows]] + step[:, 4:]) * flip[rows]
        distance = np.sum(plane[:, :3] * points, axis=1) - plane[:, 3]
        return np.asarray(distance / np.linalg.norm(plane[:, :3], axis=1) / sigma[rows])[:, None]

    columns = np.column_stack([_from(layout.offsets["flats"], 4, row), columns])
    names = tuple(f"{name} in {flat.key}" for _, flat, name in members)
    return Constraint("flat", names, columns, np.array([1, 1, 1, 100, 100, 100, 100.0]), evaluate)


def _places(layout: Layout) -> Constraint | None:
    known = [m for m in layout.scene.landmarks if m.place_mm is not None]
    if not known:
        return None
    block, flip, columns = _block_parts(layout, [m.key for m in known])
    place = np.array([m.place_mm for m in known])
    sigma = np.array([m.place_sigma_mm for m in known])[:, None]

    def evaluate(unknowns: Unknowns, rows: Index, step: Array) -> Array:
        return np.asarray(((unknowns.blocks[block[rows]] + step) * flip[rows] - place[rows]) / sigma[rows])

    return Constraint("place", tuple(m.key for m in known), columns, np.full(3, 100.0), evaluate)


class _Ends:
    """Pairs of landmarks, and the vector from one to the other."""

    def __init__(self, layout: Layout, pairs: list[tuple[str, str]]) -> None:
        self._a, self._flip_a, columns_a = _block_parts(layout, [a for a, _ in pairs])
        self._b, self._flip_b, columns_b = _block_parts(layout, [b for _, b in pairs])
        self.columns = np.column_stack([columns_a, columns_b])
        self.steps = np.full(6, 100.0)

    def difference(self, unknowns: Unknowns, rows: Index, step: Array) -> Array:
        a = (unknowns.blocks[self._a[rows]] + step[:, :3]) * self._flip_a[rows]
        b = (unknowns.blocks[self._b[rows]] + step[:, 3:]) * self._flip_b[rows]
        return np.asarray(b - a)


def _block_parts(layout: Layout, names: list[str]) -> tuple[Index, Array, Index]:
    blocks = np.array([layout.blocks[name][0] for name in names], dtype=np.intp)
    flip = np.array([[1.0, layout.blocks[name][1], 1.0] for name in names])
    return blocks, flip, layout.block_columns[blocks][:, None] + np.arange(3)


def _along(unknowns: Unknowns, free: Index, axis: Index, step: Array) -> Array:
    """Directions (N, 3): free ones moved by a step, the world's axes as they are."""
    fixed = np.eye(3)[axis]
    return np.where(free[:, None] >= 0, unknowns.directions[free] + step, fixed) if len(unknowns.directions) else fixed


def _from(start: int, width: int, rows: Index) -> Index:
    found = start + width * rows[:, None] + np.arange(width)
    return np.where(rows[:, None] >= 0, found, -1)


def _lens_columns(layout: Layout, view: Index) -> Index:
    return np.stack([layout.lens_columns(v) for v in view])


def _unbent_marks(lenses: Array, marks: Array) -> Array:
    """Marks (N, K, 2) in ideal coordinates, seen through lenses (N, 5)."""
    stretch = np.stack([np.exp(lenses[:, ASPECT]), np.ones(len(lenses))], axis=1)
    straight = marks * stretch[:, None] - lenses[:, None, OFFSET_X : OFFSET_Y + 1]
    return unbent(straight / np.exp(lenses[:, None, FOCAL, None]), lenses[:, BEND, None])


def _homogeneous(points: Array) -> Array:
    return np.column_stack([points, np.ones(len(points))])


def _stored(marks: Iterable[Mark]) -> Array:
    return np.array([(m.x_px, m.y_px) for m in marks])
