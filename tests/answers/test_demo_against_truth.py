"""The demo's answers against the rendered truth, which the program never sees."""

from datetime import datetime
from typing import Any

import msgspec
import numpy as np
import pytest

from chalkreel.answers.answers import Answers
from chalkreel.answers.colours import Colours, SurfaceRow
from chalkreel.answers.reel import ReelAnswer, reel_inputs, solved_reel
from chalkreel.answers.sequence import sequence
from chalkreel.answers.sequence_inputs import sequence_inputs
from chalkreel.answers.sizes import sizes
from chalkreel.answers.tonight import tonight
from chalkreel.answers.wording import lack_words, name_of, size_name
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.finish.order import violations
from chalkreel.demo.evidence import SURFACES
from chalkreel.document.entities import BUILD_ID, KitPart, KnownLength, Plane, RulerMark, Still
from chalkreel.document.snapshot import Build

NO_REEL = ReelAnswer()


def edited(build: Build, **fields: object) -> Build:
    changed = {BUILD_ID: msgspec.structs.replace(build.info, **fields)}
    return build.edited(changed, build.revision + 1, {e: n for n, e in enumerate(build.entities)})


def with_entity(build: Build, entity: Any) -> Build:
    return build.edited({entity.id: entity}, build.revision + 1, {e: n for n, e in enumerate(build.entities)})


def test_sizes_lie_within_their_stated_intervals(demo_answers: Answers, truth: dict[str, Any]) -> None:
    assert demo_answers.sizes is not None
    rows = demo_answers.sizes.rows
    build = demo_answers.build
    assert {size_name(build, row) for row in rows} == set(truth["miniature_mm"])
    assert len(rows) >= 30
    scores = {}
    for row in rows:
        name = size_name(build, row)
        assert row.miniature is not None or row.angle is not None
        if row.miniature is not None:
            scores[name] = (row.miniature.mm - truth["miniature_mm"][name]) / row.miniature.sigma_mm
        elif row.angle is not None:
            scores[name] = (row.angle.degrees - truth["miniature_mm"][name]) / row.angle.sigma_deg
    # 36 intervals of 95 %: two outside are to be expected, six would happen by chance in one run of a hundred.
    assert sum(abs(z) > 1.96 for z in scores.values()) <= 5, scores
    # Nor are they wider than they need be: 36 scores of unit spread.
    assert 0.5 < np.std(list(scores.values())) < 1.4


def test_the_whole_reel_solves_from_nothing(demo_answers: Answers) -> None:
    assert demo_answers.sizes is not None
    reel = demo_answers.sizes.reel
    assert reel.solution is not None and reel.untied == () and reel.unplaced == () and reel.faults == ()
    assert {v.key for v in reel.solution.scene.views} == {f"still-{n}" for n in range(1, 10)}
    bend = {key: reel.solution.camera(key).bend for key in ("still-1", "still-7")}
    assert bend["still-7"] == pytest.approx(-0.12, abs=0.02) and abs(bend["still-1"]) < 0.15
    assert abs(reel.solution.camera("still-8").offset_px[0]) > 100


def test_contradictory_rulers_show_by_how_much(demo_answers: Answers) -> None:
    assert demo_answers.sizes is not None
    checks = {name_of(demo_answers.build, c.key): c for c in demo_answers.sizes.reel.rulers}
    assert set(checks) == {"set plan, overall", "donor wheel", "hatch in the script"}
    plan, hatch = checks["set plan, overall"], checks["hatch in the script"]
    assert plan.deviation is not None and hatch.deviation is not None
    # The hatch is 1,166 mm in truth, not 1,150; the plan's 18.6 m is 18.58.
    assert hatch.deviation == pytest.approx(1150 / (48.6 * 24) - 1, abs=2 * hatch.sigma)
    assert plan.deviation == pytest.approx(775 / 774.1 - 1, abs=2 * plan.sigma)


def test_rulers_in_story_and_on_the_miniature_tell_its_scale(demo_answers: Answers) -> None:
    build = demo_answers.build
    doubled = edited(build, miniature_mm=build.info.miniature_mm * 1.05)
    assert demo_answers.sizes is not None
    again = sizes(doubled, solved_reel(reel_inputs(doubled), (), lambda _: True))
    for found, stated in ((demo_answers.sizes.ratio, 24.0), (again.ratio, 24 / 1.05)):
        assert found is not None and found.stated == pytest.approx(stated)
        assert found.ratio == pytest.approx(24.0, abs=1.96 * found.sigma)


def test_a_wrong_ruler_of_the_reel_is_named_and_its_removal_is_tried_out(demo_answers: Answers) -> None:
    build = demo_answers.build
    wheel = build.get(KnownLength, "known-donor wheel")
    assert wheel is not None
    reel = solved_reel(
        reel_inputs(with_entity(build, msgspec.structs.replace(wheel, length_mm=25.0))), (), lambda _: True
    )
    assert [(f.kind, f.rulers) for f in reel.faults] == [("ruler", (wheel.id,))]
    assert reel.effect is not None and reel.effect.fault == reel.faults[0]
    assert {name_of(build, i) for i, _ in reel.effect.changes} >= {"Fins apart", "Hatch length"}


def test_sizes_are_useful_not_only_safe(demo_answers: Answers, truth: dict[str, Any]) -> None:
    assert demo_answers.sizes is not None
    errors = [abs(r.miniature.mm / truth["miniature_mm"][size_name(demo_answers.build, r)] - 1)
              for r in demo_answers.sizes.rows if r.miniature]  # fmt: skip
    assert np.median(errors) < 0.004 and np.quantile(errors, 0.95) < 0.02


def test_three_links_agree(demo_answers: Answers) -> None:
    assert demo_answers.sizes is not None
    lengths = [row for row in demo_answers.sizes.rows if row.angle is None]
    for row in lengths:
        assert row.miniature and row.replica and row.story
        assert row.story.mm / row.replica.mm == pytest.approx(48)
        assert row.miniature.mm / row.replica.mm == pytest.approx(2)


def test_a_wrong_ruler_is_named(demo_answers: Answers) -> None:
    build = demo_answers.build
    wheel = build.get(RulerMark, "ruler-road wheel")
    assert wheel is not None
    wrong = sizes(with_entity(build, msgspec.structs.replace(wheel, length_mm=25.0)), NO_REEL)
    square_on = next(p for p in wrong.planes if p.still_id == "still-1")
    assert all(a.disagrees for a in square_on.agreement)


def test_an_unmeasurable_plane_says_what_is_missing(demo_answers: Answers) -> None:
    build = demo_answers.build
    plane = build.get(Plane, "plane-aft deck plate")
    assert plane is not None
    found = sizes(
        with_entity(build, msgspec.structs.replace(plane, height_mm=None, width_mm=1.0, width_sigma_mm=0.01)), NO_REEL
    )
    row = next(r for r in found.rows if size_name(build, r) == "Fan flange diameter")
    assert row.replica is None and "ruler" in lack_words(build, row.lack)


def test_verdicts_follow_the_callipers(demo_answers: Answers) -> None:
    assert demo_answers.sizes is not None
    actions = {size_name(demo_answers.build, r): r.verdict.action for r in demo_answers.sizes.rows}
    assert actions["Fin height, port"] == "make new"
    assert actions["Fan flange diameter"] == "correct"
    assert actions["Louvre width"] == "leave"
    assert actions["Roof width"] == "unsure"


def lab_of(truth: dict[str, Any], surface: str) -> np.ndarray:
    return lab_of_xyz(xyz_of_reflectance(np.array(truth["reflectance"][surface])))


def test_surface_colours_hold_their_stated_errors(demo_answers: Answers, truth: dict[str, Any]) -> None:
    assert demo_answers.colours is not None
    for key, name in SURFACES.items():
        row = next(s for s in demo_answers.colours.surfaces if s.name == name)
        assert row.colour is not None
        true, found = lab_of(truth, key), np.array(row.colour.lab)
        assert delta_e_2000(found, true) <= row.colour.delta_e, name
        assert abs(found[0] - true[0]) <= 1.96 * row.colour.sigma_l, name
        assert np.abs(found[1:] - true[1:]).max() <= 2.6 * row.colour.sigma_ab, name


def sampled(colours: Colours) -> tuple[SurfaceRow, ...]:
    """The surfaces that stills show; the lens has a colour of its own."""
    return tuple(row for row in colours.surfaces if row.votes)


def test_all_stills_together_beat_each_neutral_on_its_own(demo_answers: Answers, truth: dict[str, Any]) -> None:
    """Chroma and hue; lightness is shading's, and its ± says so."""
    assert demo_answers.colours is not None
    lights = {s.still_id: s.own for s in demo_answers.colours.stills if s.own is not None}
    assert len(lights) == 3
    own, joint = [], []
    for row in sampled(demo_answers.colours):
        true = lab_of(truth, row.surface_id[8:])
        assert row.colour is not None
        joint.append(chroma_error(np.array(row.colour.lab), true))
        for vote in row.votes:
            if vote.still_id in lights and vote.sample is not None:
                found = lab_of_xyz(lights[vote.still_id].xyz(np.array(vote.sample.rgb)))
                own.append(chroma_error(found, true))
    assert np.mean(joint) < np.mean(own)
    assert np.mean(joint) < 3.0


def chroma_error(found: np.ndarray, true: np.ndarray) -> float:
    """ΔE00 at the true lightness, chroma taken along with it."""
    level = found * (true[0] / found[0])
    return float(delta_e_2000(level, true))


def test_stills_without_a_neutral_are_tied_in_and_another_version_is_kept_apart(demo_answers: Answers) -> None:
    assert demo_answers.colours is not None
    hull = next(s for s in demo_answers.colours.surfaces if s.name == "Hull grey")
    votes = {v.still_number: v for v in hull.votes}
    assert votes[4].lab is not None and votes[6].lab is not None and votes[8].lab is not None
    assert votes[5].lab is None and not votes[5].counts
    raw = [np.array(v.sample.rgb) for v in hull.votes if v.lab is not None and v.sample is not None]
    warmth = [float(rgb[0] / rgb[2]) for rgb in raw]
    assert max(warmth) / min(warmth) > 1.5
    ab = [np.array(v.lab[1:]) for v in hull.votes if v.lab is not None]
    assert max(float(np.abs(a - b).max()) for a in ab for b in ab) < 3.0
    faded = next(s for s in demo_answers.colours.stills if s.number == 6)
    assert "veil" in faded.words or "flattened" in faded.words


def test_recipes_match_their_targets_in_spectra(demo_answers: Answers, truth: dict[str, Any]) -> None:
    assert demo_answers.colours is not None
    for row in sampled(demo_answers.colours):
        assert row.best is not None and row.colour is not None
        assert row.best[0].delta_e < 2.0
        assert delta_e_2000(np.array(row.best[0].lab), lab_of(truth, row.surface_id[8:])) < row.colour.delta_e + 2.0


def test_the_conversion_is_the_scenarios(demo_answers: Answers) -> None:
    assert demo_answers.conversion is not None
    jobs = {(r.operation.verb, r.operation.feature) for r in demo_answers.conversion.rows}
    assert {("add", "crane mast"), ("remove", "roof rack"), ("remove", "extra tanks"), ("replace", "searchlights"),
            ("add", "port tail fin"), ("check", "towing eye")} <= jobs  # fmt: skip
    fin = next(r for r in demo_answers.conversion.rows if r.operation.feature == "port tail fin")
    assert fin.operation.size_mm == pytest.approx(44.2, abs=1.0)


def test_building_the_kits_own_version_needs_only_repairs(demo_answers: Answers) -> None:
    from chalkreel.answers.conversion import conversion

    assert demo_answers.sizes is not None
    same = conversion(edited(demo_answers.build, version_id="version-special"), demo_answers.sizes)
    assert {r.operation.verb for r in same.rows} <= {"add", "repair", "lengthen", "straighten"}


def test_of_the_demos_circuit_the_one_wrong_branch_is_named_and_cured(demo_answers: Answers) -> None:
    found, options = demo_answers.lighting.solved, demo_answers.light_options
    assert [found.circuit.branches[f.branch].id for f in found.findings if f.kind == "reversed"] == ["branch-nav"]
    cured = next(c for f, c in zip(found.findings, options.cured, strict=True) if f.kind == "reversed")
    assert found.dark_branches() and not cured.dark_branches()
    # The reading of 0 mA taken at the bench is told as what it is.
    assert "the wrong way round" in demo_answers.lighting.judged["branch-nav"].words


def test_the_sequence_breaks_no_rule_until_the_user_does(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None and found.broken == () and found.timetable is not None and found.timetable.finish
    backwards = tuple(s.id for s in reversed(found.steps))
    assert demo_answers.conversion is not None
    build = edited(demo_answers.build, order=backwards)
    wrong = sequence(sequence_inputs(build, demo_answers.conversion, demo_answers.colours, datetime(2026, 11, 23)))
    assert wrong.broken and all(len(v.reason) > 20 for v in wrong.broken)
    by_id = {s.id: s for s in wrong.steps}
    assert violations(tuple(by_id[name] for name in wrong.repaired), wrong.limits) == ()


def test_no_evening_is_stopped_before_a_window_that_another_opened(demo_answers: Answers) -> None:
    """The band is masked on the 8th, and its tape does not wait for the 12th."""
    found = demo_answers.sequence
    assert found is not None and found.timetable is not None and demo_answers.conversion is not None
    thursday = datetime(2026, 12, 10, 18)
    ended = {name: end for name, (_, end) in found.timetable.spans.items() if end < thursday}
    build = edited(
        demo_answers.build, done=(*demo_answers.build.info.done, *ended), first_bench_day="",
        done_at=tuple((name, end.isoformat()) for name, end in ended.items()),
    )  # fmt: skip
    plan = sequence(
        sequence_inputs(build, demo_answers.conversion, demo_answers.colours, thursday), kept=found.timetable
    )
    sheet = tonight(plan, build, demo_answers.colours)
    assert sheet is not None and plan.timetable is not None
    begin, end = (plan.timetable.spans[f"Hull/Hazard band/{kind}"] for kind in ("stripe/2", "unmask"))
    assert sheet.window.start < begin[0] < end[1] < sheet.window.end
    assert sheet.stops and min(sheet.stops) >= end[1]


def test_open_matters_are_counted_in_words(demo_answers: Answers) -> None:
    assert any("tail fin" in words for words in demo_answers.matters("Gather"))
    assert any("Roof width" in words for words in demo_answers.matters("Measure"))
    assert any("towing eye" in words for words in demo_answers.matters("Convert"))
    assert [m.partition(":")[0] for m in demo_answers.matters("Bench")] == ["Roof hatch"]


def test_an_empty_build_has_answers_too(tmp_path: Any) -> None:
    from tests.builds import empty_build

    from chalkreel.answers.answers import Answerer
    from chalkreel.document.gallery import Gallery
    from chalkreel.document.store import Store

    store = Store.create(tmp_path / "empty.chalkreel", empty_build("Empty"))
    *_, answers = Answerer(Gallery(store.blob)).answer(store.build)
    assert answers.sizes is not None and answers.sizes.rows == ()
    assert len(answers.coverage.bare_sides) == 5
    assert answers.sequence is not None and answers.sequence.steps == ()
    assert store.build.all(Still) == () and store.build.all(KitPart) == ()
    store.close()
