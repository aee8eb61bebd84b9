"""Other stills of painted surfaces: panels that face every way under a key light and a sky, cameras of their own.

What differs from `stills`: the card is held towards the camera like the panels, light comes from two sides and in two
colours, surfaces are drawn at random, cameras mix their channels a little, bend their tones and scatter light inside.
"""

import numpy as np

from chalkreel.core.colour.cielab import XYZ_TO_RGB, lab_of_xyz
from chalkreel.core.colour.spectra import tristimulus_weights, xyz_of_reflectance
from tests.core.colour.second_lab import SecondLab
from tests.core.colour.stills import _d65, planck


def unit(vector: np.ndarray) -> np.ndarray:
    return vector / np.linalg.norm(vector)


class OtherScene:
    """A grey card of 18 % and eleven surfaces, by five stills: linear sRGB (stills, surfaces, 3)."""

    def __init__(self, seed: int, stills: int = 5, surfaces: int = 11, flat_beside: int = 0) -> None:
        """The card lies flat on so many of the surfaces, the first ones, on the first still."""
        rng = np.random.default_rng(seed)
        lab = SecondLab(seed, 24, ("matte", "satin"))
        names = list(lab.bottles)
        mixes = []
        for _ in range(surfaces):
            chosen = rng.choice([n for n in names if n != "white"], 2, replace=False)
            mixes.append({str(n): float(rng.integers(1, 6)) for n in chosen} | {"white": float(rng.integers(1, 12))})
        self.reflectance = np.clip(np.stack([np.full(36, 0.18), *(lab.true(m) for m in mixes)]), 0, 1)
        self.lab = lab_of_xyz(xyz_of_reflectance(self.reflectance))
        self.rgb = np.stack([self._still(rng, 0 if n else flat_beside) for n in range(stills)])
        self.noise = [0.01] * stills

    def _still(self, rng: np.random.Generator, flat_beside: int) -> np.ndarray:
        count = len(self.reflectance)
        cmf = tristimulus_weights() / np.maximum(_d65(), 1e-9)[:, None]
        key = unit(np.array([rng.normal(0, 0.6), 1.0, rng.uniform(0.2, 1.5)]))
        warm = rng.uniform(2700, 6500)
        sky_share = rng.uniform(0.2, 0.6)
        # Everything faces the camera (y) more or less, the card as well.
        normals = [unit(np.array([rng.normal(0, 0.5), 1.0, rng.normal(0.2, 0.5)])) for _ in range(count)]
        normals[1 : 1 + flat_beside] = [normals[0]] * flat_beside
        catch = np.array([max(0.05, float(n @ key)) for n in normals])
        sky = np.array([0.5 + 0.5 * n[2] for n in normals])
        light = (1 - sky_share) * catch[:, None] * planck(warm) + sky_share * sky[:, None] * planck(warm + 3500)
        xyz = (self.reflectance * light) @ cmf
        rgb = xyz @ XYZ_TO_RGB.T / 3.0
        # The camera's own dyes, a white balance that goes most of the way, light scattered in its lens.
        rgb = rgb @ (np.eye(3) + rng.normal(0, 0.03, (3, 3))).T
        white = (planck(warm) @ cmf) @ XYZ_TO_RGB.T
        rgb = rgb / (white / white[1]) ** rng.uniform(0.5, 1.0)
        rgb = rgb / rgb[0, 1] * 0.18 * rng.uniform(0.6, 1.5)
        rgb = rgb + rng.uniform(0.003, 0.03) * rgb.mean(axis=0)
        rgb = np.maximum(rgb, 1e-4) ** rng.uniform(0.9, 1.12)
        return np.maximum(rgb * np.exp(rng.normal(0, 0.02, rgb.shape)), 1e-4)
