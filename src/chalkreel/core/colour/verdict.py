"""What a recipe is worth: how sure, how touchy, how it looks under other lamps, and what the shelf lacks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.mixing import Correction, Mixer, Sets, likely_miss
from chalkreel.core.colour.paint import Paint, opaque_of
from chalkreel.core.colour.recipe import Limits, Recipe, Search, linear_points
from chalkreel.core.colour.screening import nearest_with_first
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import Illuminant, xyz_of_reflectance
from chalkreel.core.errors import RefusedError

LAMPS: Final[tuple[Illuminant, ...]] = ("D65", "A", "LED-B2")
OUT_OF_REACH: Final = 2.0
ROUNDED: Final = 40
# A clean pigment this near to a masstone of the shelf is there already, ΔE00; of sets with a new one so many are tried.
HAD_ALREADY, MOST_WITH = 9.0, 2_000
# Clean pigments by hue: name and the masstone to be had in most ranges of artists' and modellers' paint.
CLEAN: Final[tuple[tuple[str, Lab], ...]] = (
    ("white", (96.0, 0.0, 1.0)),
    ("black", (12.0, 0.0, 0.0)),
    ("clean greenish yellow", (88.0, -8.0, 85.0)),
    ("clean warm yellow", (78.0, 20.0, 80.0)),
    ("clean orange", (62.0, 52.0, 62.0)),
    ("clean warm red", (45.0, 62.0, 42.0)),
    ("clean bluish red", (38.0, 58.0, 10.0)),
    ("clean magenta", (42.0, 60.0, -14.0)),
    ("clean violet", (25.0, 34.0, -38.0)),
    ("clean reddish blue", (28.0, 18.0, -55.0)),
    ("clean greenish blue", (45.0, -16.0, -38.0)),
    ("clean bluish green", (45.0, -48.0, 4.0)),
    ("clean yellowish green", (60.0, -48.0, 48.0)),
)


@dataclass(frozen=True)
class Touch:
    """A paint of the recipe: ΔE00 that one drop more, or one less, moves the mix by."""

    name: str
    more: float
    less: float


@dataclass(frozen=True)
class Worth:
    """`sigma_delta_e` is one σ in ΔE00 of where the mix lands; `by_lamp` the ΔE00 to the target under each lamp."""

    touches: tuple[Touch, ...]
    sigma_delta_e: float
    by_lamp: tuple[tuple[Illuminant, float], ...]


def worth(recipe: Recipe, shelf: tuple[Paint, ...], target_lab: Lab, corrections: tuple[Correction, ...] = ()) -> Worth:
    """Sensitivity, ± and metamerism of a recipe; the target's spectrum is taken to be smooth."""
    by_name = {p.name: p for p in shelf}
    paints = tuple(by_name[name] for name, _ in recipe.drops)
    return worth_of(recipe, Mixer(paints, corrections=corrections), target_lab)


def worth_of(recipe: Recipe, mixer: Mixer, target_lab: Lab) -> Worth:
    """The same by a mixer of the recipe's paints alone, in its order."""
    paints = mixer.paints
    sets, counts = np.arange(len(paints))[None], np.array([[float(n) for _, n in recipe.drops]])
    here = mixer.lab(sets, counts)
    each = np.eye(len(paints))
    every = np.tile(sets, (len(paints), 1))
    more = delta_e_2000(mixer.lab(every, counts + each), here[0])
    less = delta_e_2000(mixer.lab(every, np.maximum(counts - each, 1e-9)), here[0])
    touches = tuple(Touch(p.name, float(m), float(s)) for p, m, s in zip(paints, more, less, strict=True))
    return Worth(touches, likely_miss(mixer, sets, counts), _by_lamp(mixer, sets, counts, target_lab))


def _by_lamp(mixer: Mixer, sets: Sets, counts: Array, target_lab: Lab) -> tuple[tuple[Illuminant, float], ...]:
    try:
        target = smooth_spectrum(np.array(target_lab))
    except RefusedError:
        return ()
    found = []
    for lamp in LAMPS:
        wanted = lab_of_xyz(xyz_of_reflectance(target, lamp), lamp)
        found.append((lamp, float(delta_e_2000(mixer.lab(sets, counts, lamp)[0], wanted))))
    return tuple(found)


def lacking(target_lab: Lab, shelf: tuple[Paint, ...], best: float) -> tuple[str, float] | None:
    """The clean pigment that would bring an out-of-reach target nearest, and the ΔE00 with it; None if none helps.

    What the shelf has already is not named: another black beside a black is a stronger or weaker one, and its name
    would not say so.
    """
    shelf = opaque_of(shelf)
    if len(shelf) < 2:
        return None
    alone = Mixer(shelf)
    usual = float(np.median(alone.surface))
    masstones = alone.lab(np.arange(len(shelf))[:, None], np.ones((len(shelf), 1)))
    found: tuple[str, float] | None = None
    for name, lab in CLEAN:
        constants = guessed(np.array(lab), usual)
        extra = Paint(name, constants.absorption, constants.scattering, source="guess", surface=usual)
        look = Mixer((extra,)).lab(np.array([[0]]), np.array([[1.0]]))
        if float(delta_e_2000(masstones, look).min()) < HAD_ALREADY:
            continue
        search = Search(np.array(target_lab), Mixer((extra, *shelf)), Limits(paints=3))
        sets = nearest_with_first(linear_points(search.target, search.mixer), MOST_WITH)
        search.round_off(*search.settle(sets, None, lambda _: True), ROUNDED)
        error = min((entry[0] for entry in search.best.values()), default=np.inf)
        if error < best - 0.5 and (found is None or error < found[1]):
            found = name, float(error)
    return found
