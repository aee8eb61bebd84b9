"""View-model of Measure (no Qt): strokes over the still, rows of the dimension table, what a click adds."""

from __future__ import annotations

from dataclasses import dataclass, replace
from statistics import median

import msgspec

from chalkreel.answers.answers import Answers
from chalkreel.answers.sizes import AngleSize, PlaneRow, SizeRow, Sizes
from chalkreel.answers.wording import lack_words, name_of, short_words, size_name, size_words, stock_words, story_words
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.app.stills.tools import Points
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import figure_pm, format_pm, parse_number, parse_side_ratio
from chalkreel.core.lengths import (
    UNIT_MM,
    LengthUnit,
    format_length,
    length_pm,
    parse_length,
    parse_offset,
)
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.marks import Mark, click_sigma_px
from chalkreel.core.measure.plane import RulerAgreement
from chalkreel.core.scale import Link, bare_unit
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Dimension, KitPart, Landmark, Plane, Reading, RulerMark, Still
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made

DEFAULT_SHARE = 0.01
DEFAULT_PLACE_SIGMA_MM, LARGEST_PLACE_MM = 0.5, 1e6
STATES = {"leave": "good", "correct": "warn", "make new": "bad", "unsure": "quiet"}


def marks_of(build: Build, still: Still, answers: Answers | None, selection: str) -> tuple[list[Stroke], list[Handle]]:
    """Everything drawn on one still: rectangles, rulers, readings with their sizes at the replica."""
    strokes, handles = [], []
    for plane in build.all(Plane):
        if plane.still_id == still.id:
            points = tuple((m.x_px, m.y_px) for m in plane.corners)
            strokes.append(Stroke(points, "lilac", plane.name, closed=True, strong=plane.id == selection))
            handles += [Handle(plane.id, i, x, y) for i, (x, y) in enumerate(points)]
    sizes = _reading_sizes(answers)
    factor = build.chain.convert(1.0, "miniature", "replica")
    marks: tuple[RulerMark | Reading, ...] = (*build.all(RulerMark), *build.all(Reading))
    for mark in marks:
        if mark.still_id != still.id:
            continue
        points = ((mark.a.x_px, mark.a.y_px), (mark.b.x_px, mark.b.y_px))
        handles += [Handle(mark.id, i, x, y) for i, (x, y) in enumerate(points)]
        if isinstance(mark, RulerMark):
            label = f"{mark.name}: {format_length(mark.length_mm, build.info.unit)}"
            strokes.append(Stroke(points, "yellow", label, strong=mark.id == selection))
        else:
            dimension = build.get(Dimension, mark.dimension_id)
            size = sizes.get(mark.id)
            value = f" {short_words(size.scaled(factor), build.info.unit)}" if size else ""
            strong = selection in (mark.id, mark.dimension_id)
            # Where landmarks give the size, what this one plane says of it is only shown when asked for.
            solved = dimension is not None and bool(dimension.a_id or dimension.circle_id)
            plain = f"{dimension.name if dimension else ''}{value}"
            label = f"{plain} in this plane" if solved and strong else "" if solved else plain
            strokes.append(Stroke(points, "sky", label, strong=strong))
    return strokes, handles


def _reading_sizes(answers: Answers | None) -> dict[str, Size]:
    if answers is None or answers.sizes is None:
        return {}
    return {key: size for plane in answers.sizes.planes for key, size in plane.readings.items()}


@dataclass(frozen=True)
class DimensionRow:
    """One line of the dimension table, in words."""

    dimension_id: str
    name: str
    story: str
    miniature: str
    replica: str
    stock: str
    kit: str
    state: str
    drawn: bool = False
    part: str = ""


def dimension_rows(answers: Answers | None, unit: LengthUnit) -> tuple[DimensionRow, ...]:
    """All dimensions, those of one kit part together; sizes that nothing determines say why."""
    if answers is None or answers.sizes is None:
        return ()
    told = {d.id: d for d in answers.build.all(Dimension)}
    parts = {p.id: p.name for p in answers.build.all(KitPart)}
    rows = [
        replace(
            _dimension_row(answers, row, unit),
            drawn=told[row.dimension_id].drawn,
            part=parts.get(told[row.dimension_id].part_id, ""),
        )
        for row in answers.sizes.rows
    ]
    # Each part where its first size stands; what is of no part stays where it was asked for.
    first: dict[str, int] = {}
    for number, row in enumerate(rows):
        first.setdefault(row.part, number)
    keyed = [(first[row.part] if row.part else number, number) for number, row in enumerate(rows)]
    return tuple(rows[number] for _, number in sorted(keyed))


def _dimension_row(answers: Answers, row: SizeRow, unit: LengthUnit) -> DimensionRow:
    build = answers.build
    name, state = size_name(build, row), STATES[row.verdict.action]
    if row.angle is not None:
        words = format_pm(row.angle.degrees, row.angle.half_width_deg, "°")
        return DimensionRow(row.dimension_id, name, "", "", words, "", row.verdict.words, state)
    if row.story is None or row.miniature is None or row.replica is None:
        return DimensionRow(row.dimension_id, name, "", "", lack_words(build, row.lack), "", row.verdict.words, state)
    stock = stock_words(build, answers.stocks.get(row.dimension_id))
    return DimensionRow(
        row.dimension_id,
        name,
        story_words(row.story, unit),
        size_words(row.miniature, unit),
        size_words(row.replica, unit),
        stock,
        row.verdict.words,
        state,
    )


def size_figure(size: Size, unit: LengthUnit) -> tuple[str, str]:
    """The large figure and its ±, apart."""
    if unit == "mm":
        return figure_pm(size.mm, size.half_width_mm, "mm")
    return length_pm(size.mm, size.half_width_mm, unit)


def angle_figure(angle: AngleSize) -> tuple[str, str]:
    """An angle's large figure and its ±, apart."""
    return figure_pm(angle.degrees, angle.half_width_deg, "°")


def middle_share(sizes: Sizes) -> float | None:
    """The median half width of the sizes' 95 % intervals, in per cent of the size."""
    shares = [row.replica.half_width_mm / row.replica.mm for row in sizes.rows if row.replica is not None]
    return 100 * median(shares) if shares else None


def ruler_groups(answers: Answers | None, still_id: str) -> tuple[PlaneRow, ...]:
    """Rulers that can be compared: those of the whole reel, then those in each plane of this still."""
    if answers is None or answers.sizes is None:
        return ()
    checks = answers.sizes.reel.rulers
    whole = tuple(RulerAgreement(name_of(answers.build, c.key), c.deviation, c.sigma, 1.0) for c in checks)
    reel = (PlaneRow("", "", whole, {}, ""),) if whole else ()
    return (*reel, *(p for p in answers.sizes.planes if p.still_id == still_id))


@dataclass(frozen=True)
class Doubt:
    """The size known worst, how it is called and how surely it is known, and what in general would help it."""

    dimension_id: str
    words: str
    cure: str


def doubt_advice(answers: Answers | None) -> Doubt | None:
    """The size known worst, and the one thing that would help it most."""
    if answers is None or answers.sizes is None:
        return None
    row = answers.sizes.largest_doubt()
    if row is None or row.replica is None:
        return None
    share = f"± {100 * row.replica.half_width_mm / row.replica.mm:.1f} %"
    if row.rulers_share > row.clicks_share:
        cure = "Its ruler is the weak part: add a ruler known more surely in the same plane."
    else:
        cure = "Its clicks are the weak part: zoom in and place them again, or mark it on another still."
    return Doubt(row.dimension_id, f"{size_name(answers.build, row)}, {share}", cure)


def plane_words(row: PlaneRow) -> str:
    """One sentence on how well a plane's rulers agree."""
    if row.problem:
        return row.problem
    if len(row.agreement) < 2:
        return "one ruler, nothing to check it against"
    worst = max((abs(a.deviation) for a in row.agreement if a.deviation is not None), default=0.0)
    return f"rulers agree within {100 * worst:.1f} %"


def plane_state(row: PlaneRow) -> str:
    """Whether its rulers agree, contradict each other, or cannot tell."""
    if row.problem or any(a.disagrees for a in row.agreement):
        return "warn"
    return "good" if len(row.agreement) > 1 else "quiet"


def mark_at(point: tuple[float, float], zoom: float) -> Mark:
    """A mark with the click error of its zoom."""
    return Mark(point[0], point[1], click_sigma_px(zoom))


def reading_made(build: Build, still: Still, plane_id: str, dimension_id: str, points: Points, zoom: float) -> Made:
    """A reading of an existing dimension, or of a new one with the next free name."""
    edits: Edits = {}
    if build.get(Dimension, dimension_id) is None:
        dimension = Dimension(id=new_id(), name=f"Size {len(build.all(Dimension)) + 1}")
        dimension_id, edits[dimension.id] = dimension.id, dimension
    a, b = (mark_at(p, zoom) for p in points)
    reading = Reading(id=new_id(), dimension_id=dimension_id, still_id=still.id, plane_id=plane_id, a=a, b=b)
    return Made({**edits, reading.id: reading}, reading.id)


def ruler_made(
    build: Build, still: Still, plane_id: str, points: Points, zoom: float, words: tuple[str, str, str, Link]
) -> Made:
    """A ruler from its name, length, ± (1 % where none is given) and link, as typed.

    Raises
    ------
    RefusedError
        No length can be read.
    """
    name, length, plus_minus, link = words
    mm, sigma = length_and_sigma(length, plus_minus, link, build.info.unit)
    a, b = (mark_at(p, zoom) for p in points)
    ruler = RulerMark(
        id=new_id(),
        still_id=still.id,
        plane_id=plane_id,
        a=a,
        b=b,
        length_mm=mm,
        sigma_mm=sigma,
        link=link,
        name=name.strip() or f"Ruler {len(build.all(RulerMark)) + 1}",
    )
    return Made({ruler.id: ruler}, ruler.id)


def length_and_sigma(length: str, plus_minus: str, link: Link, unit: LengthUnit) -> tuple[float, float]:
    """A typed length and its ±, which may be a percentage; in the story both need a unit.

    Raises
    ------
    RefusedError
        Either cannot be read, or the ± is nothing.
    """
    mm = parse_length(length, bare_unit(link, unit))
    text = plus_minus.strip()
    if not text:
        return mm, mm * DEFAULT_SHARE
    if not text.endswith("%"):
        return mm, parse_length(text, bare_unit(link, unit))
    share = parse_number(text[:-1]) / 100
    if not 0 < share <= 1:
        raise RefusedError("A ± is more than 0 % and at most 100 %.")
    return mm, mm * share


def place_words(landmark: Landmark, unit: LengthUnit) -> str:
    """Where a plan has a landmark, in a unit: towards the bow, to port, up, and its ±."""
    if landmark.place_mm is None:
        return ""
    x, y, z, sigma = (value / UNIT_MM[unit] for value in (*landmark.place_mm, landmark.place_sigma_mm))
    return f"{x:g}, {y:g}, {z:g} ± {sigma:g}"


def parse_place(text: str, unit: LengthUnit) -> tuple[tuple[float, float, float] | None, float]:
    """Three lengths in a unit with a ± (1 σ, 0.5 mm where none is given) as mm; nothing for an empty text.

    Raises
    ------
    RefusedError
        Not three numbers, or no ± above nothing.
    """
    if not text.strip():
        return None, DEFAULT_PLACE_SIGMA_MM
    places, _, plus_minus = text.partition("±")
    between = ";" if ";" in places else ","
    parts = [part for part in places.split(between) if part.strip()]
    if len(parts) != 3:
        raise RefusedError("Type three lengths: towards the bow, to port, up; like -120; 75; 40.5 ± 0.5.")
    x, y, z = (parse_offset(part, unit) for part in parts)
    sigma = parse_length(plus_minus, unit) if plus_minus.strip() else DEFAULT_PLACE_SIGMA_MM
    if not 0 < sigma < LARGEST_PLACE_MM or max(abs(x), abs(y), abs(z)) > LARGEST_PLACE_MM:
        raise RefusedError("A place lies within 1,000 m, and its ± is above nothing.")
    return (x, y, z), sigma


def plane_made(build: Build, still: Still, points: Points, zoom: float, words: tuple[str, str, str, str, Link]) -> Made:
    """A squared-up plane from its name, sides (or a side ratio like 2:1 in place of the width) and ±.

    Raises
    ------
    RefusedError
        Neither sides nor a ratio can be read.
    """
    name, width, height, plus_minus, link = words
    a, b, c, d = (mark_at(p, zoom) for p in points)
    name = name.strip() or f"Plane {len(build.all(Plane)) + 1}"
    if ":" in width:
        ratio = parse_side_ratio(width)
        plane = Plane(
            id=new_id(),
            still_id=still.id,
            name=name,
            corners=(a, b, c, d),
            width_mm=ratio,
            width_sigma_mm=ratio * DEFAULT_SHARE,
            link=link,
        )
    else:
        if not height.strip():
            raise RefusedError("Give both sides of the rectangle, or a ratio like 2:1 as its width.")
        (w, w_sigma), (h, h_sigma) = (
            length_and_sigma(side, plus_minus, link, build.info.unit) for side in (width, height)
        )
        plane = Plane(
            id=new_id(),
            still_id=still.id,
            name=name,
            corners=(a, b, c, d),
            width_mm=w,
            width_sigma_mm=w_sigma,
            height_mm=h,
            height_sigma_mm=h_sigma,
            link=link,
        )
    return Made({plane.id: plane}, plane.id)


def moved_mark(build: Build, handle: Handle, zoom: float) -> Edits:
    """The entity of a handle with that mark at its new place."""
    entity = build.entities[handle.entity_id]
    mark = mark_at((handle.x_px, handle.y_px), zoom)
    if isinstance(entity, Plane):
        corners = tuple(mark if i == handle.index else old for i, old in enumerate(entity.corners))
        return {entity.id: msgspec.structs.replace(entity, corners=corners)}
    assert isinstance(entity, (RulerMark, Reading))
    return {entity.id: msgspec.structs.replace(entity, **{"ab"[handle.index]: mark})}
