"""Every still of a subject with mirror pairs is two: flipped, with its pairs' names swapped, it shows the other side.

The flipped twins help to find a first structure without knowing where the mirror plane lies.
Reference: Francois, Medioni & Waupotitsch, "Mirror Symmetry ⇒ 2-View Stereo Geometry", 2003.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from chalkreel.core.measure.camera import Camera
from chalkreel.core.measure.scene import Landmark, Scene, Sighting

TWIN = " ⇋"


def with_twins(scene: Scene) -> Scene:
    """Views and their flipped twins, with landmarks that know nothing of each other; no edges, no ties."""
    twin = {m.key: m.mirror for m in scene.landmarks}
    views = tuple(replace(view, lens=view.lens or view.key) for view in scene.views)
    sightings = list(scene.sightings)
    flipped = []
    for view in views:
        mine = [s for s in scene.sightings if s.view == view.key and twin[s.landmark]]
        if len(mine) >= 4 and not view.cropped:
            flipped.append(replace(view, key=view.key + TWIN))
            for s in mine:
                mark = replace(s.mark, x_px=view.size_px[0] - s.mark.x_px)
                sightings.append(Sighting(view.key + TWIN, twin[s.landmark], mark))
    landmarks = tuple(Landmark(m.key) for m in scene.landmarks)
    return Scene((*views, *flipped), landmarks, tuple(sightings), rulers=scene.rulers)


def untwinned(cameras: Mapping[str, Camera]) -> dict[str, Camera]:
    """The cameras of the views themselves, some perhaps known only by their twins, in the world's frame."""
    flip, mirror = np.diag([-1.0, 1.0, 1.0]), np.diag([1.0, -1.0, 1.0])
    found = {}
    for key, camera in cameras.items():
        own = key.removesuffix(TWIN)
        if own == key:
            found[own] = camera
        elif own not in cameras:
            turned = flip @ camera.rotation @ mirror
            found[own] = replace(camera, rotation=turned, translation=flip @ camera.translation)
    return found
