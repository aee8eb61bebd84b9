"""View-model of Colour (no Qt): patches over the still, the chosen surface in words, what a drag adds."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.app.stills.strokes import Stroke
from chalkreel.app.stills.tools import Points
from chalkreel.build.answers.answers import Answers
from chalkreel.build.answers.colours import SurfaceRow
from chalkreel.build.entities import ColourPatch, Still, Surface, Zone, new_id
from chalkreel.build.gestures import Edits
from chalkreel.build.snapshot import Build
from chalkreel.core.colour.batch import Batch, batch_for
from chalkreel.core.colour.recipe import Recipe
from chalkreel.core.errors import RefusedError
from chalkreel.core.units import parse_number

FEWEST_SIDE_PX = 3.0


def strokes_of(build: Build, still: Still, surface_id: str) -> tuple[Stroke, ...]:
    """The patches on one still; those of the chosen surface are strong."""
    found = []
    for patch in build.all(ColourPatch):
        if patch.still_id != still.id:
            continue
        x, y, w, h = patch.x_px, patch.y_px, patch.width_px, patch.height_px
        surface = build.get(Surface, patch.surface_id)
        corners = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
        # White, not a chalk colour: nothing tinted may stand beside a colour under judgement.
        label = surface.name if surface else "neutral"
        found.append(
            Stroke(
                corners,
                "white",
                label,
                closed=True,
                crosses=False,
                dashed=surface is None,
                strong=patch.surface_id == surface_id and bool(surface_id),
            )
        )
    return tuple(found)


def patch_edits(
    build: Build, still: Still, points: Points, surface: str, neutral: bool, reflectance: str
) -> tuple[Edits, str]:
    """A patch from a drag: of a neutral, of a surface by name, or of a new surface. Also the surface's id.

    Raises
    ------
    RefusedError
        The drag is too small, the surface has no name, or the reflectance is no percentage.
    """
    (x0, y0), (x1, y1) = points
    if min(abs(x1 - x0), abs(y1 - y0)) < FEWEST_SIDE_PX:
        raise RefusedError("This patch is too small. Drag over at least three by three pixels of the still.")
    edits: Edits = {}
    surface_id = ""
    if not neutral:
        if not surface.strip():
            raise RefusedError("Name the surface first: type it above the still, then drag its patch.")
        known = next((s for s in build.all(Surface) if s.name == surface.strip()), None)
        chosen = known or Surface(id=new_id(), name=surface.strip())
        edits[chosen.id], surface_id = chosen, chosen.id
    patch = ColourPatch(
        id=new_id(),
        still_id=still.id,
        surface_id=surface_id,
        x_px=min(x0, x1),
        y_px=min(y0, y1),
        width_px=abs(x1 - x0),
        height_px=abs(y1 - y0),
        reflectance=reflectance_from(reflectance) if neutral else None,
    )
    return {**edits, patch.id: patch}, surface_id


def reflectance_from(text: str) -> float | None:
    """A percentage as a share, or None when it is not known."""
    if not text.strip():
        return None
    value = parse_number(text.strip().removesuffix("%")) / 100
    if not 0.01 <= value <= 1.0:
        raise RefusedError("A neutral’s reflectance lies between 1 % and 100 %. Leave it empty if unknown.")
    return value


def chosen_row(answers: Answers | None, surface_id: str) -> SurfaceRow | None:
    """The chosen surface, or the first."""
    rows = answers.colours.surfaces if answers and answers.colours else ()
    return next((r for r in rows if r.surface_id == surface_id), next(iter(rows), None))


def recipe_words(recipe: Recipe) -> str:
    """'12 titanium white + 7 yellow ochre'."""
    return " + ".join(f"{count} {name}" for name, count in recipe.drops)


def lab_words(lab: tuple[float, float, float]) -> str:
    """A colour in numbers."""
    return f"L* {lab[0]:.1f}  a* {lab[1]:+.1f}  b* {lab[2]:+.1f}"


def certainty_words(row: SurfaceRow) -> str:
    """The chromatic part with its ±, and the whole ± in ΔE."""
    if row.colour is None:
        return row.problem
    stills = sum(v.vote is not None for v in row.votes)
    _, a, b = row.colour.lab
    each = 1.96 * row.colour.sigma_ab
    return f"a* {a:+.1f}, b* {b:+.1f}, each ± {each:.1f}; in all ± ΔE00 {row.colour.delta_e:.1f} from {stills} stills"


def closeness(recipe: Recipe) -> tuple[str, str]:
    """How near the mix comes, in words, and the state of it."""
    words = f"ΔE00 {recipe.delta_e:.1f} to the target: "
    if recipe.delta_e <= 1.0:
        return words + "no difference by eye", "good"
    if recipe.delta_e <= 2.0:
        return words + "close", "good"
    return words + "visible; a paint is lacking on the shelf", "warn"


@dataclass(frozen=True)
class Need:
    """How much of a surface's paint its zones want."""

    area_cm2: float
    coats: int
    batch: Batch | None


def need(build: Build, row: SurfaceRow) -> Need:
    """All zones of the surface together; the coats are those of the zone with most."""
    zones = [z for z in build.all(Zone) if z.surface_id == row.surface_id]
    area, coats = sum(z.area_cm2 for z in zones), max((z.coats for z in zones), default=0)
    if not zones or row.best is None:
        return Need(area, coats, None)
    return Need(area, coats, batch_for(area, coats, row.best[0].drops))


def fault_words(row: SurfaceRow) -> tuple[str, ...]:
    """What is wrong with the patches of a surface."""
    words = []
    for v in row.votes:
        if v.problem:
            words.append(v.problem)
        elif v.sample is not None and v.sample.clipped_share > 0.02:
            words.append(f"still {v.still_number}: {100 * v.sample.clipped_share:.0f} % of the patch is clipped")
    return tuple(dict.fromkeys(words))
