"""What a paint's surface adds to and takes from the light inside it.

Reference: Saunderson, *J. Opt. Soc. Am.* 32 (1942), 727. Seen at 45°/0° a gloss surface mirrors its share past the
eye, a matte one scatters it into the eye; inside, the share `INSIDE` of diffuse light is thrown back at the surface
(n = 1.5). A *surface* here is the share of all light that it scatters into such an eye.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.materials import Sheen

OUTSIDE: Final = 0.04
INSIDE: Final = 0.596
# What a surface of each sheen is taken to scatter into the eye until a dark reading tells better: a rough one sends
# nearly all that it mirrors every way, a smooth one nearly none of it.
SURFACE: Final[dict[Sheen, float]] = {"matte": OUTSIDE, "satin": 0.35 * OUTSIDE, "gloss": 0.0}


def seen(internal: Array, surface: float | Array) -> Array:
    """Reflectance (...) as seen or metered at 45°/0° from the internal one."""
    through = (1.0 - OUTSIDE) * (1.0 - INSIDE)
    return np.asarray(surface + through * internal / (1.0 - INSIDE * internal))


def internal(reflectance: Array, surface: float | Array) -> Array:
    """The internal reflectance behind a seen one, kept within what paint can do."""
    through = (1.0 - OUTSIDE) * (1.0 - INSIDE)
    inner = np.maximum(reflectance - surface, 1e-5)
    return np.asarray(np.clip(inner / (through + INSIDE * inner), 1e-5, 0.9999))
