"""A change: one gesture's edits, before and after, so that it can be undone."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from chalkreel.document.entities import AnyEntity
from chalkreel.document.snapshot import Build

# What a gesture sets: an entity, or None where it goes.
Edits = dict[str, AnyEntity | None]


class Edit(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One entity before and after; None where it was not there."""

    before: AnyEntity | None
    after: AnyEntity | None


class Change(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Everything one gesture edited."""

    label: str
    edits: dict[str, Edit]

    def forward(self) -> dict[str, AnyEntity | None]:
        """What applying it sets."""
        return {entity_id: edit.after for entity_id, edit in self.edits.items()}

    def backward(self) -> dict[str, AnyEntity | None]:
        """What undoing it sets."""
        return {entity_id: edit.before for entity_id, edit in self.edits.items()}


class Gathered:
    """Edits of several steps that will be one change, and the build as they leave it."""

    def __init__(self, build: Build) -> None:
        self.build, self.edits = build, Edits()

    def take(self, edits: Edits) -> None:
        """Add what a step edits."""
        self.edits |= edits
        ids = dict.fromkeys((*self.build.entities, *edits))
        self.build = self.build.edited(edits, self.build.revision, {i: n for n, i in enumerate(ids)})


def change_from(build: Build, label: str, edits: Mapping[str, AnyEntity | None]) -> Change:
    """The change that takes a build to its edited state; edits that change nothing are left out."""
    pairs = {entity_id: Edit(build.entities.get(entity_id), after) for entity_id, after in edits.items()}
    return Change(label, {entity_id: edit for entity_id, edit in pairs.items() if edit.before != edit.after})
