"""Edits of the Colour stage: patches and pots."""

from __future__ import annotations

import msgspec
import numpy as np

from chalkreel.answers.mixes import drops_in
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.colour.kinds import DROP_ML, Lab
from chalkreel.core.colour.typed_colour import checked_lab
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.carry import carry, face_under, surrounds
from chalkreel.document.changes import Edits
from chalkreel.document.entities import FlatSet, Landmark, Outline, Still
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import ColourPatch, Drops, PaintPot, PotStep, Primer, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

Points = tuple[tuple[float, float], ...]
FEWEST_SIDE_PX = 3.0


def patch_over(still: Still, surface_id: str, points: Points, brush_px: float = 0.0, facet: str = "") -> ColourPatch:
    """A patch of a polygon, or of a brush's path.

    Raises
    ------
    RefusedError
        It covers less than three by three pixels.
    """
    xs, ys = zip(*points, strict=True)
    left, right = min(xs) - brush_px, max(xs) + brush_px
    top, bottom = min(ys) - brush_px, max(ys) + brush_px
    if min(right - left, bottom - top) < FEWEST_SIDE_PX or (len(points) < 3 and not brush_px):
        raise RefusedError("This patch is too small. Cover at least three by three pixels of the still.")
    return ColourPatch(
        id=new_id(), still_id=still.id, surface_id=surface_id, x_px=left, y_px=top, width_px=right - left,
        height_px=bottom - top, outline=points, brush_px=brush_px, facet=facet,
    )  # fmt: skip


def box_patch(still: Still, surface_id: str, points: Points) -> ColourPatch:
    """A patch of a dragged rectangle.

    Raises
    ------
    RefusedError
        It covers less than three by three pixels.
    """
    (x0, y0), (x1, y1) = points
    if min(abs(x1 - x0), abs(y1 - y0)) < FEWEST_SIDE_PX:
        raise RefusedError("This patch is too small. Cover at least three by three pixels of the still.")
    return ColourPatch(
        id=new_id(), still_id=still.id, surface_id=surface_id, x_px=min(x0, x1), y_px=min(y0, y1),
        width_px=abs(x1 - x0), height_px=abs(y1 - y0),
    )  # fmt: skip


def surface_named(build: Build, name: str) -> Surface:
    """The surface of a name, or a new one.

    Raises
    ------
    RefusedError
        No name.
    """
    if not name.strip():
        raise RefusedError("Name the surface first: type it above the still, then take its patch.")
    known = next((s for s in build.all(Surface) if s.name == name.strip()), None)
    return known or Surface(id=new_id(), name=name.strip())


def patch_from_outline(build: Build, still: Still, surface_id: str) -> ColourPatch:
    """A patch of the panel traced last on a squared-up still.

    Raises
    ------
    RefusedError
        Nothing is traced there.
    """
    traced = [o for o in build.all(Outline) if o.still_id == still.id and o.closed]
    if not traced:
        raise RefusedError("No panel is traced on this still. Trace one in Measure (T) on a squared-up still.")
    return patch_over(still, surface_id, tuple((m.x_px, m.y_px) for m in traced[-1].points))


def carried_patch(build: Build, reel: ReelAnswer, patch: ColourPatch, target: Still) -> ColourPatch:
    """The same patch on another still, found from the solved model.

    Raises
    ------
    RefusedError
        One of the stills is not tied in, or no plane of landmarks lies under the patch.
    """
    source = build.get(Still, patch.still_id)
    if reel.solution is None or source is None:
        raise RefusedError("The reel is not solved yet: mark landmarks on both stills in Measure.")
    solution = reel.solution
    lost = [s.number for s in (source, target) if s.id not in solution.layout.views]
    if lost:
        raise RefusedError(f"Still {lost[0]} is not tied in. Mark landmarks on it in Measure.")
    here, there = solution.camera(source.id), solution.camera(target.id)
    outline = np.array(patch.outline if patch.outline and not patch.brush_px else region_box(patch))
    plane = _plane_under(build, reel, source, outline.mean(axis=0))
    found = carry(outline, plane, here, there)
    points = tuple((float(x), float(y)) for x, y in found)
    return patch_over(target, patch.surface_id, points, facet=patch.facet)


def carried_to_next(
    build: Build, reel: ReelAnswer, patch: ColourPatch, taken: set[str]
) -> tuple[ColourPatch | None, Still | None, str]:
    """The patch on the next still of the same version that shows its face and has none yet, or why there is none."""
    stills = build.all(Still)
    source = build.get(Still, patch.still_id)
    at = stills.index(source) if source is not None else 0
    problem = ""
    for still in (*stills[at + 1 :], *stills[:at]):
        if still.id in taken or source is None or still.version_id != source.version_id or still.squared is not None:
            continue
        try:
            return carried_patch(build, reel, patch, still), still, ""
        except RefusedError as refusal:
            problem = problem or f"Still {still.number}: {refusal}"
    return None, None, problem


def region_box(patch: ColourPatch) -> Points:
    """The corners of a patch's rectangle."""
    x, y, w, h = patch.x_px, patch.y_px, patch.width_px, patch.height_px
    return ((x, y), (x + w, y), (x + w, y + h), (x, y + h))


def stirred(build: Build, pot: PaintPot, drops: Drops, at: str) -> Edits:
    """The pot with more drops in it.

    Raises
    ------
    RefusedError
        No drop, or more than the cup holds.
    """
    if not drops or any(not 1 <= count <= 2000 for _, count in drops):
        raise RefusedError("Say what went in: at least one drop.")
    bottle = {p.name: p.drop_ml for p in build.all(ShelfPaint)}
    total = sum(count * bottle.get(name, DROP_ML) for name, count in (*drops_in(pot), *drops))
    if total > pot.cup_ml * 1.001:
        raise RefusedError(f"That makes {total:.1f} ml; the cup holds {pot.cup_ml:g} ml.")
    return {pot.id: _with_step(pot, PotStep(at, drops))}


def swatched(pot: PaintPot, lab: Lab, at: str, clear_over: str = "", coats: int = 0) -> Edits:
    """The pot with the colour of its dry test swatch; of a clear mix, of so many coats over a ground.

    Raises
    ------
    RefusedError
        Nothing is in it, or the colour is impossible.
    """
    if not drops_in(pot):
        raise RefusedError("Nothing is in this pot yet. Write down its drops first.")
    return {pot.id: _with_step(pot, PotStep(at, (), checked_lab(lab), clear_over, coats))}


def settled_on(build: Build, surface: Surface, drops: Drops, coats: int) -> Edits:
    """A recipe settled on; of clears, the zones get as many coats as it counts on, and the primer below them."""
    edits: Edits = {surface.id: msgspec.structs.replace(surface, drops=drops, clear_coats=coats)}
    for zone in _zones_of(build, surface) if coats else ():
        edits[zone.id] = msgspec.structs.replace(zone, coats=coats, primer=_primer(surface.clear_over))
    return edits


def laid_clear(build: Build, surface: Surface, ground: str) -> Edits:
    """The surface laid in clear coats over a ground, or (no ground) in paint that hides what is below.

    Its zones are primed as that needs; a recipe settled on was for other paints.
    """
    edits: Edits = {surface.id: msgspec.structs.replace(surface, clear_over=ground, drops=(), clear_coats=0)}
    for zone in _zones_of(build, surface) if ground else ():
        edits[zone.id] = msgspec.structs.replace(zone, primer=_primer(ground))
    return edits


def _zones_of(build: Build, surface: Surface) -> tuple[Zone, ...]:
    return tuple(zone for zone in build.all(Zone) if zone.surface_id == surface.id)


def _primer(ground: str) -> Primer:
    """What is sprayed below clear coats over a ground."""
    return "white" if ground == "white" else "silver"


def _with_step(pot: PaintPot, step: PotStep) -> PaintPot:
    return msgspec.structs.replace(pot, steps=(*pot.steps, step))


def _plane_under(build: Build, reel: ReelAnswer, still: Still, centre: Array) -> Array:
    """Points (M, 3) of the flat whose landmarks surround the patch, or of the face that landmarks round it make."""
    assert reel.solution is not None
    solution = reel.solution
    placed = {m.id: solution.point(m.id) for m in build.all(Landmark) if m.id in solution.layout.blocks}
    camera = solution.camera(still.id)
    projected = {i: camera.project(p[None])[0] for i, p in placed.items()}
    seen = {i: xy for i, xy in projected.items() if np.isfinite(xy).all()}
    flats = [[i for i in f.landmark_ids if i in seen] for f in build.all(FlatSet)]
    flats = [ids for ids in flats if len(ids) >= 3 and surrounds(np.array([seen[i] for i in ids]), centre)]
    if flats:
        ids = min(flats, key=lambda ids: float(np.ptp([seen[i] for i in ids], axis=0).sum()))
        return np.stack([placed[i] for i in ids])
    if not seen:
        raise RefusedError("No landmark is solved yet. Mark some on two stills in Measure.")
    return face_under(np.stack([placed[i] for i in seen]), np.stack(list(seen.values())), centre)
