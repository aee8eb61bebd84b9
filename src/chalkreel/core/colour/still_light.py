"""Taking the light out of one still with surfaces of known colour.

The simplest model that explains the anchors wins (corrected Akaike criterion, Hurvich & Tsai 1989): gains in cone
space (Bradford; Lam 1985, as in CIE 160:2004), gains and a veil (haze, faded black), a contrast of each channel
(faded print, grade), a full 3×3, and a slope of the light across the still (mixed warm and cool light).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.errors import RefusedError

ModelName = Literal["gains", "gains and veil", "contrast", "slope", "3 × 3"]
BRADFORD: Final = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
RGB_TO_CONES: Final = BRADFORD @ RGB_TO_XYZ
# An anchor's shading and bounce leave this much in the logarithm of each cone response (1 σ).
ANCHOR_SIGMA: Final = 0.04
VEIL_SIGMA, CONTRAST_SIGMA, SLOPE_SIGMA, MATRIX_SIGMA = 0.05, 0.3, 0.5, 0.15
ROUNDS: Final = 30
LEAST: Final = 1e-4


@dataclass(frozen=True, eq=False)
class Anchor:
    """A patch of known colour: its linear sRGB on the still (3,), its true XYZ (3,), its place (0..1 both ways)."""

    rgb: Array
    xyz: Array
    place: tuple[float, float] = (0.5, 0.5)


@dataclass(frozen=True, eq=False)
class StillLight:
    """How a still shows colours: model, its numbers, and the mean ΔE00 it leaves at the anchors."""

    model: ModelName
    values: Array
    residual: float
    anchors: int

    def xyz(self, rgb: Array, place: Array | tuple[float, float] = (0.5, 0.5)) -> Array:
        """XYZ (..., 3) under D65 of linear sRGB (..., 3) seen at a place (..., 2)."""
        cones = np.maximum(np.asarray(rgb, float) @ RGB_TO_CONES.T, LEAST)
        return _applied(self.model, self.values, cones, np.asarray(place, float)) @ np.linalg.inv(BRADFORD).T


def light_from(anchors: tuple[Anchor, ...]) -> StillLight:
    """The simplest light that explains the anchors.

    Raises
    ------
    RefusedError
        No anchor, or only black ones.
    """
    usable = tuple(a for a in anchors if (RGB_TO_XYZ @ a.rgb)[1] > 0.003 and a.xyz[1] > 0.003)
    if not usable:
        raise RefusedError("This patch is black: it says nothing of the light. Choose a lighter known surface.")
    fits = [_fit(model, usable) for model in _possible(len(usable))]
    return min(fits, key=lambda fit: fit[0])[1]


def _possible(anchors: int) -> tuple[ModelName, ...]:
    models: tuple[ModelName, ...] = ("gains",)
    if anchors >= 3:
        models += ("gains and veil", "contrast")
    if anchors >= 4:
        models += ("slope", "3 × 3")
    return models


_PARAMETERS: Final[dict[ModelName, int]] = {
    "gains": 3, "gains and veil": 6, "contrast": 6, "slope": 9, "3 × 3": 9,
}  # fmt: skip
_SIGMAS: Final[dict[ModelName, float]] = {
    "gains": 1.0, "gains and veil": VEIL_SIGMA, "contrast": CONTRAST_SIGMA, "slope": SLOPE_SIGMA,
    "3 × 3": MATRIX_SIGMA,
}  # fmt: skip


def _applied(model: ModelName, values: Array, cones: Array, place: Array) -> Array:
    gains = np.exp(values[:3])
    rest = values[3:]
    if model == "gains and veil":
        return np.asarray(np.maximum(cones - rest * 0.1, LEAST) * gains)
    if model == "contrast":
        return np.asarray(cones ** np.exp(rest) * gains)
    if model == "slope":
        across = (place - 0.5) @ rest.reshape(2, 3)
        return np.asarray(cones * gains * np.exp(across))
    if model == "3 × 3":
        mixing = np.zeros((3, 3))
        mixing[~np.eye(3, dtype=bool)] = rest
        return np.asarray(np.maximum(cones * gains + (cones * gains) @ mixing.T, LEAST))
    return np.asarray(cones * gains)


def _fit(model: ModelName, anchors: tuple[Anchor, ...]) -> tuple[float, StillLight]:
    """Gauss–Newton on the logarithms of the cone responses; the criterion and the light."""
    seen = np.maximum(np.stack([a.rgb for a in anchors]) @ RGB_TO_CONES.T, LEAST)
    xyz = np.stack([a.xyz for a in anchors])
    true = np.maximum(xyz @ BRADFORD.T, LEAST)
    place = np.array([a.place for a in anchors])
    values = np.zeros(_PARAMETERS[model])
    values[:3] = np.log(true / seen).mean(axis=0)
    precision = np.zeros(len(values))
    precision[3:] = 1.0 / _SIGMAS[model] ** 2

    def residual(at: Array) -> Array:
        return np.asarray((np.log(_applied(model, at, seen, place)) - np.log(true)).ravel() / ANCHOR_SIGMA)

    for _ in range(ROUNDS):
        now = residual(values)
        sides = np.stack([(residual(values + step) - now) / 1e-5 for step in 1e-5 * np.eye(len(values))], axis=1)
        normal = sides.T @ sides + np.diag(precision + 1e-6)
        step = np.clip(np.linalg.solve(normal, -sides.T @ now - precision * values), -0.5, 0.5)
        values = values + step
        if np.abs(step).max() < 1e-7:
            break
    now = residual(values)
    count, free = now.size, len(values)
    freedom = max(count - free - 1, 0.5)
    criterion = float(now @ now + precision @ values**2) + 2.0 * free + 2.0 * free * (free + 1) / freedom
    light = StillLight(model, values, 0.0, len(anchors))
    found = light.xyz(np.stack([a.rgb for a in anchors]), place)
    left = float(delta_e_2000(lab_of_xyz(found), lab_of_xyz(xyz)).mean())
    return criterion, StillLight(model, values, left, len(anchors))
