"""A click inside a flat piece finds its corners; one beside any finds none."""

from __future__ import annotations

from chalkreel.answers.answers import Answers
from chalkreel.answers.faces import TWIN
from chalkreel.answers.flat_behind import flat_behind
from chalkreel.document.entities import FlatSet, Landmark, SkinFace, Still


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
