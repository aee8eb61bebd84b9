"""The cut list of a build: which stock serves which piece, and what is left when it is cut."""

from __future__ import annotations

from types import MappingProxyType
from typing import Any, cast

import pytest
from tests.builds import empty_build

from chalkreel.answers.cut_pieces import asked_pieces
from chalkreel.answers.cuts import CutGroup, Cuts, cuts
from chalkreel.answers.faces import Faces
from chalkreel.answers.memo import Memo
from chalkreel.answers.sizes import Sizes
from chalkreel.core.errors import RefusedError
from chalkreel.document.convert_entities import CutPiece, StockPiece
from chalkreel.document.entities import AnyEntity
from chalkreel.document.snapshot import Build
from chalkreel.edits.cutting import cut_now

NO_SIZES = cast(Sizes, None)


def sheet(key: str, thick: float, **more: Any) -> StockPiece:
    return StockPiece(id=key, name=key, thick_mm=thick, **{"long_mm": 200.0, "wide_mm": 100.0, **more})


def strip(key: str, thick: float, wide: float, **more: Any) -> StockPiece:
    return StockPiece(id=key, name=key, form="strip", thick_mm=thick, wide_mm=wide, long_mm=250.0, **more)


def piece(key: str, *sizes: float, thick: float | None = 0.5, **more: Any) -> CutPiece:
    return CutPiece(id=key, name=key, sizes_mm=sizes, thick_mm=thick, **more)


def laid_out(*entities: AnyEntity, **more: Any) -> tuple[Build, Cuts]:
    build = Build(0, MappingProxyType({**empty_build("Own"), **{e.id: e for e in entities}}))
    return build, cuts(build, asked_pieces(build, NO_SIZES, Faces()), **more)


def used(found: Cuts) -> list[str]:
    laid = [one.sheet.key for g in found.groups if g.layout for one in g.layout.laid]
    return sorted(laid + [bar.bar.key for g in found.groups if g.bars for bar in g.bars.bars])


def test_sheets_as_good_as_equal_serve_as_one_and_no_sheet_serves_twice() -> None:
    # Measured 0.50 and 0.51: one thickness. Four pieces of 0.5 and 0.51 fill both sheets and no third is dreamt up.
    half = [piece(f"p{n}", 190.0, 48.0, thick=t) for n, t in enumerate((0.5, 0.5, 0.51, 0.51))]
    _, found = laid_out(sheet("a", 0.5), sheet("b", 0.51), *half)
    assert used(found) == ["a", "b"] and found.open == () and len(found.groups) == 1
    _, short = laid_out(sheet("a", 0.5), *half)
    assert used(short) == ["a"] and "No sheet is left for 2" in short.open[0]


def test_strips_of_another_width_are_not_taken_for_each_other() -> None:
    rails = (piece("thin", 60.0, 1.0, thick=1.0, shape="length", form="strip"),
             piece("broad", 60.0, 2.0, thick=1.0, shape="length", form="strip"))  # fmt: skip
    _, found = laid_out(strip("one", 1.0, 1.0), strip("two", 1.0, 2.0), *rails)
    assert [[key for bar in g.bars.bars for key, _ in bar.lengths] for g in found.groups if g.bars] == [
        ["thin"],
        ["broad"],
    ]
    assert used(found) == ["one", "two"]
    build, found = laid_out(strip("one", 1.0, 1.0), strip("two", 1.0, 2.0), *rails)
    cut = [key for key, made in cut_now(build, found, found.groups[0]).items() if isinstance(made, CutPiece)]
    assert cut == ["thin"], "of two strips as thick, only that which was cut"
    _, other = laid_out(strip("one", 1.0, 1.0), rails[1])
    assert other.rows[0].note == "1.0 mm less than asked"


def test_a_new_piece_of_another_thickness_lays_no_other_sheet_anew() -> None:
    stock = (sheet("half", 0.5), sheet("one", 1.0))
    kept = Memo[Any, CutGroup](9)

    def groups(*pieces: CutPiece) -> tuple[CutGroup, ...]:
        return laid_out(*stock, *pieces, kept=kept.get)[1].groups

    fin, wing = piece("fin", 40.0, 30.0), piece("wing", 50.0, 20.0, thick=1.0)
    (alone,) = groups(fin)
    both = groups(fin, wing)
    assert both[0] is alone and [g.thick_mm for g in both] == [0.5, 1.0]
    assert groups(piece("fin", 41.0, 30.0), wing)[1] is both[1]


def test_layers_are_cut_from_their_own_sheets_and_leave_the_list_one_by_one() -> None:
    build, found = laid_out(sheet("thick", 0.75, count=2), sheet("thin", 0.25), piece("fin", 40.0, 30.0, thick=1.76))
    (row,) = found.rows
    assert row.layers_mm == (0.75, 0.75, 0.25) and used(found) == ["thick", "thin"]
    thick = next(g for g in found.groups if g.thick_mm == 0.75)
    assert thick.layout is not None and len(thick.layout.laid[0].placed) == 2
    edits = cut_now(build, found, thick)
    left, stock = edits["fin"], edits["thick"]
    assert isinstance(left, CutPiece) and left.thick_mm == pytest.approx(0.25) and not left.cut
    assert isinstance(stock, StockPiece) and stock.count == 1


def test_a_box_gives_its_six_walls_and_unknowns_are_told() -> None:
    box = piece("box", 60.0, 40.0, 20.0, thick=1.0, shape="box", corner="butt", count=2)
    unknown = (piece("flat", 20.0, 10.0, thick=None), piece("pane", 20.0, 10.0, thick=0.4, material="clear"),
               piece("bad", 20.0, thick=1.0))  # fmt: skip
    _, found = laid_out(sheet("a", 1.0, count=3), box, *unknown)
    (group,) = found.groups
    assert group.layout is not None
    placed = sorted(found.titles[p.piece] for laid in group.layout.laid for p in laid.placed)
    assert placed == sorted(
        4 * ["box, top and bottom"] + 4 * ["box, long wall, runs through"] + 4 * ["box, end, between"]
    )
    problems = {row.name: row.problem for row in found.rows if row.problem}
    assert problems == {"flat": "say how thick", "pane": "no clear sheet in stock", "bad": "say its sizes"}


def test_nothing_is_cut_while_some_of_it_has_no_place() -> None:
    build, found = laid_out(sheet("a", 0.5), piece("long", 300.0, 10.0), piece("short", 50.0, 10.0))
    with pytest.raises(RefusedError, match="1 piece has no place"):
        cut_now(build, found, found.groups[0])


def test_what_falls_out_of_a_ring_is_kept_and_used() -> None:
    ring = CutPiece(id="ring", name="ring", shape="ring", sizes_mm=(60.0, 50.0), thick_mm=0.5, count=2)
    build, found = laid_out(sheet("a", 0.5), ring)
    discs = [e for e in cut_now(build, found, found.groups[0]).values() if isinstance(e, StockPiece) and e.corners]
    assert [(d.long_mm, d.offcut) for d in discs] == [(50.0, True)] * 2
    # A square of 34 mm (diagonal 48) goes into a disc of 50, one of 36 (diagonal 51) does not.
    _, again = laid_out(discs[0], piece("lid", 34.0, 34.0), piece("base", 36.0, 36.0))
    assert used(again) == [discs[0].id] and "No sheet is left for 1" in again.open[0]
