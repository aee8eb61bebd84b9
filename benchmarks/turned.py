"""Turning 500 faces by hand, plain and with textures, at window size and at half of it: pictures a second.

Run: `python -m benchmarks.turned`
"""

from __future__ import annotations

import itertools
import time

import numpy as np
from tests.core.faces.textured import camera_from, photographed

from chalkreel.core.faces.face import Face, face_of
from chalkreel.core.faces.orbit import Orbit, camera_on
from chalkreel.core.faces.skin import Skin
from chalkreel.core.faces.texture import textures
from chalkreel.core.faces.turned import turned

ROUND, ALONG, SIZE = 20, 25, (900, 600)


def tube() -> tuple[Face, ...]:
    """A tapering tube of ROUND × ALONG flat faces, 600 mm long."""
    turns, xs = np.linspace(0, 2 * np.pi, ROUND + 1), np.linspace(-300, 300, ALONG + 1)

    def at(x: float, turn: float) -> np.ndarray:
        radius = 90 - 0.1 * x
        return np.array([x, radius * np.cos(turn), 60 + radius * np.sin(turn)])

    return tuple(
        face_of(f"{n}/{m}", np.array([at(a, s), at(b, s), at(b, t), at(a, t)]), at(a, s) * 3)
        for n, (a, b) in enumerate(itertools.pairwise(xs))
        for m, (s, t) in enumerate(itertools.pairwise(turns))
    )


def main() -> None:
    skin = Skin(tube())
    stills = [photographed(str(a), camera_from(a, 20)) for a in range(0, 360, 60)]
    begun = time.perf_counter()
    laid = textures(skin, stills, 0.7)
    print(f"{len(skin.faces)} textures from six stills: {time.perf_counter() - begun:.1f} s")
    for name, chosen in (("plain", ()), ("textured", laid)):
        for shrink in (1, 2):
            size = (SIZE[0] // shrink, SIZE[1] // shrink)
            begun = time.perf_counter()
            for step in range(40):
                turned(skin, camera_on(Orbit(9 * step, 20), skin, size), chosen)
            print(f"{name}, {size[0]} × {size[1]}: {40 / (time.perf_counter() - begun):.0f} pictures a second")


if __name__ == "__main__":
    main()
