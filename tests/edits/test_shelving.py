"""The shelf: whites found, sheens told later, better readings, and what is said where something is missing."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.drawdown import FIELDS, CardReading
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.colour.surface_terms import seen
from chalkreel.core.errors import RefusedError
from chalkreel.demo.evidence import bench_range
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import (
    Dries,
    card_paint,
    dried_to,
    guessed_paint,
    is_white,
    put_on_shelf,
    readings_to_paints,
    white_name,
)

RANGE = {p.name: p for p in bench_range() if isinstance(p, ShelfPaint)}
WHITE, OCHRE, BLUE = (RANGE[name] for name in ("titanium white", "yellow ochre", "ultramarine blue"))
EMPTY = Build(1, {})


def metered(paint: ShelfPaint, share: float, sheen: str) -> np.ndarray:
    """What a meter reads of a paint in white that dries so, from its constants."""
    k, s = (share * np.array(getattr(paint, a)) + (1 - share) * np.array(getattr(WHITE, a))
            for a in ("absorption", "scattering"))  # fmt: skip
    return seen(reflectance_of(k / s), sheen)  # type: ignore[arg-type]


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
    return lab_of_xyz(xyz_of_reflectance(seen(inner, paint.sheen)))


def apart(one: ShelfPaint, other: ShelfPaint) -> float:
    """How far two paints' constants are apart, in the median of their logarithms."""
    gaps = [np.log(np.array(getattr(one, a)) / np.array(getattr(other, a))) for a in ("absorption", "scattering")]
    return float(np.median(np.abs(gaps)))


def test_a_meters_file_on_an_empty_shelf_finds_its_white_and_keeps_it() -> None:
    found = readings_to_paints(readings("satin", OCHRE, WHITE, BLUE), EMPTY, Dries("enamel", "satin"))
    assert [p.name for p in found] == ["yellow ochre", "titanium white", "ultramarine blue"]
    build = shelf_of(EMPTY, *found)
    assert white_name(build) == "titanium white"
    ochre, white, blue = found
    assert is_white(white) and ochre.medium == "enamel" and ochre.source == "metered"
    assert apart(ochre, OCHRE) < 0.1 and apart(blue, BLUE) < 0.1
    # Brought in again, with its white, all is as it was.
    again = readings_to_paints(readings("satin", OCHRE, WHITE, BLUE), build)
    assert white_name(shelf_of(build, *again)) == "titanium white"
    assert apart(again[0], ochre) < 1e-6 and again[0].sheen == "satin"


def test_tints_without_a_white_are_refused_and_a_masstone_alone_is_a_guess() -> None:
    with pytest.raises(RefusedError, match="has none yet"):
        readings_to_paints(readings("matte", OCHRE), EMPTY)
    with pytest.raises(RefusedError, match="card of your white first"):
        card_paint("ochre", CardReading({f: look(OCHRE) for f in FIELDS}, ()), EMPTY, Dries())
    (alone,) = readings_to_paints(((OCHRE.name, metered(OCHRE, 1.0, "matte")),), shelf_of(EMPTY, WHITE))
    assert alone.source == "guess"
    assert delta_e_2000(look(alone), look(OCHRE)) < 0.3


def test_a_sheen_told_later_finds_k_and_s_anew_and_the_masstone_stays_as_it_was_read() -> None:
    # Read as matte, though it dries to a gloss.
    wrong = readings_to_paints(readings("gloss", WHITE, OCHRE, BLUE), EMPTY)
    build = shelf_of(EMPTY, *wrong)
    assert apart(wrong[2], BLUE) > 0.15
    for name in ("titanium white", "yellow ochre", "ultramarine blue"):
        paint = next(p for p in build.all(ShelfPaint) if p.name == name)
        edits = dried_to(build, paint, "gloss")
        build = Build(build.revision + 1, {**build.entities, **edits})  # type: ignore[dict-item]
    now = {p.name: p for p in build.all(ShelfPaint)}
    assert white_name(build) == "titanium white"
    for name, truth in (("yellow ochre", OCHRE), ("ultramarine blue", BLUE)):
        assert apart(now[name], truth) < 0.12
        read = lab_of_xyz(xyz_of_reflectance(metered(truth, 1.0, "gloss")))
        assert delta_e_2000(look(now[name]), read) < 0.5


def test_a_paint_without_its_readings_keeps_its_masstone_through_another_sheen() -> None:
    build = shelf_of(EMPTY, *RANGE.values())
    (changed,) = dried_to(build, BLUE, "gloss").values()
    assert isinstance(changed, ShelfPaint) and changed.sheen == "gloss" and not changed.drawdowns
    assert delta_e_2000(look(changed), look(BLUE)) < 0.6
    # Seen through gloss, the same look needs more absorption for what a matte surface adds.
    assert changed.absorption != BLUE.absorption
    clear = RANGE["yellow ochre"].__class__(
        **{**{f: getattr(OCHRE, f) for f in OCHRE.__struct_fields__}, "clear": True}
    )
    (kept,) = dried_to(build, clear, "gloss").values()
    assert isinstance(kept, ShelfPaint) and kept.absorption == clear.absorption


def test_a_better_white_finds_all_that_was_mixed_with_it_anew() -> None:
    build = shelf_of(EMPTY, *readings_to_paints(readings("matte", WHITE, OCHRE), EMPTY))
    guess = guessed_paint("typed red", (45.0, 40.0, 25.0), Dries())
    build = shelf_of(build, guess)
    # The white was read too dark by a tenth: ochre's S was found against that.
    dark = tuple((n, r * (0.9 if n == WHITE.name else 1.0)) for n, r in readings("matte", WHITE))
    worse = shelf_of(build, *readings_to_paints(dark, build))
    ochre = {b: next(p for p in b.all(ShelfPaint) if p.name == OCHRE.name) for b in (build, worse)}
    assert apart(ochre[build], ochre[worse]) > 0.01
    better = shelf_of(worse, *readings_to_paints(readings("matte", WHITE), worse))
    assert apart(next(p for p in better.all(ShelfPaint) if p.name == OCHRE.name), ochre[build]) < 1e-6
    assert next(p for p in better.all(ShelfPaint) if p.name == "typed red").absorption == guess.absorption
