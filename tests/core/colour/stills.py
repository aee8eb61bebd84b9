"""Stills of painted surfaces under unlike lights, computed band by band, with the truth known."""

from dataclasses import dataclass

import numpy as np

from chalkreel.core.colour.cielab import XYZ_TO_RGB, lab_of_xyz
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, tristimulus_weights, xyz_of_reflectance
from tests.core.colour.paint_lab import PaintLab

COLOURS = (
    {"titanium white": 9, "lamp black": 1}, {"titanium white": 12, "yellow ochre": 3, "lamp black": 1},
    {"yellow ochre": 4, "burnt umber": 1, "titanium white": 2}, {"red oxide": 3, "titanium white": 3},
    {"warm red": 5, "titanium white": 1}, {"ultramarine blue": 3, "titanium white": 5},
    {"phthalo blue": 1, "titanium white": 12}, {"phthalo green": 1, "yellow ochre": 5, "titanium white": 5},
    {"chrome oxide green": 4, "titanium white": 2}, {"lemon yellow": 3, "titanium white": 4},
    {"burnt umber": 2, "titanium white": 5}, {"neutral grey": 5, "ultramarine blue": 1},
)  # fmt: skip


def planck(kelvin: float) -> np.ndarray:
    metres = WAVELENGTHS_NM * 1e-9
    power = metres**-5 / (np.exp(0.014388 / (metres * kelvin)) - 1)
    return power / power[18]


DAY, LAMP = planck(6500.0), planck(2900.0)


@dataclass
class Shot:
    light: np.ndarray
    slope: float = 0.0
    balance: float = 0.6
    veil: float = 0.015
    fade: float = 1.0
    noise: float = 0.01
    exposure: float = 1.0


HARD = (
    Shot(DAY), Shot(LAMP), Shot((DAY + LAMP) / 2, slope=0.5), Shot(DAY, fade=0.65, veil=0.05),
    Shot(LAMP, noise=0.05, exposure=0.15, veil=0.03),
)  # fmt: skip


class Scene:
    """Surfaces with their true reflectances and what each shot shows of them, linear sRGB (shots, surfaces, 3)."""

    def __init__(self, seed: int, shots=HARD, shading: float = 0.18) -> None:
        rng = np.random.default_rng(seed)
        lab = PaintLab()
        self.reflectance = np.stack([np.full(36, 0.18), *(lab.true(c) for c in COLOURS)])
        self.lab = lab_of_xyz(xyz_of_reflectance(self.reflectance))
        day = tristimulus_weights()
        cmf = day / np.maximum(_d65(), 1e-9)[:, None]
        shown = []
        for shot in shots:
            place = rng.uniform(-0.5, 0.5, len(self.reflectance))
            light = shot.light[None] * (1 + shot.slope * place[:, None] * (LAMP - DAY)[None] / 3)
            # The card, first of all, is held to the light; panels catch less, each its own way.
            level = np.exp(rng.normal(-0.2, shading, len(self.reflectance)))
            level[0] = 1.0
            body = self.reflectance * level[:, None] + shot.veil
            xyz = (body * light) @ cmf / (shot.light @ cmf)[1]
            rgb = np.maximum(xyz @ XYZ_TO_RGB.T, 1e-4)
            white = XYZ_TO_RGB @ (shot.light @ cmf / (shot.light @ cmf)[1])
            rgb = rgb / white**shot.balance
            rgb = rgb**shot.fade * shot.exposure * np.array([1.05, 1.0, 0.9]) ** (1.5 if shot.fade < 1 else 0)
            rgb = rgb * np.exp(rng.normal(0, 0.02, rgb.shape)) + rng.normal(
                0, shot.noise * shot.exposure / 8, rgb.shape
            )
            shown.append(np.maximum(rgb, 1e-4))
        self.rgb = np.stack(shown)
        self.noise = [shot.noise for shot in shots]


def _d65() -> np.ndarray:
    from chalkreel.core.colour import spectra

    return spectra._table()[:, 4]
