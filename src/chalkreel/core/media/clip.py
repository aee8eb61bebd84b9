"""Frames out of a video file: true shape, interlaced fields, black bars.

References: ITU-R BT.601 (sample aspect), ITU-R BT.1886 (transfer), ITU-T H.273 (codes). "Weave" of fields is replaced
by line doubling from one field, so that a moving subject has one outline.
"""

from __future__ import annotations

import io
from bisect import bisect_left
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.aspect import LARGEST_ASPECT, SMALLEST_ASPECT
from chalkreel.core.media.frame_index import index_of

if TYPE_CHECKING:
    import av

Pixels = npt.NDArray[np.uint8]
MOST_BYTES = 2_000_000_000
MOST_PIXELS = 40_000_000
# Decoded frames that are kept, so that going back is as quick as going on.
MOST_KEPT, KEPT_BYTES = 64, 160_000_000
# Containers that find a frame by when it is shown; in the others it is found from some key frames earlier.
INDEXED, ROLL_IN = ("mov,mp4,m4a,3gp,3g2,mj2", "matroska,webm"), 2
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
    """What a video file holds, as it is shown: `pixel_aspect` is the width of a pixel over its height."""

    width_px: int
    height_px: int
    frames: int
    pixel_aspect: float
    interlaced: bool


@dataclass(frozen=True, eq=False)
class Frame:
    """One frame (H, W, 3), its black bars taken off; `cropped` says whether that moved the picture's middle.

    `bars` holds the width of the bars taken off: left, top, right, bottom.
    """

    pixels: Pixels
    number: int
    seconds: float
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
        try:
            self.index = index_of(self._container, stream)
        except av.FFmpegError as error:
            raise RefusedError("This file holds no video that can be read.") from error
        if not self.index.stamps:
            raise RefusedError("This file holds no video that can be read.")
        self._kept: OrderedDict[int, av.VideoFrame] = OrderedDict()
        self._most_kept = max(2, min(MOST_KEPT, KEPT_BYTES // (3 * width * height // 2)))
        self._running: Iterator[av.VideoFrame] = iter(())
        self._next = -1
        first = self._decode(0)
        # The file says how far its pictures are to be turned, as a camera does that was held upright.
        self._turns = round(first.rotation / 90) % 4
        aspect = float(stream.sample_aspect_ratio or 1) or 1.0
        aspect = aspect if SMALLEST_ASPECT <= aspect <= LARGEST_ASPECT else 1.0
        if self._turns % 2:
            width, height, aspect = height, width, 1 / aspect
        self.info = ClipInfo(width, height, len(self.index.stamps), aspect, bool(first.interlaced_frame))

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
        pixels = np.rot90(pixels, self._turns)
        bars = black_bars(pixels) if take_bars_off else (0, 0, 0, 0)
        left, top, right, bottom = bars
        inner = pixels[top : pixels.shape[0] - bottom, left : pixels.shape[1] - right]
        return Frame(np.ascontiguousarray(inner), number, self.index.seconds(number), self.info.pixel_aspect, bars)

    def small(self, number: int, width_px: int, height_px: int) -> Pixels:
        """A frame (height_px, width_px, 3) in few pixels, as stored."""
        frame = self._decode(number).reformat(width=width_px, height=height_px, format="rgb24")
        return np.ascontiguousarray(frame.to_ndarray(), dtype=np.uint8)

    def _decode(self, number: int) -> av.VideoFrame:
        """The frame of a number, from those kept, decoding on, or from the key frame before it."""
        import av  # noqa: PLC0415

        if not 0 <= number < len(self.index.stamps):
            raise RefusedError(f"This video has no frame {number + 1}.")
        if number in self._kept:
            return self._kept[number]
        try:
            which = self.index.key_before(number)
            if not self.index.keys[which] <= self._next <= number:
                while not self._enter(which) and which > 0:
                    which -= 1
            while self._next <= number and self._advance():
                pass
        except av.FFmpegError as error:
            self._next = -1
            raise RefusedError(f"Frame {number + 1} of this video is damaged.") from error
        if number not in self._kept:
            raise RefusedError(f"Frame {number + 1} of this video is damaged.")
        return self._kept[number]

    def _enter(self, which: int) -> bool:
        """Go to a key frame; False where the file was entered behind it."""
        if self._container.format.name in INDEXED:
            entry = self.index.stamps[self.index.keys[which]]
        else:
            # Entered earlier: the first time stamps after a jump may belong to other frames.
            entry = self.index.entries[max(0, which - ROLL_IN)]
        self._container.seek(entry, stream=self._stream)
        self._running = self._container.decode(self._stream)
        self._next = -1
        # Frames shown before the key frame, but decoded after it, lean on what was not read: they are let go.
        while self._next < 0:
            if not self._advance(self.index.keys[which]):
                return False
        return self._next == self.index.keys[which] + 1

    def _advance(self, first: int = 0) -> bool:
        """Decode and keep the next frame, unless it stands before `first`; False at the end."""
        frame = next(self._running, None)
        if frame is None:
            self._next = len(self.index.stamps)
            return False
        stamp = frame.dts if frame.pts is None else frame.pts
        number = bisect_left(self.index.stamps, -1 if stamp is None else stamp)
        if number >= first:
            self._kept[number] = frame
            self._next = number + 1
        while len(self._kept) > self._most_kept:
            self._kept.popitem(last=False)
        return True


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
