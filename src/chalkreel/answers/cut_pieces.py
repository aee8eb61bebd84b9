"""What there is to cut, told or drawn as templates: outlines and lengths, with their sizes in words."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from chalkreel.answers.face_templates import face_template
from chalkreel.answers.faces import Faces
from chalkreel.answers.sizes import Sizes
from chalkreel.answers.templates import template_of
from chalkreel.core.convert.flat import CUTTING_MM, bent, box, corner_words, wrapped
from chalkreel.core.convert.kinds import StockForm
from chalkreel.core.convert.nest.bars import Length
from chalkreel.core.convert.nest.pieces import Piece, Point, rectangle
from chalkreel.core.draft.sheet import Sheet
from chalkreel.core.draft.template import template_sheet, unrolled
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit, format_length, length_words
from chalkreel.document.convert_entities import CutPiece, PieceShape
from chalkreel.document.entities import AnyEntity, Collar, Outline, SkinFace
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from shapely import Polygon

DISC_POINTS: Final = 72
# Between the id of an entry and what tells its parts from each other, in the key of a piece.
PART: Final = "#"


@dataclass(frozen=True)
class Asked:
    """One entry of the cut list: its outlines (each with its title) or lengths, and what is to be known of it."""

    id: str
    name: str
    size: str
    count: int
    form: StockForm
    material: str
    thick_mm: float | None
    outlines: tuple[tuple[Piece, str], ...] = ()
    lengths: tuple[Length, ...] = ()
    wide_mm: float = 0.0
    note: str = ""
    problem: str = ""


def entry_of(key: str) -> str:
    """The entry of the list that a piece belongs to, by the piece's key."""
    return key.partition(PART)[0]


def template_sources(build: Build) -> tuple[Outline | Collar | SkinFace, ...]:
    """Everything that is drawn as a template to be cut."""
    outlines = tuple(o for o in build.all(Outline) if o.layer == "cut" and o.closed)
    return (*outlines, *build.all(Collar), *(face for face in build.all(SkinFace) if face.template))


def listed_pieces(build: Build) -> tuple[CutPiece, ...]:
    """All that is still to be cut: what was told, then templates of which nothing is told, under the template's id."""
    told = build.all(CutPiece)
    spoken_of = {piece.source_id for piece in told}
    unsaid = (source for source in template_sources(build) if source.id not in spoken_of)
    return (
        *(piece for piece in told if not piece.cut),
        *(CutPiece(id=s.id, name=s.name, shape="template", source_id=s.id) for s in unsaid),
    )


def asked_pieces(build: Build, sizes: Sizes, faces: Faces) -> tuple[Asked, ...]:
    """The listed pieces with their outlines and lengths."""
    return tuple(_asked(build, piece, sizes, faces) for piece in listed_pieces(build))


def _asked(build: Build, piece: CutPiece, sizes: Sizes, faces: Faces) -> Asked:
    plain = Asked(
        piece.id, piece.name, "", piece.count, piece.form, piece.material, piece.thick_mm,
    )  # fmt: skip
    try:
        if piece.shape == "template":
            return _of_template(build, piece, plain, sizes, faces)
        return _of_sizes(build, piece, plain)
    except (RefusedError, ValueError) as refusal:
        return replace(plain, problem=str(refusal))


def _of_sizes(build: Build, piece: CutPiece, plain: Asked) -> Asked:
    """A piece by the sizes of its shape.

    Raises
    ------
    RefusedError
        Sizes are missing, or make no such shape.
    """
    thick_first = piece.shape in ("box", "bend", "wrap")
    return plain if thick_first and piece.thick_mm is None else _SHAPES[piece.shape](piece, plain, build.info.unit)


def _sized(piece: CutPiece, at: int) -> float:
    if at >= len(piece.sizes_mm) or piece.sizes_mm[at] <= 0:
        raise RefusedError("say its sizes")
    return piece.sizes_mm[at]


def _plate(piece: CutPiece, long: float, wide: float, title: str = "", count: int = 1) -> tuple[Piece, str]:
    """A rectangle of a piece, and what it is called on the sheet."""
    key, name = (f"{piece.id}{PART}{title}", f"{piece.name}, {title}") if title else (piece.id, piece.name)
    return Piece(key, rectangle(long, wide), count * piece.count, piece.along_grain), name


def _rectangle(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    long, wide = _sized(piece, 0), _sized(piece, 1)
    size = f"{format_length(long, unit)} × {format_length(wide, unit)}"
    return replace(plain, outlines=(_plate(piece, long, wide),), size=size)


def _round(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    across, size, note = _sized(piece, 0), f"Ø {format_length(_sized(piece, 0), unit)}", ""
    if piece.shape == "ring":
        if _sized(piece, 1) >= across:
            raise RefusedError("its inner Ø is as large as the outer one")
        size += f", inner Ø {format_length(_sized(piece, 1), unit)}"
        note = "compass cutter, the inside first"
    outline = Piece(piece.id, _disc(across), piece.count)
    return replace(plain, outlines=((outline, piece.name),), size=size, note=note)


def _length(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    section = piece.sizes_mm[1] if len(piece.sizes_mm) > 1 else 0.0
    length = Length(piece.id, _sized(piece, 0), piece.count)
    return replace(plain, lengths=(length,), size=format_length(length.mm, unit), wide_mm=section)


def _box(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    walls = box(_sized(piece, 0), _sized(piece, 1), _sized(piece, 2), piece.thick_mm or 0.0, piece.corner)
    outlines = tuple(_plate(piece, w.length_mm, w.height_mm, w.name, w.count) for w in walls)
    size = " × ".join(format_length(value, unit) for value in piece.sizes_mm[:3])
    return replace(plain, outlines=outlines, size=size, note=corner_words(piece.corner))


def _bend(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    radius = piece.sizes_mm[3] if len(piece.sizes_mm) > 3 else 0.0
    flat = bent((_sized(piece, 0), _sized(piece, 1)), radius, piece.thick_mm or 0.0, _sized(piece, 4), unit)
    size = f"{length_words(flat.mm, flat.doubt_mm, unit)} flat × {format_length(_sized(piece, 2), unit)}"
    return replace(plain, outlines=(_plate(piece, flat.mm, piece.sizes_mm[2]),), size=size, note=flat.way)


def _wrap(piece: CutPiece, plain: Asked, unit: LengthUnit) -> Asked:
    thick = piece.thick_mm or 0.0
    layers = wrapped(_sized(piece, 0), thick, unit)
    size = " + ".join(length_words(one.mm, one.doubt_mm, unit) for one in layers)
    made = replace(plain, size=size, note=layers[0].way, thick_mm=thick / len(layers))
    if piece.form != "sheet":
        return replace(made, lengths=tuple(Length(piece.id, one.mm, piece.count) for one in layers))
    titles = [f"layer {n}" if len(layers) > 1 else "" for n in range(1, len(layers) + 1)]
    wide = _sized(piece, 1)
    return replace(made, outlines=tuple(_plate(piece, n.mm, wide, t) for n, t in zip(layers, titles, strict=True)))


_SHAPES: Final[dict[PieceShape, Callable[[CutPiece, Asked, LengthUnit], Asked]]] = {
    "rectangle": _rectangle, "disc": _round, "ring": _round, "length": _length, "box": _box, "bend": _bend,
    "wrap": _wrap,
}  # fmt: skip


def _of_template(build: Build, piece: CutPiece, plain: Asked, sizes: Sizes, faces: Faces) -> Asked:
    """The outlines of a template as it is drawn, its mirror image among them.

    Raises
    ------
    RefusedError
        It cannot be drawn.
    """
    source = build.entities.get(piece.source_id)
    outlines = _cut_outlines(_sheet_of(build, source, sizes, faces))
    title = piece.name
    found = tuple(
        (Piece(f"{piece.id}{PART}{n}" if n else piece.id, outline, piece.count, piece.along_grain),
         title + (" ⇄" if n else ""))
        for n, outline in enumerate(outlines)
    )  # fmt: skip
    if not found:
        raise RefusedError("nothing on it is to be cut")
    long, wide = found[0][0].size
    unit = build.info.unit
    return replace(plain, outlines=found, size=f"{length_words(long, CUTTING_MM, unit)} × {format_length(wide, unit)}")


def _sheet_of(build: Build, source: AnyEntity | None, sizes: Sizes, faces: Faces) -> Sheet:
    if isinstance(source, Outline):
        return template_sheet(template_of(build, source))
    if isinstance(source, Collar):
        return unrolled(source.name, source.lower_mm, source.upper_mm, source.height_mm)
    if isinstance(source, SkinFace):
        return face_template(build, faces, sizes.reel, source)
    raise RefusedError("its template is gone")


def _cut_outlines(sheet: Sheet) -> tuple[tuple[Point, ...], ...]:
    """What is cut of a sheet: each piece with its tabs, in the order drawn.

    Raises
    ------
    RefusedError
        An outline crosses itself.
    """
    # Loaded with the first template: it is not needed to open a window.
    from shapely import Polygon, union_all  # noqa: PLC0415

    shapes = [Polygon(path.points) for path in sheet.paths if path.layer == "cut" and len(path.points) > 2]
    shapes += [Polygon(_disc(2 * ring.radius, ring.centre)) for ring in sheet.rings if ring.layer == "cut"]
    if any(not shape.is_valid for shape in shapes):
        raise RefusedError("its outline crosses itself: nothing can be cut along it")
    joined = union_all(shapes)
    parts: list[Polygon] = [joined] if joined.geom_type == "Polygon" else list(getattr(joined, "geoms", ()))
    parts.sort(key=lambda part: float(part.bounds[0]))
    return tuple(tuple((float(x), float(y)) for x, y in part.exterior.coords[:-1]) for part in parts if part.area > 0)


def _disc(across: float, centre: Point = (0.0, 0.0)) -> tuple[Point, ...]:
    """A circle as a polygon that lies outside it by less than 0.1 % of its radius."""
    radius = across / 2 / math.cos(math.pi / DISC_POINTS)
    turns = (2 * math.pi * n / DISC_POINTS for n in range(DISC_POINTS))
    return tuple((centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in turns)
