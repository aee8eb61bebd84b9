"""What the solver says of the marks: faults, doubt about the lens, what to mark next."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.advice import advise
from chalkreel.core.measure.faults.fault import repaired
from chalkreel.core.measure.faults.find import find_faults
from chalkreel.core.measure.faults.rulers import check_rulers
from chalkreel.core.measure.ghosts import ghosts, search_line
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.profile import focal_doubt, measured_with_profile
from chalkreel.core.measure.quantities import Distance, measure
from chalkreel.core.measure.scene import Landmark, Ruler, Scene, Sighting
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.cold import solve_reel
from tests.core.measure.reels import reel


def judged(scene: Scene):
    found = solve_reel(scene)
    spread = Spread(Equations(found.solution.layout), found.solution)
    return found, spread, find_faults(scene, found.solution, spread)


def moved(scene: Scene, by_px: float, **where) -> Scene:
    """Marks that match view and landmarks, moved sideways."""
    names, view = where["landmarks"], where["view"]
    return replace(
        scene,
        sightings=tuple(
            replace(s, mark=replace(s.mark, x_px=s.mark.x_px + by_px)) if s.view == view and s.landmark in names else s
            for s in scene.sightings
        ),
    )


def exchanged(scene: Scene, view: str, names: tuple[str, ...] | None = None) -> Scene:
    twin = {m.key: m.mirror for m in scene.landmarks}
    return replace(
        scene,
        sightings=tuple(
            replace(s, landmark=twin[s.landmark]) if s.view == view and (names is None or s.landmark in names) else s
            for s in scene.sightings
        ),
    )


def marked_on(scene: Scene, view: str) -> list[str]:
    return [s.landmark for s in scene.sightings if s.view == view]


@pytest.mark.parametrize("seed", range(10))
def test_an_honest_reel_is_not_accused(seed):
    assert judged(reel(seed, 30, 5, share=0.6).scene)[2] == ()


@pytest.mark.parametrize("seed", range(4))
def test_a_misplaced_mark_is_named_and_removing_it_mends_the_sizes(seed):
    clean = reel(seed, 30, 5, share=0.6).scene
    count = {n: sum(s.landmark == n for s in clean.sightings) for n in marked_on(clean, "v1")}
    name = max(count, key=lambda n: count[n])
    _, _, faults = judged(moved(clean, 15.0, view="v1", landmarks=(name,)))
    assert (faults[0].kind, faults[0].view, faults[0].landmarks) == ("mark", "v1", (name,))
    assert judged(repaired(clean, faults[0]))[2] == ()


@pytest.mark.parametrize("seed", range(4))
def test_a_swapped_pair_is_told_from_a_misplaced_mark(seed):
    clean = reel(seed, 30, 5, share=0.6).scene
    both = next(n for n in marked_on(clean, "v1") if n[0] == "p" and "s" + n[1:] in marked_on(clean, "v1"))
    pair = (both, "s" + both[1:])
    swapped = exchanged(clean, "v1", pair)
    _, _, faults = judged(swapped)
    assert (faults[0].kind, faults[0].view, set(faults[0].landmarks)) == ("swap", "v1", set(pair))
    assert repaired(swapped, faults[0]) == clean


@pytest.mark.parametrize("seed", range(3))
def test_a_still_with_port_and_starboard_exchanged_is_recognised(seed):
    clean = reel(seed, 30, 5, share=0.6).scene
    whole = exchanged(clean, "v2")
    faults = judged(whole)[2]
    assert (faults[0].kind, faults[0].view) == ("swapped view", "v2")
    assert repaired(whole, faults[0]) == clean


def test_a_ruler_that_disagrees_is_named_with_by_how_much():
    marked = reel(2, 30, 5)
    by_length = sorted(marked.points, key=lambda n: marked.points[n][0])
    pairs = [(by_length[i], by_length[-2 - i]) for i in (1, 3)]
    lengths = [marked.length(*pair) for pair in pairs]
    wrong = Ruler("wrong", *pairs[0], lengths[0] * 1.03, 0.3)
    right = Ruler("right", *pairs[1], lengths[1], 0.3)
    scene = replace(marked.scene, rulers=(*marked.scene.rulers, right, wrong))
    found, spread, faults = judged(scene)
    assert [(f.kind, f.rulers) for f in faults] == [("ruler", ("wrong",))]
    check = next(c for c in check_rulers(found.solution, spread) if c.key == "wrong")
    assert check.deviation == pytest.approx(0.03, abs=3 * check.sigma)
    assert not any(c.disagrees for c in check_rulers(found.solution, spread) if c.key == "overall")
    assert judged(repaired(scene, faults[0]))[2] == ()


def test_a_single_ruler_has_nothing_to_be_checked_against():
    found, spread, _ = judged(reel(3, 30, 4).scene)
    assert [c.deviation for c in check_rulers(found.solution, spread)] == [None]


@pytest.mark.parametrize("seed", range(3))
def test_a_wrong_pixel_aspect_is_found_with_the_one_that_would_fit(seed):
    clean = reel(seed, 30, 5, share=0.6).scene
    wrong = replace(clean, views=tuple(replace(v, pixel_aspect=16 / 15) if v.key == "v3" else v for v in clean.views))
    faults = judged(wrong)[2]
    assert (faults[0].kind, faults[0].view, faults[0].aspect) == ("aspect", "v3", 1.0)
    assert repaired(wrong, faults[0]) == clean


def test_landmarks_that_moved_together_show_another_version():
    clean = reel(1, 30, 5).scene
    names = tuple(marked_on(clean, "v0")[2:6])
    faults = judged(moved(clean, 25.0, view="v0", landmarks=names))[2]
    assert (faults[0].kind, faults[0].view, faults[0].landmarks) == ("version", "v0", tuple(sorted(names)))


def test_one_still_with_pairs_and_a_ruler_does_not_know_its_focal_length():
    scores = []
    for seed in range(6):
        marked = reel(seed, 30, 1, share=1.0, azimuths=(50,))
        found, spread, _ = judged(marked.scene)
        assert focal_doubt(found.solution, spread).open
        names = [n for n in marked.points if n not in found.unplaced]
        wanted = tuple(Distance(n, "s" + n[1:]) for n in names if n[0] == "p")[:6]
        for q, m in zip(wanted, measured_with_profile(found.solution, spread, wanted), strict=True):
            assert m.sigma / m.value > 0.2
            scores.append(abs(m.value - marked.length(q.a, q.b)) / m.sigma)
        advice = advise(marked.scene, found.solution, spread, wanted[0])
        assert {a.kind for a in advice if a.left < 0.3} == {"ruler", "focal"}
    assert np.mean(np.array(scores) < 1.96) > 0.9


def test_a_second_ruler_across_cures_it():
    marked = reel(2, 30, 1, share=1.0, azimuths=(50,))
    across = max((n for n in marked.points if n[0] == "p"), key=lambda n: marked.points[n][1])
    ruler = Ruler("beam", across, "s" + across[1:], marked.length(across, "s" + across[1:]), 0.3)
    found, spread, _ = judged(replace(marked.scene, rulers=(*marked.scene.rulers, ruler)))
    assert not focal_doubt(found.solution, spread).open
    sizes = measured_with_profile(found.solution, spread, (Distance("p0", "s0"), Distance("p3", "s3")))
    for size, pair in zip(sizes, (("p0", "s0"), ("p3", "s3")), strict=True):
        assert size.sigma / size.value < 0.08
        assert abs(size.value - marked.length(*pair)) < 3 * size.sigma


def test_advice_keeps_its_promise():
    marked = reel(4, 30, 4, mirrored=False, share=0.5)
    found, spread, _ = judged(marked.scene)
    placed = [n for n in marked.points if n not in found.unplaced]
    wanted = Distance(placed[0], placed[5])
    before = measure(found.solution, spread, (wanted,))[0]
    every = advise(marked.scene, found.solution, spread, wanted)
    advice = next(a for a in every if a.kind == "mark")
    place = marked.cameras[advice.view].project(marked.points[advice.landmarks[0]][None])[0]
    more = Sighting(advice.view, advice.landmarks[0], Mark(float(place[0]), float(place[1]), 0.8))
    scene = replace(marked.scene, sightings=(*marked.scene.sightings, more))
    after_found, after_spread, _ = judged(scene)
    after = measure(after_found.solution, after_spread, (wanted,))[0]
    assert after.sigma / before.sigma == pytest.approx(advice.left, abs=0.12)


def test_ghosts_stand_where_the_landmarks_are_as_surely_as_they_say():
    scores = []
    for seed in range(12):
        marked = reel(seed, 30, 5, share=0.5)
        found, spread, _ = judged(marked.scene)
        made = {(s.view, s.landmark) for s in marked.scene.sightings}
        for ghost in (g for view in ("v0", "v2") for g in ghosts(found.solution, spread, view)):
            if (ghost.view, ghost.landmark) not in made:
                x, y = marked.cameras[ghost.view].project(marked.points[ghost.landmark][None])[0]
                scores.append(ghost.distance(Mark(x, y, 1e-3)))
    # 95 % of a two-dimensional Gaussian lie within 2.45 σ.
    assert 0.90 <= np.mean(np.array(scores) < 2.448) <= 0.985


def test_a_landmark_marked_once_lies_on_its_line():
    marked = reel(0, 30, 4, mirrored=False)
    place = np.array([30.0, 20.0, 90.0])
    x, y = marked.cameras["v0"].project(place[None])[0]
    scene = replace(
        marked.scene,
        landmarks=(*marked.scene.landmarks, Landmark("new")),
        sightings=(*marked.scene.sightings, Sighting("v0", "new", Mark(float(x), float(y), 0.5))),
    )
    found = solve_reel(scene)
    assert "new" in found.unplaced
    line = np.array(search_line(found.solution, scene, "v1", "new"))
    wanted = marked.cameras["v1"].project(place[None])[0]
    steps = np.diff(line, axis=0)
    along = np.clip(np.sum((wanted - line[:-1]) * steps, axis=1) / np.sum(steps**2, axis=1), 0, 1)
    assert np.linalg.norm(line[:-1] + along[:, None] * steps - wanted, axis=1).min() < 6.0
    assert search_line(found.solution, scene, "v0", "new") == ()


def test_what_cannot_be_tied_in_says_what_to_mark():
    marked = reel(0, 30, 5)
    few = {s.landmark for s in marked.scene.sightings if s.view == "v4"}
    keep = set(sorted(few)[:3])
    scene = replace(
        marked.scene,
        sightings=tuple(s for s in marked.scene.sightings if s.view != "v4" or s.landmark in keep),
    )
    untied = solve_reel(scene).untied
    assert [u.view for u in untied] == ["v4"]
    assert (untied[0].shared, untied[0].lacking) == (3, 1) and not keep & set(untied[0].wanted)
    with pytest.raises(RefusedError, match="second still"):
        solve_reel(replace(scene, sightings=tuple(s for s in scene.sightings if s.view == "v4")))


def test_a_new_mark_is_solved_from_the_last_solution():
    marked = reel(3, 30, 5)
    found = solve_reel(marked.scene)
    fewer = replace(marked.scene, sightings=marked.scene.sightings[:-3])
    again = solve_reel(marked.scene, (solve_reel(fewer).start,))
    assert again.solution.cost == pytest.approx(found.solution.cost, rel=1e-6)


def test_a_fault_that_no_start_betters_is_not_searched_again_and_again():
    marked = reel(2, 30, 5, share=0.6)
    whole = exchanged(marked.scene, "v2")
    first = solve_reel(whole)
    assert not first.solution.fits
    calls: list[float] = []
    again = solve_reel(whole, (first.start,), lambda share: not calls.append(share))
    assert again.solution.cost <= first.solution.cost * 1.001
    assert len(calls) < 15
