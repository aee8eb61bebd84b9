"""From a surface's colour to its target, recipes, pots and the amount to mix."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from chalkreel.answers.evidence import SurfaceColour, SurfaceEvidence
from chalkreel.answers.memo import Memo
from chalkreel.answers.stack import StackRow, over_base, stack_of
from chalkreel.core.colour.batch import Batch, Habits, batch_for
from chalkreel.core.colour.characterise import BLACKEST
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.clear_coats import CLEAR_SCATTERING, ClearSwatch, clear_absorption, ground_of, taught_clears
from chalkreel.core.colour.finishing import Chip, Finishing, taught_by
from chalkreel.core.colour.kinds import DROP_ML, MODES, Lab, Mode, Swatch
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.layers import VARNISH_SURFACE, Layer, aim_through
from chalkreel.core.colour.learning import DrySwatch, Lessons, learn
from chalkreel.core.colour.mixing import pot_lab, pot_of
from chalkreel.core.colour.paint import Paint, cup_of
from chalkreel.core.colour.recipe import Limits, Recipe, find_recipes, nearest_single, predict_recipe
from chalkreel.core.colour.rescue import Rescue, rescue
from chalkreel.core.colour.spectra import BANDS
from chalkreel.core.colour.surface_terms import SURFACE, seen
from chalkreel.core.colour.target import Lightened, lightened, picture_lab
from chalkreel.core.colour.verdict import OUT_OF_REACH, Worth, lacking, worth
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.stacks import OVER
from chalkreel.core.materials import SHEENS, Medium
from chalkreel.document.entities import BuildInfo
from chalkreel.document.paint_entities import Drops, FinishChip, PaintPot, PotStep, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
# Searches kept for one shelf: those of a large build, and what was tried before.
DEPTH = 100
# Zones of these roles are painted in their surface's colour.
PAINTED = ("base", *OVER)
Painted = tuple[Recipe, Swatch]


@dataclass(frozen=True)
class TargetRow:
    """What the mix would be to look like in a mode, or why that is not known yet."""

    mode: Mode
    lab: Lab | None
    swatch: Swatch | None
    problem: str = ""


@dataclass(frozen=True)
class Target:
    """The chosen target, lightened; `aim` is the base colour that gets there through the planned layers."""

    mode: Mode
    lab: Lab
    aim: Lab
    lightened_by: float
    words: str = ""


@dataclass(frozen=True)
class Need:
    """How much of a surface's paint its zones want."""

    area_cm2: float
    coats: int
    batch: Batch | None


@dataclass(frozen=True, eq=False)
class PotRow:
    """A pot: what is in it, what its colour should have been after each step, and the way to the target."""

    pot: PaintPot
    drops: Drops
    predicted: tuple[Swatch | None, ...]
    rescue: Rescue | None
    problem: str


@dataclass(frozen=True)
class ClearLaid:
    """What the coats of a clear mix lie on, and what one coat more, or less, moves its look by in ΔE00."""

    over: str
    one_more: float
    one_less: float


@dataclass(frozen=True, eq=False)
class Mixes:
    """All that concerns paint for one surface; `clear` where it is laid in clear coats and a recipe is known."""

    targets: tuple[TargetRow, ...] = ()
    target: Target | None = None
    recipes: tuple[Painted, ...] = ()
    settled: Painted | None = None
    worth: Worth | None = None
    single: Painted | None = None
    lacking: tuple[str, float] | None = None
    need: Need | None = None
    stacks: tuple[StackRow, ...] = ()
    pots: tuple[PotRow, ...] = ()
    problem: str = ""
    clear: ClearLaid | None = None

    @property
    def best(self) -> Painted | None:
        """The recipe to mix."""
        return self.settled or next(iter(self.recipes), None)


class RecipeBook:
    """Searches made with one shelf as it was taught; what was found once is not looked for again.

    `grounds` are brighter than thought by such factors, as strips of clear coats showed.
    """

    def __init__(self, lessons: Lessons, grounds: Mapping[str, float]) -> None:
        self.lessons, self.grounds = lessons, grounds
        self._found = Memo[tuple[Lab, Medium, Limits, bool], tuple[Recipe, ...]](DEPTH)

    def find(self, aim: Lab, medium: Medium, limits: Limits, quick: bool, progress: Progress) -> tuple[Recipe, ...]:
        """Recipes for a colour from what may go into a cup of a medium; `progress` may stop the search.

        Raises
        ------
        RefusedError
            Nothing may go in, or the limits are impossible.
        """
        shelf, taught = cup_of(self.lessons.shelf, medium), self.lessons.corrections

        def search() -> tuple[Recipe, ...]:
            return find_recipes(aim, shelf, limits, lambda _: progress(-1.0), quick, taught)

        return self._found.get((aim, medium, limits, quick), search)


def paint_of(paint: ShelfPaint) -> Paint:
    """A shelf's paint as the arithmetic takes it; a guess of an older build is held to what masstones are."""
    absorption, scattering = np.array(paint.absorption), np.array(paint.scattering)
    surface = SURFACE[paint.sheen] if paint.surface is None else paint.surface
    if paint.clear:
        # However it was read: a clear's colour is one coat's over white, and no film of it hides what is below.
        read = [np.array(d.reflectance) for d in paint.drawdowns if d.share == 1.0 and not d.black]
        look = read[0] if read else seen(reflectance_of(absorption / scattering), surface)
        absorption = clear_absorption(look, paint.coat, surface)
        scattering = np.full(BANDS, CLEAR_SCATTERING)
    elif paint.source == "guess":
        absorption = np.minimum(absorption, BLACKEST * scattering)
    return Paint(
        paint.name, absorption, scattering, paint.medium, paint.sheen, paint.source,
        paint.clear, paint.metallic, paint.drop_ml, paint.price_per_ml, paint.ml_left, paint.coat, surface,
    )  # fmt: skip


def book_of(build: Build, shelf: tuple[Paint, ...]) -> RecipeBook:
    """The shelf as all swatches of the build's pots teach it."""
    opaque, clear = list[DrySwatch](), list[ClearSwatch]()
    for drops, step in (state for pot in build.all(PaintPot) if pot.teaches for state in states(pot)):
        if step.swatch_lab is None:
            continue
        if not step.clear_over:
            opaque.append(DrySwatch(drops, step.swatch_lab))
        elif step.coats and (ground := ground_of(step.clear_over, shelf)) is not None:
            clear.append(ClearSwatch(drops, step.coats, ground, step.swatch_lab))
    lessons = learn(shelf, tuple(opaque))
    strips = taught_clears(lessons.shelf, tuple(clear))
    return RecipeBook(replace(lessons, shelf=strips.shelf), strips.grounds)


def finishing_of(chips: tuple[FinishChip, ...], shelf: tuple[Paint, ...]) -> Finishing:
    """What the build's chips teach of varnishes and washes; one that is not read yet, or of strange paints, nothing."""
    names = {p.name for p in shelf}
    found = []
    for chip in chips:
        strange = chip.layer == "wash" and (not chip.wash or any(name not in names for name, _ in chip.wash))
        if chip.before is None or chip.after is None or strange:
            continue
        sheen = next((s for s in SHEENS if chip.layer == f"{s} varnish"), None)
        wash = pot_of(chip.wash, shelf) if chip.layer == "wash" else None
        over = SURFACE[chip.over] if sheen is not None else VARNISH_SURFACE[chip.over]
        found.append(Chip(chip.before, chip.after, over, sheen, chip.coats, wash))
    return taught_by(tuple(found))


def drops_in(pot: PaintPot) -> Drops:
    """All that went into a pot, by paint."""
    return next(reversed([drops for drops, _ in states(pot)]), ())


def habits_of(info: BuildInfo) -> Habits:
    """How this modeller sprays."""
    return Habits(info.coverage_cm2_per_ml, info.loss_percent / 100.0, info.thinner_parts, info.touch_up_ml)


def targets_of(surface: Surface, evidence: SurfaceEvidence) -> tuple[TargetRow, ...]:
    """The three ways to read the stills, side by side."""
    return tuple(_target_row(mode, surface, evidence) for mode in MODES)


def mixes_of(
    build: Build, surface: Surface, evidence: SurfaceEvidence, book: RecipeBook, areas: Mapping[str, float],
    hand: Finishing, progress: Progress, quick: bool,
) -> Mixes:  # fmt: skip
    """Target, recipes and all that follows; a `quick` look tries single paints and pairs only."""
    targets = targets_of(surface, evidence)
    zones = tuple(z for z in build.all(Zone) if z.surface_id == surface.id)
    medium: Medium = zones[0].medium if zones else "water acrylic"
    lessons = book.lessons
    shelf = cup_of(lessons.shelf, medium)
    cup = _Cup(shelf, tuple(paint_of(p) for p in build.all(ShelfPaint)))
    try:
        target = target_of(surface, targets)
    except RefusedError as refusal:
        return Mixes(targets, problem=str(refusal), pots=_pots(build, surface, cup, None))
    if surface.through and zones:
        target = _aimed(target, over_base(zones[0], lessons.shelf, hand), _usual_surface(shelf))
    recipes, problem = _recipes(surface, book, target, medium, quick, progress)
    settled = predict_recipe(surface.drops, shelf, target.aim, corrections=lessons.corrections)
    best = settled or next(iter(recipes), None)
    if best is None:
        return Mixes(targets, target, problem=problem)
    need = need_of(build, zones, best.drops, shelf, areas)
    single = next(iter(nearest_single(target.aim, shelf)), None)
    nearest = min(r.delta_e for r in (*recipes, best))
    return Mixes(
        targets, target, tuple(painted(r) for r in recipes), painted(settled) if settled else None,
        worth(best, shelf, target.aim, lessons.corrections), painted(single) if single else None,
        lacking(target.aim, shelf, nearest) if nearest > OUT_OF_REACH and not quick else None, need,
        tuple(stack_of(z, best.drops, lessons.shelf, target.lab, hand, lessons.corrections)
              for z in zones if z.role in PAINTED),
        _pots(build, surface, replace(cup, best=best, need=need), target), problem,
    )  # fmt: skip


def _recipes(
    surface: Surface, book: RecipeBook, target: Target, medium: Medium, quick: bool, progress: Progress
) -> tuple[tuple[Recipe, ...], str]:
    """Recipes for the aim, or why there are none."""
    if not book.lessons.shelf:
        return (), ""
    if not cup_of(book.lessons.shelf, medium):
        return (), f"No paint on the shelf is {medium}: it may not be mixed with others."
    limits = Limits(surface.most_paints, surface.most_drops, frozenset(surface.without))
    try:
        return book.find(target.aim, medium, limits, quick, progress), ""
    except RefusedError as refusal:
        return (), str(refusal)


def need_of(
    build: Build, zones: tuple[Zone, ...], drops: Drops, shelf: tuple[Paint, ...], areas: Mapping[str, float]
) -> Need:
    """All zones of the surface together; the coats are those of the zone with most."""
    area, coats = sum(areas[z.id] for z in zones), max((z.coats for z in zones), default=0)
    if not zones:
        return Need(area, coats, None)
    # Zones with fewer coats need less: what counts is area times coats.
    painted_cm2 = sum(areas[z.id] * z.coats for z in zones)
    try:
        return Need(area, coats, batch_for(painted_cm2, 1, drops, shelf, habits_of(build.info)))
    except RefusedError:
        return Need(area, coats, None)


def painted(recipe: Recipe) -> Painted:
    """A recipe with its colour for the screen."""
    return recipe, rgb8_of_lab(recipe.lab)


def _target_row(mode: Mode, surface: Surface, evidence: SurfaceEvidence) -> TargetRow:
    colour: SurfaceColour | None = evidence.colour
    if mode == "object":
        lab = surface.known_lab or (colour.lab if colour else None)
        return _row(mode, lab, evidence.problem or "no still shows it yet")
    if mode == "picture":
        counted = tuple(v.sample.rgb for v in evidence.votes if v.sample is not None and v.counts)
        try:
            return _row(mode, picture_lab(counted), "")
        except RefusedError as refusal:
            return _row(mode, None, str(refusal))
    return _row(mode, surface.free_lab, "no colour of your own is given yet")


def _row(mode: Mode, lab: Lab | None, problem: str) -> TargetRow:
    return TargetRow(mode, lab, rgb8_of_lab(lab) if lab else None, "" if lab else problem)


def target_of(surface: Surface, rows: tuple[TargetRow, ...]) -> Target:
    """The chosen target, lightened, aimed at as it is.

    Raises
    ------
    RefusedError
        It is not known yet.
    """
    row = next(r for r in rows if r.mode == surface.mode)
    if row.lab is None:
        raise RefusedError(row.problem)
    light: Lightened = lightened(row.lab, surface.lighten)
    return Target(surface.mode, light.lab, light.lab, light.moved)


def _aimed(target: Target, over: tuple[Layer, ...], dry: float) -> Target:
    """The target aimed at through the layers planned over it."""
    try:
        return replace(target, aim=aim_through(target.lab, over, dry))
    except RefusedError as refusal:
        return replace(target, words=str(refusal))


def _usual_surface(shelf: tuple[Paint, ...]) -> float:
    """What a mix of this shelf will dry to, before its paints are known."""
    return float(np.median([p.surface for p in shelf])) if shelf else SURFACE["matte"]


def states(pot: PaintPot) -> list[tuple[Drops, PotStep]]:
    """What was in the pot after each of its steps."""
    total: dict[str, int] = {}
    found = []
    for step in pot.steps:
        for name, count in step.drops:
            total[name] = total.get(name, 0) + count
        found.append((tuple(total.items()), step))
    return found


@dataclass(frozen=True, eq=False)
class _Cup:
    """What may go into one cup: the shelf as taught and as labelled, the recipe and the need."""

    shelf: tuple[Paint, ...]
    labelled: tuple[Paint, ...]
    best: Recipe | None = None
    need: Need | None = None


def _pots(build: Build, surface: Surface, cup: _Cup, target: Target | None) -> tuple[PotRow, ...]:
    return tuple(_pot_row(pot, cup, target) for pot in build.all(PaintPot) if pot.surface_id == surface.id)


def _pot_row(pot: PaintPot, cup: _Cup, target: Target | None) -> PotRow:
    drops = drops_in(pot)
    if any(step.clear_over for step in pot.steps):
        return PotRow(pot, drops, (None,) * len(pot.steps), None, "This pot was mixed for clear coats.")
    predicted = tuple(_swatch(so_far, cup.labelled) for so_far, _ in states(pot))
    last = pot.steps[-1].swatch_lab if pot.steps else None
    if last is None or target is None:
        words = "Paint a test swatch, let it dry, and give its colour." if drops else "Write down what went in."
        return PotRow(pot, drops, predicted, None, words if target is not None else "")
    room = int(pot.cup_ml / DROP_ML)
    batch = cup.need.batch if cup.need is not None else None
    wanted = sum(a.drops for a in batch.amounts) if batch is not None else 0
    try:
        way = rescue(drops, last, target.aim, cup.shelf, room, cup.best, wanted)
        return PotRow(pot, drops, predicted, way, "")
    except RefusedError as refusal:
        return PotRow(pot, drops, predicted, None, str(refusal))


def _swatch(drops: Drops, shelf: tuple[Paint, ...]) -> Swatch | None:
    """The colour of an opaque coat of these drops, as the labels have it; None where a paint is not on the shelf."""
    names = {p.name for p in shelf}
    if not drops or any(name not in names for name, _ in drops):
        return None
    return rgb8_of_lab(pot_lab(pot_of(drops, shelf)))
