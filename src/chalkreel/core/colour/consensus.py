"""One colour of a surface from the votes of several stills."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.still_light import SHADING_SIGMA_L, Vote
from chalkreel.core.errors import RefusedError

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class SurfaceColour:
    """L*a*b* (D65/2°) with σ of lightness and of each chromatic axis.

    `delta_e` is the 95 % radius in ΔE00; `apart` holds each vote's ΔE00 from the mean.
    """

    lab: tuple[float, float, float]
    sigma_l: float
    sigma_ab: float
    delta_e: float
    apart: tuple[float, ...]


def consensus(votes: tuple[Vote, ...]) -> SurfaceColour:
    """Mean by inverse variance, lightness and chroma each on its own; scatter beyond the errors widens them.

    Lightness never becomes surer than shading allows, however many stills agree.

    Raises
    ------
    RefusedError
        No vote.
    """
    if not votes:
        raise RefusedError("No still with a neutral patch shows this surface yet.")
    lab = np.array([v.lab for v in votes])
    light, sigma_l = _mean(lab[:, :1], np.array([v.sigma_l for v in votes]))
    # Cards are held towards the light in every still: what shading does to lightness does not average out.
    sigma_l = max(sigma_l, SHADING_SIGMA_L)
    chroma, sigma_ab = _mean(lab[:, 1:], np.array([v.sigma_ab for v in votes]))
    mean = np.concatenate([light, chroma])
    corners = mean + 1.96 * np.array(
        [[sigma_l, 0, 0], [-sigma_l, 0, 0], [0, sigma_ab, 0], [0, -sigma_ab, 0], [0, 0, sigma_ab], [0, 0, -sigma_ab]]
    )
    reach = delta_e_2000(corners, mean).reshape(3, 2).max(axis=1)
    return SurfaceColour(
        (float(mean[0]), float(mean[1]), float(mean[2])), sigma_l, sigma_ab,
        float(np.sqrt((reach**2).sum())), tuple(float(d) for d in delta_e_2000(lab, mean)),
    )  # fmt: skip


def _mean(values: Array, sigma: Array) -> tuple[Array, float]:
    weights = 1 / sigma**2
    mean = weights @ values / weights.sum()
    birge = 1.0
    if len(values) > 1:
        scatter = float(weights @ ((values - mean) ** 2).mean(axis=1)) / (len(values) - 1)
        birge = max(1.0, float(np.sqrt(scatter)))
    return mean, birge / float(np.sqrt(weights.sum()))
