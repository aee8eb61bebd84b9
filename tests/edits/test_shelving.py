"""The shelf: whites found, sheens told later, better readings, and what is said where something is missing."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from chalkreel.answers.mixes import paint_of
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.clear_coats import one_coat
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.drawdown import FIELDS, CardReading
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.colour.surface_terms import SURFACE, seen
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.demo.evidence import bench_range
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import (
    Dries,
    called_clear,
    card_paint,
    dried_to,
    guessed_paint,
    is_white,
    put_on_shelf,
    readings_to_paints,
    white_name,
)
from chalkreel.exchange.shelf import parse_shelf_csv, shelf_csv

RANGE = {p.name: p for p in bench_range() if isinstance(p, ShelfPaint)}
WHITE, OCHRE, BLUE = (RANGE[name] for name in ("titanium white", "yellow ochre", "ultramarine blue"))
EMPTY = Build(1, {})


def metered(paint: ShelfPaint, share: float, sheen: str) -> np.ndarray:
    """What a meter reads of a paint in white that dries so, from its constants."""
    k, s = (share * np.array(getattr(paint, a)) + (1 - share) * np.array(getattr(WHITE, a))
            for a in ("absorption", "scattering"))  # fmt: skip
    return seen(reflectance_of(k / s), SURFACE[sheen])  # type: ignore[index]


def readings(sheen: str, *paints: ShelfPaint) -> tuple[tuple[str, np.ndarray], ...]:
    found = []
    for paint in paints:
        found.append((paint.name, metered(paint, 1.0, sheen)))
        if paint is not WHITE:
            found += [(f"{paint.name} 1:{n}", metered(paint, 1 / (1 + n), sheen)) for n in (1, 4, 16)]
    return tuple(found)


def shelf_of(build: Build, *paints: ShelfPaint) -> Build:
    edits = put_on_shelf(build, paints)
    entities = {**build.entities, **{k: v for k, v in edits.items() if v is not None}}
    return Build(build.revision + 1, entities)


def look(paint: ShelfPaint) -> np.ndarray:
    """L*a*b* of the masstone."""
    inner = reflectance_of(np.array(paint.absorption) / np.array(paint.scattering))
    return lab_of_xyz(xyz_of_reflectance(seen(inner, SURFACE[paint.sheen] if paint.surface is None else paint.surface)))


def apart(one: ShelfPaint, other: ShelfPaint) -> float:
    """How far two paints' constants are apart, in the median of their logarithms."""
    gaps = [np.log(np.array(getattr(one, a)) / np.array(getattr(other, a))) for a in ("absorption", "scattering")]
    return float(np.median(np.abs(gaps)))


def on(build: Build, name: str) -> ShelfPaint:
    return next(p for p in build.all(ShelfPaint) if p.name == name)


def test_a_meters_file_on_an_empty_shelf_finds_its_white_and_keeps_it() -> None:
    found = readings_to_paints(readings("satin", OCHRE, WHITE, BLUE), EMPTY, Dries("enamel", "satin"))
    assert [p.name for p in found] == ["yellow ochre", "titanium white", "ultramarine blue"]
    build = shelf_of(EMPTY, *found)
    assert white_name(build) == "titanium white"
    ochre, blue = on(build, OCHRE.name), on(build, BLUE.name)
    assert is_white(on(build, WHITE.name)) and ochre.medium == "enamel" and ochre.source == "metered"
    # A satin surface scatters what the darkest of them, ultramarine, leaves of 1.4 %.
    assert apart(ochre, OCHRE) < 0.15 and apart(blue, BLUE) < 0.25
    # Brought in again, with its white, all is as it was.
    again = shelf_of(build, *readings_to_paints(readings("satin", OCHRE, WHITE, BLUE), build))
    assert white_name(again) == "titanium white"
    assert apart(on(again, OCHRE.name), ochre) < 1e-6 and on(again, OCHRE.name).sheen == "satin"


def test_tints_without_a_white_are_refused_and_a_masstone_alone_is_a_guess() -> None:
    with pytest.raises(RefusedError, match="has none yet"):
        readings_to_paints(readings("matte", OCHRE), EMPTY)
    with pytest.raises(RefusedError, match="card of your white first"):
        card_paint("ochre", CardReading({f: look(OCHRE) for f in FIELDS}, ()), EMPTY, Dries())
    alone = readings_to_paints(((OCHRE.name, metered(OCHRE, 1.0, "matte")),), shelf_of(EMPTY, WHITE))
    kept = on(shelf_of(shelf_of(EMPTY, WHITE), *alone), OCHRE.name)
    assert kept.source == "guess" and delta_e_2000(look(kept), look(OCHRE)) < 0.3


def test_a_sheen_told_later_finds_what_would_have_been_found_at_once() -> None:
    # Read as matte, though all dry to a gloss.
    wrong = build = shelf_of(EMPTY, *readings_to_paints(readings("gloss", WHITE, OCHRE, BLUE), EMPTY))
    right = shelf_of(EMPTY, *readings_to_paints(readings("gloss", WHITE, OCHRE, BLUE), EMPTY, Dries(sheen="gloss")))
    for name in (WHITE.name, OCHRE.name, BLUE.name):
        build = Build(build.revision + 1, {**build.entities, **dried_to(build, on(build, name), "gloss")})  # type: ignore[dict-item]
    assert white_name(build) == "titanium white"
    for truth in (OCHRE, BLUE):
        assert apart(on(build, truth.name), on(right, truth.name)) < 1e-6
        # The darkest of them told most of it even before the sheen was.
        assert apart(on(build, truth.name), truth) < apart(on(wrong, truth.name), truth) < 0.1
        read = lab_of_xyz(xyz_of_reflectance(metered(truth, 1.0, "gloss")))
        assert delta_e_2000(look(on(build, truth.name)), read) < 0.5


def test_a_shelf_tells_its_own_surface_by_its_darkest_paint() -> None:
    # A range whose matte scatters 2.6 %, not the 4 % of an even roughness: a black tells.
    true = 0.026
    black = RANGE["lamp black"]

    def read(paint: ShelfPaint, share: float) -> np.ndarray:
        return metered(paint, share, "gloss") + true

    rows = [(WHITE.name, read(WHITE, 1.0))]
    for paint in (OCHRE, BLUE, black):
        rows += [
            (paint.name, read(paint, 1.0)),
            *((f"{paint.name} 1:{n}", read(paint, 1 / (1 + n))) for n in (1, 4, 16)),
        ]
    build = shelf_of(EMPTY, *readings_to_paints(tuple(rows), EMPTY))
    surface = on(build, OCHRE.name).surface
    assert surface is not None and abs(surface - true) < 0.003
    assert on(build, black.name).surface == surface
    # Without a dark paint nothing tells, and what is usual stands.
    light = shelf_of(EMPTY, *readings_to_paints(((WHITE.name, metered(WHITE, 1.0, "matte")),), EMPTY))
    assert on(light, WHITE.name).surface == SURFACE["matte"]


def test_a_paint_without_its_readings_keeps_its_masstone_through_another_sheen() -> None:
    build = shelf_of(EMPTY, *RANGE.values())
    (changed,) = dried_to(build, BLUE, "gloss").values()
    assert isinstance(changed, ShelfPaint) and changed.sheen == "gloss" and not changed.drawdowns
    assert delta_e_2000(look(changed), look(BLUE)) < 0.6
    # Seen through gloss, the same look needs more absorption for what a matte surface adds.
    assert changed.absorption != BLUE.absorption
    clear = replace(OCHRE, clear=True)
    (kept,) = dried_to(build, clear, "gloss").values()
    assert isinstance(kept, ShelfPaint) and kept.absorption == clear.absorption


def test_a_clear_keeps_the_look_it_was_given_through_its_file() -> None:
    typed = (48.0, 62.0, 38.0)
    build = shelf_of(EMPTY, *RANGE.values(), guessed_paint("clear red", typed, Dries()))
    edits = called_clear(build, on(build, "clear red"))
    clear = next(p for p in edits.values() if isinstance(p, ShelfPaint) and p.name == "clear red")
    assert clear.clear and clear.sheen == "gloss" and not clear.metallic
    read = parse_shelf_csv(shelf_csv((clear,)).encode())[0]
    for paint in (clear, read):
        assert delta_e_2000(np.array(one_coat(paint_of(paint))), np.array(typed)) < 1.0
    # Called so twice, it stays as it is.
    assert called_clear(Build(2, {**build.entities, clear.id: clear}), clear)[clear.id] == clear


def test_a_better_white_finds_all_that_was_mixed_with_it_anew() -> None:
    build = shelf_of(EMPTY, *readings_to_paints(readings("matte", WHITE, OCHRE), EMPTY))
    build = shelf_of(build, guessed_paint("typed red", (45.0, 40.0, 25.0), Dries()))
    # The white was read too dark by a tenth: ochre's S was found against that.
    dark = tuple((n, r * (0.9 if n == WHITE.name else 1.0)) for n, r in readings("matte", WHITE))
    worse = shelf_of(build, *readings_to_paints(dark, build))
    assert apart(on(build, OCHRE.name), on(worse, OCHRE.name)) > 0.01
    better = shelf_of(worse, *readings_to_paints(readings("matte", WHITE), worse))
    assert apart(on(better, OCHRE.name), on(build, OCHRE.name)) < 1e-6
    assert on(better, "typed red").absorption == on(build, "typed red").absorption


def test_what_nothing_changes_is_not_computed_again() -> None:
    build = shelf_of(EMPTY, *readings_to_paints(readings("matte", WHITE, OCHRE, BLUE), EMPTY))
    edits = put_on_shelf(build, (guessed_paint("typed red", (45.0, 40.0, 25.0), Dries()),))
    assert [p.name for p in edits.values() if isinstance(p, ShelfPaint)] == ["typed red"]


def test_working_paints_out_stops_between_two_of_them() -> None:
    paints = readings_to_paints(readings("satin", WHITE, OCHRE, BLUE), EMPTY, Dries("water acrylic", "satin"))
    shares: list[float] = []
    with pytest.raises(StoppedError):
        put_on_shelf(EMPTY, paints, lambda share: shares.append(share) is None and len(shares) < 3)
    assert shares == [0.0, pytest.approx(1 / 3), pytest.approx(2 / 3)]


def test_a_paint_that_comes_back_without_its_readings_keeps_them() -> None:
    build = shelf_of(EMPTY, *readings_to_paints(readings("matte", WHITE, OCHRE), EMPTY))
    back = parse_shelf_csv(shelf_csv(build.all(ShelfPaint)).encode())
    assert not any(paint.drawdowns for paint in back)
    again = shelf_of(build, *back)
    assert on(again, OCHRE.name).drawdowns == on(build, OCHRE.name).drawdowns
    # Another paint of the name does not.
    other = replace(back[1], absorption=tuple(1.5 * k for k in back[1].absorption))
    assert not on(shelf_of(build, other), other.name).drawdowns
