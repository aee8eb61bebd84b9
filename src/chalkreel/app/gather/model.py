"""View-model of Gather (no Qt): the wall by side and version, the choices of a still."""

from __future__ import annotations

from collections.abc import Set
from dataclasses import dataclass

import msgspec

from chalkreel.answers.coverage import WANTED_SIDES
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.lengths import LengthUnit, parse_length
from chalkreel.core.media.aspect import LARGEST_ASPECT, PIXEL_SHAPES, SMALLEST_ASPECT
from chalkreel.document.changes import Edits
from chalkreel.document.entities import SIDES, Side, Still, Version
from chalkreel.document.snapshot import Build

PART_STATES = ("present", "missing", "damaged", "warped")


@dataclass(frozen=True)
class WallRow:
    """One version's stills by side."""

    version_id: str
    name: str
    cells: tuple[tuple[Still, ...], ...]


@dataclass(frozen=True)
class Wall:
    """Columns are sides, rows are versions; the version being built comes first."""

    sides: tuple[Side, ...]
    rows: tuple[WallRow, ...]


def wall(build: Build) -> Wall:
    """The five wanted sides always have a column, the others only when a still shows them."""
    stills = build.all(Still)
    sides = tuple(s for s in SIDES if s in WANTED_SIDES or any(still.side == s for still in stills))
    versions = sorted(build.all(Version), key=lambda v: v.id != build.info.version_id)
    known = {v.id for v in versions}
    named = [(v.id, v.name + (" (being built)" if v.id == build.info.version_id else "")) for v in versions]
    if any(s.version_id not in known for s in stills):
        named.append(("", "version unknown"))
    rows = tuple(
        WallRow(
            version_id,
            name,
            tuple(
                tuple(
                    s
                    for s in stills
                    if s.side == side and (s.version_id if s.version_id in known else "") == version_id
                )
                for side in sides
            ),
        )
        for version_id, name in named
    )
    return Wall(sides, rows)


def described(build: Build, still_ids: Set[str], side: Side, version_id: str) -> tuple[str, Edits]:
    """The change that says of stills that they show a side of a version, and what it is called."""
    stills = [s for s in build.all(Still) if s.id in still_ids]
    words = f"still {stills[0].number}" if len(stills) == 1 else plural(len(stills), "still")
    return f"{words}: {side}", {s.id: msgspec.structs.replace(s, side=side, version_id=version_id) for s in stills}


def pixel_shapes(aspect: float) -> list[tuple[str, str]]:
    """Shapes to choose from, with the present one if it is of no common kind."""
    options = [(f"{shape.aspect:.4f}", shape.name) for shape in PIXEL_SHAPES]
    if f"{aspect:.4f}" not in dict(options):
        options.append((f"{aspect:.4f}", f"{aspect:.3f} : 1"))
    return options


def shape_aspect(key: str) -> float:
    """The exact aspect behind a key of `pixel_shapes`."""
    return next((s.aspect for s in PIXEL_SHAPES if f"{s.aspect:.4f}" == key), float(key))


def parse_aspect(text: str) -> float:
    """A pixel's width over its height.

    Raises
    ------
    RefusedError
        Not a number, or no shape a video ever had.
    """
    value = parse_number(text)
    if not SMALLEST_ASPECT <= value <= LARGEST_ASPECT:
        raise RefusedError(
            "A stored pixel is between a quarter and four times as wide as high. Type for example 1.067."
        )
    return value


def optional_length(text: str, unit: LengthUnit) -> float | None:
    """A length in mm, or None for an empty cell."""
    return parse_length(text, unit) if text.strip() else None
