"""A print that was made the wrong way round: the still and all that is marked on it turn left to right together."""

from __future__ import annotations

import msgspec

from chalkreel.core.measure.marks import Mark
from chalkreel.document.changes import Edits
from chalkreel.document.entities import AnyEntity, Plane, Still
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.snapshot import Build


def flop(build: Build, still: Still) -> Edits:
    """The still as flopped, or as no longer flopped, with its marks where they stand on the turned picture."""
    edits: Edits = {still.id: msgspec.structs.replace(still, flopped=not still.flopped)}
    for entity in build.entities.values():
        if getattr(entity, "still_id", "") == still.id:
            edits[entity.id] = _turned(entity, still.width_px)
    return edits


def _turned(entity: AnyEntity, width_px: int) -> AnyEntity:
    if isinstance(entity, ColourPatch):
        outline = tuple((width_px - x, y) for x, y in entity.outline)
        return msgspec.structs.replace(entity, x_px=width_px - entity.x_px - entity.width_px, outline=outline)
    changed: dict[str, object] = {}
    for field in entity.__struct_fields__:
        value = getattr(entity, field)
        if isinstance(value, Mark):
            changed[field] = _mark(value, width_px)
        elif isinstance(value, tuple) and value and all(isinstance(part, Mark) for part in value):
            changed[field] = tuple(_mark(part, width_px) for part in value)
    if isinstance(entity, Plane):
        # Its corners are listed round from the upper left, which was the upper right.
        upper_right, upper_left, lower_left, lower_right = (_mark(c, width_px) for c in entity.corners)
        changed["corners"] = (upper_left, upper_right, lower_right, lower_left)
    return msgspec.structs.replace(entity, **changed)


def _mark(mark: Mark, width_px: int) -> Mark:
    return Mark(width_px - mark.x_px, mark.y_px, mark.sigma_px)
