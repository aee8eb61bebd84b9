"""What goes into the joint estimate of colours and what comes out of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array

Term = Literal["contrast", "veil"]
TERMS: Final[tuple[Term, ...]] = ("contrast", "veil")

# Brightness, then warm against cool, then green against magenta; orthonormal, so that errors keep their size.
AXES: Final = np.array([[1, 1, 1], [1, 0, -1], [1, -2, 1]]) / np.sqrt([[3.0], [2.0], [6.0]])


@dataclass(frozen=True, eq=False)
class Seen:
    """A surface on a still: linear sRGB (3,), covariance (3, 3) of its logarithms.

    Samples of one still with the same `facet` share one shading; an empty one stands for itself. A known one may have
    been held `to_light`, so that it caught more than the panels beside it.
    """

    still: int
    surface: int
    rgb: Array
    covariance: Array
    facet: str = ""
    to_light: bool = False


@dataclass(frozen=True, eq=False)
class Known:
    """A surface of known colour: its XYZ (3,) under D65; σ of the logarithm of its brightness and of its chroma."""

    surface: int
    xyz: Array
    sigma_level: float = 0.05
    sigma: float = 0.03

    @property
    def information(self) -> Array:
        """Inverse covariance (3, 3) of the logarithms of the cone responses."""
        return np.asarray(AXES.T @ np.diag(np.array([self.sigma_level, self.sigma, self.sigma]) ** -2.0) @ AXES)


@dataclass(frozen=True, eq=False)
class SurfaceEstimate:
    """L*a*b* (D65/2°), one σ of lightness and of each chromatic axis; 95 % radii in ΔE00, in all and of chroma.

    It is `anchored` where known surfaces tie it down, and `faced` where one shares a facet with it on some still.
    """

    lab: Array
    sigma_l: float
    sigma_ab: float
    delta_e: float
    delta_e_chroma: float
    anchored: bool
    faced: bool = False


@dataclass(frozen=True, eq=False)
class Vote:
    """What one sample says: L*a*b* with its still's light taken out, weight (0..1 of its surface), ΔE00 from the joint
    colour with and without lightness, and whether it stands apart from the others."""

    lab: Array
    weight: float
    apart: float
    apart_chroma: float
    outlier: bool


@dataclass(frozen=True, eq=False)
class StillEstimate:
    """How a still shows colours: gains of the cones (3,), contrast, veil, scatter as a factor of the usual.

    `told_mixing` is by how many known patches the mixing of its channels was found, 0 where nothing tells it.
    """

    gains: Array
    contrast: float
    veil: float
    scatter: float
    terms: tuple[Term, ...]
    told_mixing: int = 0


@dataclass(frozen=True, eq=False)
class JointColours:
    """All surfaces, the votes in the order of the samples, and the stills."""

    surfaces: tuple[SurfaceEstimate, ...]
    votes: tuple[Vote, ...]
    stills: tuple[StillEstimate, ...]
