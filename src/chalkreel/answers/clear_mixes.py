"""From a surface's colour to clear coats over a ground: recipes, how many coats, what a test strip taught."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from chalkreel.answers.evidence import SurfaceEvidence
from chalkreel.answers.mixes import (
    PAINTED,
    ClearLaid,
    Mixes,
    PotRow,
    Progress,
    RecipeBook,
    drops_in,
    need_of,
    paint_of,
    painted,
    states,
    target_of,
    targets_of,
)
from chalkreel.answers.stack import over_base, stack_of
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.clear_coats import (
    ClearMixer,
    brightened,
    clear_look,
    find_clear_recipes,
    ground_of,
    predict_clear,
)
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.finishing import Finishing
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.layers import Layer
from chalkreel.core.colour.paint import Paint, cup_of
from chalkreel.core.colour.recipe import Limits, Recipe
from chalkreel.core.colour.verdict import worth_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.document.paint_entities import PaintPot, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

# A first answer tries pairs of clears.
QUICK_PAINTS = 2
RIGHT = 1.0


def clear_mixes_of(
    build: Build, surface: Surface, evidence: SurfaceEvidence, book: RecipeBook, areas: Mapping[str, float],
    hand: Finishing, progress: Progress, quick: bool,
) -> Mixes:  # fmt: skip
    """Target, recipes and all that follows of a surface that is laid in clear coats.

    Where the mix aims through varnish and wash, they lie over the coats while these are searched.
    """
    targets = targets_of(surface, evidence)
    zones = tuple(z for z in build.all(Zone) if z.surface_id == surface.id)
    shelf = book.lessons.shelf
    cup = cup_of(shelf, zones[0].medium if zones else "water acrylic")
    ground = ground_of(surface.clear_over, shelf)
    target = None
    try:
        target = target_of(surface, targets)
        if ground is None:
            raise RefusedError(f"“{surface.clear_over}”, which the coats lie on, is not on the shelf any more.")
        ground = brightened(ground, book.grounds.get(ground.name, 1.0))
        over = over_base(zones[0], shelf, hand) if surface.through and zones else ()
        most = min(surface.most_paints, QUICK_PAINTS) if quick else surface.most_paints
        limits = Limits(most, surface.most_drops, frozenset(surface.without))
        recipes = find_clear_recipes(target.lab, cup, ground, over, limits, lambda _: progress(-1.0))
    except RefusedError as refusal:
        return Mixes(targets, target, problem=str(refusal))
    settled = predict_clear(surface.drops, surface.clear_coats or 1, cup, ground, over, target.lab)
    best = settled or recipes[0]
    labelled = tuple(paint_of(p) for p in build.all(ShelfPaint))
    mixer = _mixer(best, cup, ground, over)
    # A strip is judged before varnish.
    wanted = clear_look(best.drops, best.coats, cup, ground) if over else target.lab
    return Mixes(
        targets, target, tuple(painted(r) for r in recipes), painted(settled) if settled else None,
        worth_of(best, mixer, target.lab), need=need_of(build, zones, best.drops, cup, areas),
        stacks=tuple(stack_of(z, best.drops, shelf, target.lab, hand, clear_over=ground)
                     for z in zones if z.role in PAINTED),
        pots=tuple(_pot_row(p, surface, labelled, ground, best, wanted)
                   for p in build.all(PaintPot) if p.surface_id == surface.id),
        clear=ClearLaid(
            surface.clear_over, _moved(best, mixer, best.coats + 1), _moved(best, mixer, best.coats - 1)
        ),
    )  # fmt: skip


def _mixer(recipe: Recipe, shelf: tuple[Paint, ...], ground: Layer, over: tuple[Layer, ...]) -> ClearMixer:
    by_name = {p.name: p for p in shelf}
    return ClearMixer(tuple(by_name[name] for name, _ in recipe.drops), ground, over, recipe.coats)


def _moved(recipe: Recipe, mixer: ClearMixer, coats: int) -> float:
    """ΔE00 that so many coats, in the place of the recipe's, move its look by."""
    other = ClearMixer(mixer.paints, mixer.ground, mixer.over, coats)
    sets, counts = np.arange(len(mixer.paints))[None], np.array([[float(n) for _, n in recipe.drops]])
    return float(delta_e_2000(other.lab(sets, counts)[0], np.array(recipe.lab)))


def _pot_row(
    pot: PaintPot, surface: Surface, labelled: tuple[Paint, ...], ground: Layer, best: Recipe, wanted: Lab | None
) -> PotRow:
    """A pot of a clear mix. Its strip is put right by other drops or coats, not by drops that hide."""
    steps = states(pot)
    looks = tuple(clear_look(drops, best.coats, labelled, ground) for drops, _ in steps)
    strip = next((step.swatch_lab for _, step in reversed(steps) if step.swatch_lab is not None), None)
    words = (
        f"Spray a test strip over {surface.clear_over}: {plural(best.coats, 'coat')} of it. Let it dry, and give its "
        "colour."
    )
    if strip is not None and wanted is not None:
        off = float(delta_e_2000(np.array(strip), np.array(wanted)))
        words = (
            f"The strip is off by ΔE00 {off:.1f}. The mixes on Mix count what it taught of your coats: settle on one."
        )
        if off <= RIGHT:
            words = f"The strip is right: ΔE00 {off:.1f}. Spray it so."
    return PotRow(pot, drops_in(pot), tuple(rgb8_of_lab(lab) if lab else None for lab in looks), None, words)
