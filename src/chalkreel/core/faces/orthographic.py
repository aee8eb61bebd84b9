"""Pictures of the faces as if seen from infinitely far: resampled from all stills, lens and perspective gone.

Each spot is taken from the stills that see it most squarely and sharply, and that no other face stands before. Their
light is made even: one gain a still and channel, from what they see in common. What no still sees stays a gap.
Reference: Debevec, Taylor & Malik, "Modeling and Rendering Architecture from Photographs", 1996 (§4).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.errors import StoppedError
from chalkreel.core.faces.face import Face
from chalkreel.core.faces.frame import Frame
from chalkreel.core.faces.light import Light, Overlaps, encoded, linear
from chalkreel.core.faces.raster import front
from chalkreel.core.faces.sight import Box, Pixels, Seen, Sight
from chalkreel.core.faces.skin import Skin

Progress = Callable[[float], bool]
Number = npt.NDArray[np.int16]
GROUND = 119
# A face that leans more from the view (cosine) gives no picture.
LEAST_LEAN = 0.08
# The light is evened, and the stills for each face are chosen, on a picture no longer than this.
SMALL_PX = 260
# A still whose weight stays below this share of the best one's all over a face is not worth fetching for it.
LEAST_USE = 0.03
STRIP = 256


@dataclass(frozen=True, eq=False)
class Orthographic:
    """A picture (H, W, 3), the face (H, W) that shows at each pixel and the still it is mostly from; −1 for none."""

    frame: Frame
    pixels: Pixels
    face: Number
    still: Number

    @property
    def share_seen(self) -> float:
        """Of the faces in view, the share that some still shows."""
        covered = self.face >= 0
        return float(np.mean(self.still[covered] >= 0)) if covered.any() else 0.0


def orthographic(skin: Skin, stills: Sequence[Seen], frame: Frame, progress: Progress = lambda _: True) -> Orthographic:
    """The picture that a frame shows.

    Raises
    ------
    StoppedError
        `progress` returned False.
    """
    sights = [Sight(skin, still) for still in stills]
    gains, useful = _looked_over(skin, sights, frame.coarser(SMALL_PX), lambda share: progress(0.3 * share))
    canvas = _Canvas(skin, frame)
    for k, sight in enumerate(sights):
        levels = sight.still.levels() if useful[k] else ()
        for number in useful[k]:
            go_on(progress, 0.3 + 0.7 * k / len(sights))
            box = canvas.box(number)
            patch = sight.patch(skin.faces[number], frame, box, levels) if box is not None else None
            if box is not None and patch is not None:
                canvas.add(number, box, k, linear(patch[0]) * gains[k].astype(np.float32), patch[1])
    return canvas.finished()


def _looked_over(
    skin: Skin, sights: Sequence[Sight], small: Frame, progress: Progress
) -> tuple[Array, list[list[int]]]:
    """On a small picture: gains (K, 3) that even the light, and for each still the faces that it is good for."""
    canvas = _Canvas(skin, small)
    shown: dict[int, list[tuple[int, Light, Array]]] = {}
    for k, sight in enumerate(sights):
        go_on(progress, k / len(sights))
        levels = sight.still.levels()
        for number, face in enumerate(skin.faces):
            box = canvas.box(number)
            patch = sight.patch(face, small, box, levels) if box is not None else None
            if patch is not None:
                shown.setdefault(number, []).append((k, linear(patch[0]), patch[1]))
    overlaps, useful = Overlaps(len(sights)), [list[int]() for _ in sights]
    for number, patches in shown.items():
        box = canvas.box(number)
        mask = canvas.face[box] == number
        overlaps.add([(k, light, mask & (weight > 0)) for k, light, weight in patches])
        most = np.max([weight for _, _, weight in patches], axis=0)
        for k, _, weight in patches:
            if np.any(mask & (weight > LEAST_USE * most)):
                useful[k].append(number)
    return overlaps.gains(), useful


def go_on(progress: Progress, share: float) -> None:
    """Raise StoppedError where whoever waits said to stop."""
    if not progress(share):
        raise StoppedError


class _Canvas:
    """The picture being painted: sums of light and weights, and which still weighs most."""

    def __init__(self, skin: Skin, frame: Frame) -> None:
        width, height = frame.size_px
        self._skin, self._frame = skin, frame
        self.face = front(frame.to_px(skin.triangles), skin.owner, frame.size_px)[1].astype(np.int16)
        self._total = np.zeros((height, width, 3), np.float32)
        self._weights, self._most = np.zeros((height, width), np.float32), np.zeros((height, width), np.float32)
        self._still = np.full((height, width), -1, np.int16)
        self._boxes = [_box(face, frame) for face in skin.faces]

    def box(self, number: int) -> Box | None:
        """What a face takes up of the picture; None where it is turned away or hidden."""
        box = self._boxes[number]
        turned = self._skin.faces[number].normal @ self._frame.out < LEAST_LEAN
        return None if turned or not np.any(self.face[box] == number) else box

    def add(self, number: int, box: Box, still: int, light: Light, weight: Array) -> None:
        """What a still shows of a face."""
        weight = weight * (self.face[box] == number)
        self._total[box] += weight[..., None] * light
        self._weights[box] += weight
        better = weight > self._most[box]
        self._still[box][better] = still
        self._most[box] = np.maximum(self._most[box], weight)

    def finished(self) -> Orthographic:
        """The picture, grey where no still shows anything."""
        picture = np.full((*self.face.shape, 3), GROUND, np.uint8)
        for top in range(0, len(picture), STRIP):
            strip = np.s_[top : top + STRIP]
            shown = self._weights[strip] > 0
            picture[strip][shown] = encoded(self._total[strip][shown] / self._weights[strip][shown, None])
        return Orthographic(self._frame, picture, self.face, self._still)


def _box(face: Face, frame: Frame) -> Box:
    """The rows and columns that a face's corners span, within the picture."""
    places = frame.to_px(face.corners)[:, :2]
    low, high = np.floor(places.min(axis=0)).astype(int), np.ceil(places.max(axis=0)).astype(int)
    (x0, y0), (x1, y1) = np.clip(low, 0, frame.size_px), np.clip(high, 0, frame.size_px)
    return np.s_[int(y0) : int(y1), int(x0) : int(x1)]
