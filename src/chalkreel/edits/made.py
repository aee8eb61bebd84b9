"""What a gesture made."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.document.changes import Edits


@dataclass(frozen=True)
class Made:
    """Edits, and the id of the entity that they are about."""

    edits: Edits
    entity_id: str
