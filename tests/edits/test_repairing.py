"""Repairs of faults, and the one that turns a flopped print, on a copy of the demo."""

from __future__ import annotations

import msgspec
import pytest

from chalkreel.core.measure.faults.fault import Fault
from chalkreel.document.entities import Landmark, LandmarkMark, Still
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.store import Store
from chalkreel.edits.flopping import flop
from chalkreel.edits.repairing import repairs


def test_flopping_a_still_turns_every_kind_of_mark_and_twice_is_as_before(store: Store) -> None:
    build = store.build
    busiest = max(
        build.all(Still), key=lambda s: sum(getattr(e, "still_id", "") == s.id for e in build.entities.values())
    )
    edits = flop(build, busiest)
    mine = [e for e in build.entities.values() if getattr(e, "still_id", "") == busiest.id]
    assert set(edits) == {busiest.id, *(e.id for e in mine)}
    for mark in build.all(LandmarkMark):
        if mark.still_id == busiest.id:
            turned = edits[mark.id]
            assert isinstance(turned, LandmarkMark)
            assert turned.mark.x_px + mark.mark.x_px == pytest.approx(busiest.width_px)
            assert turned.mark.y_px == mark.mark.y_px
    for patch in build.all(ColourPatch):
        if patch.still_id == busiest.id:
            turned_patch = edits[patch.id]
            assert isinstance(turned_patch, ColourPatch)
            assert turned_patch.x_px + patch.width_px + patch.x_px == pytest.approx(busiest.width_px)
    store.commit("turned", edits)
    again = store.build.get(Still, busiest.id)
    assert again is not None and again.flopped
    store.commit("turned back", flop(store.build, again))
    for entity in (busiest, *mine):
        assert almost(msgspec.to_builtins(store.build.entities[entity.id]), msgspec.to_builtins(entity))


def almost(found: object, wanted: object) -> bool:
    """Equal but for the last places of numbers."""
    if isinstance(wanted, dict) and isinstance(found, dict):
        return found.keys() == wanted.keys() and all(almost(found[k], wanted[k]) for k in wanted)
    if isinstance(wanted, list | tuple) and isinstance(found, list | tuple):
        return len(found) == len(wanted) and all(map(almost, found, wanted))
    return found == pytest.approx(wanted) if isinstance(wanted, float) else found == wanted


def test_a_landmark_in_two_places_becomes_two_and_no_mark_is_lost(store: Store) -> None:
    landmark = store.build.all(Landmark)[0]
    marks = [m for m in store.build.all(LandmarkMark) if m.landmark_id == landmark.id]
    there = tuple(m.still_id for m in marks[:1])
    (repair,) = repairs(store.build, Fault("two places", 9.0, landmarks=(landmark.id,), elsewhere=there))
    store.commit(repair.words, repair.edits)
    second = next(m for m in store.build.all(Landmark) if m.name == f"{landmark.name} 2")
    after = {m.id: m for m in store.build.all(LandmarkMark)}
    assert after[marks[0].id].landmark_id == second.id
    assert all(after[m.id].landmark_id == landmark.id for m in marks[1:])
