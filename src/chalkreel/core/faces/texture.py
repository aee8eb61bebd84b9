"""What the stills show of each face, laid flat: the pictures that a view turned by hand is painted with."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.faces.face import Face
from chalkreel.core.faces.frame import Frame
from chalkreel.core.faces.gaps import hatch
from chalkreel.core.faces.light import Light, Overlaps, encoded, linear
from chalkreel.core.faces.orthographic import Progress, go_on
from chalkreel.core.faces.panel import panel_of
from chalkreel.core.faces.sight import Pixels, Seen, Sight
from chalkreel.core.faces.skin import Skin

# The light is evened on pictures so many times coarser.
COARSER = 4.0
HATCH_PX = 8.0


@dataclass(frozen=True, eq=False)
class Texture:
    """Pixels (H, W, 3) of a face in its own plane, hatched where no still shows it.

    `to_world` (3, 3): the place of pixel (x, y) is `to_world @ (x, y, 1)`, the first pixel's centre at (0.5, 0.5).
    """

    pixels: Pixels
    to_world: Array


def textures(
    skin: Skin, stills: Sequence[Seen], mm_per_px: float, progress: Progress = lambda _: True
) -> tuple[Texture, ...]:
    """One texture a face, blended from all stills with their light made even.

    Raises
    ------
    StoppedError
        `progress` returned False.
    """
    sights = [Sight(skin, still) for still in stills]
    gains = _gains(skin, sights, mm_per_px * COARSER, lambda share: progress(0.4 * share))
    frames = [_frame(face, mm_per_px) for face in skin.faces]
    totals = [np.zeros((*frame.size_px[::-1], 3), np.float32) for frame in frames]
    weights = [np.zeros(frame.size_px[::-1], np.float32) for frame in frames]
    for number, k, light, weight in _patches(skin, sights, frames, lambda share: progress(0.4 + 0.6 * share)):
        totals[number] += weight[..., None] * light * gains[k].astype(np.float32)
        weights[number] += weight
    return tuple(_texture(*found) for found in zip(skin.faces, frames, totals, weights, strict=True))


def _gains(skin: Skin, sights: Sequence[Sight], mm_per_px: float, progress: Progress) -> Array:
    shown: dict[int, list[tuple[int, Light, Flags]]] = {}
    frames = [_frame(face, mm_per_px) for face in skin.faces]
    for number, k, light, weight in _patches(skin, sights, frames, progress):
        shown.setdefault(number, []).append((k, light, weight > 0))
    overlaps = Overlaps(len(sights))
    for patches in shown.values():
        overlaps.add(patches)
    return overlaps.gains()


def _patches(
    skin: Skin, sights: Sequence[Sight], frames: Sequence[Frame], progress: Progress
) -> Iterator[tuple[int, int, Light, Array]]:
    """Face, still, light and weights of everything that shows something; each still is fetched once."""
    for k, sight in enumerate(sights):
        go_on(progress, k / len(sights))
        levels = sight.still.levels()
        for number, (face, frame) in enumerate(zip(skin.faces, frames, strict=True)):
            width, height = frame.size_px
            patch = sight.patch(face, frame, np.s_[0:height, 0:width], levels)
            if patch is not None:
                yield number, k, linear(patch[0]), patch[1]


def _frame(face: Face, mm_per_px: float) -> Frame:
    """The face from straight before it."""
    panel = panel_of(face).lays[0]
    x, y = face.corners @ panel.right, face.corners @ panel.up
    width, height = (max(2, int(np.ceil(np.ptp(v) / mm_per_px))) for v in (x, y))
    return Frame(panel.right, -panel.up, face.normal, float(x.min()), float(-y.max()), mm_per_px, (width, height))


def _texture(face: Face, frame: Frame, total: Light, weight: Light) -> Texture:
    seen = weight > 0
    pixels = np.zeros(total.shape, np.uint8)
    pixels[seen] = encoded(np.asarray(total[seen] / weight[seen, None], np.float32))
    hatch(pixels, ~seen, HATCH_PX)
    corner = frame.left_mm * frame.right + frame.top_mm * frame.down + (face.corners[0] @ face.normal) * face.normal
    return Texture(pixels, np.stack([frame.mm_per_px * frame.right, frame.mm_per_px * frame.down, corner], axis=1))
