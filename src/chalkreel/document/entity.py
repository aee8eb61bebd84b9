"""What every entity is: immutable, with a stable id."""

from __future__ import annotations

import secrets
from typing import Annotated

import msgspec
from msgspec import Meta


def new_id() -> str:
    """A fresh id."""
    return secrets.token_hex(6)


class Entity(msgspec.Struct, frozen=True, kw_only=True, tag_field="kind", forbid_unknown_fields=True):
    """Base of all entities."""

    id: str


# What a field may hold; a file or a commit with anything else is refused.
Length = Annotated[float, Meta(gt=0, le=1e7)]
Positive = Annotated[float, Meta(gt=0, le=1e6)]
Amount = Annotated[float, Meta(ge=0, le=1e6)]
Share = Annotated[float, Meta(ge=0, le=1)]
Count = Annotated[int, Meta(ge=1, le=100_000)]
Name = Annotated[str, Meta(max_length=400)]
Text = Annotated[str, Meta(max_length=20_000)]
Clock = Annotated[str, Meta(pattern="^([01][0-9]|2[0-3]):[0-5][0-9]$")]
# A day of the calendar, or none.
Day = Annotated[str, Meta(pattern="^((20|21)[0-9]{2}-[01][0-9]-[0-3][0-9])?$")]
Bands = Annotated[tuple[Amount, ...], Meta(min_length=36, max_length=36)]
