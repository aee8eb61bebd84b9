"""Builds to begin tests with."""

from __future__ import annotations

from chalkreel.core.scale import ScaleChain
from chalkreel.document.entities import AnyEntity
from chalkreel.edits.beginning import Beginning, new_build

CHAIN = ScaleChain(12_000.0, 500.0, 250.0)


def empty_build(name: str) -> dict[str, AnyEntity]:
    """The first entities of a build of something 12 m long, filmed at 1:24, at 1:48."""
    return new_build(Beginning(name, CHAIN))
