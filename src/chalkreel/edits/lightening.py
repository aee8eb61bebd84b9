"""Zones with a kind of wear left out, to be done sooner."""

from __future__ import annotations

import msgspec

from chalkreel.core.finish.stacks import Wear
from chalkreel.document.changes import Edits
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build


def without_wear(build: Build, wear: Wear) -> Edits:
    """All zones that have it, without it."""
    return {
        zone.id: msgspec.structs.replace(zone, wear=tuple(w for w in zone.wear if w != wear))
        for zone in build.all(Zone)
        if wear in zone.wear
    }
