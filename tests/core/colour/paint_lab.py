"""A paint laboratory with other physics than the program's: many streams of light instead of two fluxes.

Radiative transfer in a plane layer by doubling (van de Hulst 1963; Prahl, van Gemert & Welch 1993), Fresnel
reflection per direction, white pigment that crowds (scatters less the more of it there is), 45°/0° geometry.
"""

from collections.abc import Mapping

import numpy as np

from chalkreel.demo.evidence import bench_range

INDEX = 1.5
STREAMS = 8
CROWDING = 0.2
NODES, WEIGHTS = np.polynomial.legendre.leggauss(STREAMS)
NODES, WEIGHTS = (NODES + 1) / 2, WEIGHTS / 2
THINNEST = 2.0**-9


def fresnel(mu: np.ndarray) -> np.ndarray:
    """Unpolarised reflection from inside, at cosines `mu`."""
    sine = INDEX * np.sqrt(1 - mu**2)
    out = np.sqrt(np.maximum(1 - sine**2, 0))
    s, p = (INDEX * mu - out) / (INDEX * mu + out), (INDEX * out - mu) / (INDEX * out + mu)
    return np.where(sine >= 1, 1.0, (s**2 + p**2) / 2)


def layer(absorbing: np.ndarray, scattering: np.ndarray, thickness: float) -> tuple[np.ndarray, np.ndarray]:
    """Reflection and transmission (36, n, n) of a layer for light in and out along the streams."""
    depth = np.maximum((absorbing + scattering) * thickness, 1e-9)
    doublings = int(np.ceil(np.log2(depth.max() / THINNEST)).clip(1, 40))
    thin = depth / 2**doublings
    albedo = scattering / np.maximum(absorbing + scattering, 1e-12)
    # Isotropic scattering, once only in so thin a layer; cosines and weights as in flux.
    reflect = (albedo * thin)[:, None, None] / 2 * (WEIGHTS[None, :] / NODES[:, None])[None]
    transmit = reflect + np.eye(STREAMS) * (1 - thin[:, None, None] / NODES[None, :, None])
    one = np.eye(STREAMS)
    for _ in range(doublings):
        between = np.linalg.inv(one - reflect @ reflect)
        reflect, transmit = reflect + transmit @ between @ reflect @ transmit, transmit @ between @ transmit
    return reflect, transmit


def seen_from_above(reflect: np.ndarray) -> np.ndarray:
    """45°/0° reflectance (36,) of what lies below a surface, without what the surface itself mirrors."""
    back = np.diag(fresnel(NODES))
    around = np.linalg.solve(np.eye(STREAMS) - reflect @ back, reflect)
    entering = np.cos(np.arcsin(np.sin(np.pi / 4) / INDEX))
    # Radiance towards the normal, from light that came in at the refracted 45°, both read between the streams.
    kernel = around / WEIGHTS[None, None, :] / 2
    up = np.array([np.interp(entering, NODES, row) for row in kernel[:, -1, :]])
    return 0.96 * (1 - fresnel(np.array([1.0]))[0]) * up * 2 * entering / INDEX**2


MATTE = {"matte": 0.93, "satin": 0.4, "gloss": 0.02}


class PaintLab:
    """Mixes, coats and meters. Amounts are drops by paint name."""

    def __init__(self, seed: int = 0, noise: float = 0.002) -> None:
        self.rng, self.noise = np.random.default_rng(seed), noise
        self.bottles = {p.name: (0.5 * np.array(p.absorption), 4 / 3 * np.array(p.scattering)) for p in bench_range()}
        self.scale = self._scale()

    def constants(self, drops: Mapping[str, float]) -> tuple[np.ndarray, np.ndarray]:
        """Absorption and scattering of a mix per unit of thickness."""
        total = sum(drops.values())
        absorbing = sum(n / total * self.bottles[name][0] for name, n in drops.items())
        scattering = sum(n / total * self.bottles[name][1] for name, n in drops.items())
        white = drops.get("titanium white", 0) / total
        return absorbing, scattering * (1 - CROWDING * white**2)  # type: ignore[return-value]

    def true(self, drops: Mapping[str, float], sheen: str = "matte") -> np.ndarray:
        """Reflectance (36,) of an opaque coat."""
        return self.scale * seen_from_above(layer(*self.constants(drops), 60.0)[0]) + 0.04 * MATTE[sheen]

    def metered(self, drops: Mapping[str, float], sheen: str = "matte") -> np.ndarray:
        """The same as a meter reads it."""
        return self.true(drops, sheen) * (1 + self.rng.normal(0, self.noise)) + self.rng.normal(0, 0.0005, 36)

    def stack(self, films: list[tuple[Mapping[str, float], float]], sheen: str) -> np.ndarray:
        """Reflectance (36,) of films over each other, the lowest first and opaque; (drops, thickness)."""
        below = layer(*self.constants(films[0][0]), 60.0)[0]
        for drops, thickness in films[1:]:
            r, t = layer(*self.constants(drops), thickness)
            below = r + t @ below @ np.linalg.solve(np.eye(STREAMS) - r @ below, t)
        return self.scale * seen_from_above(below) + 0.04 * MATTE[sheen]

    def _scale(self) -> float:
        """A body that absorbs nothing reflects all of what enters: 0.96 by a meter set to a white tile."""
        return 0.96 / float(seen_from_above(layer(np.full(36, 1e-7), np.ones(36), 4000.0)[0])[18])
