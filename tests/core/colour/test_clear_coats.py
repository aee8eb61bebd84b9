"""Clear coats against a laboratory that follows rays, and what a test strip teaches of a hand."""

from dataclasses import replace

import numpy as np
import pytest

from chalkreel.core.colour.cielab import as_lab, lab_of_xyz
from chalkreel.core.colour.clear_coats import (
    CLEAR_SCATTERING,
    ClearSwatch,
    brightened,
    clear_absorption,
    clear_look,
    find_clear_recipes,
    ground_of,
    one_coat,
    predict_clear,
    silver_ground,
    taught_clears,
    white_ground,
)
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import COAT, Lab
from chalkreel.core.colour.layers import ground_for, seen_through
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.recipe import Limits
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.errors import RefusedError, StoppedError
from tests.core.colour.clear_lab import Bench, bench, over_metal, over_white

NONE = np.full(36, 1e-6)


def clear(name: str, lab: Lab, source: str = "guess") -> Paint:
    k = clear_absorption(smooth_spectrum(np.array(lab)), COAT, 0.0)
    return Paint(name, k, np.full(36, CLEAR_SCATTERING), sheen="gloss", source=source, clear=True, surface=0.0)  # type: ignore[arg-type]


def apart(one: Lab, other: Lab) -> float:
    return float(delta_e_2000(np.array(one), np.array(other)))


@pytest.mark.parametrize("depth", [0.1, 0.4, 1.0])
def test_light_comes_back_through_a_clear_film_as_rays_do(depth: float) -> None:
    """K counts diffuse light: twice the absorbance that a ray meets."""
    film, k = np.full(36, depth), np.full((1, 36), 2.0 * depth)
    for true, ground in ((over_white, replace(white_ground(), surface=0.0)), (over_metal, silver_ground())):
        bare = float(true(np.zeros(36), np.full(36, 0.6))[0])
        below = replace(ground, lab=as_lab(lab_of_xyz(xyz_of_reflectance(np.full(36, bare)))))
        seen = float(seen_through(ground_for(below), k, NONE[None], np.zeros(1))[0, 15])
        assert seen == pytest.approx(float(true(film, np.full(36, 0.6))[0]), rel=0.08)


def test_a_clear_looks_in_one_coat_over_white_as_it_was_given_and_deeper_in_more() -> None:
    red = clear("red", (48.0, 62.0, 38.0))
    assert apart(one_coat(red), (48.0, 62.0, 38.0)) < 0.5
    looks = [clear_look((("red", 1),), n, (red,), silver_ground()) for n in (1, 2, 4)]
    lightness = [look[0] for look in looks if look is not None]
    assert len(lightness) == 3 and lightness == sorted(lightness, reverse=True)


def tried(own: Bench, ground: str, rng: np.random.Generator) -> tuple[float, float]:
    """How far off the first recipe comes out, and the next after its strip was read; clears known by swatches alone."""
    shelf = tuple(clear(dye.name, own.swatch(dye.name, rng)) for dye in own.dyes)
    names = [str(name) for name in rng.choice([dye.name for dye in own.dyes], 2, replace=False)]
    target = own.look(tuple((name, int(rng.integers(1, 6))) for name in names), int(rng.integers(1, 5)), ground)
    below, missed = ground_of(ground, shelf), list[float]()
    swatches: tuple[ClearSwatch, ...] = ()
    assert below is not None
    for _ in range(2):
        taught = taught_clears(shelf, swatches)
        lies_on = brightened(below, taught.grounds.get(ground, 1.0))
        best = find_clear_recipes(target, taught.shelf, lies_on, (), Limits(2, 16), lambda _: True)[0]
        look = own.look(best.drops, best.coats, ground)
        missed.append(apart(look, target))
        swatches = (ClearSwatch(best.drops, best.coats, below, look),)
    return missed[0], missed[1]


def test_a_strip_brings_clears_known_by_a_printed_swatch_near() -> None:
    """On benches that nothing was chosen by; 144 colours of others came 5.4 off at first, 1.6 after one strip."""
    rng = np.random.default_rng(61)
    found = np.array([tried(bench(rng), ground, rng) for _ in range(4) for ground in ("white", "silver")])
    first, second = found.mean(axis=0)
    assert first < 9.0 and second < 3.0 and second < first / 2


def test_the_search_can_be_stopped_and_says_what_it_lacks() -> None:
    red, base = clear("red", (48.0, 62.0, 38.0)), clear("base", (93.0, 0.0, 3.0))
    with pytest.raises(RefusedError, match="No clear paint"):
        find_clear_recipes((40.0, 40.0, 20.0), (replace(red, clear=False),), white_ground(), (), Limits(), bool)
    with pytest.raises(RefusedError, match="No clear paint"):
        find_clear_recipes((40.0, 40.0, 20.0), (red,), white_ground(), (), Limits(without=frozenset({"red"})), bool)
    with pytest.raises(StoppedError):
        find_clear_recipes((40.0, 40.0, 20.0), (red, base), white_ground(), (), Limits(), lambda _: False)
    assert ground_of("old silver", (red,)) is None
    # What was mixed of it comes back, coats and all.
    target = predict_clear((("red", 2), ("base", 3)), 2, (red, base), silver_ground(), (), (50.0, 0.0, 0.0))
    assert target is not None
    best = find_clear_recipes(target.lab, (red, base), silver_ground(), (), Limits(), lambda _: True)[0]
    assert best.delta_e < 0.5 and best.coats <= 2


def test_a_strip_darker_than_any_strength_makes_it_tells_of_a_darker_silver() -> None:
    red, dark = clear("red", (48.0, 62.0, 38.0)), silver_ground(lab=(69.0, 0.0, 1.0))
    strip = predict_clear((("red", 1),), 2, (red,), dark, (), (40.0, 0.0, 0.0))
    assert strip is not None
    taught = taught_clears((red,), (ClearSwatch((("red", 1),), 2, silver_ground(), strip.lab),))
    assert apart(brightened(silver_ground(), taught.grounds["silver"]).lab or (0, 0, 0), (69.0, 0.0, 1.0)) < 2.0
    # No ground sends back more than a surface can.
    assert (brightened(white_ground(), 3.0).lab or (0, 0, 0))[0] < 98.0


def test_a_strip_of_one_clear_tells_of_the_hand_and_so_of_all() -> None:
    red, blue = clear("red", (48.0, 62.0, 38.0)), clear("blue", (52.0, -4.0, -44.0))
    thick = replace(red, absorption=1.4 * red.absorption)
    strip = predict_clear((("red", 1),), 2, (thick,), white_ground(), (), (40.0, 0.0, 0.0))
    assert strip is not None
    taught = taught_clears((red, blue), (ClearSwatch((("red", 1),), 2, white_ground(), strip.lab),)).shelf
    strength = [float((t.absorption / p.absorption).mean()) for t, p in zip(taught, (red, blue), strict=True)]
    assert strength[0] == pytest.approx(1.4, abs=0.05)
    assert 1.1 < strength[1] < strength[0]
    assert taught[0].strength_sigma < red.strength_sigma and taught[1].strength_sigma == blue.strength_sigma
