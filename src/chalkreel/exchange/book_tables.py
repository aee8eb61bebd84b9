"""The plain tables of the build book: kit, features, jobs, pots, shelf, zones."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from chalkreel.answers.answers import Answers
from chalkreel.answers.conversion import state_in
from chalkreel.answers.ordering import order_rows
from chalkreel.core.convert.runners import place_of, ranges_words
from chalkreel.core.lengths import format_length
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.entities import Feature, FeatureInVersion, KitPart, Version
from chalkreel.document.paint_entities import ShelfPaint, Zone
from chalkreel.document.snapshot import Build

MOST_VERSIONS = 4


@dataclass(frozen=True)
class BookTable:
    """A title, rows of words with their headings first, and how wide the columns are."""

    title: str
    rows: tuple[tuple[str, ...], ...]
    widths_mm: tuple[int, ...]


def kit(build: Build) -> BookTable:
    """Every part of which there is something to say, and the ranges of those that are simply there."""
    plain: list[tuple[str, int]] = []
    rows: list[tuple[str, ...]] = []
    for part in build.all(KitPart):
        place = place_of(part.name)
        dull = part.state == "present" and not (part.calliper_mm or part.fit_note or part.colour) and part.count == 1
        if dull and place is not None and place.numbers and not place.called:
            plain += [(place.runner, number) for number in place.numbers]
            continue
        calliper = format_length(part.calliper_mm, build.info.unit) if part.calliper_mm else ""
        number = f"{part.count} × " if part.count > 1 else ""
        rows.append((number + part.name, part.state, calliper, part.fit_note))
    if plain:
        rows.append((ranges_words(plain), "present", "", ""))
    return BookTable("Kit", (("part", "state", "calliper", "fit notes"), *rows), (50, 22, 28, 74))


def features(build: Build) -> BookTable:
    """What each version has of each feature."""
    versions = build.all(Version)[:MOST_VERSIONS]
    rows = ((f.name, *(_state(state_in(build, f.id, v.id)) for v in versions)) for f in build.all(Feature))
    widths = (44, *(130 // max(1, len(versions)) for _ in versions))
    return BookTable("Features by version", (("feature", *(v.name for v in versions)), *rows), widths)


def _state(state: FeatureInVersion | None) -> str:
    if state is None or state.present is None:
        return "?"
    return " at ".join(part for part in (state.form or "there", state.place) if part) if state.present else "not there"


def operations(answers: Answers) -> BookTable:
    """The jobs between the kit and the version."""
    found = answers.conversion.rows if answers.conversion else ()
    rows = (
        (f"{op.verb} {op.feature}", op.reason, op.material, op.size_words, f"{op.hours:.2g}", op.when)
        for op in (row.operation for row in found)
    )
    titles = ("job", "why", "material", "size", "hours", "when")
    return BookTable("Jobs", (titles, *rows), (32, 42, 38, 26, 12, 24))


def cuts(answers: Answers) -> BookTable:
    """Every piece to cut, from what, and what is to be known of it."""
    unit = answers.build.info.unit
    rows = (
        (row.name, row.size, str(row.count), " + ".join(format_length(mm, unit) for mm in row.layers_mm),
         row.problem or row.note)
        for row in (answers.cuts.rows if answers.cuts is not None else ())
    )  # fmt: skip
    return BookTable("Cut list", (("piece", "size", "×", "from", "to know"), *rows), (34, 48, 8, 36, 48))


def orders(answers: Answers) -> BookTable:
    """What is to be ordered, and by when."""
    today = answers.sequence.now.date() if answers.sequence is not None else date.today()
    rows = (
        (r.order.name, r.order.source, f"{r.order.usual_days} to {r.order.worst_days}",
         r.due.latest.isoformat() if r.due is not None else "", r.order.ordered_on, r.order.came_on, r.instead)
        for r in order_rows(answers.build, answers.sequence, today)
    )  # fmt: skip
    titles = ("order", "source", "days", "order by", "ordered", "came", "or instead")
    return BookTable("Orders", (titles, *rows), (36, 20, 18, 22, 20, 20, 38))


def stock(build: Build) -> BookTable:
    """What is owned."""
    unit = build.info.unit
    rows = (
        (s.name, s.form, s.material, format_length(s.thick_mm, unit),
         f"{format_length(s.long_mm, unit)} × {format_length(s.wide_mm, unit)}", str(s.count), s.where)
        for s in build.all(StockPiece)
    )  # fmt: skip
    titles = ("stock", "form", "material", "thick", "size", "left", "where")
    return BookTable("Stock", (titles, *rows), (36, 16, 24, 20, 44, 12, 22))


def pots(answers: Answers) -> BookTable:
    """What is in each pot and what is kept of it."""
    rows = (
        (row.pot.label, s.name, " + ".join(f"{count} {name}" for name, count in row.drops), f"{row.pot.kept_ml:g} ml")
        for s in (answers.colours.surfaces if answers.colours else ())
        for row in s.mixes.pots
    )
    return BookTable("Pots", (("pot", "surface", "what is in it", "kept"), *rows), (34, 34, 86, 20))


def shelf(build: Build) -> BookTable:
    """The paints that the recipes are mixed from."""
    rows = (
        (p.name, p.medium, "" if p.ml_left is None else f"{p.ml_left:g} ml", p.source) for p in build.all(ShelfPaint)
    )
    return BookTable("Shelf", (("paint", "medium", "left", "known from"), *rows), (70, 44, 24, 36))


def zones(answers: Answers) -> BookTable:
    """One finish each."""
    rows = (
        (z.name, z.assembly, z.medium, z.sheen, str(z.coats), f"{answers.areas[z.id].cm2:.0f} cm²", ", ".join(z.wear))
        for z in answers.build.all(Zone)
    )
    titles = ("zone", "assembly", "medium", "sheen", "coats", "area", "wear")
    return BookTable("Zones", (titles, *rows), (36, 28, 28, 18, 14, 20, 30))
