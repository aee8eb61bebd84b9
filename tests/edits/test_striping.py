"""Stripes sheets: rows given to names, and what readings of them make of the shelf."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from chalkreel.core.colour.stripes import SheetReading, StripeReading
from chalkreel.core.errors import RefusedError
from chalkreel.document.changes import Edits
from chalkreel.document.paint_entities import ShelfPaint, Stripe
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, dried_to, guessed_paint, put_on_shelf, white_name
from chalkreel.edits.striping import given_rows, guessed_rows, paints_of_sheets, printed, waiting

EMPTY = Build(1, {})
WHITE = StripeReading(np.array([89.0, 0.0, 0.0]), np.array([54.0, -0.5, 0.5]), np.array([92.5, 0.0, 0.0]))
BRICK = StripeReading(np.array([48.6, 31.5, 15.6]), np.array([33.4, 6.4, 3.1]), np.array([35.7, 15.9, 6.5]))
BARE = StripeReading(np.array([94.0, 0.0, 0.0]), np.array([26.0, 0.0, 0.0]), np.array([94.0, 0.0, 0.0]))


def after(build: Build, edits: Edits) -> Build:
    return Build(build.revision + 1, {**build.entities, **{k: v for k, v in edits.items() if v is not None}})


def sheet(number: int, **rows: StripeReading) -> SheetReading:
    """A photographed sheet; rows that are not named are bare."""
    stripes = {row: rows.get(f"r{row}", BARE) for row in range(12)}
    return SheetReading(number, {**stripes, 0: rows.get("white", WHITE)}, ())


def test_names_fill_sheets_and_a_printed_one_is_left_as_it_is() -> None:
    build = after(EMPTY, given_rows(EMPTY, [f"bottle {n}" for n in range(14)], Dries("enamel", "gloss")))
    places = [(s.name, s.sheet, s.row) for s in build.all(Stripe)]
    assert places[0] == ("bottle 0", 1, 1) and places[10] == ("bottle 10", 1, 11) and places[11] == ("bottle 11", 2, 1)
    assert {(s.medium, s.sheen) for s in build.all(Stripe)} == {("enamel", "gloss")}
    # Not printed yet: the second sheet goes on being filled; a name that has a row keeps it, however it is spaced.
    build = after(build, given_rows(build, ["bottle 3", "  late   one "], Dries()))
    assert [(s.name, s.sheet, s.row) for s in build.all(Stripe)][14:] == [("late one", 2, 4)]
    build = after(build, printed(build.all(Stripe)))
    build = after(build, given_rows(build, ["after"], Dries()))
    assert next(s for s in build.all(Stripe) if s.name == "after").sheet == 3
    for nothing in ([], ["bottle 3"], ["  "]):
        with pytest.raises(RefusedError, match="one row"):
            given_rows(build, nothing, Dries())
    with pytest.raises(RefusedError, match="most"):
        given_rows(EMPTY, [f"n{n}" for n in range(771)], Dries())


def test_guesses_of_the_shelf_get_rows_of_their_own_medium() -> None:
    shelf = after(EMPTY, put_on_shelf(EMPTY, (guessed_paint("rust", (40.0, 25.0, 30.0), Dries("oil", "satin")),)))
    build = after(shelf, guessed_rows(shelf))
    (row,) = build.all(Stripe)
    assert (row.name, row.medium, row.sheen) == ("rust", "oil", "satin") and waiting(build) == (row,)
    with pytest.raises(RefusedError, match="no row yet"):
        guessed_rows(build)


def test_a_sheet_on_an_empty_shelf_brings_its_white_and_paints() -> None:
    build = after(EMPTY, given_rows(EMPTY, ["brick", "never painted"], Dries("enamel", "satin")))
    paints, told = paints_of_sheets([sheet(1, r1=BRICK)], build)
    assert [p.name for p in paints] == ["white", "brick"] and told == (
        "sheet 1: “never painted” shows nothing: bare, or a clear",
    )
    build = after(build, put_on_shelf(build, paints))
    brick = next(p for p in build.all(ShelfPaint) if p.name == "brick")
    assert white_name(build) == "white" and (brick.source, brick.medium, brick.sheen) == ("stripe", "enamel", "satin")
    # Drawn from K = 0.12 + 1.6 below 590 nm, S = 0.3: it covers about as much, and absorbs blue far more than red.
    scattering, absorption = np.array(brick.scattering), np.array(brick.absorption)
    assert 0.2 < np.median(scattering) < 0.5
    assert absorption[5:15].mean() > 5 * absorption[28:].mean()
    assert [s.name for s in waiting(build)] == ["never painted"]
    # Read again, it takes its own place.
    twice = after(build, put_on_shelf(build, paints_of_sheets([sheet(1, r1=BRICK)], build)[0]))
    assert [p.id for p in twice.all(ShelfPaint)] == [p.id for p in build.all(ShelfPaint)]
    # How thick its coats are is known by the white beside it: a thicker white means a paint that covers less.
    thick = StripeReading(np.array([91.0, 0.0, 0.0]), np.array([70.0, 0.0, 0.0]), WHITE.hiding)
    other, _ = paints_of_sheets([sheet(1, white=thick, r1=BRICK)], build)
    again = after(build, put_on_shelf(build, tuple(p for p in other if p.name == "brick")))
    weaker = next(p for p in again.all(ShelfPaint) if p.name == "brick")
    assert np.median(weaker.scattering) < 0.8 * np.median(scattering)


def test_a_sheen_told_later_finds_a_stripe_anew_and_a_lost_white_leaves_a_guess() -> None:
    build = after(EMPTY, given_rows(EMPTY, ["brick"], Dries()))
    build = after(build, put_on_shelf(build, paints_of_sheets([sheet(1, r1=BRICK)], build)[0]))
    brick = next(p for p in build.all(ShelfPaint) if p.name == "brick")
    glossy = after(build, dried_to(build, brick, "gloss"))
    found = next(p for p in glossy.all(ShelfPaint) if p.name == "brick")
    assert found.drawdowns == brick.drawdowns and found.absorption != brick.absorption
    alone = Build(9, {brick.id: replace(brick, surface=None)})
    kept = after(alone, put_on_shelf(alone, (guessed_paint("rust", (40.0, 25.0, 30.0), Dries()),)))
    assert next(p for p in kept.all(ShelfPaint) if p.name == "brick").scattering != brick.scattering


def test_what_cannot_be_read_is_said() -> None:
    build = after(EMPTY, given_rows(EMPTY, ["brick"], Dries()))
    with pytest.raises(RefusedError, match="first stripe is bare"):
        paints_of_sheets([sheet(1, white=BARE, r1=BRICK)], build)
    with pytest.raises(RefusedError, match="no white"):
        paints_of_sheets([sheet(1, white=BRICK, r1=BRICK)], build)
    with pytest.raises(RefusedError, match="shows nothing"):
        paints_of_sheets([sheet(1)], build)
    with pytest.raises(RefusedError, match="no names for sheet 4"):
        paints_of_sheets([sheet(4, r1=BRICK)], build)
    # A good sheet beside a strange one is read; of a paint that is known better the stripe is left.
    paints, told = paints_of_sheets([sheet(4), sheet(1, r1=BRICK)], build)
    assert [p.name for p in paints] == ["white", "brick"] and "sheet 4" in told[0]
    build = after(build, put_on_shelf(build, paints))
    brick = next(p for p in build.all(ShelfPaint) if p.name == "brick")
    better = Build(9, {**build.entities, brick.id: replace(brick, source="card")})
    with pytest.raises(RefusedError, match="known better"):
        paints_of_sheets([sheet(1, r1=BRICK)], better)
    # One in a glare is left out alone.
    glare = StripeReading(np.array([99.0, 60.0, 90.0]), BRICK.over_black, np.array([99.0, 60.0, 90.0]))
    two = after(build, given_rows(build, ["lit", "brick two"], Dries()))
    paints, told = paints_of_sheets([sheet(1, r2=glare, r3=BRICK)], two)
    assert [p.name for p in paints] == ["brick two"] and any("“lit” looks as no paint can" in words for words in told)
    # An end that was never gone over is told; a white that hides the bar tells no thickness.
    open_end = StripeReading(BRICK.over_paper, BRICK.over_black, BARE.hiding)
    hides = StripeReading(np.array([92.0, 0.0, 0.0]), np.array([90.0, 0.0, 0.0]), WHITE.hiding)
    _, told = paints_of_sheets([sheet(1, white=hides, r1=open_end)], build)
    assert any("hardly told" in words for words in told) and any("end of “brick”" in words for words in told)
