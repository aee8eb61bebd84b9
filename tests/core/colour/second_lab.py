"""A second paint laboratory: shelves of made-up paints that dry to surfaces of their own.

Light goes through the film as in `paint_lab`; pigments are drawn at random, every pigment crowds, and a surface mirrors
into the eye what its own roughness gives it, whatever word its bottle has for it. A mix's surface lies between those of
its paints.
"""

from collections.abc import Mapping

import numpy as np

from chalkreel.core.colour.spectra import WAVELENGTHS_NM
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, put_on_shelf, readings_to_paints
from tests.core.colour.paint_lab import PaintLab, layer, seen_from_above

# What a surface of each word mirrors into the eye at 45°/0°, least and most: real ones differ from range to range.
MIRRORED = {"matte": (0.016, 0.036), "satin": (0.004, 0.018), "gloss": (0.0, 0.004)}
TINTS = ((1, 1), (1, 4), (1, 16))


class SecondLab(PaintLab):
    """A shelf of so many paints of a few sheens; its white is called "white"."""

    def __init__(self, seed: int, count: int, sheens: tuple[str, ...] = ("matte",), noise: float = 0.002) -> None:
        self.rng, self.noise = np.random.default_rng(seed), noise
        self.bottles = {f"paint {n}": self._pigment() for n in range(count - 2)}
        self.bottles["white"] = np.full(36, 0.0015) + 0.04 / (1 + np.exp((WAVELENGTHS_NM - 395) / 6)), np.full(36, 1.4)
        # Blacks have a K/S of 20 to 60, which is 2 · absorption over 0.75 · scattering.
        self.bottles["black"] = np.full(36, 0.06 * self.rng.uniform(20, 60)), np.full(36, 0.16)
        self.crowding = self.rng.uniform(0.05, 0.25)
        self.sheen = {name: str(self.rng.choice(sheens)) for name in self.bottles}
        # A range is made by one maker: its surfaces are alike, but for a few parts in a hundred.
        made = {sheen: self.rng.uniform(*MIRRORED[sheen]) for sheen in MIRRORED}
        self.mirrored = {n: made[s] * self.rng.normal(1, 0.04) for n, s in self.sheen.items()}
        self.scale = self._scale()

    def _pigment(self) -> tuple[np.ndarray, np.ndarray]:
        """Absorption in one or two broad bands, or towards the blue; scattering that falls a little with wavelength."""
        nm, strength = WAVELENGTHS_NM, np.exp(self.rng.normal(0.0, 0.8))
        if self.rng.random() < 0.5:
            absorbing = 1 / (1 + np.exp((nm - self.rng.uniform(430, 620)) / self.rng.uniform(10, 30)))
        else:
            middle, wide = self.rng.uniform(430, 660), self.rng.uniform(30, 80)
            absorbing = np.exp(-(((nm - middle) / wide) ** 2))
        absorbing = absorbing + self.rng.uniform(0.01, 0.12)
        scattering = np.exp(self.rng.normal(-1.2, 0.6)) * (nm / 550) ** -self.rng.uniform(0, 0.8)
        return strength * absorbing, scattering

    def constants(self, drops: Mapping[str, float]) -> tuple[np.ndarray, np.ndarray]:
        total = sum(drops.values())
        absorbing = sum(n / total * self.bottles[name][0] for name, n in drops.items())
        scattering = sum(n / total * self.bottles[name][1] for name, n in drops.items())
        full = sum((n / total) ** 2 for n in drops.values())
        return absorbing, scattering * (1 - self.crowding * full)  # type: ignore[return-value]

    def true(self, drops: Mapping[str, float], sheen: str = "") -> np.ndarray:
        total = sum(drops.values())
        surface = sum(n / total * self.mirrored[name] for name, n in drops.items())
        return self.scale * seen_from_above(layer(*self.constants(drops), 60.0)[0]) + surface

    def readings(self) -> tuple[tuple[str, np.ndarray], ...]:
        """Masstones and tints of all paints, as a meter's file names them."""
        found = []
        for name in self.bottles:
            found.append((name, self.metered({name: 1})))
            if name != "white":
                found += [(f"{name} {p}:{w}", self.metered({name: p, "white": w})) for p, w in TINTS]
        return tuple(found)

    def shelf(self) -> tuple[ShelfPaint, ...]:
        """The paints as a modeller brings them in, each with the word on its bottle."""
        build, readings = Build(1, {}), self.readings()
        # A file for each sheen; that of the white first, since the others were mixed with it.
        for sheen in sorted(set(self.sheen.values()), key=lambda sheen: sheen != self.sheen["white"]):
            mine = tuple(
                (name, r)
                for name, r in readings
                if self.sheen[name.rsplit(" ", 1)[0] if ":" in name else name] == sheen
            )
            found = readings_to_paints(mine, build, Dries(sheen=sheen))  # type: ignore[arg-type]
            build = Build(1, {**build.entities, **put_on_shelf(build, found)})  # type: ignore[dict-item]
        return tuple(build.all(ShelfPaint))
