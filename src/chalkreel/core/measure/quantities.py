"""Sizes taken from a solution: distances, distances along an axis, angles, diameters, each with its errors."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.axis import AXES, Axis
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread

SMALLEST_MM = 1e-6


@dataclass(frozen=True)
class Distance:
    """From one landmark to another, straight or `along` one axis; `steps` divides it into equal parts."""

    a: str
    b: str
    along: Axis | None = None
    steps: int = 1


@dataclass(frozen=True)
class Angle:
    """The angle at `corner` between the lines to `a` and to `b`, in degrees."""

    a: str
    corner: str
    b: str


@dataclass(frozen=True)
class Across:
    """The diameter of a circle, or its radius."""

    circle: str
    radius: bool = False


Quantity = Distance | Angle | Across


@dataclass(frozen=True)
class Measured:
    """A value (mm, or degrees for an angle) with its 1 σ.

    `ratio_sigma` is relative, without what all sizes share: the error of the size as a share of the rulers;
    `scale_sigma` is relative too and shared by all sizes. Angles have only `sigma`.
    """

    value: float
    sigma: float
    ratio_sigma: float
    scale_sigma: float


def measure(solution: Solution, spread: Spread, wanted: tuple[Quantity, ...]) -> tuple[Measured, ...]:
    """Values and errors of quantities; all in one pass.

    Raises
    ------
    ValueError
        A quantity that `direction_open` or `in_one_place`: it has no value, and the caller leaves it out.
    """
    if any(direction_open(quantity, spread) for quantity in wanted):
        raise ValueError("a distance along an axis that nothing determines")
    slopes = _Slopes(solution, len(wanted) + 1)
    values = [slopes.add(i, quantity) for i, quantity in enumerate(wanted)]
    slopes.add_rulers(len(wanted))
    factors = spread.factors(slopes.by_dense, slopes.by_block)
    sigma = np.linalg.norm(factors[:, :-1], axis=0)
    # All in logarithms: what a size has over the rulers as they were found.
    relative = factors[:, :-1] / np.maximum(np.abs(values), SMALLEST_MM)
    ratio = np.linalg.norm(relative - factors[:, -1:], axis=0)
    scale = float(np.linalg.norm(factors[:, -1]))
    return tuple(
        Measured(v, float(s), 0.0 if isinstance(q, Angle) else float(r), 0.0 if isinstance(q, Angle) else scale)
        for q, v, s, r in zip(wanted, values, sigma, ratio, strict=True)
    )


def on_circle(solution: Solution, view: str, circle: str, mirrored: bool, stored: Array) -> Array:
    """Where clicks (N, 2) on a view meet the plane of a solved circle: (N, 2) mm about its centre."""
    flip = np.array([1.0, -1.0 if mirrored else 1.0, 1.0])
    values = solution.unknowns.circles[solution.layout.circles[circle]]
    centre, normal = values[:3] * flip, values[3:6] * flip
    camera = solution.camera(view)
    rays = camera.rays(stored)
    depth = ((centre - camera.position) @ normal) / (rays @ normal)
    away = camera.position + depth[:, None] * rays - centre
    first = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
    first = first / np.linalg.norm(first)
    return np.asarray(away @ np.stack([first, np.cross(normal, first)], axis=1))


def slopes_of(solution: Solution, wanted: tuple[Quantity, ...]) -> tuple[Array, Array, Array]:
    """Values (Q,) and slopes by dense parameters (D, Q) and by blocks (S, 3, Q), as `Spread.factors` takes them.

    Raises
    ------
    ValueError
        A quantity `in_one_place`.
    """
    slopes = _Slopes(solution, len(wanted))
    values = [slopes.add(i, quantity) for i, quantity in enumerate(wanted)]
    return np.array(values), slopes.by_dense, slopes.by_block


def direction_open(quantity: Quantity, spread: Spread) -> bool:
    """Whether it counts along an axis whose direction nothing says."""
    along = quantity.along if isinstance(quantity, Distance) else None
    return along is not None and any(f"turn {axis}" in spread.loose for axis in AXES if axis != along)


def in_one_place(solution: Solution, quantity: Quantity) -> bool:
    """Whether its ends lie in one place (along its axis), so that it has neither a length nor a direction."""
    if isinstance(quantity, Across):
        return False
    if isinstance(quantity, Angle):
        corner = solution.point(quantity.corner)
        arms = [float(np.linalg.norm(solution.point(end) - corner)) for end in (quantity.a, quantity.b)]
        return min(arms) < SMALLEST_MM
    return float(np.linalg.norm(_line(solution, quantity))) < SMALLEST_MM


def _line(solution: Solution, quantity: Distance) -> Array:
    line = solution.point(quantity.b) - solution.point(quantity.a)
    return line if quantity.along is None else np.asarray(line * np.eye(3)[AXES.index(quantity.along)])


class _Slopes:
    """Slopes of quantities by all unknowns, filled one column at a time."""

    def __init__(self, solution: Solution, count: int) -> None:
        self._solution, layout = solution, solution.layout
        self.by_dense = np.zeros((layout.offsets["end"], count))
        self.by_block = np.zeros((layout.block_count, 3, count))

    def add(self, column: int, quantity: Quantity, factor: float = 1.0) -> float:
        """Put a quantity's slopes, times a factor, in a column; its value."""
        if isinstance(quantity, Across):
            row = self._solution.layout.circles[quantity.circle]
            value = float(np.exp(self._solution.unknowns.circles[row, 6])) * (1.0 if quantity.radius else 2.0)
            self.by_dense[self._solution.layout.offsets["circles"] + 7 * row + 6, column] += factor * value
            return value
        if isinstance(quantity, Angle):
            return self._angle(column, quantity, factor)
        line = _line(self._solution, quantity)
        length = float(np.linalg.norm(line))
        if length < SMALLEST_MM:
            raise ValueError("a distance between landmarks in one place")
        unit = factor * line / length / quantity.steps
        self._point(quantity.b, unit, column)
        self._point(quantity.a, -unit, column)
        return length / quantity.steps

    def add_rulers(self, column: int) -> None:
        """The logarithm of the rulers' found lengths, each weighted by how surely its length is known."""
        scene = self._solution.scene
        rulers: list[tuple[Quantity, float]] = [
            (Distance(r.a, r.b, r.along), (r.length_mm / r.sigma_mm) ** 2) for r in scene.rulers
        ]
        rulers += [(Across(g.circle), (g.diameter_mm / g.sigma_mm) ** 2) for g in scene.gauges]
        rulers = [(quantity, weight) for quantity, weight in rulers if not in_one_place(self._solution, quantity)]
        if not rulers:
            return
        whole = sum(weight for _, weight in rulers)
        for quantity, weight in rulers:
            probe = _Slopes(self._solution, 1)
            value = probe.add(0, quantity)
            self.by_dense[:, column] += probe.by_dense[:, 0] * weight / whole / value
            self.by_block[:, :, column] += probe.by_block[:, :, 0] * weight / whole / value

    def _angle(self, column: int, quantity: Angle, factor: float) -> float:
        corner = self._solution.point(quantity.corner)
        first, second = self._solution.point(quantity.a) - corner, self._solution.point(quantity.b) - corner
        lengths = float(np.linalg.norm(first)), float(np.linalg.norm(second))
        if min(lengths) < SMALLEST_MM:
            raise ValueError("an angle between landmarks in one place")
        u, v = first / lengths[0], second / lengths[1]
        cosine = float(np.clip(u @ v, -1.0, 1.0))
        sine = max(math.sqrt(1.0 - cosine**2), 1e-6)
        scale = factor * math.degrees(1.0) / sine
        by_a, by_b = -scale * (v - cosine * u) / lengths[0], -scale * (u - cosine * v) / lengths[1]
        self._point(quantity.a, by_a, column)
        self._point(quantity.b, by_b, column)
        self._point(quantity.corner, -by_a - by_b, column)
        return math.degrees(math.acos(cosine))

    def _point(self, landmark: str, slope: Array, column: int) -> None:
        block, sign = self._solution.layout.blocks[landmark]
        slope = slope * np.array([1.0, sign, 1.0])
        if self._solution.layout.centred_blocks[block]:
            slope[1] = 0.0
        self.by_block[block, :, column] += slope
