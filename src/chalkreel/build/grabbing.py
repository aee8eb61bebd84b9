"""Frames of a video as stills."""

from __future__ import annotations

import cv2
import msgspec
import numpy as np

from chalkreel.build.entities import Still
from chalkreel.build.gestures import still_from
from chalkreel.build.snapshot import Build
from chalkreel.core.media.clip import Frame
from chalkreel.core.media.picture import Picture

PREVIEW_PX = 560


def png_of(frame: Frame) -> bytes:
    """The frame as a file without loss."""
    done, png = cv2.imencode(".png", cv2.cvtColor(frame.pixels, cv2.COLOR_RGB2BGR))
    assert done
    return png.tobytes()


def preview_size(frame: Frame) -> tuple[int, int]:
    """Width and height of a preview in the frame's true shape."""
    height, width = frame.pixels.shape[:2]
    shown = width * frame.pixel_aspect
    scale = min(1.0, PREVIEW_PX / shown)
    return max(1, round(shown * scale)), max(1, round(height * scale))


def grabbed(build: Build, name: str, frame: Frame, blob: str) -> Still:
    """A screen frame with the clip's own pixel shape; uneven bars leave it marked as cropped."""
    still = still_from(build, f"{name}, frame {frame.number + 1}", blob, Picture(np.asarray(frame.pixels, np.uint8)))
    bars = "" if not any(frame.bars) else "Black bars taken off. "
    return msgspec.structs.replace(
        still, still_kind="screen frame", pixel_aspect=frame.pixel_aspect, cropped=frame.cropped,
        note=f"{bars}Grabbed from {name}.",
    )  # fmt: skip
