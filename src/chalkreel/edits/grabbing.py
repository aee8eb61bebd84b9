"""Frames of a video and pages of a PDF as stills."""

from __future__ import annotations

import cv2
import msgspec

from chalkreel.core.lengths import INCH_MM
from chalkreel.core.media.clip import Frame
from chalkreel.core.media.frame_index import shown_time
from chalkreel.core.media.picture import Picture, Pixels
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.beginning import still_from

PREVIEW_PX = 560


def png_of(pixels: Pixels) -> bytes:
    """Pixels (H, W, 3) as a file without loss."""
    done, png = cv2.imencode(".png", cv2.cvtColor(pixels, cv2.COLOR_RGB2BGR))
    assert done
    return png.tobytes()


def preview_size(frame: Frame) -> tuple[int, int]:
    """Width and height of a preview in the frame's true shape."""
    height, width = frame.pixels.shape[:2]
    shown = width * frame.pixel_aspect
    scale = min(1.0, PREVIEW_PX / shown)
    return max(1, round(shown * scale)), max(1, round(height * scale))


def grabbed(build: Build, name: str, frame: Frame, scene: int, blob: str) -> Still:
    """A screen frame with the clip's own pixel shape; uneven bars leave it marked as cropped.

    Frames of one scene share a lens; where the scenes are not known (`scene` 0), nothing is taken as shared.
    """
    still = still_from(build, f"{name}, frame {frame.number + 1}", blob, (frame.pixels.shape[1], frame.pixels.shape[0]))
    bars = "" if not any(frame.bars) else "Black bars taken off. "
    return msgspec.structs.replace(
        still, still_kind="screen frame", pixel_aspect=frame.pixel_aspect, cropped=frame.cropped,
        lens=f"{name}, scene {scene}" if scene else "",
        note=f"{bars}Grabbed from {name} at {shown_time(frame.seconds)}.",
    )  # fmt: skip


def page_still(build: Build, name: str, number: int, picture: Picture, dots_per_inch: float, blob: str) -> Still:
    """A page as a plan; a millimetre on its paper has so many pixels."""
    still = still_from(build, f"{name}, page {number + 1}", blob, (picture.width, picture.height))
    return msgspec.structs.replace(
        still, still_kind="plan", pixel_aspect=1.0,
        note=f"Page {number + 1} of {name}; 1 mm on its paper is {dots_per_inch / INCH_MM:.2f} px.",
    )  # fmt: skip
