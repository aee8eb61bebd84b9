"""A still's picture replaced by a better copy of it; what was marked on it stays where it was on the subject."""

from __future__ import annotations

import math

import msgspec

from chalkreel.core.media.aspect import LARGEST_ASPECT, SMALLEST_ASPECT
from chalkreel.core.media.picture import Picture
from chalkreel.core.media.register import registered
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.moving import marks_moved

# A middle that lies so far off, as a share of the width, makes a copy one that was cut differently.
SAME_MIDDLE = 0.004


def replaced(build: Build, still: Still, old: Picture, new: Picture, blob: str) -> Edits:
    """The still with another copy of its picture; both as they are shown, turned where the still is flopped.

    Raises
    ------
    RefusedError
        It is not the same picture.
    """
    move = registered(old, new)
    across, down = move.scales
    aspect = min(max(still.pixel_aspect * down / across, SMALLEST_ASPECT), LARGEST_ASPECT)
    x, y = move(still.width_px / 2, still.height_px / 2)
    off = math.hypot(x - new.width / 2, y - new.height / 2) / new.width
    edits = marks_moved(build, still.id, move, math.sqrt(across * down))
    edits[still.id] = msgspec.structs.replace(
        still, blob=blob, width_px=new.width, height_px=new.height, pixel_aspect=aspect,
        cropped=still.cropped or off > SAME_MIDDLE,
    )  # fmt: skip
    return edits
