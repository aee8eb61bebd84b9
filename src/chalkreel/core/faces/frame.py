"""Views of all faces from infinitely far: from port, from above and so on, at so many mm to a pixel."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.skin import Skin

Vector = tuple[float, float, float]
# For each view: right and down on the picture, in world axes. Bow is left on the port side, as ships are drawn.
VIEWS: dict[str, tuple[Vector, Vector]] = {
    "port": ((-1, 0, 0), (0, 0, -1)), "starboard": ((1, 0, 0), (0, 0, -1)), "bow": ((0, 1, 0), (0, 0, -1)),
    "aft": ((0, -1, 0), (0, 0, -1)), "top": ((-1, 0, 0), (0, 1, 0)), "bottom": ((-1, 0, 0), (0, -1, 0)),
}  # fmt: skip
MARGIN, MOST_PX = 0.03, 12_000


@dataclass(frozen=True, eq=False)
class Frame:
    """A view of the faces: world directions right, down and towards the eye (3,), upper left corner, mm to a pixel."""

    right: Array
    down: Array
    out: Array
    left_mm: float
    top_mm: float
    mm_per_px: float
    size_px: tuple[int, int]

    def to_px(self, points: Array) -> Array:
        """Pixels and depth (…, 3) of points (…, 3): x, y, and mm away from the eye."""
        x, y = points @ self.right - self.left_mm, points @ self.down - self.top_mm
        return np.stack([x / self.mm_per_px, y / self.mm_per_px, -(points @ self.out)], axis=-1)

    def to_world(self, pixels: Array) -> Array:
        """Places (…, 3) of pixels and depth (…, 3)."""
        x, y = pixels[..., 0] * self.mm_per_px + self.left_mm, pixels[..., 1] * self.mm_per_px + self.top_mm
        return np.asarray(x[..., None] * self.right + y[..., None] * self.down - pixels[..., 2:] * self.out)

    def coarser(self, longest_px: int) -> Frame:
        """The same view with no side longer than so many pixels."""
        shrink = max(self.size_px) / longest_px
        if shrink <= 1.0:
            return self
        width, height = (max(1, round(side / shrink)) for side in self.size_px)
        return replace(self, mm_per_px=self.mm_per_px * shrink, size_px=(width, height))


def frame_of(skin: Skin, view: str, mm_per_px: float) -> Frame:
    """A view of all faces with a margin.

    Raises
    ------
    RefusedError
        No face, or more pixels than fit.
    """
    if not skin.faces:
        raise RefusedError("There is no face yet. Join landmarks that lie in one plane to a face.")
    right, down = (np.array(v, float) for v in VIEWS[view])
    points = np.concatenate([f.corners for f in skin.faces])
    x, y = points @ right, points @ down
    margin = MARGIN * max(np.ptp(x), np.ptp(y))
    width, height = (int(np.ceil((np.ptp(v) + 2 * margin) / mm_per_px)) for v in (x, y))
    if max(width, height) > MOST_PX:
        raise RefusedError(f"That would be {width} × {height} pixels. Choose fewer dots to an inch.")
    out = np.cross(down, right)
    return Frame(right, down, out, float(x.min() - margin), float(y.min() - margin), mm_per_px, (width, height))
