"""Outlines traced on a flat picture, turned into templates: curves, allowances, mirror copies, register marks.

Reference for the smooth curves: Catmull & Rom 1974 (centripetal form, Yuksel et al. 2011).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.draft.allowance import inward_left, widened
from chalkreel.core.draft.corners import EdgeCorner, corner_words, cut_back_mm
from chalkreel.core.draft.labels import placed
from chalkreel.core.draft.node import Node
from chalkreel.core.draft.sheet import LineLayer, Path, Point, Sheet, Words
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit

CURVE_STEPS = 12
ARC_STEPS = 24
REGISTER_MM = 2.0
NUMBER_MM = 3.0


@dataclass(frozen=True)
class Template:
    """An outline with what is to be made of it.

    `allowance_mm` widens the piece at `edges` (from corner to corner, numbered from 1; none means all), where it meets
    another by `corner`, of a sheet `sheet_mm` thick.
    """

    name: str
    nodes: tuple[Node, ...]
    layer: LineLayer = "cut"
    closed: bool = True
    mirror: bool = False
    allowance_mm: float = 0.0
    edges: tuple[int, ...] = ()
    register: bool = True
    corner: EdgeCorner = "as drawn"
    sheet_mm: float = 0.0
    unit: LengthUnit = "mm"


def curve(nodes: tuple[Node, ...], closed: bool) -> tuple[Point, ...]:
    """The outline as points: straight between corners, arcs and smooth runs broken into short pieces.

    Raises
    ------
    RefusedError
        Fewer than two points, or an arc without a point on either side.
    """
    if len(nodes) < 2:
        raise RefusedError("An outline needs at least two points.")
    return tuple(point for i in range(len(nodes)) for point in _from_node(nodes, i, closed))


def edges_of(nodes: tuple[Node, ...], closed: bool = True) -> tuple[tuple[Point, ...], ...]:
    """The edges of an outline, each a curve from a corner to the next; one alone where there is no corner.

    Raises
    ------
    RefusedError
        As `curve`.
    """
    corners = [i for i, node in enumerate(nodes) if node.bend == "corner"]
    if len(nodes) < 2 or (closed and not corners):
        return (curve(nodes, closed),)
    if not closed:
        return _open_edges(nodes)
    turned = (*nodes[corners[0] :], *nodes[: corners[0]])
    found: list[list[Point]] = []
    for i, node in enumerate(turned):
        if node.bend == "corner":
            if found:
                found[-1].append((node.x, node.y))
            found.append([])
        found[-1] += _from_node(turned, i, True)
    found[-1].append((turned[0].x, turned[0].y))
    return tuple(tuple(edge) for edge in found)


def _open_edges(nodes: tuple[Node, ...]) -> tuple[tuple[Point, ...], ...]:
    """The same of one that is not closed: it begins and ends with a corner, whatever its ends are called."""
    found: list[list[Point]] = [[]]
    for i, node in enumerate(nodes):
        if node.bend == "corner" and 0 < i < len(nodes) - 1:
            found[-1].append((node.x, node.y))
            found.append([])
        found[-1] += _from_node(nodes, i, False)
    return tuple(tuple(edge) for edge in found)


def _from_node(nodes: tuple[Node, ...], i: int, closed: bool) -> list[Point]:
    """A node and the points between it and the next."""
    node, count = nodes[i], len(nodes)
    if i == count - 1 and not closed:
        return [(node.x, node.y)]
    following = nodes[(i + 1) % count]
    between: list[Point] = []
    if following.bend == "arc" or node.bend == "arc":
        if not closed and (nodes[0].bend == "arc" or nodes[-1].bend == "arc"):
            raise RefusedError("An arc needs a point before it and one after it.")
        middle = i if node.bend == "arc" else i + 1
        ends = nodes[(middle - 1) % count], nodes[middle % count], nodes[(middle + 1) % count]
        between = _arc(*ends, second_half=node.bend == "arc")
    elif "smooth" in (node.bend, following.bend):
        between = _smooth(nodes, i, closed)
    return [(node.x, node.y), *between]


def _arc(a: Node, through: Node, b: Node, second_half: bool) -> list[Point]:
    """Points strictly between a and the middle, or the middle and b, on the circle through all three."""
    ax, ay, mx, my, bx, by = a.x, a.y, through.x, through.y, b.x, b.y
    d = 2 * (ax * (my - by) + mx * (by - ay) + bx * (ay - my))
    if abs(d) < 1e-9:
        return []
    ux = ((ax**2 + ay**2) * (my - by) + (mx**2 + my**2) * (by - ay) + (bx**2 + by**2) * (ay - my)) / d
    uy = ((ax**2 + ay**2) * (bx - mx) + (mx**2 + my**2) * (ax - bx) + (bx**2 + by**2) * (mx - ax)) / d
    radius = math.hypot(ax - ux, ay - uy)
    start, end = (through, b) if second_half else (a, through)
    angles = [math.atan2(p.y - uy, p.x - ux) for p in (a, through, b)]
    forward = (angles[1] - angles[0]) % (2 * math.pi) < (angles[2] - angles[0]) % (2 * math.pi)
    first, last = math.atan2(start.y - uy, start.x - ux), math.atan2(end.y - uy, end.x - ux)
    sweep = (last - first) % (2 * math.pi) if forward else -((first - last) % (2 * math.pi))
    steps = [first + sweep * k / ARC_STEPS for k in range(1, ARC_STEPS)]
    return [(ux + radius * math.cos(t), uy + radius * math.sin(t)) for t in steps]


def _smooth(nodes: tuple[Node, ...], i: int, closed: bool) -> list[Point]:
    """Points strictly between node i and the next on a centripetal Catmull–Rom curve; corners end a run."""
    count = len(nodes)
    p1, p2 = nodes[i], nodes[(i + 1) % count]
    has_before, has_after = p1.bend == "smooth" and (closed or i > 0), p2.bend == "smooth" and (closed or i + 2 < count)
    before = nodes[(i - 1) % count] if has_before else None
    after = nodes[(i + 2) % count] if has_after else None
    q1, q2 = np.array([p1.x, p1.y]), np.array([p2.x, p2.y])
    q0 = np.array([before.x, before.y]) if before else 2 * q1 - q2
    q3 = np.array([after.x, after.y]) if after else 2 * q2 - q1
    gaps = [max(float(np.linalg.norm(b - a)) ** 0.5, 1e-6) for a, b in ((q0, q1), (q1, q2), (q2, q3))]
    knots = np.cumsum([0.0, *gaps])
    t = np.linspace(knots[1], knots[2], CURVE_STEPS + 1)[1:-1, None]
    t0, t1, t2, t3 = knots
    a1 = (t1 - t) / (t1 - t0) * q0 + (t - t0) / (t1 - t0) * q1
    a2 = (t2 - t) / (t2 - t1) * q1 + (t - t1) / (t2 - t1) * q2
    a3 = (t3 - t) / (t3 - t2) * q2 + (t - t2) / (t3 - t2) * q3
    b1 = (t2 - t) / (t2 - t0) * a1 + (t - t0) / (t2 - t0) * a2
    b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
    found = (t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2
    return [(float(x), float(y)) for x, y in found]


def template_sheet(template: Template) -> Sheet:
    """The template, and its mirror copy beside it if asked for, with register marks outside the piece.

    Raises
    ------
    RefusedError
        The outline cannot be drawn.
    """
    edges = edges_of(template.nodes) if template.closed else ()
    points = curve(template.nodes, template.closed)
    wider = template.allowance_mm - cut_back_mm(template.corner, template.sheet_mm)
    if wider and template.closed:
        points = widened(edges, wider, template.edges)
    how = corner_words(template.corner, template.sheet_mm, template.edges, template.unit)
    copies = [(points, template.name)]
    if template.mirror:
        # Beside the first, its mirror line upright.
        edge = max(x for x, _ in points)
        gap = 2 * edge + 4 * REGISTER_MM + 2.0
        copies.append((tuple((gap - x, y) for x, y in points), f"{template.name}, mirrored"))
    paths: list[Path] = []
    words: list[Words] = []
    for outline, name in copies:
        paths.append(Path(outline, template.layer, template.closed))
        x0, x1 = min(x for x, _ in outline), max(x for x, _ in outline)
        y0, y1 = min(y for _, y in outline), max(y for _, y in outline)
        words.append(Words((x0, y0 - 6.5), name, 2.2))
        if name == template.name:
            words += _numbers(edges)
            words += [Words((x0, y0 - 10.0), how, 2.2)] if how else []
        if template.register:
            for x in (x0 - REGISTER_MM, x1 + REGISTER_MM):
                for y in (y0 - REGISTER_MM, y1 + REGISTER_MM):
                    paths += [Path(((x - 1, y), (x + 1, y)), "register"), Path(((x, y - 1), (x, y + 1)), "register")]
    return Sheet(template.name, tuple(paths), (), tuple(words))


def _numbers(edges: tuple[tuple[Point, ...], ...]) -> list[Words]:
    """The number of each edge inside the outline, beside its middle; none where there is but one."""
    if len(edges) < 2:
        return []
    left = inward_left(edges)
    found = []
    for number, edge in enumerate(edges, start=1):
        (x0, y0), (x1, y1) = edge[(len(edge) - 1) // 2], edge[(len(edge) - 1) // 2 + 1]
        length = max(math.hypot(x1 - x0, y1 - y0), 1e-9)
        way = (-(y1 - y0) / length, (x1 - x0) / length) if left else ((y1 - y0) / length, -(x1 - x0) / length)
        at = ((x0 + x1) / 2 + NUMBER_MM * way[0], (y0 + y1) / 2 + NUMBER_MM * way[1] - 0.9)
        found.append(Words(at, str(number), 1.8, centred=True))
    return list(placed(found))


def unrolled(name: str, lower_mm: float, upper_mm: float, height_mm: float, seam_mm: float = 3.0) -> Sheet:
    """A cone's or cylinder's side laid flat, from its two diameters and its height, with a seam to glue.

    Raises
    ------
    RefusedError
        Sizes that make no solid.
    """
    if min(lower_mm, upper_mm) < 0 or max(lower_mm, upper_mm) <= 0 or height_mm <= 0:
        raise RefusedError("A collar needs two diameters and a height above nothing.")
    small, large = sorted((lower_mm / 2, upper_mm / 2))
    slant = math.hypot(large - small, height_mm)
    if large - small < 1e-6 * large:
        return _cylinder(name, 2 * math.pi * large, height_mm, seam_mm)
    outer = slant * large / (large - small)
    inner = outer - slant
    angle = 2 * math.pi * large / outer
    turns = np.linspace(-angle / 2, angle / 2, max(24, int(angle * 40)))
    far = [(outer * math.sin(t), outer * math.cos(t)) for t in turns]
    near = [(inner * math.sin(t), inner * math.cos(t)) for t in turns[::-1]]
    end = angle / 2
    across = (seam_mm * math.cos(end), -seam_mm * math.sin(end))
    tab = ((far[-1][0], far[-1][1]), (far[-1][0] + across[0], far[-1][1] + across[1]),
           (near[0][0] + across[0], near[0][1] + across[1]), near[0])  # fmt: skip
    paths = (Path((*far, *near), "cut", closed=True), Path(tab, "cut"), Path((far[-1], near[0]), "score"))
    return Sheet(name, paths, (), (Words((0.0, inner + slant / 2), name, 2.2, centred=True),))


def _cylinder(name: str, width: float, height: float, seam: float) -> Sheet:
    body = ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))
    tab = ((width, 0.0), (width + seam, 1.0), (width + seam, height - 1.0), (width, height))
    paths = (Path(body, "cut", closed=True), Path(tab, "cut"), Path(((width, 0.0), (width, height)), "score"))
    return Sheet(name, paths, (), (Words((1.0, 1.0), name, 2.2),))
