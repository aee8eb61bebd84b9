"""Where the frames of a video stand in time, read from its packets without decoding one."""

from __future__ import annotations

import re
from bisect import bisect_right
from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.core.errors import RefusedError

if TYPE_CHECKING:
    import av
    from av.video.stream import VideoStream


_FRAME = re.compile(r"(?:frame|f|#)\s*(\d{1,9})")
_TIME = re.compile(r"(?:(?:(\d{1,3}):)?(\d{1,4}):)?(\d{1,6}(?:[.,]\d{1,4})?)\s*s?")


@dataclass(frozen=True)
class FrameIndex:
    """Time stamps of all frames in the order they are shown, and the numbers of those that stand alone (key frames).

    Stamps count the stream's own `tick_s`, so that a rate that varies is kept as it is. `entries` are the stamps by
    which a bare stream finds its key frames: when they are decoded, which may be before they are shown.
    """

    stamps: tuple[int, ...]
    keys: tuple[int, ...]
    entries: tuple[int, ...]
    tick_s: float

    def seconds(self, number: int) -> float:
        """When a frame is shown, from the first on."""
        return (self.stamps[number] - self.stamps[0]) * self.tick_s

    def at(self, seconds: float) -> int:
        """The frame shown at a time; the first or last outside the video."""
        stamp = self.stamps[0] + seconds / self.tick_s
        # A time typed with two decimals may fall short of its frame by half of the last one.
        slack = 0.005 / self.tick_s
        return max(0, bisect_right(self.stamps, stamp + slack) - 1)

    def number_of(self, text: str) -> int:
        """The frame that a typed time ('1:02.5', '62.5 s', '0:01:02') or number ('frame 310') means.

        Raises
        ------
        RefusedError
            Neither, or behind the end.
        """
        words = text.strip().casefold()
        if frame := _FRAME.fullmatch(words):
            number = int(frame[1]) - 1
        elif time := _TIME.fullmatch(words):
            hours, minutes, seconds = (float(part.replace(",", ".")) if part else 0.0 for part in time.groups())
            number = self.at(3600 * hours + 60 * minutes + seconds)
            number = number if 3600 * hours + 60 * minutes + seconds <= self.seconds(-1) + 1 else len(self.stamps)
        else:
            raise RefusedError(f"“{text.strip()[:20]}” is no time. Type for example 1:02.5, or frame 310.")
        if not 0 <= number < len(self.stamps):
            raise RefusedError(f"The video has {len(self.stamps)} frames, {shown_time(self.seconds(-1))} in all.")
        return number

    def key_before(self, number: int) -> int:
        """Which of the key frames is the last not after a frame."""
        return max(0, bisect_right(self.keys, number) - 1)


def shown_time(seconds: float) -> str:
    """A time as m:ss.ss, with hours where there are any."""
    minutes, rest = divmod(max(0.0, round(seconds, 2)), 60)
    hours, minutes = divmod(int(minutes), 60)
    return f"{hours}:{minutes:02d}:{rest:05.2f}" if hours else f"{minutes}:{rest:05.2f}"


def index_of(container: av.container.InputContainer, stream: VideoStream) -> FrameIndex:
    """Read all packets of a stream once. Packets without any time, or told to be left out, have no frame."""
    entry_of: dict[int, int | None] = {}
    for packet in container.demux(stream):
        stamp = packet.dts if packet.pts is None else packet.pts
        if packet.size and stamp is not None and not packet.is_discard:
            decoded = packet.dts if packet.dts is not None else stamp
            entry_of[stamp] = decoded if packet.is_keyframe else None
    container.seek(0)
    ordered = sorted(entry_of)
    keys = [(n, entry) for n, stamp in enumerate(ordered) if (entry := entry_of[stamp]) is not None]
    keys = keys or [(0, stamp) for stamp in ordered[:1]]
    return FrameIndex(
        tuple(ordered), tuple(n for n, _ in keys), tuple(entry for _, entry in keys), float(stream.time_base or 0.04)
    )
