"""A still's picture replaced by a better copy of it; what was marked on it stays where it was on the subject."""

from __future__ import annotations

import math
from dataclasses import dataclass

import msgspec

from chalkreel.core.media.aspect import LARGEST_ASPECT, SMALLEST_ASPECT
from chalkreel.core.media.picture import Picture
from chalkreel.core.media.register import PixelMap, registered
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.moving import marks_moved

# A middle that lies so far off, as a share of the width, makes a copy one that was cut differently.
SAME_MIDDLE = 0.004


@dataclass(frozen=True)
class Copy:
    """Another copy of a picture: its digest and size, and where the points of the first one lie on it."""

    blob: str
    width_px: int
    height_px: int
    move: PixelMap


def copy_of(old: Picture, new: Picture, blob: str) -> Copy:
    """Compare two pictures as they are shown, turned where the still is flopped.

    Raises
    ------
    RefusedError
        They are not the same picture.
    """
    return Copy(blob, new.width, new.height, registered(old, new))


def replaced(build: Build, still: Still, new: Copy) -> Edits:
    """The still with another copy of its picture, and all that is marked on it now."""
    move = new.move
    across, down = move.scales
    aspect = min(max(still.pixel_aspect * down / across, SMALLEST_ASPECT), LARGEST_ASPECT)
    x, y = move(still.width_px / 2, still.height_px / 2)
    off = math.hypot(x - new.width_px / 2, y - new.height_px / 2) / new.width_px
    edits = marks_moved(build, still.id, move, math.sqrt(across * down))
    edits[still.id] = msgspec.structs.replace(
        still, blob=new.blob, width_px=new.width_px, height_px=new.height_px, pixel_aspect=aspect,
        cropped=still.cropped or off > SAME_MIDDLE,
    )  # fmt: skip
    return edits
