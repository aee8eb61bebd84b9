"""Paints given rows on stripes sheets, and what their photographs make of the shelf."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from chalkreel.core.colour.stripes import MOST_SHEETS, PAINTS, SheetReading
from chalkreel.core.errors import RefusedError
from chalkreel.document.changes import Edits
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import ShelfPaint, Stripe
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, stripe_paints

# Sources that a stripe makes nothing better of.
KNOWN = ("metered", "card", "stripe")


def given_rows(build: Build, names: Iterable[str], dries: Dries) -> Edits:
    """New rows for paints, on the last sheet as long as it is neither printed nor full; names that have one are left.

    Raises
    ------
    RefusedError
        No name is new, or the sheets are full.
    """
    rows = build.all(Stripe)
    there = {s.name for s in rows}
    fresh = [name for name in dict.fromkeys(" ".join(n.split()) for n in names) if name and name not in there]
    if not fresh:
        raise RefusedError("Every paint needs a name, and one row on the sheets is enough for each.")
    sheet = max((s.sheet for s in rows), default=1)
    row = max((s.row for s in rows if s.sheet == sheet), default=0)
    if any(s.printed for s in rows if s.sheet == sheet):
        sheet, row = sheet + 1, 0
    edits: Edits = {}
    for name in fresh:
        sheet, row = (sheet, row + 1) if row < PAINTS else (sheet + 1, 1)
        if sheet > MOST_SHEETS:
            raise RefusedError(f"{MOST_SHEETS} sheets of {PAINTS} paints are the most.")
        stripe = Stripe(id=new_id(), name=name, sheet=sheet, row=row, medium=dries.medium, sheen=dries.sheen)
        edits[stripe.id] = stripe
    return edits


def guessed_rows(build: Build) -> Edits:
    """Rows for all paints of the shelf that are known by their colour only.

    Raises
    ------
    RefusedError
        There is none without a row.
    """
    there = {s.name for s in build.all(Stripe)}
    guesses = [p for p in build.all(ShelfPaint) if p.source == "guess" and p.name not in there]
    if not guesses:
        raise RefusedError("No paint of the shelf is a guess that has no row yet.")
    alike: dict[Dries, list[str]] = {}
    for paint in guesses:
        alike.setdefault(Dries(paint.medium, paint.sheen), []).append(paint.name)
    edits: Edits = {}
    for dries, names in alike.items():
        before = Build(build.revision, {**build.entities, **{k: v for k, v in edits.items() if v is not None}})
        edits |= given_rows(before, names, dries)
    return edits


def waiting(build: Build) -> tuple[Stripe, ...]:
    """The rows whose paints the shelf does not know by a reading yet."""
    known = {p.name for p in build.all(ShelfPaint) if p.source in KNOWN}
    return tuple(s for s in build.all(Stripe) if s.name not in known)


def printed(stripes: Iterable[Stripe]) -> Edits:
    """Rows that were printed: new paints go onto another sheet."""
    return {s.id: msgspec.structs.replace(s, printed=True) for s in stripes if not s.printed}


def paints_of_sheets(readings: Iterable[SheetReading], build: Build) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """Paints from photographed sheets, and what was left out of them and why.

    Raises
    ------
    RefusedError
        None of the sheets tells a paint.
    """
    found: dict[str, ShelfPaint] = {}
    told: list[str] = []
    for reading in readings:
        rows = {s.row: (s.name, Dries(s.medium, s.sheen)) for s in build.all(Stripe) if s.sheet == reading.sheet}
        if not rows:
            told.append(f"this build has no names for sheet {reading.sheet}: read it where it was printed")
            continue
        try:
            paints, problems = stripe_paints(reading, rows, build)
        except RefusedError as refusal:
            told.append(f"sheet {reading.sheet}: {refusal}".rstrip("."))
            continue
        told += [f"sheet {reading.sheet}: {problem}" for problem in problems]
        # The first sheet's white is the shelf's; each sheet's own is kept with its paints.
        found = {p.name: p for p in paints} | found
    if not found:
        words = "; ".join(told) or "no sheet was read"
        raise RefusedError(f"{words[0].upper()}{words[1:]}.")
    return tuple(found.values()), tuple(told)
