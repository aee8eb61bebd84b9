"""Landmarks renamed, merged and paired, on a copy of the demo."""

from __future__ import annotations

import pytest

from chalkreel.answers.landmarks import landmark_rows
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.marks import Mark
from chalkreel.document.entities import Dimension, Landmark, LandmarkMark, Still
from chalkreel.document.store import Store
from chalkreel.edits.landmarks import merged, paired, renamed
from chalkreel.edits.marking import landmark_named, mark_landmark


def called(store: Store, name: str) -> Landmark:
    found = landmark_named(store.build, name)
    assert found is not None
    return found


def marked_on(store: Store, landmark: Landmark) -> set[str]:
    return {m.still_id for m in store.build.all(LandmarkMark) if m.landmark_id == landmark.id}


def test_a_name_typed_twice_in_two_ways_is_made_one_again(store: Store) -> None:
    bow = called(store, "bow tip, port")
    stills = marked_on(store, bow)
    spare = next(s for s in store.build.all(Still) if s.id not in stills)
    store.commit("marked", mark_landmark(store.build, spare, "nose port", Mark(10.0, 10.0)).edits)
    nose = called(store, "nose port")
    sizes = len(store.build.all(Dimension))
    store.commit("merged", renamed(store.build, nose, "BOW TIP, port"))
    assert landmark_named(store.build, "nose port") is None
    assert marked_on(store, bow) == stills | {spare.id} and len(store.build.all(Dimension)) == sizes
    assert called(store, "bow tip, port").mirror_id == called(store, "bow tip, starboard").id
    store.undo()
    assert marked_on(store, bow) == stills


def test_two_that_are_marked_on_one_still_cannot_be_one(store: Store) -> None:
    bow, twin = called(store, "bow tip, port"), called(store, "bow tip, starboard")
    with pytest.raises(RefusedError, match="twin"):
        merged(store.build, bow, twin)
    other = next(
        m
        for m in store.build.all(Landmark)
        if m.id not in (bow.id, twin.id) and marked_on(store, m) & marked_on(store, bow)
    )
    with pytest.raises(RefusedError, match="both marked on still"):
        renamed(store.build, other, bow.name)


def test_twins_are_named_parted_and_put_on_the_centre_line(store: Store) -> None:
    bow, twin = called(store, "bow tip, port"), called(store, "bow tip, starboard")
    store.commit("parted", paired(store.build, bow, ""))
    assert called(store, bow.name).mirror_id == "" and called(store, twin.name).mirror_id == ""
    store.commit("centre", paired(store.build, called(store, bow.name), "Centre"))
    assert called(store, bow.name).mirror_id == bow.id
    store.commit("paired", paired(store.build, called(store, bow.name), twin.name.upper()))
    assert (called(store, bow.name).mirror_id, called(store, twin.name).mirror_id) == (twin.id, bow.id)
    with pytest.raises(RefusedError, match="No landmark is called"):
        paired(store.build, bow, "nobody")


@pytest.mark.parametrize(
    ("one", "other"), [("fin LH", "fin RH"), ("stbd lamp", "prt lamp"), ("Left vent", "Right vent")]
)
def test_usual_words_for_the_sides_make_pairs_and_letters_do_not(store: Store, one: str, other: str) -> None:
    first, second = store.build.all(Still)[:2]
    store.commit("one", mark_landmark(store.build, first, one, Mark(10.0, 10.0)).edits)
    store.commit("other", mark_landmark(store.build, second, other, Mark(20.0, 10.0)).edits)
    assert called(store, one).mirror_id == called(store, other).id
    store.commit("l", mark_landmark(store.build, first, "bolt L", Mark(30.0, 10.0)).edits)
    store.commit("r", mark_landmark(store.build, first, "bolt R", Mark(40.0, 10.0)).edits)
    assert called(store, "bolt L").mirror_id == ""


def test_rows_say_where_a_landmark_is_marked_and_that_it_has_no_place_yet(store: Store) -> None:
    still = store.build.all(Still)[0]
    store.commit("marked", mark_landmark(store.build, still, "loose end", Mark(10.0, 10.0)).edits)
    row = next(r for r in landmark_rows(store.build, None) if r.id == called(store, "loose end").id)
    assert (row.still_ids, row.placed, row.worst_px) == ((still.id,), False, 0.0)
