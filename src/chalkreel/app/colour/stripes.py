"""View-model of the Stripes page (no Qt): rows of the sheets, what becomes of them, and files in and out."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from chalkreel.app.colour.shelf import read_picture
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.document.atomic import written_over
from chalkreel.document.changes import Edits
from chalkreel.document.paint_entities import ShelfPaint, Stripe
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import shelved, white_name
from chalkreel.edits.striping import paints_of_sheets, printed, waiting

# What a sheet's first stripe is called where the shelf has no white yet.
YOUR_WHITE: Final = "your white"


@dataclass(frozen=True)
class StripeRow:
    """A paint's row on a sheet, and what the shelf knows of the paint."""

    stripe: Stripe
    known_by: str

    @property
    def id(self) -> str:
        """The stripe's."""
        return self.stripe.id

    @property
    def state(self) -> str:
        """What is to be done with it next."""
        if self.known_by not in ("", "guess"):
            return f"on the shelf, by {self.known_by}" if self.known_by != "metered" else "on the shelf, metered"
        return "paint it, photograph it" if self.stripe.printed else "print its sheet"


def rows(build: Build) -> tuple[StripeRow, ...]:
    """All rows, sheet by sheet."""
    known = {p.name: p.source for p in build.all(ShelfPaint)}
    stripes = sorted(build.all(Stripe), key=lambda s: (s.sheet, s.row))
    return tuple(StripeRow(s, known.get(s.name, "")) for s in stripes)


def count_words(build: Build) -> str:
    """How many sheets there are, and how many paints wait for what."""
    found = rows(build)
    if not found:
        return ""
    waits = {s.id for s in waiting(build)}
    unprinted = sum(r.id in waits and not r.stripe.printed for r in found)
    parts = (
        (unprinted, "to print"), (len(waits) - unprinted, "to paint and photograph"),
        (len(found) - len(waits), "on the shelf"),
    )  # fmt: skip
    sheets = plural(len({r.stripe.sheet for r in found}), "sheet")
    return f"{sheets}: {', '.join(f'{count} {words}' for count, words in parts if count)}"


def next_words(build: Build) -> tuple[str, ...]:
    """What to do next on this page, and what to heed."""
    waits = waiting(build)
    if not waits:
        return (
            "Every bottle with a row is on the shelf."
            if build.all(Stripe)
            else "Name your bottles first, or paste them.",
        )
    fresh = [s for s in waits if not s.printed]
    heed = (
        "White first: its own row tells how thick the coats are.",
        "Heed each paint’s label: air, gloves, no flames near solvents.",
    )
    if fresh:
        return (
            f"Print {plural(len({s.sheet for s in fresh}), 'sheet')} at full size: {plural(len(fresh), 'bottle')}.",
            *heed,
        )
    sheets = ", ".join(str(number) for number in sorted({s.sheet for s in waits}))
    return f"Paint, dry for a day and photograph sheet {sheets}: {plural(len(waits), 'bottle')}.", *heed


def names_in(text: str) -> tuple[str, ...]:
    """Names of bottles, one a line, as copied from a list; what follows a tab or a semicolon is left out."""
    lines = (line.replace(";", "\t").split("\t")[0].strip() for line in text.splitlines())
    return tuple(line for line in lines if line)


def to_print(build: Build) -> tuple[Stripe, ...]:
    """All rows of the sheets on which some paint is not known yet.

    Raises
    ------
    RefusedError
        There is none.
    """
    sheets = {s.sheet for s in waiting(build)}
    if not sheets:
        raise RefusedError("No paint waits for a stripe: type or paste the names of your bottles first.")
    return tuple(s for s in build.all(Stripe) if s.sheet in sheets)


def sheets_written(path: Path, build: Build) -> Iterator[Edits]:
    """Write the sheets that are wanted as PDF; then what that changes. For a worker."""
    from chalkreel.exchange.stripes import StripesSheet, write_stripes

    stripes = to_print(build)
    sheets = [
        StripesSheet(number, {s.row: s.name for s in stripes if s.sheet == number})
        for number in sorted({s.sheet for s in stripes})
    ]
    try:
        written_over(path, lambda part: write_stripes(part, white_name(build) or YOUR_WHITE, sheets))
    except OSError as error:
        raise RefusedError("The file cannot be written. Choose a folder that is yours.") from error
    yield printed(stripes)


@dataclass(frozen=True)
class SheetsRead:
    """What photographs of sheets do to the shelf, by how many paints, and what is to be said of them."""

    edits: Edits
    count: int
    told: tuple[str, ...]


def sheets_read(paths: tuple[Path, ...], build: Build, progress: Callable[[float], bool]) -> Iterator[SheetsRead]:
    """Read photographs of sheets; for a worker.

    Raises
    ------
    RefusedError
        None of them tells a paint.
    """
    from chalkreel.core.colour.stripes import read_stripes

    readings, told = [], []
    for number, path in enumerate(paths):
        if not progress(number / len(paths)):
            return
        try:
            readings.append(read_stripes(read_picture(path)))
        except RefusedError as refusal:
            told.append(f"{path.name}: {refusal}".rstrip("."))
    if not readings:
        raise RefusedError(f"{'; '.join(told)}.")
    paints, problems = paints_of_sheets(readings, build)
    yield SheetsRead(shelved(build, paints, progress)[0], len(paints), (*told, *problems))
