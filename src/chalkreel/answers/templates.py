"""Templates at the replica's scale from traced outlines and collars, and the map of marks on each panel."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from chalkreel.answers.face_templates import face_template
from chalkreel.answers.faces import Faces
from chalkreel.answers.sizes import Sizes
from chalkreel.answers.traced import plane_now, traced_within
from chalkreel.answers.wording import name_of
from chalkreel.core.draft.labels import placed
from chalkreel.core.draft.node import Node
from chalkreel.core.draft.sheet import Path, Ring, Sheet, Words, in_rows, merged
from chalkreel.core.draft.template import Template, curve, template_sheet, unrolled
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit, format_length, small_length
from chalkreel.core.measure.quantities import on_circle
from chalkreel.core.measure.repeats import Repeats, find_repeats
from chalkreel.document.entities import Collar, Landmark, Outline, RepeatedParts, SkinFace, Spot, Still
from chalkreel.document.snapshot import Build

NEAR_PLANE = 0.03
STROKE_MM = 4.0
# Arcs that cross at less than this miss along themselves by twice the compasses' own error; what lies as near as that
# to a place needs no second one.
LEAST_CROSSING_DEG, LEAST_GAP_MM = 30.0, 0.5


@dataclass(frozen=True)
class SpotRow:
    """A mark on a panel in mm of the replica: size, direction (degrees from the panel's right, upwards), and its
    distances from two landmarks, corners or edges of the panel. One on a face says how surely it lies there (95 %)."""

    spot_id: str
    name: str
    still_id: str
    x_mm: float
    y_mm: float
    length_mm: float
    angle_deg: float
    nearest: tuple[tuple[str, float], ...]
    within_mm: float = 0.0
    face_key: str = ""


def replica_mm_per_px(build: Build, still: Still) -> float:
    """The scale of a squared-up still on the replica.

    Raises
    ------
    RefusedError
        The still is not squared up.
    """
    if still.squared is None:
        raise RefusedError("Square a plane up first: outlines and marks are true to size only on a squared-up still.")
    return build.chain.convert(still.squared.mm_per_px, "miniature", "replica")


def template_of(build: Build, outline: Outline) -> Template:
    """An outline as a template in mm of the replica, y up."""
    still = build.get(Still, outline.still_id)
    assert still is not None
    scale = replica_mm_per_px(build, still)
    nodes = tuple(
        Node(m.x_px * scale, (still.height_px - m.y_px) * scale, bend)
        for m, bend in zip(outline.points, outline.bends, strict=True)
    )
    return Template(
        outline.name,
        nodes,
        outline.layer,
        outline.closed,
        outline.mirror,
        outline.allowance_mm,
        outline.edges,
        corner=outline.corner,
        sheet_mm=outline.sheet_mm,
        unit=build.info.unit,
    )


def outline_points(outline: Outline) -> tuple[tuple[float, float], ...]:
    """The outline's curve in the still's own pixels; its corners alone where it cannot be drawn."""
    nodes = tuple(Node(m.x_px, m.y_px, bend) for m, bend in zip(outline.points, outline.bends, strict=True))
    try:
        return curve(nodes, outline.closed)
    except RefusedError:
        return tuple((n.x, n.y) for n in nodes)


def templates(build: Build, sizes: Sizes, faces: Faces) -> tuple[Sheet, tuple[str, ...]]:
    """All templates on one sheet, and what could not be drawn, in words."""
    sheets, problems = [], []
    for outline in build.all(Outline):
        try:
            sheets.append(_outline_sheet(build, sizes, outline))
        except RefusedError as refusal:
            problems.append(f"{outline.name}: {refusal}")
    for collar in build.all(Collar):
        try:
            sheets.append(unrolled(collar.name, collar.lower_mm, collar.upper_mm, collar.height_mm))
        except RefusedError as refusal:
            problems.append(f"{collar.name}: {refusal}")
    for parts in build.all(RepeatedParts):
        try:
            sheets.append(_ring(build, sizes, parts))
        except RefusedError as refusal:
            problems.append(f"{parts.name}: {refusal}")
    for face in build.all(SkinFace):
        try:
            sheets += [face_template(build, faces, sizes.reel, face)] * face.template
        except RefusedError as refusal:
            problems.append(f"{face.name}: {refusal}")
    name = f"{build.info.name}, templates at 1:{build.chain.replica_ratio:.4g}"
    return replace(in_rows(name, sheets), unit=build.info.unit), tuple(problems)


def _outline_sheet(build: Build, sizes: Sizes, outline: Outline) -> Sheet:
    """A traced outline as a template, and how surely it has its size, as far as clicks and landmarks tell."""
    sheet, within = template_sheet(template_of(build, outline)), traced_within(build, sizes.reel, outline)
    if within is None:
        return sheet
    x0, y0, _, _ = sheet.bounds()
    told = Words(
        (x0, y0 - 3.5), f"by clicks and scale ± {format_length(within, build.info.unit)}; parallax not counted", 2.2
    )
    return replace(sheet, words=(*sheet.words, told))


def repeats_of(build: Build, sizes: Sizes, parts: RepeatedParts) -> Repeats:
    """Parts round a rim in mm of the replica.

    Raises
    ------
    RefusedError
        Neither a squared-up still nor a solved circle says how large they are, or they are not regular.
    """
    still = build.get(Still, parts.still_id)
    assert still is not None
    stored = np.array([(m.x_px, m.y_px) for m in parts.marks])
    if still.squared is not None:
        scale = replica_mm_per_px(build, still)
        return find_repeats(stored * np.array([scale, -scale]))
    solution, circle, view = sizes.reel.solution, parts.circle_id, still.id
    if solution is None or circle not in solution.layout.circles or view not in solution.layout.views:
        raise RefusedError("Choose a circle whose rim is solved, or click the parts on a squared-up still.")
    flat = on_circle(solution, view, circle, parts.mirrored, stored)
    return find_repeats(flat * build.chain.convert(1.0, "miniature", "replica"))


def _ring(build: Build, sizes: Sizes, parts: RepeatedParts) -> Sheet:
    """The rim with a stroke at every place; every other one on the inside where they alternate."""
    found = repeats_of(build, sizes, parts)
    paths = []
    for place in range(found.count):
        turn = math.radians(found.first_deg + place * found.pitch_deg)
        inward = -1.0 if parts.alternate and place % 2 else 1.0
        ends = (found.radius, found.radius + inward * STROKE_MM)
        first, second = ((r * math.cos(turn), r * math.sin(turn)) for r in ends)
        paths.append(Path((first, second), "cut" if place in found.places else "register"))
    cross = [Path(((-2.0, 0.0), (2.0, 0.0)), "register"), Path(((0.0, -2.0), (0.0, 2.0)), "register")]
    # In lines: one long one would take the width of a page.
    lines = (parts.name, *repeats_words(found, build.info.unit).split(", on "))
    below = -found.radius - STROKE_MM - 6.0
    words = tuple(
        Words((0.0, below - 4.0 * n), f"on {line}" if n > 1 else line, 2.2, centred=True)
        for n, line in enumerate(lines)
    )
    return Sheet(parts.name, (*paths, *cross), (Ring((0.0, 0.0), found.radius, "outline"),), words)


def repeats_words(found: Repeats, unit: LengthUnit) -> str:
    """Count, angle, diameter and misfit."""
    across = 2 * found.radius
    across_words, misfit = format_length(across, unit), small_length(found.misfit, unit)
    return f"{found.count} parts, every {found.pitch_deg:.4g}°, on Ø {across_words}, misfit {misfit}"


def spot_rows(build: Build, sizes: Sizes) -> tuple[SpotRow, ...]:
    """Every mark that lies on a squared-up still."""
    found = []
    for spot in build.all(Spot):
        still = build.get(Still, spot.still_id)
        if still is None or still.squared is None:
            continue
        scale = replica_mm_per_px(build, still)
        x, y = (spot.a.x_px + spot.b.x_px) / 2 * scale, (still.height_px - (spot.a.y_px + spot.b.y_px) / 2) * scale
        dx, dy = (spot.b.x_px - spot.a.x_px) * scale, (spot.a.y_px - spot.b.y_px) * scale
        known = _known_places(build, sizes, still, scale)
        near = _struck_from(known | _corners(still, scale), (x, y))
        found.append(SpotRow(spot.id, spot.name, still.id, x, y, math.hypot(dx, dy), _lean(dx, dy), near))
    return tuple(found)


def _struck_from(known: dict[str, tuple[float, float]], at: tuple[float, float]) -> tuple[tuple[str, float], ...]:
    """The two nearest places from which arcs struck with compasses cross well at a place."""
    near = sorted((math.dist(place, at), name) for name, place in known.items())
    for (gap, name), (other_gap, other) in sorted(combinations(near, 2), key=lambda pair: pair[0][0] + pair[1][0]):
        if gap < LEAST_GAP_MM or _crossing_deg(known[name], known[other], at) >= LEAST_CROSSING_DEG:
            return (name, gap), (other, other_gap)
    return tuple((name, gap) for gap, name in near[:2])


def _crossing_deg(a: tuple[float, float], b: tuple[float, float], at: tuple[float, float]) -> float:
    """The angle, up to 90°, at which arcs round two places cross."""
    turn = math.degrees(math.atan2(a[1] - at[1], a[0] - at[0]) - math.atan2(b[1] - at[1], b[0] - at[0])) % 180.0
    return min(turn, 180.0 - turn)


def _lean(dx: float, dy: float) -> float:
    """Degrees from the panel's right, above -90 to 90: a streak has no first end."""
    return 90.0 - (90.0 - math.degrees(math.atan2(dy, dx))) % 180.0


def _known_places(build: Build, sizes: Sizes, still: Still, scale: float) -> dict[str, tuple[float, float]]:
    """Landmarks in the panel's plane, in mm of the replica on it, y up; the panel's corners where there are none."""
    known, height = landmarks_on(build, sizes, still), still.height_px * scale
    found = {name_of(build, key): (x * scale, height - y * scale) for key, (x, y) in known.items()}
    return found if len(found) > 1 else _corners(still, scale)


def _corners(still: Still, scale: float) -> dict[str, tuple[float, float]]:
    """The panel's corners in mm of the replica, y up."""
    width, height = still.width_px * scale, still.height_px * scale
    return {"lower left corner": (0.0, 0.0), "lower right corner": (width, 0.0),
            "upper left corner": (0.0, height), "upper right corner": (width, height)}  # fmt: skip


def landmarks_on(build: Build, sizes: Sizes, still: Still) -> dict[str, tuple[float, float]]:
    """Solved landmarks that lie in a squared-up still's plane, by id, at their own place in its stored pixels.

    That is where the solver has them now, seen straight from above; the picture shows what stands out of the plane
    aside. None where too little of what it was squared up by is still solved.
    """
    plane, solution = plane_now(sizes.reel, still), sizes.reel.solution
    if plane is None or solution is None:
        return {}
    keys = [m.id for m in build.all(Landmark) if m.id in solution.layout.blocks]
    places, off = plane.on_picture(np.array([solution.point(key) for key in keys]))
    size = np.array([still.width_px, still.height_px])
    there = np.all((places >= 0) & (places <= size), axis=1) & (off < NEAR_PLANE * size.max())
    return {key: (float(x), float(y)) for key, (x, y), is_there in zip(keys, places, there, strict=True) if is_there}


def spot_map(build: Build, sizes: Sizes, still: Still) -> Sheet:
    """A panel with its marks, at true size, to lay beside the model.

    Raises
    ------
    RefusedError
        The still is not squared up.
    """
    scale = replica_mm_per_px(build, still)
    width, height = still.width_px * scale, still.height_px * scale
    frame = Path(((0.0, 0.0), (width, 0.0), (width, height), (0.0, height)), "outline", closed=True)
    paths, words = [frame], [Words((0.0, -7.0), still.title, 3.0)]
    labels: list[Words] = []
    rows = [row for row in spot_rows(build, sizes) if row.still_id == still.id]
    measured_from = {name for row in rows for name, _ in row.nearest}
    known = _known_places(build, sizes, still, scale)
    used = {name: at for name, at in _corners(still, scale).items() if name in measured_from}
    for name, (x, y) in (used | known).items():
        paths += [Path(((x - 1, y), (x + 1, y)), "register"), Path(((x, y - 1), (x, y + 1)), "register")]
        if name in measured_from:
            labels.append(Words((x + 1.2, y + 0.4), name, 1.8))
    for number, row in enumerate(rows, start=1):
        turn = math.radians(row.angle_deg)
        half = max(row.length_mm, 0.6) / 2
        dx, dy = half * math.cos(turn), half * math.sin(turn)
        paths.append(Path(((row.x_mm - dx, row.y_mm - dy), (row.x_mm + dx, row.y_mm + dy)), "mask"))
        labels.insert(number - 1, Words((row.x_mm + 0.8, row.y_mm + 0.8), str(number), 2.0))
        words.append(Words((0.0, -7.0 - 4.0 * number), f"{number}. {spot_words(row, build.info.unit)}", 2.0))
    outlines = [Path(curve(template_of(build, o).nodes, o.closed), "outline", o.closed)
                for o in build.all(Outline) if o.still_id == still.id]  # fmt: skip
    sheet = merged(
        f"{still.title}, marks at 1:{build.chain.replica_ratio:.4g}",
        [Sheet("", (*paths, *outlines), (), (*words, *placed(labels)))],
    )
    return replace(sheet, unit=build.info.unit)


def spot_words(row: SpotRow, unit: LengthUnit) -> str:
    """Size, direction and place in words."""
    near = " and ".join(f"{format_length(mm, unit)} from {name}" for name, mm in row.nearest)
    within = f", ± {format_length(row.within_mm, unit)}" if row.within_mm else ""
    return f"{row.name}: {format_length(row.length_mm, unit)} at {row.angle_deg:.0f}°, {near}{within}"
