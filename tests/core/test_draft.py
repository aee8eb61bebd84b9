"""Templates and views in millimetres, against sizes worked out by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.draft.allowance import widened
from chalkreel.core.draft.labels import overlap, placed
from chalkreel.core.draft.node import Node
from chalkreel.core.draft.sheet import Path, Sheet, Words, in_rows
from chalkreel.core.draft.template import Template, curve, edges_of, template_sheet, unrolled
from chalkreel.core.draft.three_view import Circle3, Line3, Size3, three_views
from chalkreel.core.errors import RefusedError

SQUARE = tuple(Node(x, y) for x, y in ((0, 0), (40, 0), (40, 30), (0, 30)))


def area(points) -> float:
    x, y = np.array(points).T
    return abs(float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))) / 2


def length(points, closed=False) -> float:
    around = np.array([*points, points[0]] if closed else points)
    return float(np.sum(np.hypot(*np.diff(around, axis=0).T)))


def test_corners_stay_corners():
    assert curve(SQUARE, closed=True) == ((0, 0), (40, 0), (40, 30), (0, 30))


@given(st.floats(5, 200), st.floats(-3, 3))
def test_an_arc_through_three_points_of_a_circle_is_that_circle(radius, start):
    turns = (start, start + 1.1, start + 2.3)
    bends = ("corner", "arc", "corner")
    a, m, b = (Node(radius * math.cos(t), radius * math.sin(t), bend) for t, bend in zip(turns, bends, strict=True))  # type: ignore[arg-type]
    points = np.array(curve((a, m, b), closed=False))
    assert np.allclose(np.hypot(*points.T), radius)
    assert length(points) == pytest.approx(2.3 * radius, rel=1e-3)


def test_a_smooth_run_goes_through_its_points_without_kinks():
    circle = tuple(Node(50 * math.cos(t), 50 * math.sin(t), "smooth") for t in np.linspace(0, 2 * math.pi, 9)[:-1])
    points = np.array(curve(circle, closed=True))
    assert np.abs(np.hypot(*points.T) - 50).max() < 0.8
    ways = np.diff(np.vstack([points, points[:2]]), axis=0)
    turns = np.degrees(np.abs(np.diff(np.unwrap(np.arctan2(ways[:, 1], ways[:, 0])))))
    assert turns.max() < 8


@given(st.floats(0.1, 3), st.sampled_from([(1,), (2, 4), (1, 2, 3, 4), ()]))
def test_the_allowance_widens_exactly_the_chosen_edges(allowance, edges):
    found = widened(edges_of(SQUARE), allowance, edges)
    chosen = edges or (1, 2, 3, 4)
    width = 40 + allowance * sum(e in chosen for e in (2, 4))
    height = 30 + allowance * sum(e in chosen for e in (1, 3))
    assert area(found) == pytest.approx(width * height)


def test_edges_behind_another_sheet_are_cut_back_by_it_and_a_mitre_keeps_its_outside():
    nodes = tuple(Node(x, y) for x, y in ((0, 0), (40, 0), (40, 30), (0, 30)))

    def cut(corner, sheet_mm=1.5, allowance=0.0):
        template = Template("wall", nodes, edges=(2, 4), allowance_mm=allowance, corner=corner, sheet_mm=sheet_mm)
        drawn = template_sheet(template)
        return area(drawn.paths[0].points), " ".join(w.words for w in drawn.words)

    assert cut("behind")[0] == pytest.approx((40 - 2 * 1.5) * 30)
    assert cut("behind", allowance=0.5)[0] == pytest.approx((40 - 2 * 1.0) * 30)
    for corner in ("as drawn", "over", "mitre"):
        assert cut(corner)[0] == pytest.approx(40 * 30)
    assert "bevel" in cut("mitre")[1] and "edges 2, 4" in cut("behind")[1]
    with pytest.raises(RefusedError, match="how thick"):
        cut("behind", sheet_mm=0.0)


def test_turning_the_outline_round_widens_it_all_the_same():
    assert area(widened(edges_of(SQUARE[::-1]), 1.0, ())) == pytest.approx(42 * 32)


def test_the_mirror_copy_is_as_large_and_the_other_way_round():
    wedge = (Node(0, 0), Node(30, 0), Node(0, 20))
    sheet = template_sheet(Template("fin", wedge, mirror=True, register=False))
    first, second = (path.points for path in sheet.paths)
    assert area(first) == pytest.approx(area(second)) == pytest.approx(300)
    assert max(x for x, _ in first) < min(x for x, _ in second)
    signed = [np.linalg.det(np.subtract(p[1:], p[0])) for p in (first, second)]
    assert signed[0] * signed[1] < 0


def test_an_unrolled_cone_rolls_up_to_its_rims():
    sheet = unrolled("bell", 60.0, 30.0, 40.0)
    body = next(p for p in sheet.paths if p.closed)
    radii = np.hypot(*np.array(body.points).T)
    slant = math.hypot(15, 40)
    outer, inner = radii.max(), radii.min()
    assert outer - inner == pytest.approx(slant)
    far = [p for p, r in zip(body.points, radii, strict=True) if r > (inner + outer) / 2]
    near = [p for p, r in zip(body.points, radii, strict=True) if r < (inner + outer) / 2]
    assert length(far) == pytest.approx(math.pi * 60, rel=1e-3)
    assert length(near) == pytest.approx(math.pi * 30, rel=1e-3)


def test_an_unrolled_cylinder_is_a_rectangle():
    body = next(p for p in unrolled("collar", 20.0, 20.0, 12.0).paths if p.closed)
    assert area(body.points) == pytest.approx(math.pi * 20 * 12)


def test_nonsense_is_refused():
    with pytest.raises(RefusedError, match="two points"):
        curve((Node(0, 0),), closed=True)
    with pytest.raises(RefusedError, match="edges 1 to 4"):
        widened(edges_of(SQUARE), 1.0, (7,))
    with pytest.raises(RefusedError, match="above nothing"):
        unrolled("x", 0.0, 0.0, 10.0)
    with pytest.raises(RefusedError, match="before it"):
        curve((Node(0, 0, "arc"), Node(1, 1)), closed=False)


def test_three_views_stand_as_the_axes_say_and_show_each_size_truly():
    box = [(x, y, z) for x in (-100.0, 100.0) for y in (-40.0, 40.0) for z in (0.0, 50.0)]
    edges = [(a, b) for a in box for b in box if a < b and sum(p != q for p, q in zip(a, b, strict=True)) == 1]
    lines = tuple(Line3(a, b) for a, b in edges)
    sizes = (
        Size3((-100, 40, 50), (100, 40, 50), "200"),
        Size3((100, 40, 0), (100, 40, 50), "50"),
        Size3((100, -40, 50), (100, 40, 50), "80"),
    )
    sheet = three_views("box", lines, (Circle3((0, 0, 50), (0, 0, 1), 20),), (), sizes)
    outlines = [p for p in sheet.paths if p.layer == "outline"]
    xs = sorted({round(x, 3) for p in outlines for x, _ in p.points if not p.closed})
    ys = sorted({round(y, 3) for p in outlines for _, y in p.points if not p.closed})
    # Front view 80 wide, then a gap, then side and top 200 wide; side 50 high, then the top view 80 high.
    assert xs[1] - xs[0] == pytest.approx(80) and xs[-1] - xs[-2] == pytest.approx(200)
    assert ys[1] - ys[0] == pytest.approx(50) and ys[-1] - ys[-2] == pytest.approx(80)
    assert [w.words for w in sheet.words if w.words in ("200", "50", "80")].count("200") == 1
    spans = {round(length(p.points), 2) for p in sheet.paths if p.layer == "dimension"}
    assert {200.0, 50.0, 80.0} <= spans
    # Seen along its normal the circle is a circle; from the side it is a line.
    rings = [np.ptp(np.array(p.points), axis=0) for p in outlines if p.closed]
    assert sorted(round(float(min(r)), 2) for r in rings) == pytest.approx([0, 0, 40], abs=0.1)


def test_rows_do_not_overlap():
    squares = [Sheet(str(n), (Path(((0, 0), (60, 0), (60, 20 + n), (0, 20 + n)), "cut", True),)) for n in range(7)]
    packed = in_rows("all", squares, width=190)
    boxes = [(*np.min(p.points, axis=0), *np.max(p.points, axis=0)) for p in packed.paths]
    for i, a in enumerate(boxes):
        for b in boxes[:i]:
            assert a[0] >= b[2] or b[0] >= a[2] or a[1] >= b[3] or b[1] >= a[3]
    # What is narrow and low stands beside what came long before.
    mixed = [Sheet("", (Path(((0, 0), (w, 0), (w, h), (0, h)), "cut", True),))
             for w, h in ((120, 40), (150, 30), (170, 50), (55, 35))]  # fmt: skip
    x0, y0, x1, y1 = in_rows("all", mixed, width=190).bounds()
    assert (x1 - x0, y1 - y0) == (120 + 8 + 55, 40 + 30 + 50 + 2 * 8)


def half_disc(radius: float = 30.0):
    """A straight edge from left to right, then half a circle back."""
    return (Node(-radius, 0.0), Node(radius, 0.0), Node(0.0, radius, "arc"))


@pytest.mark.parametrize("allowance", [0.5, 3.0])
def test_a_curved_edge_is_widened_as_the_curve_that_it_is(allowance):
    disc = half_disc()
    assert len(edges_of(disc)) == 2
    round_edge = np.array(widened(edges_of(disc), allowance, (2,)))
    # Half a disc of the larger radius, its straight edge carried on to meet it.
    assert np.hypot(*round_edge.T).max() == pytest.approx(30 + allowance, rel=1e-3)
    assert area(round_edge) == pytest.approx(math.pi * (30 + allowance) ** 2 / 2, rel=5e-3)
    straight = np.array(widened(edges_of(disc), allowance, (1,)))
    assert straight[:, 1].min() == pytest.approx(-allowance) and straight[:, 1].max() == pytest.approx(30.0)
    # Nothing shoots out: a piece grows by no more than a few allowances anywhere.
    for points in (round_edge, straight):
        assert np.abs(points[:, 0]).max() < 30 + 3.2 * allowance


def test_a_sharp_corner_is_cut_off_and_not_drawn_to_a_spike():
    needle = tuple(Node(x, y) for x, y in ((0.0, 0.0), (100.0, 0.0), (100.0, 1.0)))
    points = np.array(widened(edges_of(needle), 3.0, (2, 3)))
    assert points[:, 0].min() > -20 and points[:, 0].max() < 115


def test_edges_are_numbered_on_the_sheet_inside_the_piece():
    numbers = {w.words: w.at for w in template_sheet(Template("flank", SQUARE)).words if w.words.isdigit()}
    assert set(numbers) == {"1", "2", "3", "4"}
    assert numbers["1"][1] < 6 and numbers["3"][1] > 24 and numbers["2"][0] > 34 and numbers["4"][0] < 6
    assert not any(w.words.isdigit() for w in template_sheet(Template("disc", CIRCLE)).words)


CIRCLE = tuple(Node(20 * math.cos(t), 20 * math.sin(t), "smooth") for t in np.linspace(0, 2 * math.pi, 9)[:-1])


@given(st.lists(st.tuples(st.floats(0, 60), st.floats(0, 60), st.integers(1, 24)), min_size=1, max_size=25))
def test_labels_never_lie_over_each_other(places):
    found = placed(Words((x, y), "x" * letters, 2.0) for x, y, letters in places)
    for i, a in enumerate(found):
        assert not any(overlap(a.box(), b.box()) for b in found[:i])


def test_dimensions_of_a_crowded_view_can_be_told_apart():
    rng = np.random.default_rng(4)
    points = [tuple(p) for p in rng.uniform((-90, 39.9, 0), (90, 40, 50), (16, 3))]
    pairs = zip(points[::2], points[1::2], strict=True)
    sizes = tuple(Size3(a, b, f"{n}.25 = 4 × {n}.06") for n, (a, b) in enumerate(pairs))
    sheet = three_views("crowd", (), (), tuple(points), sizes)
    labels = [w for w in sheet.words if "×" in w.words]
    assert len(labels) == 8
    x0, y0, x1, y1 = sheet.bounds()
    for i, a in enumerate(labels):
        left, low, right, high = a.box()
        assert x0 <= left and y0 <= low and right <= x1 and high <= y1
        assert not any(overlap(a.box(), b.box()) for b in labels[:i])
