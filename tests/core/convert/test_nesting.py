"""Layouts are checked here by drawing every piece on one bitmap: nothing of the program's own checker is believed."""

import itertools
import math
import random

import cv2
import numpy as np
import pytest
from benchmarks.nesting import length_list, outline_list, rectangle_list, shelves

from chalkreel.core.convert.nest.bars import Bar, Length, bars_for
from chalkreel.core.convert.nest.check import faults
from chalkreel.core.convert.nest.cuts import left_whole, straight_cuts
from chalkreel.core.convert.nest.nesting import nested
from chalkreel.core.convert.nest.pieces import Laid, Layout, Piece, StockSheet, put, rectangle
from chalkreel.core.errors import RefusedError, StoppedError

CELL = 0.1
FIN = ((0.0, 0.0), (40.0, 0.0), (52.0, 44.2), (30.0, 44.2))
L_OFFCUT = ((0.0, 0.0), (200.0, 0.0), (200.0, 60.0), (80.0, 60.0), (80.0, 150.0), (0.0, 150.0))


def check_by_drawing(pieces, layout: Layout, kerf: float) -> None:
    """Every piece as often as asked, of its own area, inside its sheet, and no two on the same spot even when grown."""
    areas = {p.key: p.area for p in pieces}
    there = [p.piece for laid in layout.laid for p in laid.placed] + list(layout.unplaced)
    assert sorted(there) == sorted(p.key for p in pieces for _ in range(p.count))
    for laid in layout.laid:
        width, height = laid.sheet.size
        size = (math.ceil(height / CELL) + 40, math.ceil(width / CELL) + 40)
        room = np.zeros(size, np.uint8)
        cv2.fillPoly(room, [np.round(np.array(laid.sheet.outline) / CELL + 20).astype(np.int32)], 1)
        crowd = np.zeros(size)
        for p in laid.placed:
            points = np.array(p.outline)
            turned = np.roll(points, -1, 0)
            area = abs(np.sum(points[:, 0] * turned[:, 1] - turned[:, 0] * points[:, 1])) / 2
            assert area == pytest.approx(areas[p.piece])
            corner = np.maximum(np.floor(points.min(axis=0) / CELL).astype(int), 0)
            far = np.ceil(points.max(axis=0) / CELL).astype(int) + 40
            window = (slice(corner[1], far[1]), slice(corner[0], far[0]))
            one = np.zeros((far - corner)[::-1], np.uint8)
            cv2.fillPoly(one, [np.round(points / CELL + 20 - corner).astype(np.int32)], 1)
            one = one[: room[window].shape[0], : room[window].shape[1]]
            assert not (one & ~room[window].astype(bool)).any(), "over the edge"
            # Drawn lines are a cell thick on either side: each piece is taken in by one, and grown by half the cut.
            grown = max(0, 2 * round(kerf / CELL / 2) - 3)
            inner = cv2.erode(one, np.ones((5, 5), np.uint8))
            crowd[window] += cv2.dilate(inner, np.ones((grown + 1, grown + 1), np.uint8)) if grown else inner
        assert crowd.max(initial=0) <= 1, "one lies on another"


@pytest.mark.parametrize("straight", [False, True])
def test_rectangles_waste_far_less_than_shelves(straight: bool) -> None:
    wastes, plain = [], []
    for seed in range(100, 104):
        pieces, sheets, kerf = rectangle_list(seed)
        layout = nested(pieces, sheets, kerf, straight, work=2_000)
        check_by_drawing(pieces, layout, kerf)
        wastes.append(layout.waste)
        plain.append(shelves(pieces, sheets, kerf))
    assert np.mean(wastes) < 0.14 and np.mean(plain) > 0.2


def test_outlines_in_pairs_waste_far_less_than_frames() -> None:
    wastes, plain = [], []
    for seed in range(200, 202):
        pieces, sheets, kerf = outline_list(seed)
        layout = nested(pieces, sheets, kerf, work=2_000)
        check_by_drawing(pieces, layout, kerf)
        wastes.append(layout.waste)
        plain.append(shelves(pieces, sheets, kerf))
    assert np.mean(wastes) < 0.36 and np.mean(plain) > 0.45


def test_cuts_from_edge_to_edge_part_every_piece() -> None:
    pieces, sheets, kerf = rectangle_list(107)
    for laid in nested(pieces, sheets, kerf, straight=True).laid:
        cuts = straight_cuts(laid)
        assert cuts is not None
        parts: list[tuple[float, ...]] = [(0.0, 0.0, *laid.sheet.size)]
        frames = [(min(x), min(y), max(x), max(y)) for p in laid.placed for x, y in [zip(*p.outline, strict=True)]]
        for cut in cuts:
            upright = cut.start[0] == cut.end[0]
            axis, at = (0, cut.start[0]) if upright else (1, cut.start[1])
            low, high = sorted((cut.start[1 - axis], cut.end[1 - axis]))
            part = next(p for p in parts if p[axis] < at < p[axis + 2] and p[1 - axis] == low and p[3 - axis] == high)
            parts.remove(part)
            first, second = list(part), list(part)
            first[axis + 2] = second[axis] = at
            parts += [tuple(first), tuple(second)]
            inside = [f for f in frames if part[0] - 1e-6 <= f[0] and f[2] <= part[2] + 1e-6
                      and part[1] - 1e-6 <= f[1] and f[3] <= part[3] + 1e-6]  # fmt: skip
            assert all(f[axis + 2] <= at + 1e-6 or f[axis] >= at - 1e-6 for f in inside), "through a piece"
        for part in parts:
            held = sum(part[0] - 1e-6 <= f[0] and f[2] <= part[2] + 1e-6 and part[1] - 1e-6 <= f[1]
                       and f[3] <= part[3] + 1e-6 for f in frames)  # fmt: skip
            assert held <= 1


def test_a_windmill_does_not_come_apart() -> None:
    four = [(0, 0, 60, 30), (60, 0, 30, 60), (30, 60, 60, 30), (0, 30, 30, 60)]
    placed = tuple(put(Piece("p", rectangle(w, h)), x, y) for x, y, w, h in four)
    assert straight_cuts(Laid(StockSheet("s", rectangle(90, 90)), placed)) is None


def test_offcuts_of_any_shape_come_first() -> None:
    pieces = (Piece("fin", FIN, 4), Piece("rib", rectangle(66, 45), 2))
    sheets = (StockSheet("new", rectangle(330, 200), 2), StockSheet("offcut", L_OFFCUT, offcut=True))
    layout = nested(pieces, sheets, 0.3, work=600)
    check_by_drawing(pieces, layout, 0.3)
    assert layout.laid[0].sheet.key == "offcut" and len(layout.laid[0].placed) >= 3
    straight = nested(pieces, sheets, 0.3, straight=True, work=600)
    check_by_drawing(pieces, straight, 0.3)
    assert straight.laid[0].sheet.key == "offcut" and not straight.unplaced
    assert all(straight_cuts(laid) is not None for laid in straight.laid[1:])


def test_grain_and_a_good_face_are_kept() -> None:
    pieces = (Piece("wall", rectangle(30, 90), 3, along_grain=True), Piece("fin", FIN, 4))
    layout = nested(pieces, (StockSheet("tiles", rectangle(250, 100), 4, grained=True, one_face=True),), 0.0)
    walls = [p for laid in layout.laid for p in laid.placed if p.piece == "wall"]
    assert len(walls) == 3 and all(np.ptp([y for _, y in p.outline]) == pytest.approx(90) for p in walls)

    def signed(outline) -> float:
        return sum(a[0] * b[1] - b[0] * a[1] for a, b in itertools.pairwise((*outline, outline[0])))

    assert all(signed(p.outline) > 0 for laid in layout.laid for p in laid.placed), "one is turned over"


@pytest.mark.parametrize("straight", [False, True])
def test_one_small_piece_drawn_the_other_way_round_is_laid(straight: bool) -> None:
    piece = Piece("tab", ((0, 0), (0, 3), (20, 3), (20, 0)))
    layout = nested((piece,), (StockSheet("s", rectangle(330, 200)),), 0.3, straight, work=600)
    assert len(layout.laid) == 1 and layout.unplaced == ()


def test_what_no_sheet_holds_is_said_and_the_rest_is_laid() -> None:
    pieces = (Piece("keel", rectangle(500, 20)), Piece("rib", rectangle(50, 20), 2))
    layout = nested(pieces, (StockSheet("s", rectangle(330, 200)),), 0.3)
    assert layout.unplaced == ("keel",) and len(layout.laid[0].placed) == 2


def test_the_checker_finds_what_is_planted() -> None:
    piece, sheet = Piece("a", FIN, 2), StockSheet("s", rectangle(200, 100), grained=True, one_face=True)
    along = Piece("a", FIN, 2, along_grain=True)

    def said(*placed, kerf=0.0, of=piece) -> str:
        return "; ".join(faults((of,), (sheet,), Layout((Laid(sheet, placed),)), kerf))

    assert said(put(piece, 0, 0), put(piece, 60, 0)) == ""
    assert "too near" in said(put(piece, 0, 0), put(piece, 35, 0))
    assert "too near" in said(put(piece, 0, 0), put(piece, 40.1, 0, 180), kerf=0.3)
    assert "over the edge" in said(put(piece, 0, 0), put(piece, 160, 0))
    assert "instead of 2" in said(put(piece, 0, 0))
    assert "across the grain" in said(put(piece, 0, 0), put(piece, 60, 0, 90), of=along)
    assert "wrong face" in said(put(piece, 0, 0), put(piece, 60, 0, over=True))


def test_what_stays_whole_are_the_largest_empty_rectangles() -> None:
    placed = (put(Piece("a", rectangle(100, 80)), 0, 0), put(Piece("b", rectangle(60, 50)), 100, 0))
    laid = Laid(StockSheet("s", rectangle(330, 200)), placed)
    # Above both 330 by 200 - 80; then right of b 170 by 80; then above b 60 by 30, unless that is too narrow.
    boxes = ((0.0, 80.0, 330.0, 200.0), (160.0, 0.0, 330.0, 80.0), (100.0, 50.0, 160.0, 80.0))
    assert left_whole(laid, 0.0, 15.0) == boxes
    assert left_whole(laid, 0.0, 31.0) == boxes[:2]
    first, second = left_whole(laid, 1.0, 31.0)
    assert first[1] == 81.0 and second[0] == 161.0 and second[3] == 80.0


@pytest.mark.parametrize(
    ("pieces", "kerf", "said"),
    [((Piece("knot", ((0, 0), (10, 10), (10, 0), (0, 10))),), 0.0, "crosses itself"),
     ((Piece("line", ((0, 0), (10, 0))),), 0.0, "encloses"), ((Piece("a", FIN),), -0.1, "A cut is between"),
     ((Piece("a", FIN, 2_001),), 0.0, "2001 pieces"), ((Piece("a", rectangle(9_000, 2)),), 0.0, "3 m long"),
     ((Piece("a", ((0, 0), (math.nan, 0), (1, 1))),), 0.0, "no outline")],
)  # fmt: skip
def test_what_cannot_be_cut_is_refused_in_words(pieces, kerf, said) -> None:
    with pytest.raises(RefusedError, match=said):
        nested(pieces, (StockSheet("s", rectangle(330, 200)),), kerf)


def test_a_store_full_of_sheets_costs_nothing() -> None:
    pieces = (Piece("fin", FIN, 6), Piece("rib", rectangle(60, 40), 3))
    one, many = (nested(pieces, (StockSheet("s", rectangle(330, 200), n),), 0.3, work=300) for n in (1, 10_000))
    assert [len(laid.placed) for laid in one.laid] == [len(laid.placed) for laid in many.laid] == [9]


def test_many_pieces_can_be_stopped() -> None:
    with pytest.raises(StoppedError):
        nested((Piece("a", rectangle(10, 4), 2_000),), (StockSheet("s", rectangle(330, 200), 5),), 0.2,
               progress=lambda share: share < 0.2)  # fmt: skip


# --- lengths ---


def fewest_bars(lengths: list[float], bar: float, kerf: float) -> int:
    """By trying every way: the least number of bars for a few lengths."""
    best = [len(lengths)]

    def try_next(at: int, rooms: list[float]) -> None:
        if len(rooms) >= best[0]:
            return
        if at == len(lengths):
            best[0] = len(rooms)
            return
        for n, room in enumerate(rooms):
            if room + 1e-9 >= lengths[at] + kerf:
                try_next(at + 1, [*rooms[:n], room - lengths[at] - kerf, *rooms[n + 1 :]])
        try_next(at + 1, [*rooms, bar + kerf - lengths[at] - kerf])

    try_next(0, [])
    return best[0]


@pytest.mark.parametrize("seed", range(6))
def test_no_way_needs_fewer_bars(seed: int) -> None:
    rng = random.Random(seed)
    lengths = sorted((round(rng.uniform(30, 140), 1) for _ in range(10)), reverse=True)
    plan = bars_for(tuple(Length(f"{n}", mm) for n, mm in enumerate(lengths)), (Bar("b", 250.0, 20),), 0.3)
    assert plan.proved and len(plan.bars) == fewest_bars(lengths, 250.0, 0.3)


@pytest.mark.parametrize("seed", range(300, 306))
def test_bars_hold_what_is_cut_from_them(seed: int) -> None:
    lengths, stock = length_list(seed)
    plan = bars_for(lengths, stock, 0.3)
    cut = sorted(key for bar in plan.bars for key, _ in bar.lengths)
    assert plan.proved and not plan.unplaced and cut == sorted(n.key for n in lengths for _ in range(n.count))
    for bar in plan.bars:
        taken = sum(mm for _, mm in bar.lengths) + 0.3 * (len(bar.lengths) - 1)
        assert taken <= bar.bar.mm + 1e-6 and bar.left_mm == pytest.approx(max(0, bar.bar.mm - taken - 0.3), abs=0.31)


def test_a_very_long_list_is_cut_without_proof() -> None:
    rng = random.Random(5)
    lengths = tuple(Length(f"{n}", round(rng.uniform(5, 200), 1)) for n in range(900))
    plan = bars_for(lengths, (Bar("new", 330.0, 600), Bar("end", 120.0, 3, offcut=True)), 0.3)
    assert not plan.unplaced and not plan.proved and plan.bars[0].bar.key == "end"
    total = sum(n.mm + 0.3 for n in lengths)
    # First fit falling never needs more than 11/9 of the fewest, and one.
    assert len(plan.bars) <= 11 / 9 * math.ceil(total / 330.3) + 4


def test_offcuts_of_strip_come_first_and_what_is_too_long_is_said() -> None:
    lengths = (Length("rail", 86.0, 2), Length("keel", 400.0))
    plan = bars_for(lengths, (Bar("new", 330.0, 3), Bar("end", 90.0, 1, offcut=True)), 0.0)
    assert [bar.bar.key for bar in plan.bars] == ["end", "new"] and plan.unplaced == ("keel",) and not plan.proved
    with pytest.raises(RefusedError):
        bars_for((Length("rail", -1.0),), (Bar("new", 330.0),), 0.0)
