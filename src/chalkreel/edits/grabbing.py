"""Frames of a video as stills."""

from __future__ import annotations

import cv2
import msgspec

from chalkreel.core.media.clip import Frame
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.beginning import still_from

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
    still = still_from(build, f"{name}, frame {frame.number + 1}", blob, (frame.pixels.shape[1], frame.pixels.shape[0]))
    bars = "" if not any(frame.bars) else "Black bars taken off. "
    return msgspec.structs.replace(
        still, still_kind="screen frame", pixel_aspect=frame.pixel_aspect, cropped=frame.cropped,
        note=f"{bars}Grabbed from {name}.",
    )  # fmt: skip
