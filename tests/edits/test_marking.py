"""Edits for marks of the whole reel, on builds made by hand."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from tests.builds import empty_build

from chalkreel.answers.reel import reel_inputs, solved_reel
from chalkreel.answers.scene_of import quantity_of, scene_of
from chalkreel.answers.sizes import sizes
from chalkreel.answers.wording import lack_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.faults.fault import Fault
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.quantities import Across, Angle, Distance
from chalkreel.document.entities import (
    Dimension,
    EdgeMark,
    FlatSet,
    KnownLength,
    Landmark,
    LandmarkMark,
    RimMark,
    RoundShape,
    Still,
    Tie,
)
from chalkreel.document.gallery import Gallery
from chalkreel.document.store import Store
from chalkreel.edits.marking import (
    landmark_named,
    mark_edge,
    mark_flat,
    mark_landmark,
    mark_repeats,
    mark_rim,
    span,
    trace,
)
from chalkreel.edits.removing import removal
from chalkreel.edits.repairing import repairs
from chalkreel.edits.squaring import square_up


@pytest.fixture
def store(tmp_path: Path) -> Any:
    opened = Store.create(tmp_path / "reel.chalkreel", empty_build("Reel"))
    stills = [
        Still(id=f"s{n}", title=f"still {n}", blob="0" * 64, width_px=800, height_px=600, number=n) for n in (1, 2)
    ]
    opened.commit("stills", {s.id: s for s in stills})
    yield opened
    opened.close()


def still(store: Store, name: str = "s1") -> Still:
    found = store.build.get(Still, name)
    assert found is not None
    return found


def put(store: Store, name: str, x: float = 10.0, on: str = "s1") -> str:
    store.commit(name, mark_landmark(store.build, still(store, on), name, Mark(x, 20.0)).edits)
    made = landmark_named(store.build, name)
    assert made is not None
    return made.id


def test_names_of_two_sides_pair_up_once(store: Store) -> None:
    port, starboard = put(store, "Port fin"), put(store, "Starboard fin", 90.0)
    assert store.build.get(Landmark, port).mirror_id == starboard  # type: ignore[union-attr]
    third = put(store, "starboard lamp")
    assert store.build.get(Landmark, third).mirror_id == ""  # type: ignore[union-attr]
    assert put(store, "portal") != third and store.build.get(Landmark, third).mirror_id == ""  # type: ignore[union-attr]


def test_marking_again_moves_the_mark(store: Store) -> None:
    put(store, "tip", 10.0)
    put(store, " TIP ", 44.0)
    assert [m.mark.x_px for m in store.build.all(LandmarkMark)] == [44.0]
    put(store, "tip", 50.0, "s2")
    assert len(store.build.all(LandmarkMark)) == 2 and len(store.build.all(Landmark)) == 1


def test_edges_join_landmarks_or_need_a_direction(store: Store) -> None:
    a, b = put(store, "a"), put(store, "b")
    ends = (Mark(0, 0), Mark(50, 0))
    (tie,) = mark_edge(still(store), ends, "", (a, b)).edits.values()
    assert isinstance(tie, Tie) and tie.direction == ""
    (edge,) = mark_edge(still(store), ends, " beam ", (a, "")).edits.values()
    assert isinstance(edge, EdgeMark) and edge.direction == "beam"
    with pytest.raises(RefusedError, match="which way"):
        mark_edge(still(store), ends, "  ", ("", ""))
    store.commit("both", {tie.id: tie, edge.id: edge})
    scene = scene_of(store.build)
    # A tie without a direction is drawn, and holds nothing.
    assert scene.parallels == () and [e.direction for e in scene.edges] == ["beam"]


def test_a_rim_is_clicked_anew_side_by_side(store: Store) -> None:
    marks = tuple(Mark(float(n), float(n * n)) for n in range(5))
    for mirrored in (False, True, False):
        store.commit("rim", mark_rim(store.build, still(store), "wheel", marks, mirrored).edits)
    assert sorted(r.mirrored for r in store.build.all(RimMark)) == [False, True]
    assert len(store.build.all(RoundShape)) == 1
    with pytest.raises(RefusedError, match="five points"):
        mark_rim(store.build, still(store), "wheel", marks[:4], False)


def test_what_is_too_little_is_refused(store: Store) -> None:
    a, b = put(store, "a"), put(store, "b")
    with pytest.raises(RefusedError, match="three landmarks"):
        mark_flat(store.build, "deck", (a, b, a, ""), None)
    with pytest.raises(RefusedError, match="Square a plane up"):
        trace(store.build, still(store), "fin", (Mark(0, 0),) * 3, "corner")
    with pytest.raises(RefusedError, match="Choose the circle"):
        mark_repeats(store.build, still(store), "", (Mark(0, 0), Mark(1, 0), Mark(0, 1)), False)


def test_a_flat_outlives_one_landmark_and_not_two(store: Store) -> None:
    ids = tuple(put(store, name) for name in "abcd")
    store.commit("flat", mark_flat(store.build, "deck", ids, "height").edits)
    store.commit("gone", removal(store.build, ids[0]))
    assert store.build.all(FlatSet)[0].landmark_ids == ids[1:]
    store.commit("gone too", removal(store.build, ids[1]))
    assert store.build.all(FlatSet) == ()


def test_sizes_say_what_they_are_of(store: Store) -> None:
    a, b, c = (put(store, name) for name in "abc")
    store.commit("angle", span(store.build, a, b, c).edits)
    store.commit("distance", span(store.build, a, b).edits)
    angle, distance = (quantity_of(d) for d in store.build.all(Dimension))
    assert (angle, distance) == (Angle(a, c, b), Distance(a, b))
    assert quantity_of(Dimension(id="d", name="d")) is None
    assert quantity_of(Dimension(id="d", name="d", circle_id="o")) == Across("o")


def test_what_was_taken_over_unseen_is_no_evidence(store: Store) -> None:
    a = put(store, "a")
    made = mark_landmark(store.build, still(store, "s2"), "a", Mark(5.0, 5.0), unconfirmed=True)
    store.commit("accepted", made.edits)
    assert [(s.view, s.landmark) for s in scene_of(store.build).sightings] == [("s1", a)]
    put(store, "a", 5.0, "s2")
    assert len(scene_of(store.build).sightings) == 2


def test_repairs_touch_the_culprit_alone(store: Store) -> None:
    port, starboard = put(store, "port fin"), put(store, "starboard fin")
    put(store, "port fin", 70.0, "s2")
    known = KnownLength(id="k", name="rule", length_mm=10.0, sigma_mm=0.1, link="miniature", a_id=port, b_id=starboard)
    store.commit("ruler", {"k": known})
    swap = repairs(store.build, Fault("swap", 9.0, "s1", (port, starboard)))[0].edits
    assert sorted(m.landmark_id for m in swap.values()) == sorted((port, starboard))  # type: ignore[union-attr]
    gone = repairs(store.build, Fault("mark", 9.0, "s2", (port,)))[0].edits
    assert list(gone.values()) == [None] and len(gone) == 1
    assert repairs(store.build, Fault("ruler", 9.0, rulers=("k",)))[0].edits == {"k": None}
    (wide,) = repairs(store.build, Fault("aspect", 9.0, "s2", aspect=16 / 15))[0].edits.values()
    assert isinstance(wide, Still) and wide.pixel_aspect == 16 / 15 and wide.id == "s2"


def test_without_a_solution_the_reel_says_what_to_mark(store: Store) -> None:
    assert "No landmark" in solved_reel(reel_inputs(store.build), (), lambda _: True).problem
    ids = [put(store, name) for name in "abcd"]
    store.commit("size", span(store.build, ids[0], ids[1]).edits)
    store.commit("flat", mark_flat(store.build, "deck", tuple(ids), None).edits)
    reel = solved_reel(reel_inputs(store.build), (), lambda _: True)
    assert "second still" in reel.problem
    row = sizes(store.build, reel).rows[0]
    assert row.replica is None and lack_words(store.build, row.lack) == reel.problem
    flat = store.build.all(FlatSet)[0]
    with pytest.raises(RefusedError, match="two stills first"):
        square_up(store.build, sizes(store.build, reel), Gallery(store.blob), flat.id, False)
