"""Flat pieces on stills: a click inside one finds its corners; a squared-up one follows the solved landmarks."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest

from chalkreel.answers.answers import Answerer, Answers
from chalkreel.answers.faces import TWIN
from chalkreel.answers.flat_behind import flat_behind
from chalkreel.answers.matters import measure_matters
from chalkreel.answers.templates import landmarks_on, spot_rows
from chalkreel.answers.traced import traced_within
from chalkreel.answers.wording import name_of
from chalkreel.core.measure.marks import Mark
from chalkreel.document.entities import FlatSet, KnownLength, Landmark, Outline, SkinFace, Still
from chalkreel.document.gallery import Gallery
from chalkreel.document.store import Store


def test_every_face_in_sight_is_met_at_its_middle_or_a_flat_that_lies_on_it(demo_answers: Answers) -> None:
    build, sizes = demo_answers.build, demo_answers.sizes
    assert sizes is not None and sizes.reel.solution is not None
    solution, mirror, tried, on_flat = sizes.reel.solution, {m.id: m.mirror_id for m in build.all(Landmark)}, 0, 0
    flats = [set(flat.landmark_ids) for flat in build.all(FlatSet)]
    for still in build.all(Still):
        if still.id not in solution.layout.views:
            continue
        camera = solution.camera(still.id)
        for number, face in enumerate(demo_answers.faces.skin.faces):
            told = build.get(SkinFace, face.key.removesuffix(TWIN))
            way = face.corners.mean(axis=0) - camera.position
            _, met = demo_answers.faces.skin.first_hits(camera.position, way[None])
            if told is None or told.circle_ids or met[0] != number:
                continue
            ring = {mirror[i] for i in told.landmark_ids} if face.key.endswith(TWIN) else set(told.landmark_ids)
            x, y = camera.project(face.corners.mean(axis=0)[None])[0]
            found = set(flat_behind(build, demo_answers.faces, sizes.reel, still.id, (float(x), float(y))))
            tried, on_flat = tried + 1, on_flat + (found != ring)
            assert found == ring or any(found <= flat for flat in flats), f"{told.name} on still {still.number}"
    # The port side is a flat and, with its hidden foot, a face.
    assert tried > 50 and on_flat < 8
    assert flat_behind(build, demo_answers.faces, sizes.reel, "still-1", (2.0, 2.0)) == ()


def test_a_traced_outline_tells_how_surely_it_has_its_size(demo_answers: Answers) -> None:
    build, sizes = demo_answers.build, demo_answers.sizes
    fin, still = build.get(Outline, "outline-fin"), build.get(Still, "still-10")
    assert fin is not None and still is not None and still.squared is not None and sizes is not None
    within = traced_within(build, sizes.reel, fin)
    # The fin is 94.0 mm long at its root and 88.5 mm high; the replica is half as large.
    across, high = np.ptp([(m.x_px, m.y_px) for m in fin.points], axis=0) * still.squared.mm_per_px / 2
    assert within is not None and 0.1 < within < 0.6
    assert (across, high) == pytest.approx((47.0, 44.25), abs=within)
    # The clicks of a coarser hand, and no errors of the landmarks: less is known, and nothing.
    coarse = msgspec.structs.replace(fin, points=tuple(Mark(m.x_px, m.y_px, 4.0) for m in fin.points))
    assert (traced_within(build, sizes.reel, coarse) or 0) > 2 * within
    assert traced_within(build, replace(sizes.reel, spread=None), fin) is None


def test_marks_are_told_from_places_whose_arcs_cross_well(demo_answers: Answers) -> None:
    """Two of the demo's three marks have their two nearest landmarks all but in line with them."""
    build, sizes = demo_answers.build, demo_answers.sizes
    still = build.get(Still, "still-10")
    assert still is not None and still.squared is not None and sizes is not None
    scale = still.squared.mm_per_px / 2
    places = {name_of(build, key): (x * scale, (still.height_px - y) * scale)
              for key, (x, y) in landmarks_on(build, sizes, still).items()}  # fmt: skip
    rows = spot_rows(build, sizes)
    nearest = []
    for row in rows:
        (a, near), (b, far) = row.nearest
        ways = [np.subtract(places[name], (row.x_mm, row.y_mm)) for name in (a, b)]
        assert [near, far] == pytest.approx([np.linalg.norm(way) for way in ways], abs=0.01)
        sine = abs(ways[0][0] * ways[1][1] - ways[0][1] * ways[1][0]) / (near * far)
        assert sine > 0.49, row.name
        nearest.append(sorted(np.hypot(*np.subtract(at, (row.x_mm, row.y_mm))) for at in places.values())[:2])
    # No farther than need be.
    assert sum(gap for row in rows for _, gap in row.nearest) < 2 * sum(map(sum, nearest))


def test_solved_landmarks_lie_where_a_squared_up_still_shows_them_whatever_is_marked_later(
    demo_answers: Answers, demo_file: Path
) -> None:
    """The fin was traced by hand at its true corners; three of them are landmarks."""
    build, sizes = demo_answers.build, demo_answers.sizes
    still, fin = build.get(Still, "still-10"), build.get(Outline, "outline-fin")
    assert still is not None and still.squared is not None and fin is not None and sizes is not None
    wanted = [f"landmark-fin {where}" for where in ("root, aft", "top, aft", "top, forward")]
    found = landmarks_on(build, sizes, still)
    for key, mark in zip(wanted, fin.points, strict=False):
        assert found[key] == pytest.approx((mark.x_px, mark.y_px), abs=2.0), key
    # Without its hull's foot the model's middle lies elsewhere, and with it the origin of the world.
    gone = [m.id for m in build.all(Landmark) if m.name.startswith(("hull foot", "house"))]
    fewer = {i: e for i, e in build.entities.items() if i not in gone and getattr(e, "landmark_id", "") not in gone}
    answers = next(iter(Answerer(Gallery(Store.open(demo_file).blob)).answer(replace(build, entities=fewer))))
    assert answers.sizes is not None and answers.sizes.reel.solution is not None
    again = landmarks_on(answers.build, answers.sizes, still)
    for key, mark in zip(wanted, fin.points, strict=False):
        assert again[key] == pytest.approx((mark.x_px, mark.y_px), abs=2.5), key
    assert not any("squared up" in words for words in measure_matters(build, sizes, demo_answers.behind))
    # Rulers of another length: the model is 3 % larger, and the templates of the picture are not.
    longer = {k.id: msgspec.structs.replace(k, length_mm=1.03 * k.length_mm) for k in build.all(KnownLength)}
    answers = next(iter(Answerer(Gallery(Store.open(demo_file).blob)).answer(
        replace(build, entities={**build.entities, **longer}))))  # fmt: skip
    assert answers.sizes is not None
    (told,) = (
        words for words in measure_matters(answers.build, answers.sizes, answers.behind) if "squared up" in words
    )
    assert "3.0 % less" in told or "2.9 % less" in told
    bare = msgspec.structs.replace(still, squared=msgspec.structs.replace(still.squared, anchors=()))
    assert landmarks_on(build, sizes, bare) == {}
