"""A print that was made the wrong way round: the still and all that is marked on it turn left to right together."""

from __future__ import annotations

import msgspec

from chalkreel.document.changes import Edits
from chalkreel.document.entities import Plane, Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.moving import marks_moved


def flop(build: Build, still: Still) -> Edits:
    """The still as flopped, or as no longer flopped, with its marks where they stand on the turned picture."""
    edits = marks_moved(build, still.id, lambda x, y: (still.width_px - x, y))
    for plane in (p for p in edits.values() if isinstance(p, Plane)):
        # Its corners are listed round from the upper left, which was the upper right.
        upper_right, upper_left, lower_left, lower_right = plane.corners
        corners = (upper_left, upper_right, lower_right, lower_left)
        edits[plane.id] = msgspec.structs.replace(plane, corners=corners)
    return {still.id: msgspec.structs.replace(still, flopped=not still.flopped), **edits}
