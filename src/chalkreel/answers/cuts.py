"""The cut list: every piece there is to cut, laid out on the stock that is owned."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Final

from chalkreel.answers.cut_pieces import Asked
from chalkreel.core.convert.kinds import StockForm
from chalkreel.core.convert.nest.bars import Bar, BarPlan, Length, bars_for
from chalkreel.core.convert.nest.cuts import Box, Cut, left_whole, straight_cuts
from chalkreel.core.convert.nest.nesting import LONG, QUICK, nested
from chalkreel.core.convert.nest.pieces import Layout, Piece, StockSheet, rectangle
from chalkreel.core.convert.stock import lamination, nearest_stock
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit, small_length
from chalkreel.document.convert_entities import CUTTING_ID, Cutting, StockPiece
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
# Stock of one thickness is known to be so much alike, mm.
SAME_MM: Final = 0.03
# What is left is worth keeping from this length of its shorter side on, and strip from this length, mm.
KEPT_MM, KEPT_STRIP_MM = 15.0, 30.0


@dataclass(frozen=True)
class SheetCuts:
    """One sheet out of the stock: what stays whole of it, and its straight cuts in order, where there are such."""

    stays: tuple[Box, ...]
    cuts: tuple[Cut, ...] | None


@dataclass(frozen=True)
class CutGroup:
    """All that is cut from one material of one thickness: a layout with its sheets, or bars."""

    form: StockForm
    material: str
    thick_mm: float
    layout: Layout | None = None
    sheets: tuple[SheetCuts, ...] = ()
    bars: BarPlan | None = None
    problem: str = ""


@dataclass(frozen=True)
class CutRow:
    """One entry of the list as it is cut: how many, of which layers, and what is to be known of it."""

    piece_id: str
    name: str
    size: str
    count: int
    layers_mm: tuple[float, ...] = ()
    note: str = ""
    problem: str = ""


@dataclass(frozen=True)
class Cuts:
    """The whole cut list; `titles` are what each piece is called on the sheets, by its key there."""

    rows: tuple[CutRow, ...] = ()
    groups: tuple[CutGroup, ...] = ()
    titles: dict[str, str] = field(default_factory=dict)
    kerf_mm: float = 0.3

    @property
    def waste(self) -> float | None:
        """Share of all sheet taken that becomes no piece; None where no sheet is cut."""
        laid = [group.layout for group in self.groups if group.layout is not None and group.layout.laid]
        taken = sum(layout.taken_area for layout in laid)
        return 1 - sum(layout.cut_area for layout in laid) / taken if taken else None

    @property
    def open(self) -> tuple[str, ...]:
        """What cannot be cut yet, in words."""
        found = [f"{row.name}: {row.problem}" for row in self.rows if row.problem]
        return (*found, *dict.fromkeys(group.problem for group in self.groups if group.problem))


def cutting_of(build: Build) -> Cutting:
    """How pieces are cut; the usual where nothing is told."""
    return build.get(Cutting, CUTTING_ID) or Cutting(id=CUTTING_ID)


def cuts(
    build: Build, asked: tuple[Asked, ...], progress: Progress = lambda _: True,
    kept: Callable[[Hashable, Callable[[], CutGroup]], CutGroup] = lambda _, lay: lay(),
) -> Cuts:  # fmt: skip
    """Everything to cut (`asked_pieces`), laid out on the build's stock.

    What one section is laid out from goes to `kept`, which may know the result: a new piece moves no other sheet.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    told = cutting_of(build)
    shelves = _shelves(build.all(StockPiece))
    rows, by_section = [], defaultdict[_Section, list[Asked]](list)
    for one in asked:
        row, sections = _row(build, one, tuple(s for s in shelves if (s.form, s.material) == (one.form, one.material)))
        rows.append(row)
        for section in sections:
            by_section[section].append(one)

    def laid_out(section: _Section, members: tuple[Asked, ...], there: tuple[StockPiece, ...]) -> CutGroup:
        if section.form != "sheet":
            return _bars(section, members, there, told)
        return _sheets(section, members, there, told, progress, build.info.unit)

    groups = []
    for section, members in by_section.items():
        inputs = (section, tuple(members), tuple(shelves[section]))
        groups.append(kept((*inputs, told, build.info.unit), partial(laid_out, *inputs)))
    titles = {piece.key: title for one in asked for piece, title in one.outlines}
    return Cuts(
        tuple(rows), tuple(groups), titles | {n.key: one.name for one in asked for n in one.lengths}, told.kerf_mm
    )


@dataclass(frozen=True)
class _Section:
    """Stock that is alike: one form, material and thickness, and for strips one width (0 for sheets), mm."""

    form: StockForm
    material: str
    thick_mm: float
    wide_mm: float = 0.0


def _shelves(stock: tuple[StockPiece, ...]) -> dict[_Section, list[StockPiece]]:
    """All that is left, each under the section of the first that is like it: nothing stands on two shelves."""
    found: dict[_Section, list[StockPiece]] = {}
    for piece in stock:
        wide = 0.0 if piece.form == "sheet" else piece.wide_mm
        alike = (
            s for s in found
            if (s.form, s.material) == (piece.form, piece.material)
            and abs(s.thick_mm - piece.thick_mm) <= SAME_MM and abs(s.wide_mm - wide) <= SAME_MM
        )  # fmt: skip
        section = next(alike, _Section(piece.form, piece.material, piece.thick_mm, wide))
        if piece.count:
            found.setdefault(section, []).append(piece)
    return found


def _row(build: Build, one: Asked, there: tuple[_Section, ...]) -> tuple[CutRow, tuple[_Section, ...]]:
    """How a piece stands in the list, and the section of each of its layers (none where it cannot be cut)."""
    row = CutRow(one.id, one.name, one.size, one.count, note=one.note, problem=one.problem)
    if one.problem:
        return row, ()
    if one.thick_mm is None:
        return replace(row, problem="say how thick"), ()
    if not there:
        return replace(row, problem=f"no {one.material} {one.form} in stock"), ()
    unit, thick = build.info.unit, one.thick_mm
    if one.form != "sheet":
        best = min(there, key=lambda s: abs(s.thick_mm - thick) + abs((one.wide_mm or s.wide_mm) - s.wide_mm))
        off = max(best.thick_mm - thick, (one.wide_mm and best.wide_mm - one.wide_mm), key=abs)
        note = f"{small_length(abs(off), unit)} {'more' if off > 0 else 'less'} than asked" * (abs(off) > SAME_MM)
        return replace(row, layers_mm=(best.thick_mm,), note=note or one.note), (best,)
    choice = nearest_stock(thick, build.chain.replica_ratio, ((s.form, s.thick_mm) for s in there), unit, "sheet")
    if choice is None:
        return replace(row, problem="thicker than sheets can be laminated"), ()
    made, doubt = lamination(choice.pieces_mm)
    if abs(made - thick) > max(doubt, SAME_MM):
        how = f"{small_length(made, unit)} ± {small_length(doubt, unit)} from {choice.words}"
        row = replace(row, note=f"{how}; {small_length(thick, unit)} wanted")
    by_thickness = {s.thick_mm: s for s in there}
    return replace(row, layers_mm=choice.pieces_mm), tuple(by_thickness[mm] for mm in choice.pieces_mm)


def _sheets(
    section: _Section, members: tuple[Asked, ...], there: tuple[StockPiece, ...], told: Cutting, progress: Progress,
    unit: LengthUnit,
) -> CutGroup:  # fmt: skip
    counts: dict[str, int] = defaultdict(int)
    for one in members:
        for piece, _ in one.outlines:
            counts[piece.key] += piece.count
    pieces = {piece.key: replace(piece, count=counts[piece.key]) for one in members for piece, _ in one.outlines}
    sheets = tuple(
        StockSheet(s.id, s.corners or rectangle(s.long_mm, s.wide_mm), s.count, s.offcut, s.grained, s.one_face)
        for s in there
    )
    group = CutGroup(section.form, section.material, section.thick_mm)
    try:
        layout = nested(
            tuple(pieces.values()), sheets, told.kerf_mm, told.straight, LONG if told.patient else QUICK, progress
        )
    except RefusedError as refusal:
        return replace(group, problem=str(refusal))
    found = tuple(SheetCuts(left_whole(laid, told.kerf_mm, KEPT_MM), straight_cuts(laid)) for laid in layout.laid)
    return replace(group, layout=layout, sheets=found, problem=_lost(layout.unplaced, pieces, sheets, unit))


def _lost(unplaced: tuple[str, ...], pieces: dict[str, Piece], sheets: tuple[StockSheet, ...], unit: LengthUnit) -> str:
    """Why some pieces have no place."""
    if not unplaced:
        return ""
    largest = max((max(s.size) for s in sheets), default=0.0)
    over = max(max(pieces[key].size) for key in unplaced) - largest
    if over > 0:
        return f"{len(unplaced)} too large for any sheet: {small_length(over, unit)} over. Join two, or buy longer."
    return f"No sheet is left for {len(unplaced)}: enter more under Stock."


def _bars(section: _Section, members: tuple[Asked, ...], there: tuple[StockPiece, ...], told: Cutting) -> CutGroup:
    counts: dict[tuple[str, float], int] = defaultdict(int)
    for one in members:
        for n in one.lengths:
            counts[(n.key, n.mm)] += n.count
    lengths = tuple(Length(name, mm, count) for (name, mm), count in counts.items())
    group = CutGroup(section.form, section.material, section.thick_mm)
    try:
        plan = bars_for(lengths, tuple(Bar(s.id, s.long_mm, s.count, s.offcut) for s in there), told.kerf_mm)
    except RefusedError as refusal:
        return replace(group, problem=str(refusal))
    lost = len(plan.unplaced)
    problem = f"No {section.form} is left, or long enough, for {lost}: enter more under Stock." if lost else ""
    return replace(group, bars=plan, problem=problem)
