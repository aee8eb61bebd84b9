"""Stills described together, replaced by better copies, squared up again."""

from __future__ import annotations

import io
from typing import Any

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image

from chalkreel.answers.sides import guessed_sides
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.facing import facing, seen_from
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.sides import joined, parts_of
from chalkreel.core.media.decode import decode
from chalkreel.core.media.picture import Picture
from chalkreel.document.entities import FlatSet, LandmarkMark, Spot, Still
from chalkreel.document.gallery import Gallery
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.store import Store
from chalkreel.edits.describing import placed, put_in_new_version, toggled
from chalkreel.edits.replacing import copy_of, replaced
from chalkreel.edits.squaring import put_on_reel, square_up


def test_sides_are_said_together_in_one_order_and_face_between() -> None:
    assert joined(("top", "bow", "port")) == "port bow top" and parts_of("several") == ()
    assert joined(("port", "bow", "starboard")) == "starboard bow"
    port_bow = facing("port bow")
    assert port_bow is not None and port_bow == pytest.approx([0.5**0.5, 0.5**0.5, 0])
    # A camera 30 degrees off the bow and 20 above, one dead abeam, one straight overhead.
    bow = np.radians(30)
    assert seen_from(np.array([np.cos(bow), np.sin(bow), 0.36])) == "port bow"
    assert seen_from(np.array([0.1, -3.0, 0.5])) == "starboard" and seen_from(np.array([0.1, 0, 9.0])) == "top"


def test_a_camera_tells_which_side_its_still_shows(store: Store, demo_answers) -> None:
    reel, build = demo_answers.sizes.reel, store.build
    told = {s.id: s.side for s in build.all(Still)}
    store.commit("forgotten", {i: toggled(build, {i}, told[i], False)[1][i] for i in ("still-1", "still-3", "still-4")})
    assert guessed_sides(store.build, reel) == {"still-1": "port", "still-3": "top", "still-4": "starboard"}
    store.commit("one wrong", {"still-4": replace(still_of(store, "still-4"), side="port bow")})
    assert guessed_sides(store.build, reel)["still-4"] == "starboard"
    nothing = {s.id: replace(s, side="several") for s in store.build.all(Still)}
    store.commit("all forgotten", nothing)
    # Bow and aft could be exchanged now: nothing is claimed.
    assert guessed_sides(store.build, reel) == {}


def test_stills_are_described_together_as_one_change(store: Store) -> None:
    both = {"still-1", "still-2"}
    words, edits = placed(store.build, both, "top", "version-special", add=True)
    store.commit(words, edits)
    assert [store.build.get(Still, i).side for i in sorted(both)] == ["port top", "bow top"]
    assert {store.build.get(Still, i).version_id for i in both} == {"version-special"}
    words, edits = put_in_new_version(store.build, both)
    assert words == "new version: Version 3" and len(edits) == 3


def still_of(store: Store, still_id: str) -> Still:
    found = store.build.get(Still, still_id)
    assert found is not None
    return found


def picture_of(store: Store, still: Still) -> Picture:
    return Gallery(store.blob).picture(still.blob)


def png(pixels: Any) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def test_a_better_copy_takes_all_marks_along_to_where_they_were(store: Store) -> None:
    build, still = store.build, still_of(store, "still-1")
    old = picture_of(store, still)
    # Twice as fine, and cut at the left and above.
    fine = cv2.resize(old.display(), None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)[40:, 60:]
    edits = replaced(build, still, copy_of(old, decode(png(fine)), "b" * 64))
    new = edits["still-1"]
    assert (new.width_px, new.height_px, new.cropped) == (fine.shape[1], fine.shape[0], True)
    assert new.pixel_aspect == pytest.approx(still.pixel_aspect, rel=1e-3)
    marks = [m for m in build.all(LandmarkMark) if m.still_id == "still-1"]
    assert len(marks) > 5
    for mark in marks:
        moved = edits[mark.id].mark
        assert (moved.x_px, moved.y_px) == pytest.approx((2 * mark.mark.x_px - 60, 2 * mark.mark.y_px - 40), abs=0.3)
        assert moved.sigma_px == pytest.approx(2 * mark.mark.sigma_px, rel=0.01)
    for patch in (p for p in build.all(ColourPatch) if p.still_id == "still-1"):
        assert edits[patch.id].x_px == pytest.approx(2 * patch.x_px - 60, abs=0.5)
        assert edits[patch.id].width_px == pytest.approx(2 * patch.width_px, rel=0.02)
    with pytest.raises(RefusedError, match="not the same picture"):
        copy_of(old, picture_of(store, still_of(store, "still-3")), "c" * 64)


def test_a_squeezed_copy_has_other_pixels_and_the_same_shape(store: Store) -> None:
    still = still_of(store, "still-2")
    old = picture_of(store, still)
    smaller = cv2.resize(old.display(), (old.width * 3 // 4, old.height), interpolation=cv2.INTER_AREA)
    new = replaced(store.build, still, copy_of(old, decode(png(smaller)), "b" * 64))["still-2"]
    assert new.pixel_aspect == pytest.approx(still.pixel_aspect * 4 / 3, rel=2e-3) and not new.cropped


def test_a_flat_squared_up_again_replaces_its_picture_and_keeps_what_was_marked_on_it(
    store: Store, demo_answers
) -> None:
    gallery, sizes = Gallery(store.blob), demo_answers.sizes
    flat = store.build.all(FlatSet)[0]
    first = square_up(store.build, sizes, gallery, flat.id, blend=False).still
    store.commit("squared up", put_on_reel(store.build, first))
    spot = Spot(id="spot", still_id=first.id, name="chip", a=Mark(100, 80), b=Mark(140, 80))
    store.commit("chip", {spot.id: spot})
    again = square_up(store.build, sizes, gallery, flat.id, blend=True).still
    assert (again.id, again.number) == (first.id, first.number)
    # As if the flat had been found 3 mm farther along, at half the fineness.
    plane = again.squared
    assert plane is not None and plane.corner_mm is not None
    corner = tuple(np.add(plane.corner_mm, 3.0 * np.array(plane.right)))
    anchors = tuple((key, (x - 3.0 / plane.mm_per_px) / 2, y / 2) for key, x, y in plane.anchors)
    moved = replace(again, squared=replace(plane, mm_per_px=2 * plane.mm_per_px, corner_mm=corner, anchors=anchors))
    edits = put_on_reel(store.build, moved)
    here = edits["spot"]
    assert here.a.x_px == pytest.approx((100 - 3.0 / plane.mm_per_px) / 2) and here.a.y_px == pytest.approx(40)
    assert here.b.x_px - here.a.x_px == pytest.approx(20)
    # The world may have moved since, by all it likes; and in an old file no landmark says how the plane lay.
    elsewhere = replace(
        moved, squared=replace(plane, anchors=anchors, mm_per_px=2 * plane.mm_per_px, corner_mm=(900.0, -50.0, 7.0))
    )
    there = put_on_reel(store.build, elsewhere)["spot"]
    assert (there.a.x_px, there.a.y_px) == pytest.approx((here.a.x_px, here.a.y_px))
    old = replace(moved, squared=replace(plane, mm_per_px=2 * plane.mm_per_px, corner_mm=corner, anchors=()))
    by_world = put_on_reel(store.build, old)["spot"]
    assert (by_world.a.x_px, by_world.a.y_px) == pytest.approx((here.a.x_px, here.a.y_px))
