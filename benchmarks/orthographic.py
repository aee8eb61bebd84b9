"""A side painted at 300 dots an inch from nine stills of 24 megapixels: seconds and memory, whole and with one still.

Run: `python -m benchmarks.orthographic`
"""

from __future__ import annotations

import resource
import time
from functools import cache

import numpy as np
from tests.core.faces.textured import box_faces, camera_from

from chalkreel.core.faces.frame import frame_of
from chalkreel.core.faces.orthographic import orthographic
from chalkreel.core.faces.sight import Pixels, Seen
from chalkreel.core.faces.skin import Skin
from chalkreel.core.media.pyramid import halvings

WIDTH, HEIGHT, FOCAL_PX = 6000, 4000, 10_400.0
# The boxes are 600 mm long; as a replica of 387.5 mm at 300 dots an inch.
MM_PER_PX = 25.4 / 300 * 600 / 387.5


@cache
def levels() -> tuple[Pixels, ...]:
    return halvings(np.random.default_rng(1).integers(0, 255, (HEIGHT, WIDTH, 3), np.uint8))


def megabytes() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def main() -> None:
    skin, cameras = (
        Skin(box_faces()),
        [camera_from(a, 20, focal=FOCAL_PX, size=(WIDTH, HEIGHT)) for a in range(0, 360, 40)],
    )
    frame, before = frame_of(skin, "port", MM_PER_PX), (levels(), megabytes())[1]
    for chosen in (cameras[2:3], cameras):
        stills = [Seen(str(n), camera, levels) for n, camera in enumerate(chosen)]
        begun = time.perf_counter()
        found = orthographic(skin, stills, frame)
        took = time.perf_counter() - begun
        size, more = " × ".join(map(str, frame.size_px)), megabytes() - before
        print(f"{len(chosen)} stills, {size}: {took:.1f} s, {found.share_seen:.0%} seen, {more:.0f} MB more")


if __name__ == "__main__":
    main()
