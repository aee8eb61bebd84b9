"""Everything a build holds, as one table for each kind of entity: names beside ids, what is nested as JSON."""

from __future__ import annotations

import msgspec

from chalkreel.document.entity import Entity
from chalkreel.document.snapshot import Build

Row = dict[str, str | float | int | None]


def entity_tables(build: Build) -> dict[str, list[Row]]:
    """Rows by kind, in the order in which they were made; columns are fields, lengths in mm."""
    found: dict[str, list[Row]] = {}
    for entity in build.entities.values():
        found.setdefault(str(entity.__struct_config__.tag), []).append(_row(build, entity))
    return found


def _row(build: Build, entity: Entity) -> Row:
    row: Row = {}
    for name, value in msgspec.to_builtins(entity, order="deterministic").items():
        if name == "kind":
            continue
        row[name] = _cell(value)
        other = build.entities.get(value) if name.endswith("_id") and isinstance(value, str) else None
        if other is not None:
            row[f"{name.removesuffix('_id')}_name"] = str(getattr(other, "name", "") or getattr(other, "title", ""))
    return row


def _cell(value: object) -> str | float | int | None:
    if value is None or isinstance(value, (str, float, int)):
        return int(value) if isinstance(value, bool) else value
    return msgspec.json.encode(value).decode()
