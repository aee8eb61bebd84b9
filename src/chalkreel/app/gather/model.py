"""View-model of Gather (no Qt): the wall by side and version, the choices of a still."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.answers.coverage import WANTED_SIDES
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.lengths import LengthUnit, parse_length
from chalkreel.core.measure.sides import SEVERAL, SIDES, parts_of
from chalkreel.core.media.aspect import LARGEST_ASPECT, PIXEL_SHAPES, SMALLEST_ASPECT
from chalkreel.document.entities import Still, Version
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers

# So many are named; the rest are counted.
MOST_GUESSES = 6


@dataclass(frozen=True)
class WallRow:
    """One version's stills by side, or those that were squared up: what is dragged to these changes nothing."""

    version_id: str
    name: str
    cells: tuple[tuple[Still, ...], ...]
    squared: bool = False


@dataclass(frozen=True)
class Wall:
    """Columns are sides, rows are versions; the version being built comes first, squared-up stills last.

    A still of several sides stands in the column of each.
    """

    sides: tuple[str, ...]
    rows: tuple[WallRow, ...]


def wall(build: Build) -> Wall:
    """The five wanted sides always have a column, the others only when a still shows them."""
    stills = build.all(Still)
    shown = {part for still in stills for part in columns_of(still)}
    sides = tuple(s for s in (*SIDES, SEVERAL) if s in WANTED_SIDES or s in shown)
    versions = sorted(build.all(Version), key=lambda v: v.id != build.info.version_id)
    known = {v.id for v in versions}
    named = [(v.id, v.name + (" (being built)" if v.id == build.info.version_id else "")) for v in versions]
    plain = [s for s in stills if s.squared is None]
    if any(s.version_id not in known for s in plain):
        named.append(("", "version unknown"))
    rows = [
        WallRow(version_id, name, _cells(sides, [s for s in plain if _version(s, known) == version_id]))
        for version_id, name in named
    ]
    squared = [s for s in stills if s.squared is not None]
    if squared:
        rows.append(WallRow("", "squared up from these", _cells(sides, squared), squared=True))
    return Wall(sides, tuple(rows))


def columns_of(still: Still) -> tuple[str, ...]:
    """The columns that a still stands in."""
    return parts_of(still.side) or (SEVERAL,)


def common_sides(build: Build, still_ids: Set[str]) -> frozenset[str]:
    """The sides that all of some stills show."""
    shown = [frozenset(parts_of(s.side)) for s in build.all(Still) if s.id in still_ids]
    return frozenset.intersection(*shown) if shown else frozenset()


def _version(still: Still, known: Set[str]) -> str:
    return still.version_id if still.version_id in known else ""


def _cells(sides: tuple[str, ...], stills: list[Still]) -> tuple[tuple[Still, ...], ...]:
    return tuple(tuple(s for s in stills if side in columns_of(s)) for side in sides)


def alike_in_words(build: Build, answers: Answers) -> list[str]:
    """A sentence for each group of stills that are nearly the same picture."""
    found = []
    for group in answers.alike:
        numbers = [still.number for i in group if (still := build.get(Still, i)) is not None]
        if len(numbers) > 1:
            first, last = ", ".join(map(str, numbers[:-1])), numbers[-1]
            found.append(
                f"Stills {first} and {last} are nearly the same picture: mark the sharpest; "
                "from the same place the others tell nothing more."
            )
    return found


def open_guesses(build: Build, answers: Answers) -> dict[str, str]:
    """What stills show by where their cameras stand, where nothing or something else is said of them."""
    return {i: side for i, side in answers.sides.items() if (s := build.get(Still, i)) is not None and s.side != side}


def guesses_in_words(build: Build, guesses: Mapping[str, str]) -> str:
    """Which still shows which side, by number; the first few."""
    words = [
        f"still {s.number} {guesses[s.id]}" + (f" (not {s.side})" if s.side != SEVERAL else "")
        for s in build.all(Still)
        if s.id in guesses
    ]
    more = len(words) - MOST_GUESSES
    shown = ", ".join(words[:MOST_GUESSES]) + (f" and {more} more" if more > 0 else "")
    return f"Where their cameras stand, these show: {shown}."


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
