"""A photograph seen from the still's camera, through the model's faces; and both without the light they were taken in.

Pixels that meet no face are carried at the distance of the nearest face on the picture, so that the outline's
surroundings come along.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.faces.sight import Pixels
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera

# Rays are followed at every so many pixels; between them places are interpolated.
STEP_PX = 3
# Light changes slowly: what is blurred over this share of the width is light.
LIGHT_SHARE = 0.05
# A picture is made smaller for that, until the blur is so many of its pixels wide.
FEWEST_SIGMA_PX = 8.0
MIDDLE_GREY = 118.0


@dataclass(frozen=True, eq=False)
class Overlay:
    """A photograph (h, w, 3) in the still's camera, and where it does not show what the still shows (h, w)."""

    pixels: Pixels
    unseen: Flags


def scaled(camera: Camera, size_px: tuple[int, int]) -> Camera:
    """The same camera on a picture of another size with square pixels."""
    width, height = camera.size_px
    factor = size_px[1] / height
    return replace(
        camera,
        focal_px=camera.focal_px * factor,
        offset_px=(camera.offset_px[0] * factor, camera.offset_px[1] * factor),
        size_px=size_px,
        pixel_aspect=camera.pixel_aspect * width / height * size_px[1] / size_px[0],
    )


def laid_over(photograph: Pixels, taken: Camera, still: Camera, skin: Skin) -> Overlay:
    """What a photograph shows, in the still's camera and at its size."""
    width, height = still.size_px
    columns, rows = (np.arange(0, side + STEP_PX, STEP_PX, dtype=np.float64) for side in (width, height))
    x, y = np.meshgrid(columns, rows)
    ways = still.rays(np.stack([x.ravel(), y.ravel()], axis=1))
    far = skin.first_hits(still.position, ways)[0].reshape(x.shape)
    hit = np.isfinite(far)
    places = still.position + _filled(far, hit).ravel()[:, None] * ways
    seen = taken.project(places)
    unseen = np.zeros(len(places), np.bool_)
    flat = hit.ravel()
    if flat.any():
        unseen[flat] = skin.hidden(taken, places[flat])
    size = np.array(taken.size_px)
    unseen |= flat & ~np.all((seen >= 0) & (seen <= size), axis=1)
    at = _enlarged(np.nan_to_num(seen, nan=-1e4).reshape(*x.shape, 2), (width, height))
    pixels = cv2.remap(photograph, at[..., 0] - 0.5, at[..., 1] - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    dark = _enlarged(unseen.reshape(x.shape).astype(np.float64), (width, height))
    return Overlay(np.asarray(pixels, np.uint8), np.asarray(dark > 0.5))


def without_light(pixels: Pixels) -> Pixels:
    """A picture with its slow changes of brightness and colour taken out: what is left is drawn, not lit."""
    light = pixels.astype(np.float32) + 8.0
    height, width = pixels.shape[:2]
    sigma = LIGHT_SHARE * width
    # So wide a blur is the same of a smaller picture, and a hundred times quicker.
    factor = max(1.0, sigma / FEWEST_SIGMA_PX)
    small = cv2.resize(light, (math.ceil(width / factor), math.ceil(height / factor)), interpolation=cv2.INTER_AREA)
    wide = cv2.resize(cv2.GaussianBlur(small, (0, 0), sigma / factor), (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.clip(MIDDLE_GREY * light / wide, 0, 255), np.uint8)


def difference(one: Pixels, other: Pixels, unseen: Flags) -> Pixels:
    """How much two pictures `without_light` differ: grey where they agree, lighter or darker where not."""
    grey = [cv2.cvtColor(p, cv2.COLOR_RGB2GRAY).astype(np.float32) for p in (one, other)]
    gap = np.where(unseen, 0.0, grey[1] - grey[0])
    return np.asarray(np.repeat(np.clip(MIDDLE_GREY + gap, 0, 255)[..., None], 3, axis=2), np.uint8)


def _filled(far: Array, hit: Flags) -> Array:
    """Distances where rays meet nothing, from the nearest that do."""
    if not hit.any():
        return np.where(hit, far, 1.0)
    labels = cv2.distanceTransformWithLabels(
        np.where(hit, 0, 255).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )[1]
    by_label = np.zeros(int(labels.max()) + 1)
    by_label[labels[hit]] = far[hit]
    return np.asarray(np.where(hit, far, by_label[labels]))


def _enlarged(nodes: Array, size_px: tuple[int, int]) -> np.ndarray[tuple[int, ...], np.dtype[np.float32]]:
    """Values at every so many pixels' corners, interpolated to the middles of all of them."""
    x, y = np.meshgrid(
        ((np.arange(size_px[0]) + 0.5) / STEP_PX).astype(np.float32),
        ((np.arange(size_px[1]) + 0.5) / STEP_PX).astype(np.float32),
    )
    return np.asarray(cv2.remap(nodes.astype(np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
