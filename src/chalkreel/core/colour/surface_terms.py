"""What a paint's surface adds to and takes from the light inside it, by sheen.

Reference: Saunderson, *J. Opt. Soc. Am.* 32 (1942), 727. Seen at 45°/0° a gloss surface mirrors its share past the
eye, a matte one scatters it into the eye; inside, the share `INSIDE` of diffuse light is thrown back at the surface
(n = 1.5).
"""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.materials import Sheen

OUTSIDE: Final = 0.04
INSIDE: Final = 0.596
# How much of what the surface mirrors reaches an eye that avoids the glare.
SEEN: Final[dict[Sheen, float]] = {"matte": 1.0, "satin": 0.35, "gloss": 0.0}


def seen(internal: Array, sheen: Sheen) -> Array:
    """Reflectance (...) as seen or metered at 45°/0° from the internal one."""
    through = (1.0 - OUTSIDE) * (1.0 - INSIDE)
    return np.asarray(OUTSIDE * SEEN[sheen] + through * internal / (1.0 - INSIDE * internal))


def internal(reflectance: Array, sheen: Sheen) -> Array:
    """The internal reflectance behind a seen one, kept within what paint can do."""
    through = (1.0 - OUTSIDE) * (1.0 - INSIDE)
    inner = np.maximum(reflectance - OUTSIDE * SEEN[sheen], 1e-5)
    return np.asarray(np.clip(inner / (through + INSIDE * inner), 1e-5, 0.9999))
