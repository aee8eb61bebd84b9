"""Sizes in one plane of one still.

Two views of a plane are known: *square on* (the plane stands square to the camera, up to a small
unknown tilt) and *squared up* (four corners of a rectangle whose sides, or side ratio, are known).
Both map clicks to plane coordinates; rulers in the same plane then give the scale.

Every unknown that is not exactly known (clicks, tilt, rectangle sides, ruler lengths) is one entry of a
parameter vector with a σ; lengths and scales are functions of that vector, and errors are
propagated to first order with central differences of the whole function. Rulers are combined by
generalised least squares in the logarithm, so clicks that they share are counted once.

References: Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., §4.1 (homography from four
points) and §5.2.6 (propagation); Aitken 1936 (generalised least squares); Birge 1932 (ratio).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.marks import Mark, Segment

SMALLEST_SEGMENT_PX = 1.0


@dataclass(frozen=True)
class SquareOn:
    """Plane square to the camera within a tilt (1 σ, degrees, about both axes).

    `focal_px` need only be roughly right: it says how fast a tilt changes scale over the picture.
    `centre_px` is the middle of the stored picture.
    """

    tilt_sigma_deg: float
    focal_px: float
    centre_px: tuple[float, float]


@dataclass(frozen=True)
class SquaredUp:
    """Four corners of a true rectangle, in order round it; the first two bound its width.

    With `height_mm` None only the ratio width : height is known, `width_mm` holds the ratio
    and `width_sigma_mm` its σ.
    """

    corners: tuple[Mark, Mark, Mark, Mark]
    width_mm: float
    width_sigma_mm: float
    height_mm: float | None = None
    height_sigma_mm: float = 0.0


@dataclass(frozen=True)
class PlaneRuler:
    """A segment of known length (1 σ)."""

    name: str
    segment: Segment
    length_mm: float
    sigma_mm: float


@dataclass(frozen=True)
class RulerAgreement:
    """What one ruler says of the scale against all the others: relative deviation and its 1 σ."""

    name: str
    deviation: float | None
    sigma: float
    weight: float

    @property
    def disagrees(self) -> bool:
        """Whether the deviation lies outside its 95 % interval."""
        return self.deviation is not None and abs(self.deviation) > NORMAL_95 * self.sigma


@dataclass(frozen=True)
class PlaneSizes:
    """Lengths (mm) of the segments asked for.

    `ratio_sigma` is relative and comes from clicks and view; `scale_sigma` is relative, comes from the
    rulers (their lengths and the clicks on them) and is shared by all sizes; `sigma_mm` holds everything.
    """

    lengths_mm: Array
    sigma_mm: Array
    ratio_sigma: Array
    scale_sigma: float
    agreement: tuple[RulerAgreement, ...]
    birge: float


def measure_plane(
    view: SquareOn | SquaredUp, rulers: tuple[PlaneRuler, ...], segments: tuple[Segment, ...], pixel_aspect: float = 1.0
) -> PlaneSizes:
    """Sizes of segments in one plane from the rulers in it.

    Raises
    ------
    RefusedError
        No ruler, a segment or ruler of no length, or corners that make no rectangle.
    """
    problem = _Problem(view, rulers, segments, pixel_aspect)
    if problem.scales == 0:
        raise RefusedError("No ruler in this plane yet. Mark something whose length you know.")
    start, sigma = problem.start, problem.sigma
    step = 1e-4 * np.maximum(sigma, 1e-6)
    nudges = np.vstack([start, start + np.diag(step), start - np.diag(step)])
    # Corners that make no rectangle send points to infinity; that is refused below, not computed with.
    with np.errstate(all="ignore"):
        moved = problem.evaluate(nudges)
    if not np.all(np.isfinite(moved)):
        raise RefusedError("These corners make no rectangle in any view. Click them in order round the shape.")
    n = len(start)
    values = moved[0]
    jacobian = ((moved[1 : n + 1] - moved[n + 1 :]) / (2 * step[:, None])).T * sigma
    return _combine(values, jacobian, problem)


def _combine(values: Array, jacobian: Array, problem: _Problem) -> PlaneSizes:
    m = problem.scales
    log_scale, scale_jac = values[:m], jacobian[:m]
    log_length, length_jac = values[m:], jacobian[m:]
    covariance = scale_jac @ scale_jac.T
    weights, best = _gls(log_scale, covariance)
    residual = log_scale - best
    birge = math.sqrt(max(1.0, float(residual @ np.linalg.solve(covariance, residual)) / (m - 1))) if m > 1 else 1.0
    common = weights @ scale_jac
    lengths = np.exp(log_length + best)
    # Disagreement beyond what the errors explain widens the part that comes from the rulers.
    excess = float(common @ common) * (birge**2 - 1.0)
    total = np.sqrt(np.sum((length_jac + common) ** 2, axis=1) + excess)
    return PlaneSizes(
        lengths_mm=lengths,
        sigma_mm=lengths * total,
        ratio_sigma=np.sqrt(np.sum(length_jac**2, axis=1)),
        scale_sigma=math.sqrt(float(common @ common) + excess),
        agreement=_agreement(log_scale, covariance, weights, problem.scale_names),
        birge=birge,
    )


def _gls(log_scale: Array, covariance: Array) -> tuple[Array, float]:
    ones = np.ones(len(log_scale))
    inverse = np.linalg.solve(covariance, ones)
    weights = inverse / (ones @ inverse)
    return weights, float(weights @ log_scale)


def _agreement(
    log_scale: Array, covariance: Array, weights: Array, names: tuple[str, ...]
) -> tuple[RulerAgreement, ...]:
    rows = []
    for i, name in enumerate(names):
        others = np.arange(len(names)) != i
        if not others.any():
            rows.append(RulerAgreement(name, None, math.sqrt(covariance[0, 0]), 1.0))
            continue
        rest, value = _gls(log_scale[others], covariance[np.ix_(others, others)])
        # The ruler claims a length; the others say what it measures: claim over measured, less one.
        contrast = np.zeros(len(names))
        contrast[i], contrast[others] = 1.0, -rest
        sigma = math.sqrt(float(contrast @ covariance @ contrast))
        rows.append(RulerAgreement(name, math.expm1(float(log_scale[i] - value)), sigma, float(weights[i])))
    return tuple(rows)


class _Problem:
    """The parameter vector: click coordinates, then view parameters, then log ruler lengths."""

    def __init__(
        self, view: SquareOn | SquaredUp, rulers: tuple[PlaneRuler, ...], segments: tuple[Segment, ...], aspect: float
    ) -> None:
        self.view, self.rulers, self.aspect = view, rulers, aspect
        corners = list(view.corners) if isinstance(view, SquaredUp) else []
        pairs = [ruler.segment for ruler in rulers] + list(segments)
        marks = corners + [mark for pair in pairs for mark in (pair.a, pair.b)]
        for pair in pairs:
            if math.hypot((pair.a.x_px - pair.b.x_px) * aspect, pair.a.y_px - pair.b.y_px) < SMALLEST_SEGMENT_PX:
                raise RefusedError("Two marks lie on the same spot. Place them at least a pixel apart.")
        self.corner_count, self.marks_count = len(corners), len(marks)
        xy = np.array([[m.x_px * aspect, m.y_px] for m in marks]).reshape(-1)
        click = np.repeat([m.sigma_px for m in marks], 2) * np.tile([aspect, 1.0], len(marks))
        extra, extra_sigma = _view_parameters(view)
        known = np.log([r.length_mm for r in rulers])
        known_sigma = np.array([r.sigma_mm / r.length_mm for r in rulers])
        self.start = np.concatenate([xy, extra, known])
        self.sigma = np.concatenate([click, extra_sigma, known_sigma])
        own = isinstance(view, SquaredUp) and view.height_mm is not None
        self.own_ruler = own
        self.scale_names = tuple(r.name for r in rulers) + (("sides of the rectangle",) if own else ())
        self.scales = len(self.scale_names)

    def evaluate(self, parameters: Array) -> Array:
        """Log scales then log plane lengths, (B, scales + segments), of parameter vectors (B, P)."""
        count = self.marks_count
        points = parameters[:, : 2 * count].reshape(-1, count, 2)
        extra = parameters[:, 2 * count : len(self.start) - len(self.rulers)]
        log_known = parameters[:, len(self.start) - len(self.rulers) :]
        flat = self._to_plane(points, extra)
        ends = flat[:, self.corner_count :].reshape(len(parameters), -1, 2, 2)
        log_length = np.log(np.hypot(*np.moveaxis(ends[:, :, 1] - ends[:, :, 0], -1, 0)))
        n = len(self.rulers)
        scales = [log_known - log_length[:, :n]]
        if self.own_ruler:
            scales.append(extra[:, 1:2])
        return np.concatenate([*scales, log_length[:, n:]], axis=1)

    def _to_plane(self, points: Array, extra: Array) -> Array:
        if isinstance(self.view, SquareOn):
            return _tilted(points, extra, self.view, self.aspect)
        ratio = np.exp(extra[:, 0] - extra[:, 1]) if self.own_ruler else np.exp(extra[:, 0])
        zero, one = np.zeros_like(ratio), np.ones_like(ratio)
        target = np.stack(
            [np.stack([zero, zero], -1), np.stack([ratio, zero], -1),
             np.stack([ratio, one], -1), np.stack([zero, one], -1)], axis=1,
        )  # fmt: skip
        return apply_homography(homographies(points[:, :4], target), points)


def _view_parameters(view: SquareOn | SquaredUp) -> tuple[Array, Array]:
    if isinstance(view, SquareOn):
        return np.zeros(2), np.full(2, math.radians(view.tilt_sigma_deg))
    if view.height_mm is None:
        return np.log([view.width_mm]), np.array([view.width_sigma_mm / view.width_mm])
    sides = np.array([view.width_mm, view.height_mm])
    return np.log(sides), np.array([view.width_sigma_mm, view.height_sigma_mm]) / sides


def _tilted(points: Array, tilt: Array, view: SquareOn, aspect: float) -> Array:
    """Undo small rotations (B, 2) of the plane about the picture's axes, to first order in the tilt."""
    centred = (points - np.array([view.centre_px[0] * aspect, view.centre_px[1]])) / view.focal_px
    depth = 1.0 + centred[..., 0] * tilt[:, None, 0] + centred[..., 1] * tilt[:, None, 1]
    return np.asarray(centred * view.focal_px / depth[..., None])


def homographies(source: Array, target: Array) -> Array:
    """The maps (B, 3, 3) that take four points (B, 4, 2) to four others, lower right entry 1.

    Entries are NaN where three of the source points lie on a line.
    """
    x, y = source[..., 0], source[..., 1]
    u, v = target[..., 0], target[..., 1]
    zero, one = np.zeros_like(x), np.ones_like(x)
    rows_u = np.stack([x, y, one, zero, zero, zero, -u * x, -u * y], axis=-1)
    rows_v = np.stack([zero, zero, zero, x, y, one, -v * x, -v * y], axis=-1)
    system = np.concatenate([rows_u, rows_v], axis=1)
    try:
        solved = np.linalg.solve(system, np.concatenate([u, v], axis=1)[..., None])[..., 0]
    except np.linalg.LinAlgError:
        solved = np.full((len(source), 8), np.nan)
    return np.concatenate([solved, np.ones((len(solved), 1))], axis=1).reshape(-1, 3, 3)


def apply_homography(maps: Array, points: Array) -> Array:
    """Carry points (B, N, 2) through maps (B, 3, 3)."""
    homogeneous = np.concatenate([points, np.ones((*points.shape[:-1], 1))], axis=-1)
    mapped = np.einsum("bij,bnj->bni", maps, homogeneous)
    return np.asarray(mapped[..., :2] / mapped[..., 2:])
