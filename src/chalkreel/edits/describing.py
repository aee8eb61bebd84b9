"""What stills show: the same said of one or of many, as one change. Each gives what the change is called, and edits."""

from __future__ import annotations

from collections.abc import Mapping, Set

import msgspec

from chalkreel.core.figures import plural
from chalkreel.core.measure.sides import joined, parts_of
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build


def told(build: Build, still_ids: Set[str], label: str, **fields: object) -> tuple[str, Edits]:
    """The same values of some fields."""
    return f"{label} of {_words(build, still_ids)}", _all_with(build, still_ids, **fields)


def placed(build: Build, still_ids: Set[str], side: str, version_id: str, add: bool = False) -> tuple[str, Edits]:
    """A side of a version; with `add` the side comes to those that a still shows already."""
    edits = _all_with(build, still_ids, version_id=version_id)
    for still in _chosen(build, still_ids):
        shown = joined((*parts_of(still.side), *parts_of(side))) if add else side
        edits[still.id] = msgspec.structs.replace(still, side=shown, version_id=version_id)
    return f"{_words(build, still_ids)}: {side}", edits


def toggled(build: Build, still_ids: Set[str], side: str, on: bool) -> tuple[str, Edits]:
    """A side added to what stills show, or taken away."""
    edits: Edits = {}
    for still in _chosen(build, still_ids):
        others = tuple(part for part in parts_of(still.side) if part != side)
        edits[still.id] = msgspec.structs.replace(still, side=joined((*others, side) if on else others))
    return f"{_words(build, still_ids)}: {side if on else f'not {side}'}", edits


def sided(build: Build, sides: Mapping[str, str]) -> tuple[str, Edits]:
    """The sides of several stills, by id."""
    edits: Edits = {s.id: msgspec.structs.replace(s, side=sides[s.id]) for s in _chosen(build, sides.keys())}
    return f"side of {_words(build, sides.keys())}, by where the camera stands", edits


def put_in_new_version(build: Build, still_ids: Set[str]) -> tuple[str, Edits]:
    """A version made of stills."""
    version = Version(id=new_id(), name=f"Version {len(build.all(Version)) + 1}")
    return f"new version: {version.name}", {version.id: version, **_all_with(build, still_ids, version_id=version.id)}


def _all_with(build: Build, still_ids: Set[str], **fields: object) -> Edits:
    return {s.id: msgspec.structs.replace(s, **fields) for s in _chosen(build, still_ids)}


def _words(build: Build, still_ids: Set[str]) -> str:
    stills = _chosen(build, still_ids)
    return f"still {stills[0].number}" if len(stills) == 1 else plural(len(stills), "still")


def _chosen(build: Build, still_ids: Set[str]) -> list[Still]:
    return [s for s in build.all(Still) if s.id in still_ids]
