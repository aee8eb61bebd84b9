"""All that is marked on a still, moved with its picture."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from chalkreel.core.measure.marks import Mark
from chalkreel.document.changes import Edits
from chalkreel.document.entities import AnyEntity
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.snapshot import Build

Move = Callable[[float, float], tuple[float, float]]


def marks_moved(build: Build, still_id: str, move: Move, scale: float = 1.0) -> Edits:
    """Everything on a still at its new places; click errors and brushes are `scale` times as large."""
    return {
        entity.id: _moved(entity, move, scale)
        for entity in build.entities.values()
        if getattr(entity, "still_id", "") == still_id
    }


def _moved(entity: AnyEntity, move: Move, scale: float) -> AnyEntity:
    if isinstance(entity, ColourPatch):
        return _patch(entity, move, scale)
    changed: dict[str, object] = {}
    for field in entity.__struct_fields__:
        value = getattr(entity, field)
        if isinstance(value, Mark):
            changed[field] = _mark(value, move, scale)
        elif isinstance(value, tuple) and value and all(isinstance(part, Mark) for part in value):
            changed[field] = tuple(_mark(part, move, scale) for part in value)
    return msgspec.structs.replace(entity, **changed)


def _mark(mark: Mark, move: Move, scale: float) -> Mark:
    return Mark(*move(mark.x_px, mark.y_px), mark.sigma_px * scale)


def _patch(patch: ColourPatch, move: Move, scale: float) -> ColourPatch:
    x, y, width, height = patch.x_px, patch.y_px, patch.width_px, patch.height_px
    corners = [move(*corner) for corner in ((x, y), (x + width, y), (x, y + height), (x + width, y + height))]
    across, down = (sorted(values) for values in zip(*corners, strict=True))
    # The inner of the two edges on each side: askew, the box stays on what was sampled.
    return msgspec.structs.replace(
        patch, x_px=across[1], y_px=down[1], width_px=max(across[2] - across[1], 1.0),
        height_px=max(down[2] - down[1], 1.0), brush_px=patch.brush_px * scale,
        outline=tuple(move(*point) for point in patch.outline),
    )  # fmt: skip
