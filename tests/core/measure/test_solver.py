"""The solver against reels whose truth is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.measure.camera import rotation_of
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.quantities import Across, Angle, Distance, direction_open, measure
from chalkreel.core.measure.scene import (
    Circle,
    Edge,
    Flat,
    Gauge,
    Landmark,
    Parallel,
    Rim,
    Ruler,
    Scene,
    Sighting,
    View,
)
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import solve
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.solver.unknowns import Unknowns
from chalkreel.core.measure.start.cold import solve_reel
from tests.core.measure.reels import Reel, camera_at, hull, photograph, reel


def disturbed(layout: Layout, start: Unknowns, seed: int) -> Unknowns:
    rng = np.random.default_rng(seed)
    views = len(start.rotations)
    seeds = start.blocks + rng.normal(0, 15, start.blocks.shape)
    lenses = start.lenses.copy()
    lenses[:, 0] += rng.normal(0, 0.08, len(lenses))
    return replace(
        start,
        rotations=rotation_of(rng.normal(0, np.radians(0.6), (views, 3))) @ start.rotations,
        translations=start.translations * (1 + rng.normal(0, 0.01, (views, 1))),
        lenses=lenses,
        blocks=seeds,
    )


def solved(marked: Reel, seed: int = 1):
    layout = Layout(marked.scene)
    equations = Equations(layout)
    solution = solve(equations, disturbed(layout, marked.truth(layout), seed))
    return equations, solution


@pytest.mark.parametrize("mirrored", [True, False])
def test_exact_marks_give_the_exact_subject(mirrored):
    marked = reel(2, 30, 5, click_px=0.0, mirrored=mirrored)
    # Clicks stated as very sure leave the lens priors nothing to say.
    sure = tuple(replace(s, mark=replace(s.mark, sigma_px=1e-3)) for s in marked.scene.sightings)
    marked = replace(marked, scene=replace(marked.scene, sightings=sure))
    _, solution = solved(marked)
    for a, b in (("p0", "s4"), ("p1", "p2"), ("s7", "s9")):
        found = np.linalg.norm(solution.point(a) - solution.point(b))
        assert found == pytest.approx(marked.length(a, b), rel=1e-6)


def seen_twice(marked: Reel) -> list[str]:
    twin = {m.key: m.mirror for m in marked.scene.landmarks}
    rays: dict[str, set] = {}
    for s in marked.scene.sightings:
        for name in {s.landmark, twin[s.landmark] or s.landmark}:
            rays.setdefault(name, set()).add((s.view, s.landmark))
    return sorted(name for name, mine in rays.items() if len(mine) > 1)


@pytest.mark.parametrize(
    ("kind", "median", "worst"),
    [
        ({"views": 5}, 0.004, 0.012),
        ({"views": 5, "mirrored": False}, 0.005, 0.02),
        ({"views": 2, "azimuths": (75, 20)}, 0.008, 0.03),
        ({"views": 5, "one_lens": True}, 0.004, 0.012),
    ],
)
def test_intervals_hold_what_they_promise_and_sizes_are_as_good_as_they_can_be(kind, median, worst):
    scores, errors = [], []
    for seed in range(40):
        marked = reel(seed, 30, **kind)
        equations, solution = solved(marked, seed)
        names = seen_twice(marked)
        np.random.default_rng(seed).shuffle(names)
        wanted = tuple(Distance(a, b) for a, b in zip(names[0:20:2], names[1:20:2], strict=True))
        for quantity, found in zip(wanted, measure(solution, Spread(equations, solution), wanted), strict=True):
            truth = marked.length(quantity.a, quantity.b)
            scores.append((found.value - truth) / found.sigma)
            errors.append(abs(found.value / truth - 1))
    assert 0.90 <= np.mean(np.abs(scores) < 1.96) <= 0.98
    assert np.median(errors) < median
    assert np.quantile(errors, 0.95) < worst


def test_one_ruler_is_one_scale_error_that_all_sizes_share():
    marked = reel(4, 30, 5, ruler_sigma=7.0)
    equations, solution = solved(marked)
    ends = sorted(marked.points, key=lambda name: marked.points[name][0])
    wanted = (Distance(ends[2], ends[-4]), Distance(ends[5], ends[-2]), Angle("p0", "p3", "s5"))
    first, second, angle = measure(solution, Spread(equations, solution), wanted)
    share = 7.0 / marked.scene.rulers[0].length_mm
    for found in (first, second):
        assert found.scale_sigma == pytest.approx(share, rel=0.05)
        assert found.ratio_sigma < 0.5 * share
        assert found.sigma / found.value == pytest.approx(np.hypot(found.ratio_sigma, share), rel=0.05)
    assert angle.scale_sigma == 0.0


def test_stills_from_almost_one_place_make_no_confident_wrong_size():
    marked = reel(5, 30, 2, mirrored=False)
    rng = np.random.default_rng(5)
    cameras = {f"v{n}": camera_at(60 + 0.3 * n, 20, 2400, 2200) for n in range(2)}
    sightings = photograph(marked.points, cameras, 0.8, rng)
    marked = Reel(replace(marked.scene, sightings=sightings), marked.points, cameras)
    equations, solution = solved(marked)
    found = measure(solution, Spread(equations, solution), (Distance("p0", "s4"), Distance("p1", "p9")))
    assert all(m.sigma / m.value > 0.1 for m in found)
    assert all(
        abs(m.value - marked.length(*p)) < 3 * m.sigma
        for m, p in zip(found, (("p0", "s4"), ("p1", "p9")), strict=False)
    )


def wheels(click_px: float, seed: int = 0, gauge: bool = True) -> tuple[Scene, dict]:
    """A hull with a wheel on each side and a ring lying on deck, rims clicked at 12 places on several stills."""
    marked = reel(seed, 25, 4, click_px=click_px)
    rng = np.random.default_rng(seed + 100)
    centres = {"wheel": (np.array([-150.0, 118, 40]), 1, 60.0), "ring": (np.array([-200.0, 40, 180]), 2, 45.0)}
    rims = []
    for name, (centre, axis, radius) in centres.items():
        turn = np.linspace(0, 2 * np.pi, 12, endpoint=False)
        flat = np.stack([np.cos(turn), np.sin(turn)], axis=1) * radius
        rim = centre + np.insert(flat, axis, 0.0, axis=1)
        for key, camera in marked.cameras.items():
            for mirrored in (False, True):
                stored = camera.project(rim * [1, -1 if mirrored else 1, 1])
                stored = stored + rng.normal(0, click_px, stored.shape) if click_px else stored
                marks = tuple(Mark(float(x), float(y), max(click_px, 1e-3)) for x, y in stored)
                rims.append(Rim(key, name, marks, mirrored))
    circles = (Circle("wheel", "beam"), Circle("ring"))
    gauges = (Gauge("wheel", "wheel", 120.0, 0.1),) if gauge else ()
    sure = tuple(replace(s, mark=replace(s.mark, sigma_px=1e-3)) for s in marked.scene.sightings)
    sightings = marked.scene.sightings if click_px else sure
    scene = replace(marked.scene, circles=circles, rims=tuple(rims), gauges=gauges, sightings=sightings)
    return scene, {"wheel": 120.0, "ring": 90.0}


def test_circles_are_found_from_their_rims():
    scene, truth = wheels(0.0)
    found = solve_reel(scene)
    spread = Spread(Equations(found.solution.layout), found.solution)
    sizes = measure(found.solution, spread, (Across("wheel"), Across("ring"), Across("ring", radius=True)))
    assert [m.value for m in sizes] == pytest.approx([truth["wheel"], truth["ring"], truth["ring"] / 2], rel=1e-5)


def test_a_known_wheel_is_a_ruler():
    scene, truth = wheels(0.8, seed=3)
    scene = replace(scene, rulers=())
    found = solve_reel(scene)
    spread = Spread(Equations(found.solution.layout), found.solution)
    ring = measure(found.solution, spread, (Across("ring"),))[0]
    assert abs(ring.value - truth["ring"]) < 3 * ring.sigma
    assert ring.sigma / ring.value < 0.02


BOX = {"a": (-300, 100, 0), "b": (300, 100, 0), "c": (300, 100, 150), "d": (-300, 100, 150),
       "e": (-300, -100, 150), "f": (300, -100, 150), "g": (300, -100, 0)}  # fmt: skip
SIDES = (("a", "b", "length"), ("d", "c", "length"), ("e", "f", "length"), ("b", "c", "height"), ("a", "d", "height"),
         ("f", "g", "height"), ("c", "f", "beam"), ("d", "e", "beam"), ("b", "g", "beam"))  # fmt: skip


def box(seed: int, click_px: float) -> Scene:
    """One still of a box: its edges joined at named corners, one of them known."""
    rng = np.random.default_rng(seed)
    camera = camera_at(rng.uniform(30, 55), rng.uniform(18, 35), 1500, rng.uniform(1300, 2200))
    points = {name: np.array(place, float) for name, place in BOX.items()}
    sightings = photograph(points, {"v": camera}, click_px, rng)
    edges = []
    for a, b, axis in SIDES:
        ends = camera.project(np.stack([points[a], points[b]])) + (rng.normal(0, click_px, (2, 2)) if click_px else 0)
        edges.append(Edge("v", *(Mark(float(x), float(y), max(click_px, 1e-3)) for x, y in ends), axis))  # type: ignore[arg-type, call-arg]
    return Scene(
        (View("v", (1280, 800), side="several"),), tuple(Landmark(n) for n in BOX), sightings, tuple(edges),
        tuple(Parallel(a, b, axis, 0.01) for a, b, axis in SIDES), rulers=(Ruler("length", "a", "b", 600.0, 0.5),),
    )  # fmt: skip


def test_one_box_view_is_enough_with_edges_and_a_ruler():
    scores, errors = [], []
    wanted = (Distance("b", "c"), Distance("c", "f"), Distance("a", "f"))
    for seed in range(30):
        found = solve_reel(box(seed, 0.8))
        assert not found.unplaced
        sizes = measure(found.solution, Spread(Equations(found.solution.layout), found.solution), wanted)
        for size, truth in zip(sizes, (150.0, 200.0, np.sqrt(600**2 + 200**2 + 150**2)), strict=True):
            scores.append((size.value - truth) / size.sigma)
            errors.append(abs(size.value / truth - 1))
    assert np.median(errors) < 0.007
    assert np.mean(np.abs(scores) < 1.96) >= 0.9


def test_flats_parallels_and_known_places_hold():
    marked = reel(6, 20, 3, click_px=0.0)
    names = [f"p{n}" for n in range(4)]
    points = {**marked.points}
    for name in names:
        points[name] = points[name] * [1, 0, 1] + [0, 90.0, 0]
        points["s" + name[1:]] = points[name] * [1, -1, 1]
    rng = np.random.default_rng(0)
    sightings = photograph(points, marked.cameras, 0.3, rng)
    landmarks = tuple(
        replace(m, place_mm=tuple(points["p9"]), place_sigma_mm=0.01) if m.key == "p9" else m
        for m in marked.scene.landmarks
    )
    scene = replace(marked.scene, landmarks=landmarks, sightings=sightings, rulers=(),
                    flats=(Flat("side", tuple(names), 0.01), Flat("slab", tuple(names), 0.01, "beam")))  # fmt: skip
    scene = replace(scene, rulers=(Ruler("r", "p5", "s6", float(np.linalg.norm(points["p5"] - points["s6"])), 0.1),))
    found = solve_reel(scene).solution
    assert np.ptp([found.point(n)[1] for n in names]) < 0.1
    assert found.point("p9") == pytest.approx(points["p9"], abs=0.05)


def test_a_set_plan_of_known_places_is_ruler_and_frame_at_once():
    marked = reel(10, 20, 4, mirrored=False)
    turn = rotation_of(np.array([0.3, -0.8, 1.9]))
    plan = {n: turn @ marked.points[n] * 2.5 + [400.0, -90.0, 33.0] for n in ("p0", "s3", "p7", "s9", "p12")}
    landmarks = tuple(replace(m, place_mm=tuple(plan[m.key])) if m.key in plan else m for m in marked.scene.landmarks)
    found = solve_reel(replace(marked.scene, landmarks=landmarks, rulers=()))
    spread = Spread(Equations(found.solution.layout), found.solution)
    assert spread.loose == ()
    size = measure(found.solution, spread, (Distance("p1", "s8"),))[0]
    assert abs(size.value - 2.5 * marked.length("p1", "s8")) < 3 * size.sigma
    assert size.sigma / size.value < 0.02


def test_distances_along_an_axis_need_the_axis():
    marked = reel(7, 30, 4)
    equations, solution = solved(marked)
    spread = Spread(equations, solution)
    across = measure(solution, spread, (Distance("p0", "s0", along="beam"),))[0]
    assert across.value == pytest.approx(2 * abs(marked.points["p0"][1]), rel=0.05)
    assert direction_open(Distance("p0", "p1", along="length"), spread)
    assert not direction_open(Distance("p0", "s0", along="beam"), spread)


def test_equal_steps_divide_a_distance_and_its_error():
    marked = reel(8, 30, 4)
    equations, solution = solved(marked)
    whole, step = measure(solution, Spread(equations, solution), (Distance("p0", "s3"), Distance("p0", "s3", steps=5)))
    assert (step.value, step.sigma) == pytest.approx((whole.value / 5, whole.sigma / 5))


def test_stop_is_heard_and_nonsense_is_refused():
    marked = reel(9, 10, 3)
    layout = Layout(marked.scene)
    with pytest.raises(StoppedError):
        solve(Equations(layout), marked.truth(layout), progress=lambda _: False)
    with pytest.raises(ValueError, match="not each other's mirror"):
        Scene((View("v", (10, 10)),), (Landmark("a", "b"), Landmark("b")))
    with pytest.raises(ValueError, match="used but not there"):
        Scene((View("v", (10, 10)),), (), (Sighting("v", "a", Mark(1, 1)),))
    with pytest.raises(RefusedError, match="above nothing"):
        replace(marked.scene, rulers=(Ruler("r", "p0", "p1", 0.0, 1.0),))


def test_a_cropped_still_finds_its_own_middle():
    rng = np.random.default_rng(3)
    points, landmarks = hull(30, rng)
    cameras = {f"v{n}": camera_at(a, 20, 1800, 1900) for n, a in enumerate((75, -20, 150))}
    cameras["v3"] = camera_at(35, 25, 1800, 2100, offset=(160.0, -70.0))
    stills = tuple(View(key, (1280, 800), cropped=key == "v3") for key in cameras)
    a, b = "p0", "s9"
    ruler = Ruler("r", a, b, float(np.linalg.norm(points[a] - points[b])), 0.2)
    found = solve_reel(Scene(stills, tuple(landmarks), photograph(points, cameras, 0.5, rng), rulers=(ruler,)))
    assert found.solution.camera("v3").offset_px == pytest.approx((160.0, -70.0), abs=60.0)
    assert found.solution.camera("v0").offset_px == (0.0, 0.0)
