"""What came in the box: parts from ranges and lists, their states, and the jobs that they ask for."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

import msgspec

from chalkreel.answers.conversion import JobOffer
from chalkreel.core.convert.kinds import PART_STATES, PartState
from chalkreel.core.convert.runners import LONGEST_TEXT, MOST_PARTS, Ranges, parse_ranges, part_name, place_of
from chalkreel.core.errors import RefusedError
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Feature, FeatureInVersion, KitPart
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made

LONGEST_NAME: Final = 120
_HEADS: Final = {"part": "part", "name": "part", "state": "state", "count": "count", "quantity": "count",
                 "colour": "colour", "color": "colour", "fit": "note", "fit notes": "note", "note": "note"}  # fmt: skip
_SIDES: Final = (("port", "starboard"), ("left", "right"), ("fore", "aft"))


@dataclass(frozen=True)
class Intake:
    """What a text was read as: the edits, and in words how many parts and how many of them are missing."""

    edits: Edits
    words: str


def parts_by_number(build: Build) -> dict[tuple[str, int], KitPart]:
    """Parts by runner and number; one entry may stand at several numbers."""
    found = {}
    for part in build.all(KitPart):
        place = place_of(part.name)
        for number in place.numbers if place is not None else ():
            found[(place.runner if place is not None else "", number)] = part
    return found


def taken_in(build: Build, text: str) -> Intake:
    """Ranges, or a list with one part a line (comma, semicolon or tab between columns), taken into the box.

    Parts that are there keep what is known of them; those that are named as missing become so.

    Raises
    ------
    RefusedError
        It is neither.
    """
    if len(text) > LONGEST_TEXT:
        raise RefusedError("That is too much text for a parts list: type ranges like A1–34, or paste one part a line.")
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > 1:
        return _listed(build, lines)
    found = parse_ranges(text)
    return Intake(_from_ranges(build, found), found.words)


def _from_ranges(build: Build, found: Ranges) -> Edits:
    there = parts_by_number(build)
    edits: Edits = {}
    for runner, number in found.parts:
        known = there.get((runner, number))
        gone = (runner, number) in found.missing
        if known is None:
            part = KitPart(id=new_id(), name=part_name(runner, number), state="missing" if gone else "present",
                           count=found.counts[(runner, number)])  # fmt: skip
            edits[part.id] = part
        elif gone and known.state != "missing":
            edits[known.id] = msgspec.structs.replace(known, state="missing")
        elif not gone and known.state == "missing" and known.id not in edits:
            edits[known.id] = msgspec.structs.replace(known, state="present")
    return edits


def _listed(build: Build, lines: list[str]) -> Intake:
    """One part a line; the first may name the columns.

    Raises
    ------
    RefusedError
        Text that is no list, or too many parts.
    """
    mark = max("\t;,", key=lambda sign: sum(sign in line for line in lines))
    rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=mark)]
    heads = [_HEADS.get(cell.lower(), "") for cell in rows[0]]
    headed = "part" in heads
    columns = heads if headed else ["part", "state", "count", "colour", "note"]
    body = rows[1:] if headed else [_parted(row) for row in rows]
    if len(body) > MOST_PARTS:
        raise RefusedError(f"That makes more than {MOST_PARTS} parts: no kit has so many.")
    there = {part.name: part for part in build.all(KitPart)}
    edits: Edits = {}
    missing = 0
    for number, row in enumerate(body, start=1):
        cells = dict(zip(columns, row, strict=False))
        name = cells.get("part", "")
        if not name or len(name) > LONGEST_NAME or len(row) > len(columns) + 3:
            raise RefusedError(f"Line {number} is no part: “{' '.join(row)[:60]}”. Paste one part a line.")
        known = there.get(name)
        part = known if known is not None else KitPart(id=new_id(), name=name)
        state = _state(cells.get("state", ""), part.state, number)
        count = _count(cells.get("count", ""), part.count, number)
        part = msgspec.structs.replace(
            part, state=state, count=count, colour=cells.get("colour", "") or part.colour,
            fit_note=cells.get("note", "") or part.fit_note,
        )  # fmt: skip
        missing += state == "missing"
        edits[part.id] = part
    return Intake(edits, f"{len(body)} parts, {missing} missing")


def _parted(row: list[str]) -> list[str]:
    """A row without headings: what follows the number and is no state belongs to the name."""
    if len(row) > 1 and row[1] and _known_state(row[1]) is None:
        return [f"{row[0]} {row[1]}", *row[2:]]
    return row


def _known_state(words: str) -> PartState | None:
    """A state by its beginning, two letters at least: "s" might be short or sunk."""
    wanted = words.lower()
    return next((state for state in PART_STATES if len(wanted) > 1 and state.startswith(wanted)), None)


def _state(words: str, usual: PartState, line: int) -> PartState:
    if not words:
        return usual
    found = _known_state(words)
    if found is None:
        raise RefusedError(f"Line {line}: “{words[:20]}” is no state. There are {', '.join(PART_STATES)}.")
    return found


def _count(words: str, usual: int, line: int) -> int:
    if not words:
        return usual
    if not words.isdecimal() or not 1 <= int(words) <= 1000:
        raise RefusedError(f"Line {line}: “{words[:20]}” is no number of parts.")
    return int(words)


def twin_of(build: Build, part: KitPart) -> KitPart | None:
    """The part of the same name on the other side, or beside it on the same runner."""
    place = place_of(part.name)
    if place is None or not place.called:
        return None
    names = {place.called.replace(a, b) for x, y in _SIDES for a, b in ((x, y), (y, x))} | {place.called}
    for other in build.all(KitPart):
        there = place_of(other.name)
        if other.id != part.id and there is not None and there.called in names:
            return other
    return None


def put_in_state(parts: Iterable[KitPart], state: PartState) -> Edits:
    """Parts as they were found."""
    return {p.id: msgspec.structs.replace(p, state=state) for p in parts if p.state != state}


def jobs_made(build: Build, offers: Iterable[JobOffer]) -> Made:
    """A feature for each offer, there in kit and version alike, so that the part's own state makes the job.

    Raises
    ------
    RefusedError
        There is no version to build, or nothing is offered.
    """
    info = build.info
    if not info.version_id or not info.kit_version_id:
        raise RefusedError("Say first which version the kit is and which you build.")
    edits: Edits = {}
    for offer in offers:
        part = build.get(KitPart, offer.part_id)
        if part is None:
            continue
        place = place_of(part.name)
        feature = Feature(
            id=new_id(), name=place.called if place is not None and place.called else part.name, assembly="Hull",
            part_id=part.id, dimension_id=offer.dimension_id,
        )  # fmt: skip
        edits[feature.id] = feature
        for version in dict.fromkeys((info.version_id, info.kit_version_id)):
            entry = FeatureInVersion(id=new_id(), feature_id=feature.id, version_id=version, present=True)
            edits[entry.id] = entry
    if not edits:
        raise RefusedError("Nothing is offered: every part is right, or its job is there already.")
    return Made(edits, next(iter(edits)))
