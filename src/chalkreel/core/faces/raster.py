"""Which face is in front at each pixel, and how far away: triangles painted into a depth buffer.

Reference: Pineda, "A Parallel Algorithm for Polygon Rasterization", 1988.
"""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.face import Index


def front(places: Array, owner: Index, size_px: tuple[int, int]) -> tuple[Array, Index]:
    """Depth (H, W), infinite where nothing is, and the owner (H, W) of the nearest triangle, −1 for none.

    `places` (T, 3, 3) are x, y in pixels (the first one's centre at 0.5, 0.5) and a depth that is linear over the
    picture; triangles with a corner that is not finite are left out.
    """
    width, height = size_px
    depth, which = np.full((height, width), np.inf), np.full((height, width), -1, np.intp)
    for triangle, face in zip(places, owner, strict=True):
        if not np.isfinite(triangle).all():
            continue
        low, high = triangle[:, :2].min(axis=0), triangle[:, :2].max(axis=0)
        x0, y0 = (max(0, int(np.floor(v - 0.5))) for v in low)
        x1, y1 = min(width, int(np.ceil(high[0] + 0.5))), min(height, int(np.ceil(high[1] + 0.5)))
        (ax, ay, az), (bx, by, bz), (cx, cy, cz) = triangle
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if x1 <= x0 or y1 <= y0 or area == 0:
            continue
        # Shares of the corners b and c, and the depth, are a column's part and a row's: only their sums take time.
        x, y = np.arange(x0, x1) + 0.5 - ax, (np.arange(y0, y1) + 0.5 - ay)[:, None]
        ux, uy = x * ((cy - ay) / area), y * ((ax - cx) / area)
        vx, vy = x * ((ay - by) / area), y * ((bx - ax) / area)
        box = np.s_[y0:y1, x0:x1]
        nearer = (ux >= -1e-9 - uy) & (vx >= -1e-9 - vy) & (ux + vx <= 1 + 1e-9 - uy - vy)
        found = (ux * (bz - az) + vx * (cz - az)) + (az + uy * (bz - az) + vy * (cz - az))
        nearer &= found < depth[box]
        depth[box][nearer] = found[nearer]
        which[box][nearer] = face
    return depth, which
