"""Solid model of the tender in millimetres of the filmed miniature.

Axes: x towards the bow, y to port, z up; the origin is amidships on the bench top.
Lengths that the demo measures are the constants at the top.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont
from manifold3d import CrossSection, FillRule, JoinType, Manifold, OpType

HALF_WIDTH = 150.0
DECK_Z = 150.0
BAND_Z = (98.0, 130.0)
GROOVES_X = (-260.0, -120.0, 20.0, 160.0)
FIN = ((-384.0, 150.0), (-374.0, 238.5), (-338.0, 238.5), (-290.0, 150.0))
PLATE = (-350.0, -110.0, 120.0)
FAN_X, FAN_Y, FLANGE_D = -230.0, 62.0, 104.0
HOUSE = ((22.0, 150.0), (30.0, 232.0), (142.0, 232.0), (208.0, 150.0))
HOUSE_HALF_WIDTH = 91.0
ROOF_Z = 232.0
HATCH_SIDE = 48.6
HATCH_X = 86.0
WHEEL_D = 21.4
WHEEL_AT = (-190.0, 76.0)
VENT = (-90.0, -30.0, 64.0, 88.0)
SIDE_PROFILE = ((-380.0, 52.0), (-387.5, 64.0), (-387.5, 150.0), (252.0, 150.0), (387.5, 96.0), (362.0, 52.0))

Profile = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Part:
    """One solid with the name of its surface."""

    surface: str
    solid: Manifold


def box(x0: float, x1: float, y0: float, y1: float, z0: float, z1: float) -> Manifold:
    """Axis-aligned box."""
    return Manifold.cube([x1 - x0, y1 - y0, z1 - z0]).translate([x0, y0, z0])


def rounded(profile: Profile, half_width: float, radius: float) -> Manifold:
    """Convex x-z profile extruded across the beam, every edge rounded."""
    inset = CrossSection([profile], FillRule.NonZero).offset(-radius, JoinType.Miter, 4.0)
    points = np.asarray(inset.to_polygons()[0])
    ball = Manifold.sphere(radius, 20)
    balls = [ball.translate([x, side * (half_width - radius), z]) for x, z in points for side in (-1.0, 1.0)]
    return Manifold.batch_hull(balls)


def tube(outer: float, inner: float, height: float, at: tuple[float, float, float]) -> Manifold:
    """Upright ring; `inner` 0 gives a disc."""
    ring = Manifold.cylinder(height, outer / 2, outer / 2, 128)
    if inner > 0:
        ring = ring - Manifold.cylinder(height * 3, inner / 2, inner / 2, 128).translate([0, 0, -height])
    return ring.translate(list(at))


def plate_xz(profile: Profile, y0: float, y1: float) -> Manifold:
    """Flat plate with an x-z outline between two beams."""
    solid = CrossSection([profile], FillRule.NonZero).extrude(y1 - y0)
    return solid.rotate([90, 0, 0]).translate([0, y1, 0])


def glyph(text: str, height: float, font: Path) -> CrossSection:
    """Outline of a number in mm, lower left at the origin."""
    face = TTFont(font)
    glyphs, cmap = face.getGlyphSet(), face.getBestCmap()
    polygons: list[list[tuple[float, float]]] = []
    advance = 0.0
    for char in text:
        pen = DecomposingRecordingPen(glyphs)
        glyphs[cmap[ord(char)]].draw(pen)
        polygons += [[(x + advance, y) for x, y in contour] for contour in _contours(pen.value)]
        advance += glyphs[cmap[ord(char)]].width
    scale = height / face["OS/2"].sCapHeight
    return CrossSection([np.array(p) * scale for p in polygons], FillRule.EvenOdd)


def _contours(commands: list[tuple[str, tuple[tuple[float, float], ...]]]) -> list[list[tuple[float, float]]]:
    contours: list[list[tuple[float, float]]] = []
    for name, points in commands:
        if name == "moveTo":
            contours.append([points[0]])
        elif name == "lineTo":
            contours[-1].append(points[0])
        elif name == "qCurveTo":
            contours[-1] += _quadratic(contours[-1][-1], list(points))
    return contours


def _quadratic(start: tuple[float, float], points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    controls, end = points[:-1], points[-1]
    middles = [((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) for a, b in pairwise(controls)]
    path: list[tuple[float, float]] = []
    for control, stop in zip(controls, [*middles, end], strict=True):
        for t in np.linspace(0.125, 1.0, 8):
            path.append(
                tuple(
                    (1 - t) ** 2 * s + 2 * t * (1 - t) * c + t * t * e
                    for s, c, e in zip(start, control, stop, strict=True)
                )
            )
        start = stop
    return path


def _grooves() -> Manifold:
    """Panel lines 0.7 mm wide: down both sides, along the band, over the deck and round the ramp door."""
    cuts: list[Manifold] = []
    w, deep = 0.45, 0.9
    for side in (-1.0, 1.0):
        lo, hi = sorted((side * (HALF_WIDTH - deep), side * (HALF_WIDTH + 2)))
        cuts += [box(x - w, x + w, lo, hi, 50, 160) for x in GROOVES_X]
        cuts += [box(-400, 300, lo, hi, z - w, z + w) for z in BAND_Z]
    x0, x1, y = PLATE
    top = (DECK_Z - deep, DECK_Z + 1)
    cuts += [box(x - w, x + w, -y - w, y + w, *top) for x in (x0, x1)]
    cuts += [box(x0 - w, x1 + w, s * y - w, s * y + w, *top) for s in (-1.0, 1.0)]
    cuts += [box(x - w, x + w, -150, 150, *top) for x in (-60.0, 235.0)]
    cuts += [box(-60, 235, s * 112 - w, s * 112 + w, *top) for s in (-1.0, 1.0)]
    ramp = [box(0, 132, s * 92 - w, s * 92 + w, -deep, 3) for s in (-1.0, 1.0)]
    ramp += [box(x - w, x + w, -92, 92, -deep, 3) for x in (12.0, 66.0, 128.0)]
    slope = float(np.degrees(np.arctan2(54.0, 135.5)))
    cuts += [cut.rotate([0, slope, 0]).translate([252, 0, 150]) for cut in ramp]
    return Manifold.batch_boolean(cuts, OpType.Add)


def _sides(solid: Manifold) -> list[Manifold]:
    return [solid, solid.mirror([0, 1, 0])]


def hull_parts(version: str, font: Path) -> list[Part]:
    """Hull, deck, band with hazard stripes and number, skirt, skids, donor wheels and vents."""
    grooves = _grooves()
    hull = rounded(SIDE_PROFILE, HALF_WIDTH, 3.0) - grooves
    band = (rounded(SIDE_PROFILE, HALF_WIDTH + 0.15, 3.0) ^ box(-400, 262, -160, 160, *BAND_Z)) - grooves
    band = band - box(-386, 400, -149.5, 149.5, 0, 300)
    deck = box(-383, 248, -146, 146, DECK_Z - 0.5, DECK_Z + 0.12) - grooves
    stripes = [
        plate_xz(((x, 98.6), (x + 26, 129.4), (x + 44, 129.4), (x + 18, 98.6)), 150.1, 150.35)
        for x in np.arange(-370.0, -280.0, 38.0)
    ]
    number = glyph("9" if version == "series" else "12", 26.0, font)
    port = number.extrude(0.3).rotate([90, 0, 180]).translate([222.0, 150.1, 101.0])
    starboard = number.extrude(0.3).rotate([90, 0, 0]).translate([188.0, -150.1, 101.0])
    marks = [copy for stripe in stripes for copy in _sides(stripe)] + [port, starboard]
    skirt = rounded(((-372, 18), (-372, 58), (366, 58), (366, 18)), 160.0, 18.0)
    ribs = Manifold.batch_boolean([box(x, x + 1.2, -170, 170, 0, 52) for x in range(-350, 350, 24)], OpType.Add)
    wheel = Manifold.cylinder(5, WHEEL_D / 2, WHEEL_D / 2, 96) - tube(17.4, 10.0, 2.0, (0, 0, 4.0))
    wheel = wheel.rotate([-90, 0, 0]).translate([WHEEL_AT[0], HALF_WIDTH - 0.5, WHEEL_AT[1]])
    x0, x1, z0, z1 = VENT
    vent = box(x0, x1, HALF_WIDTH - 1, HALF_WIDTH + 2.5, z0, z1)
    slats = [box(x0 + 3, x1 - 3, HALF_WIDTH + 0.5, HALF_WIDTH + 4, z, z + 1.8) for z in np.arange(z0 + 3, z1 - 3, 4)]
    vent = vent - Manifold.batch_boolean(slats, OpType.Add)
    skids = [
        rounded(((x - 56, 2), (x - 62, 24), (x + 62, 24), (x + 46, 2)), 20.0, 6.0).translate([0, side * 140, 0])
        for x in (-225.0, 225.0)
        for side in (-1.0, 1.0)
    ]
    return [
        Part("hull", hull),
        Part(f"band_{version}", band),
        Part("deck", deck),
        Part("dark", Manifold.batch_boolean(marks, OpType.Add)),
        Part("skirt", skirt - ribs),
        Part("steel", Manifold.batch_boolean([*skids, *_sides(wheel)], OpType.Add)),
        Part("hull", Manifold.batch_boolean(_sides(vent), OpType.Add)),
    ]


def house_parts(version: str) -> list[Part]:
    """Wheelhouse with windows, hatch and lamps."""
    house = rounded(HOUSE, HOUSE_HALF_WIDTH, 3.0)
    windows = [
        plate_xz(((36, 186), (39, 222), (84, 222), (84, 186)), 0, 200),
        plate_xz(((92, 186), (92, 222), (136, 222), (165, 186)), 0, 200),
    ]
    openings = Manifold.batch_boolean(
        [copy for w in windows for copy in _sides(w - box(-100, 400, -1, 88.5, 0, 400))], OpType.Add
    )
    slope = float(np.degrees(np.arctan2(82.0, 66.0)))
    panes = [box(14, 66, y - 27, y + 27, -1.4, 3).rotate([0, slope, 0]).translate([142, 0, 232]) for y in (-58, 0, 58)]
    front = Manifold.batch_boolean(panes, OpType.Add)
    inner = rounded(HOUSE, HOUSE_HALF_WIDTH, 3.0).translate([-98, 0, -190]).scale([0.985, 0.985, 0.985])
    inner = inner.translate([98, 0, 190])
    half = HATCH_SIDE / 2
    hatch = box(HATCH_X - half, HATCH_X + half, -half, half, ROOF_Z - 1, ROOF_Z + 1.6)
    handle = box(HATCH_X - 8, HATCH_X + 8, -2, 2, ROOF_Z + 1, ROOF_Z + 4.5)
    lamps_y = (-62.0, 62.0) if version == "series" else (-66.0, -24.0, 24.0, 66.0)
    lamps = [Manifold.cylinder(18, 9, 11, 64).rotate([0, 90, 0]).translate([120, y, ROOF_Z + 15]) for y in lamps_y]
    feet = [box(126, 132, y - 2, y + 2, ROOF_Z - 1, ROOF_Z + 8) for y in lamps_y]
    lenses = [tube(17, 0, 1.2, (0, 0, 0)).rotate([0, 90, 0]).translate([137.4, y, ROOF_Z + 15]) for y in lamps_y]
    parts = [
        Part("hull", house - openings - front),
        Part("glass", Manifold.batch_boolean([inner, *lenses], OpType.Add)),
        Part("deck", hatch + handle),
        Part("steel", Manifold.batch_boolean(lamps + feet, OpType.Add)),
    ]
    if version == "special":
        bars = [box(34, 112, y, y + 2, ROOF_Z + 10, ROOF_Z + 12) for y in (-80, -54, 54, 78)]
        bars += [box(x, x + 2, -80, 80, ROOF_Z + 10, ROOF_Z + 12) for x in (34, 110)]
        bars += [box(x, x + 2, y, y + 2, ROOF_Z - 1, ROOF_Z + 11) for x in (34, 110) for y in (-80, 78)]
        parts.append(Part("steel", Manifold.batch_boolean(bars, OpType.Add)))
    return parts


def aft_parts(version: str, bare: bool) -> list[Part]:
    """Ducted fans, tail fins, deck clutter; crane mast (series) or extra tanks (special)."""
    rings, blades = [], []
    for side in (-1.0, 1.0):
        at = (FAN_X, side * FAN_Y, DECK_Z - 1)
        rings += [tube(FLANGE_D, 84, 3.0, at), tube(92, 84, 16.0, at), tube(20, 0, 14.0, at)]
        for turn in range(0, 360, 45):
            blade = box(8, 41, -4, 4, 0, 1.2).rotate([24, 0, 0]).rotate([0, 0, turn])
            blades.append(blade.translate([FAN_X, side * FAN_Y, DECK_Z + 7]))
    pits = [tube(84, 0, 0.5, (FAN_X, s * FAN_Y, DECK_Z)) for s in (-1.0, 1.0)]
    port_fin, starboard_fin = _sides(plate_xz(FIN, 143.0, HALF_WIDTH))
    # The kit lacks its port fin.
    fins = starboard_fin if bare else port_fin + starboard_fin
    rng = np.random.default_rng(9)
    clutter = []
    for _ in range(34):
        x, y = rng.uniform(-100, 10), rng.uniform(-130, 130)
        if abs(y) < 46:
            continue
        dx, dy, dz = rng.uniform(6, 24), rng.uniform(6, 20), rng.uniform(2, 10)
        clutter.append(box(x, min(x + dx, 14), y, min(y + dy, 142), DECK_Z - 1, DECK_Z + dz))
    parts = [
        Part("hull", Manifold.batch_boolean(rings, OpType.Add)),
        Part("hull", fins),
        Part("dark", Manifold.batch_boolean(pits, OpType.Add)),
        Part("steel", Manifold.batch_boolean(blades, OpType.Add)),
        Part("deck", Manifold.batch_boolean(clutter, OpType.Add)),
    ]
    return [*parts, *(_mast() if version == "series" else _tanks())]


def _mast() -> list[Part]:
    post = Manifold.cylinder(64, 7, 6, 48).translate([-40, 0, DECK_Z - 1])
    foot = tube(40, 0, 7, (-40, 0, DECK_Z - 1))
    rails = [box(0, 172, y, y + 3, z, z + 3) for y in (-9, 6) for z in (0, 15)]
    braces = []
    for i, x in enumerate(range(0, 168, 14)):
        tilt = 45 if i % 2 else -45
        stay = box(-9, 9, -1, 1, -1, 1).rotate([0, tilt, 0]).translate([x + 7, 0, 9])
        braces += [stay.translate([0, y, 0]) for y in (-8, 8)]
        braces.append(box(x, x + 2, -9, 9, 15.5, 17.5))
    boom = Manifold.batch_boolean(rails + braces, OpType.Add).rotate([0, -9, 180]).translate([-28, 0, DECK_Z + 46])
    hook = Manifold.cylinder(34, 0.8, 0.8, 12).translate([-186, 0, DECK_Z + 40])
    return [Part("steel", post + foot), Part("band_series", boom), Part("dark", hook)]


def _tanks() -> list[Part]:
    tank = Manifold.batch_hull([Manifold.sphere(15, 40).translate([x, 126, DECK_Z + 15]) for x in (-52.0, 60.0)])
    straps = [tube(31.4, 0, 4, (0, 0, 0)).rotate([0, 90, 0]).translate([x, 126, DECK_Z + 15]) for x in (-34.0, 36.0)]
    return [
        Part("band_special", Manifold.batch_boolean(_sides(tank), OpType.Add)),
        Part("dark", Manifold.batch_boolean([s for t in straps for s in _sides(t)], OpType.Add)),
    ]


def tender(version: str, font: Path, bare: bool = False) -> list[Part]:
    """All parts of one version, "series" or "special"; `bare` is the kit as it came."""
    return [*hull_parts(version, font), *house_parts(version), *aft_parts(version, bare)]
