"""What every entity is: immutable, with a stable id."""

from __future__ import annotations

import secrets

import msgspec


def new_id() -> str:
    """A fresh id."""
    return secrets.token_hex(6)


class Entity(msgspec.Struct, frozen=True, kw_only=True, tag_field="kind", forbid_unknown_fields=True):
    """Base of all entities."""

    id: str
