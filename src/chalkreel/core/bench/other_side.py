"""Whether the landmarks of a photograph were named for the wrong side: their twins' names explain it far better."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from chalkreel.core.bench.equations import Shot
from chalkreel.core.bench.places import Places
from chalkreel.core.bench.resect import Pose, resected
from chalkreel.core.errors import RefusedError

# Clicks that miss by more σ than this in the median are asked about; twins must fit so many times better.
POOR_SIGMAS, BETTER = 2.5, 0.3


def median_sigmas(pose: Pose, shot: Shot) -> float:
    """By how many σ the clicks miss, in the median."""
    return float(np.median(np.linalg.norm(pose.residuals, axis=1) / shot.sigma))


def shows_other_side(places: Places, shot: Shot, pose: Pose, twins: Mapping[int, int]) -> bool:
    """Whether a photograph shows the other side; `twins` maps rows to the rows of their mirror images."""
    poor = median_sigmas(pose, shot)
    if poor < POOR_SIGMAS or not any(int(row) in twins for row in shot.rows):
        return False
    rows = np.array([twins.get(int(row), int(row)) for row in shot.rows], np.intp)
    other = Shot(rows, shot.stored, shot.sigma, shot.size_px, shot.lens)
    try:
        return median_sigmas(resected(other.clicks(places), other.size_px, other.lens), other) < BETTER * poor
    except RefusedError:
        return False
