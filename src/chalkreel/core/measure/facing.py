"""The way each side of a subject faces in world axes: x points to the bow, y to port, z up."""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.measure.sides import SIDES, joined, parts_of

_WAYS = {
    "port": (0.0, 1.0, 0.0), "starboard": (0.0, -1.0, 0.0), "bow": (1.0, 0.0, 0.0), "aft": (-1.0, 0.0, 0.0),
    "top": (0.0, 0.0, 1.0), "bottom": (0.0, 0.0, -1.0),
}  # fmt: skip
# A side is seen where the camera stands so far round to it: 25° for the four about, 40° for above and below, since
# nearly every camera looks a little down.
LEAST_SHARE = {word: np.sin(np.radians(40.0 if word in ("top", "bottom") else 25.0)) for word in SIDES}


def facing(side: str) -> Array | None:
    """The way (3,) a side faces, of length 1; None of "several"."""
    parts = parts_of(side)
    if not parts:
        return None
    way = np.sum([_WAYS[part] for part in parts], axis=0)
    return np.asarray(way / np.linalg.norm(way))


def seen_from(towards: Array) -> str:
    """The side that a camera sees which stands in a direction (3,) from the subject."""
    shares = np.asarray(towards, float) / max(float(np.linalg.norm(towards)), 1e-12)
    return joined(tuple(word for word in SIDES if shares @ np.array(_WAYS[word]) >= LEAST_SHARE[word]))
