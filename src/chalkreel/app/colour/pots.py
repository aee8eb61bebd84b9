"""View-model of the Pots page (no Qt): a pot's history and additions as cells, and reading what was typed."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.mixes import PotRow
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.kinds import DROP_ML, Lab, Swatch
from chalkreel.core.colour.typed_colour import lab_of_reflectance
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import Drops, PaintPot, PotStep, ShelfPaint
from chalkreel.document.snapshot import Build

CUP_ML = 10.0


@dataclass(frozen=True)
class Cell:
    """One swatch of the strip; `ahead` is what would be."""

    swatch: Swatch | None
    words: str
    ahead: bool = False


def title(row: PotRow) -> str:
    """The pot's name, what is in it, and what is kept of it."""
    total = sum(count for _, count in row.drops)
    words = f"{row.pot.label}: {total} drops in a cup of {row.pot.cup_ml:g} ml"
    if row.pot.kept_ml:
        words += f"; {row.pot.kept_ml:g} ml kept for touch-up: {drops_words(row.drops)}"
    return words


def cells(row: PotRow) -> tuple[Cell, ...]:
    """Every step so far, then every addition."""
    found = []
    for step, predicted in zip(row.pot.steps, row.predicted, strict=True):
        when = step.at[:16].replace("T", " ")
        if step.swatch_lab is not None:
            coats = f", {plural(step.coats, 'coat')} over {step.clear_over}" if step.clear_over else ""
            found.append(Cell(rgb8_of_lab(step.swatch_lab), f"{when}\ndry test swatch{coats}"))
        else:
            found.append(Cell(predicted, f"{when}\n{drops_words(step.drops)}\nas its labels foretell"))
    for addition in row.rescue.steps if row.rescue is not None else ():
        words = f"add {addition.drops} {addition.name}\nthen ΔE00 {addition.delta_e:.1f}"
        found.append(Cell(rgb8_of_lab(addition.lab), words, ahead=True))
    return tuple(found)


def drops_words(drops: Drops) -> str:
    """'12 titanium white, 7 yellow ochre'."""
    return ", ".join(f"{count} {name}" for name, count in drops)


def drops_from(text: str, build: Build) -> Drops:
    """Drops by paint from '6 titanium white, 2 yellow ochre'.

    Raises
    ------
    RefusedError
        A part without a number, or a paint that is not on the shelf.
    """
    names = {p.name.casefold(): p.name for p in build.all(ShelfPaint)}
    found = []
    for part in text.replace("+", ",").replace(";", ",").split(","):
        count, _, name = part.strip().partition(" ")
        if not part.strip():
            continue
        if not count.isdigit() or not 1 <= int(count) <= 2000:
            raise RefusedError("Write drops like: 6 titanium white, 2 yellow ochre.")
        if name.strip().casefold() not in names:
            raise RefusedError(f"“{name.strip()}” is not on the shelf.")
        found.append((names[name.strip().casefold()], int(count)))
    if not found:
        raise RefusedError("Write drops like: 6 titanium white, 2 yellow ochre.")
    return tuple(found)


def new_pot(build: Build, row: SurfaceRow, at: str) -> PaintPot:
    """A cup with as many repeats of the recipe as the job wants and the cup takes."""
    assert row.best is not None
    recipe = row.best[0]
    need = row.mixes.need
    bottle = {p.name: p.drop_ml for p in build.all(ShelfPaint)}
    once = sum(count * bottle.get(name, DROP_ML) for name, count in recipe.drops)
    wanted = need.batch.repeats if need is not None and need.batch is not None else 1
    repeats = max(1, min(wanted, int(0.8 * CUP_ML / once)))
    number = sum(p.surface_id == row.surface_id for p in build.all(PaintPot)) + 1
    drops = tuple((name, count * repeats) for name, count in recipe.drops)
    return PaintPot(
        id=new_id(), surface_id=row.surface_id, label=f"{row.name}, pot {number}", cup_ml=CUP_ML,
        steps=(PotStep(at, drops),),
    )  # fmt: skip


def lab_of_file(data: bytes) -> Lab:
    """The colour of the first reading in a meter's file."""
    from chalkreel.exchange.readings import parse_readings

    return lab_of_reflectance(parse_readings(data)[0].reflectance)


def kept_from(text: str, pot: PaintPot) -> float:
    """The remainder in ml.

    Raises
    ------
    RefusedError
        Less than nothing, or more than the cup holds.
    """
    value = parse_number(text.strip().removesuffix("ml")) if text.strip() else 0.0
    if not 0 <= value <= pot.cup_ml:
        raise RefusedError(f"The remainder lies between 0 and {pot.cup_ml:g} ml.")
    return value


def rescue_words(row: PotRow) -> tuple[tuple[str, str], ...]:
    """What to do with the pot, each line with its state."""
    rescue = row.rescue
    if rescue is None:
        return ((row.problem, "quiet"),) if row.problem else ()
    if rescue.now <= 1.0:
        return ((f"The pot is right: ΔE00 {rescue.now:.1f}. Spray it.", "good"),)
    found = [(f"The swatch is off by ΔE00 {rescue.now:.1f}.", "warn")]
    for number, step in enumerate(rescue.steps, start=1):
        drops = "drop" if step.drops == 1 else "drops"
        found.append((f"{number}. Add {step.drops} {drops} {step.name}, stir: ΔE00 {step.delta_e:.1f}", "plain"))
    if rescue.start_again:
        found.append((rescue.start_again, "warn"))
    return tuple(found)


def taught_words(strengths: dict[str, float], drops: Drops) -> tuple[str, ...]:
    """Bottles in a pot that turned out stronger or weaker than thought."""
    found = []
    for name, _ in drops:
        factor = strengths.get(name, 1.0)
        if abs(factor - 1.0) > 0.04:
            way = "stronger" if factor > 1 else "weaker"
            found.append(f"{name} is {100 * abs(factor - 1):.0f} % {way} than its swatches said")
    return tuple(found)
