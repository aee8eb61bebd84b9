"""Clear coats by rays, as a laboratory would find them: Fresnel's law at each angle and Lambert's on each way.

Unlike the program, which halves and doubles a diffuse film, it adds up what the ground sends through the film at every
angle, what the surface throws back, and what comes up again. Thickness, dyes and dry grounds are the laboratory's own.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import as_lab, lab_of_xyz
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, xyz_of_reflectance

INDEX = 1.5
ANGLES = np.deg2rad(np.arange(0.25, 90.0, 0.5))


def fresnel(inside: Array) -> Array:
    """What unpolarised light is thrown back at the surface from within, by its angle there."""
    sine = INDEX * np.sin(inside)
    out = np.arcsin(np.minimum(sine, 1.0))
    s = (INDEX * np.cos(inside) - np.cos(out)) / (INDEX * np.cos(inside) + np.cos(out))
    p = (np.cos(inside) - INDEX * np.cos(out)) / (np.cos(inside) + INDEX * np.cos(out))
    return np.where(sine < 1.0, (s**2 + p**2) / 2.0, 1.0)


_BACK = fresnel(ANGLES)
_SPREAD = 2.0 * np.sin(ANGLES) * np.cos(ANGLES) * np.deg2rad(0.5)
# In at 45°, out straight.
_IN = np.arcsin(np.sin(np.pi / 4) / INDEX)
_ENTERS = 1.0 - float(fresnel(np.array([_IN]))[0])
_LEAVES = (1.0 - float(fresnel(np.array([0.0]))[0])) / INDEX**2
_WAY_IN = 1.0 / np.cos(_IN)


def over_white(depth: Array, ground: Array) -> Array:
    """Reflectance (36,) at 45°/0° of a clear film of absorbance `depth` (36,) over a matte ground (36,) in contact."""
    caught = (_BACK * _SPREAD * np.exp(-2.0 * depth[:, None] / np.cos(ANGLES))).sum(axis=1)
    sent = _ENTERS * np.exp(-_WAY_IN * depth) * ground / (1.0 - ground * caught)
    return np.asarray(sent * np.exp(-depth) * _LEAVES)


def over_metal(depth: Array, ground: Array) -> Array:
    """The same over flakes that throw light out at once."""
    return np.asarray(ground * _ENTERS * _LEAVES * INDEX**2 * np.exp(-(1.0 + _WAY_IN) * depth))


@dataclass(frozen=True, eq=False)
class Dye:
    """A clear of the laboratory: absorbance (36,) of one coat as its maker lays it."""

    name: str
    depth: Array


@dataclass(frozen=True, eq=False)
class Bench:
    """One modeller: dyes, what white and silver look like there, how thick this hand sprays."""

    dyes: tuple[Dye, ...]
    white: Array
    silver: Array
    hand: float

    def look(self, drops: tuple[tuple[str, int], ...], coats: int, ground: str) -> Lab:
        """How it comes out."""
        total = sum(count for _, count in drops)
        depth = {d.name: d.depth for d in self.dyes}
        mixed = sum((count * depth[name] for name, count in drops), np.zeros(36)) / total * coats * self.hand
        seen = over_metal(mixed, self.silver) if ground == "silver" else over_white(mixed, self.white)
        return as_lab(lab_of_xyz(xyz_of_reflectance(seen)))

    def swatch(self, name: str, rng: np.random.Generator) -> Lab:
        """One coat of a clear over white card as somebody published it: sprayed by another hand, read to a unit."""
        depth = next(d.depth for d in self.dyes if d.name == name) * rng.lognormal(0.0, 0.2)
        lab = lab_of_xyz(xyz_of_reflectance(over_white(depth, np.full(36, 0.86))))
        return as_lab(np.round(lab))


_CENTRES = {"clear yellow": (430.0, 40.0), "clear orange": (465.0, 50.0), "clear red": (515.0, 50.0),
            "clear blue": (610.0, 60.0), "clear green": (650.0, 50.0), "smoke": (540.0, 400.0)}  # fmt: skip


def bench(rng: np.random.Generator) -> Bench:
    """Six clears, whose bands lie where they like."""
    dyes = []
    for name, (centre, wide) in _CENTRES.items():
        away = WAVELENGTHS_NM - centre - rng.normal(0.0, 8.0)
        band = np.exp(-0.5 * (away / (wide * rng.lognormal(0.0, 0.15))) ** 2)
        if name == "clear green":
            band += 0.9 * np.exp(-0.5 * ((WAVELENGTHS_NM - 425.0) / 30.0) ** 2)
        dyes.append(Dye(name, rng.uniform(0.35, 0.9) * band + 0.01))
    dyes.append(Dye("clear base", np.full(36, 0.004)))
    slope = 1.0 + rng.normal(0.0, 0.02) * (WAVELENGTHS_NM - 550.0) / 150.0
    return Bench(
        tuple(dyes), np.full(36, rng.uniform(0.78, 0.9)), rng.uniform(0.42, 0.6) * slope,
        rng.lognormal(0.0, 0.25),
    )  # fmt: skip
