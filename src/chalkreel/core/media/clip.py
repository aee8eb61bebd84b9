"""Frames out of a video file: true shape, interlaced fields, black bars.

References: ITU-R BT.601 (sample aspect), ITU-R BT.1886 (transfer), ITU-T H.273 (codes). "Weave" of fields is replaced
by line doubling from one field, so that a moving subject has one outline.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.aspect import LARGEST_ASPECT, SMALLEST_ASPECT

if TYPE_CHECKING:
    import av

Pixels = npt.NDArray[np.uint8]
MOST_BYTES = 2_000_000_000
MOST_PIXELS = 40_000_000
# Video containers only: the library knows play lists and picture lists too, which speak of other files.
CONTAINERS = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpeg,mpegts,mpegvideo,ogg,asf"
# Bars are darker than this (of 255) all along, and at most so large a share of the side.
BAR_LEVEL = 26
MOST_BAR = 0.35
# Codes of ITU-T H.273: matrices, transfers made for studio screens (ITU-R BT.1886, power 2.4), high dynamic range.
MATRICES = {1: "ITU709", 5: "ITU601", 6: "ITU601", 9: "BT2020"}
STUDIO, HIGH_RANGE = (1, 6, 14, 15), (16, 18)
STUDIO_GAMMA = 2.4
HIGH_DEFINITION = 720


@dataclass(frozen=True)
class ClipInfo:
    """What a video file holds. `pixel_aspect` is the width of a stored pixel over its height."""

    width_px: int
    height_px: int
    frames: int
    rate: float
    pixel_aspect: float
    interlaced: bool


@dataclass(frozen=True, eq=False)
class Frame:
    """One frame (H, W, 3), its black bars taken off; `cropped` says whether that moved the picture's middle.

    `bars` holds the width of the bars taken off: left, top, right, bottom.
    """

    pixels: Pixels
    number: int
    pixel_aspect: float
    bars: tuple[int, int, int, int]

    @property
    def cropped(self) -> bool:
        """Whether the bars were uneven: the axis of the lens then lies off the middle."""
        left, top, right, bottom = self.bars
        return abs(left - right) > 2 or abs(top - bottom) > 2


class Clip:
    """An open video file; frames are read by number.

    Raises
    ------
    RefusedError
        No video, damaged, or too large.
    """

    def __init__(self, data: bytes) -> None:
        if len(data) > MOST_BYTES:
            raise RefusedError("This video is larger than 2 GB. Cut the part you need out of it first.")
        import av  # noqa: PLC0415 - a third of a second that only a video is worth

        try:
            self._container = av.open(io.BytesIO(data), mode="r", options={"format_whitelist": CONTAINERS})
            stream = self._container.streams.video[0]
        except (av.FFmpegError, IndexError, ValueError) as error:
            raise RefusedError("This file holds no video that can be read.") from error
        self._stream = stream
        width, height = stream.codec_context.width, stream.codec_context.height
        if width * height > MOST_PIXELS or width < 16 or height < 16:
            raise RefusedError("This video's frames have a size that cannot be used.")
        aspect = float(stream.sample_aspect_ratio or 1) or 1.0
        self._aspect = aspect if SMALLEST_ASPECT <= aspect <= LARGEST_ASPECT else 1.0
        self._next = 0
        first = self._decode(0)
        self.info = ClipInfo(
            width, height, self._count(), float(stream.average_rate or 25), self._aspect, bool(first.interlaced_frame)
        )

    def close(self) -> None:
        """Let the file go."""
        self._container.close()

    def frame(self, number: int, second_field: bool = False, take_bars_off: bool = True) -> Frame:
        """A frame by number; of an interlaced one, one field with its lines doubled.

        Raises
        ------
        RefusedError
            There is no such frame, or it is damaged.
        """
        decoded = self._decode(number)
        pixels = _shown(decoded)
        if decoded.interlaced_frame:
            pixels = one_field(pixels, second_field)
        bars = black_bars(pixels) if take_bars_off else (0, 0, 0, 0)
        left, top, right, bottom = bars
        inner = pixels[top : pixels.shape[0] - bottom, left : pixels.shape[1] - right]
        return Frame(np.ascontiguousarray(inner), number, self._aspect, bars)

    def _count(self) -> int:
        if self._stream.frames:
            return int(self._stream.frames)
        if self._stream.duration and self._stream.time_base and self._stream.average_rate:
            return max(1, round(float(self._stream.duration * self._stream.time_base * self._stream.average_rate)))
        return 1

    def _decode(self, number: int) -> av.VideoFrame:
        """The frame of a number, decoding on from the present place or from the start."""
        import av  # noqa: PLC0415

        try:
            if number < self._next:
                self._container.seek(0)
                self._next = 0
            for frame in self._container.decode(self._stream):
                self._next += 1
                if self._next == number + 1:
                    return frame
        except av.FFmpegError as error:
            raise RefusedError(f"Frame {number + 1} of this video is damaged.") from error
        raise RefusedError(f"This video has no frame {number + 1}.")


def _shown(frame: av.VideoFrame) -> Pixels:
    """A frame (H, W, 3) as an sRGB screen would show it: its own matrix, range and transfer taken account of."""
    transfer = int(frame.color_trc)
    if transfer in HIGH_RANGE:
        raise RefusedError("This video is in high dynamic range. Export the scene in standard range and add that.")
    matrix = int(frame.colorspace)
    if matrix not in MATRICES:
        # A file that does not say: standard definition has one matrix, high definition another.
        matrix = 1 if frame.height >= HIGH_DEFINITION else 5
    pixels = np.ascontiguousarray(frame.to_ndarray(format="rgb24", src_colorspace=MATRICES[matrix]), dtype=np.uint8)
    if transfer not in STUDIO:
        return pixels
    light = (np.arange(256) / 255.0) ** STUDIO_GAMMA
    table = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(255 * table).astype(np.uint8)[pixels])


def one_field(pixels: Pixels, second: bool) -> Pixels:
    """One field's lines at their true height, those between filled in (H, W, 3)."""
    height, width = pixels.shape[:2]
    field = pixels[1::2] if second else pixels[0::2]
    # Line k of the field stands at 2 k + 0.5 (or 1.5) from the top.
    offset = 1.5 if second else 0.5
    rows = ((np.arange(height) + 0.5 - offset) / 2).astype(np.float32)
    x, y = np.meshgrid(np.arange(width, dtype=np.float32), rows)
    return np.asarray(cv2.remap(field, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.uint8)


def black_bars(pixels: Pixels) -> tuple[int, int, int, int]:
    """Widths of black bars left, above, right and below; none of a picture that is dark all over."""
    brightest = pixels.max(axis=2)
    rows, columns = np.percentile(brightest, 98, axis=1), np.percentile(brightest, 98, axis=0)
    if np.mean(rows > BAR_LEVEL) < 1 - 2 * MOST_BAR:
        return 0, 0, 0, 0
    top, bottom = _edge(rows), _edge(rows[::-1])
    left, right = _edge(columns), _edge(columns[::-1])
    return left, top, right, bottom


def _edge(levels: npt.NDArray[np.float64]) -> int:
    lit = np.flatnonzero(levels > BAR_LEVEL)
    width = int(lit[0]) if len(lit) else 0
    return width if width <= MOST_BAR * len(levels) else 0
