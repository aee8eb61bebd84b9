"""Parts repeated round a rim: how many there are, how far apart, and how well that suits what was clicked.

Reference: Taubin 1991 (circle through points), in the form of Chernov, *Circular and Linear Regression*, 2010.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError

LEAST_PARTS, MOST_PARTS = 3, 90
# So many parts for each one clicked at most: finer divisions suit anything.
HIDDEN_PARTS = 2.5
# A count is believed when parts miss their places by less than this share of the pitch.
CLEAR_SHARE = 0.15
# Twice the count always fits as well: a finer division must fit so many times better.
FINER_GAIN = 3.0


@dataclass(frozen=True)
class Repeats:
    """`count` parts at `pitch_deg`, the first at `first_deg`, round a centre and radius in the clicks' own unit.

    `misfit` is the root mean square distance along the rim between parts and their places, `places` numbers the place
    (0 to count - 1) of each click.
    """

    count: int
    pitch_deg: float
    first_deg: float
    centre: tuple[float, float]
    radius: float
    misfit: float
    places: tuple[int, ...]


def find_repeats(points: Array) -> Repeats:
    """The regular division of a circle that suits points (N, 2) clicked on like parts, not all need be clicked.

    Raises
    ------
    RefusedError
        Fewer than three points, points on one line, or spacing that no regular division explains.
    """
    if len(points) < LEAST_PARTS:
        raise RefusedError("Click three parts or more round the rim.")
    centre, radius = _circle(points)
    angles = np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0])
    best: tuple[float, int, float] | None = None
    for count in range(LEAST_PARTS, min(MOST_PARTS, int(HIDDEN_PARTS * len(points))) + 1):
        pitch = 2 * np.pi / count
        phase = float(np.angle(np.mean(np.exp(1j * angles * count)))) / count
        off = (angles - phase + pitch / 2) % pitch - pitch / 2
        places = np.round((angles - phase - off) / pitch).astype(int) % count
        misfit = float(np.sqrt(np.mean(off**2)))
        if len(set(places.tolist())) < len(points) or misfit > CLEAR_SHARE * pitch:
            continue
        if best is None or misfit * FINER_GAIN < best[0]:
            best = misfit, count, phase
    if best is None:
        raise RefusedError("These parts are not evenly spaced. Click the same spot on each, on a squared-up still.")
    misfit, count, phase = best
    pitch = 2 * np.pi / count
    numbers = np.round((angles - phase) / pitch).astype(int) % count
    return Repeats(
        count, 360.0 / count, float(np.degrees(phase)), (float(centre[0]), float(centre[1])), radius, misfit * radius,
        tuple(int(n) for n in numbers),
    )  # fmt: skip


def _circle(points: Array) -> tuple[Array, float]:
    """Centre and radius of the circle nearest to points, after Taubin."""
    middle = points.mean(axis=0)
    away = points - middle
    square = np.sum(away**2, axis=1)
    spread = float(square.mean())
    if spread <= 0 or np.linalg.svd(away)[1][1] < 1e-4 * np.sqrt(spread * len(points)):
        raise RefusedError("These points lie on one line; parts round a rim make a circle.")
    rows = np.column_stack([(square - spread) / (2 * np.sqrt(spread)), away])
    a, b, c = np.linalg.svd(rows)[2][2]
    a = a / (2 * np.sqrt(spread))
    if abs(a) < 1e-12:
        raise RefusedError("These points lie on one line; parts round a rim make a circle.")
    centre = -np.array([b, c]) / (2 * a)
    return middle + centre, float(np.sqrt(centre @ centre + spread))
