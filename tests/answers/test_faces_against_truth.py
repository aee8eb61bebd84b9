"""The demo's faces, what they hide, and its pictures without perspective, against the model that was rendered."""

from __future__ import annotations

import io
import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from tools.tender.cameras import SHOTS, project

from chalkreel.answers.answers import Answers
from chalkreel.answers.face_marks import face_spot_rows
from chalkreel.answers.faces import solved_faces
from chalkreel.answers.lighting import lighting
from chalkreel.answers.orthographic import DrawnView, orthographic_view
from chalkreel.answers.pose import pose_words
from chalkreel.answers.routes import routes
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.panel import panel_of
from chalkreel.core.measure.marks import Mark
from chalkreel.document.entities import SkinFace, Spot, Still
from chalkreel.document.gallery import Gallery
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store
from chalkreel.edits.marking import mark_spot
from chalkreel.edits.removing import removal

# Areas by hand from the model's drawing, mm² of the miniature: corners of the profile, in order.
SIDE = ((-387.5, 150.0), (252.0, 150.0), (387.5, 96.0), (365.0, 58.0), (-383.8, 58.0), (-387.5, 64.0))
FIN = ((-384.0, 150.0), (-374.0, 238.5), (-338.0, 238.5), (-290.0, 150.0))
HOUSE = ((22.0, 150.0), (30.0, 232.0), (142.0, 232.0), (208.0, 150.0))


@pytest.fixture(scope="module")
def views(demo_file, demo_answers: Answers):
    store = Store.open(demo_file)
    gallery, made = Gallery(store.blob), {}

    def of(name: str) -> DrawnView:
        if name not in made:
            reel = demo_answers.sizes.reel
            made[name] = orthographic_view(
                demo_answers.build, demo_answers.faces, reel, gallery, name, 200.0, lambda _: True
            )
        return made[name]

    yield of
    store.close()


def with_entities(build: Build, *entities: Any) -> Build:
    changed = {e.id: e for e in entities}
    return build.edited(changed, build.revision + 1, {e: n for n, e in enumerate({**build.entities, **changed})})


def area(corners: tuple[tuple[float, float], ...]) -> float:
    x, y = np.array(corners).T
    return float(abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2)


def test_areas_are_true_to_three_per_cent_where_edges_are_sharp(demo_answers: Answers) -> None:
    found = {row.id: row for row in demo_answers.faces.rows}
    assert all(not row.problem and not row.twisted for row in found.values())
    for name, corners in (("hull side", SIDE), ("fin", FIN)):
        assert found[f"face-{name}"].area_mm2 == pytest.approx(area(corners), rel=0.03)
    # All its edges are rounded by 3 mm, and clicked inside of where they would meet.
    assert found["face-wheelhouse side"].area_mm2 == pytest.approx(area(HOUSE), rel=0.05)
    assert found["face-wheelhouse roof"].area_mm2 == pytest.approx(112 * 182, rel=0.03)
    # A cone's wall from the flange, 104 mm across at 2 mm, to the ring, 92 mm across at 15 mm above the deck.
    assert found["face-fan duct"].area_mm2 == pytest.approx(np.pi * (52 + 46) * np.hypot(13, 6), rel=0.03)


def test_what_is_bare_is_not_called_hidden_and_most_that_stands_behind_something_is(demo_answers: Answers) -> None:
    """Judged by the rendered model itself: what it has before each landmark, in mm of the miniature."""
    gaps = json.loads(Path(__file__).parents[1].joinpath("data", "hidden.json").read_text())
    called: dict[str, list[bool]] = {"bare": [], "behind": []}
    for still, before in gaps.items():
        hidden = demo_answers.faces.hidden_on(demo_answers.sizes.reel, still)
        for name, gap in before.items():
            # In between it lies under a rounded edge, and may be called either.
            if gap < 3 or gap > 8:
                called["bare" if gap < 3 else "behind"].append(f"landmark-{name}" in hidden)
    # One, seen at a degree over the edge of the deck, may be lost. What is missed stands behind what has no face: the
    # mast, the rack on the roof, the thickness of the fins.
    assert len(called["bare"]) > 350 and sum(called["bare"]) <= 1
    assert len(called["behind"]) > 250 and np.mean(called["behind"]) > 0.9


def picture(view: DrawnView) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(view.sheet.plate.png)).convert("RGB")).astype(float)


def dark_near(line: np.ndarray, at: float, within: float) -> float:
    """Where a line of pixels is darkest near a place, to a fraction of a pixel."""
    low, high = round(at - within), round(at + within)
    dark = np.clip(np.median(line[low:high]) - line[low:high], 0, None)
    dark[dark < 0.4 * dark.max()] = 0
    return low + 0.5 + float(np.sum(dark * np.arange(high - low)) / dark.sum())


def test_the_side_is_true_to_half_a_per_cent_at_thirty_places(views, demo_answers: Answers, truth: dict[str, Any]):
    view = views("port")
    assert view.share > 0.98
    image, px_mm = picture(view), 25.4 / view.dots_per_inch
    faces, solution = demo_answers.faces, demo_answers.sizes.reel.solution
    # Where the model's origin lies on the picture: by the middle of all solved landmarks of the side's joints.
    joints = ("aft", "second", "third", "forward")
    names = [f"landmark-band {end} at {joint} joint" for end in ("top", "foot") for joint in joints]
    middle = np.mean([solution.point(n) for n in names], axis=0)
    corners = np.concatenate([f.corners for f in faces.skin.faces])
    margin = 0.03 * max(np.ptp(corners[:, 0]), np.ptp(corners[:, 2]))
    left, top = -corners[:, 0].max() - margin, -corners[:, 2].max() - margin
    to_px = 0.5 / px_mm

    def across(x: float) -> float:
        return (-(x + 50.0 + middle[0]) - left) * to_px

    def down(z: float) -> float:
        return (-(z - 114.0 + middle[2]) - top) * to_px

    off = []
    grey = image.mean(axis=2)
    for x in (-260.0, -120.0, 20.0, 160.0):
        for z in (140.0, 136.0, 92.0, 90.0):
            off.append(dark_near(grey[round(down(z))], across(x), 9) - across(x))
    # Panel lines run along the band too; hull and band are alike in red.
    red = image[:, :, 0]
    for x in (-240.0, -200.0, -160.0, -100.0, -60.0, 40.0, 80.0, 120.0):
        for z in (130.0, 98.0):
            off.append(dark_near(red[:, round(across(x))], down(z), 8) - down(z))
    off_mm = np.array(off) * px_mm
    assert len(off_mm) >= 30
    # Half a per cent of the replica's length is 1.9 mm; asked are 0.3 mm at each place.
    assert np.quantile(np.abs(off_mm), 0.95) < 0.3, off_mm.round(2)


def test_what_no_still_sees_is_hatched_and_listed(views) -> None:
    below = views("bottom")
    assert below.share < 0.1 and below.gaps[0][0] == "deck"
    assert below.gaps[0][1] == pytest.approx(area(((0, 0), (637, 0), (637, 298), (0, 298))) / 4, rel=0.05)


def test_a_face_that_cannot_be_says_why_and_spoils_no_other(demo_answers: Answers) -> None:
    build, reel = demo_answers.build, demo_answers.sizes.reel
    lonely = SkinFace(id="bad", name="bad", landmark_ids=("landmark-bow tip", "landmark-fin top, aft", "nowhere"))
    crossed = SkinFace(id="crossed", name="crossed", landmark_ids=(
        "landmark-house roof, aft", "landmark-house foot, forward", "landmark-house roof, forward",
        "landmark-house foot, aft"))  # fmt: skip
    edited: Build = with_entities(build, lonely, crossed)
    found = solved_faces(edited, reel)
    assert {row.id: row.problem[:14] for row in found.rows if row.problem} == {
        "bad": "Not placed yet", "crossed": "The sides of t"}  # fmt: skip
    assert len(found.skin.faces) == len(demo_answers.faces.skin.faces)


def test_no_face_and_no_still_are_refused_with_a_sentence(demo_file, demo_answers: Answers) -> None:
    build, reel = demo_answers.build, demo_answers.sizes.reel
    other = with_entities(build, replace(build.info, version_id="version-none"))
    with pytest.raises(RefusedError, match="No still of this version"):
        orthographic_view(other, demo_answers.faces, reel, Gallery(lambda _: b""), "port", 100.0, lambda _: True)


def test_a_camera_is_told_where_to_stand_for_a_stills_view(demo_answers: Answers) -> None:
    build, reel = demo_answers.build, demo_answers.sizes.reel
    told = {still.id: pose_words(build, reel, still) for still in build.all(Still)}
    # The second still was taken from (980, 1260, 560), 31 degrees wide; the subject's middle lies near (-5, 0, 130).
    distance = np.linalg.norm(np.array([985.0, 1260.0, 430.0])) / 2
    found = re.search(
        r"stand (\d+) mm .*, (\d+) mm above it, (\d+)° off the bow to port, .* (\d+) mm \(", told["still-2"]
    )
    assert found is not None
    assert [float(v) for v in found.groups()] == pytest.approx(
        [distance, 215, np.degrees(np.arctan2(1260, 985)), 18 / np.tan(np.radians(15.5))], rel=0.06
    )
    assert "straight above" in told["still-3"] and "lens" not in told["still-8"] and told["still-10"] == ""


def test_marks_clicked_on_three_quarter_stills_lie_within_their_stated_doubt(demo_answers: Answers) -> None:
    rng = np.random.default_rng(77)
    shots = {shot.name[:7]: shot for shot in SHOTS}
    solution = demo_answers.sizes.reel.solution
    build, faces, reel = demo_answers.build, demo_answers.faces, demo_answers.sizes.reel
    places = {
        "still-2": [(x, 150.0, z) for x in np.linspace(-330, 230, 8) for z in (84.0, 140.0)],
        "still-7": [(x, -150.0, z) for x in np.linspace(-240, 230, 8) for z in (84.0, 140.0)],
        "still-8": [(x, -150.0, 140.0) for x in np.linspace(-280, -150, 4)],
        "still-6": [(x, 150.0, 140.0) for x in np.linspace(-280, -150, 4)],
    }  # fmt: skip
    spots, wanted = [], {}
    for still, points in places.items():
        for n, point in enumerate(points):
            x, y = project(shots[still], np.array([point]))[0] + rng.normal(0, 0.6, 2)
            spot = Spot(id=f"{still} {n}", still_id=still, name="chip", a=Mark(x, y, 0.6), b=Mark(x, y, 0.6))
            spots.append(spot)
            wanted[spot.id] = point
    rows = face_spot_rows(with_entities(build, *spots), faces, reel)
    assert len(rows) == len(spots) == 40
    # On a side that stands upright: along it from the stern, and up. The solution's own frame is laid on the model's.
    joints = ("aft", "second", "third", "forward")
    names = [f"landmark-band {end} at {joint} joint" for end in ("top", "foot") for joint in joints]
    middle = np.mean([solution.point(n) for n in names], axis=0)
    off, within = [], []
    for row in rows:
        panel = panel_of(next(f for f in faces.skin.faces if f.key == row.face_key)).lays[0]
        found = panel.corner + 2 * (row.x_mm * panel.right + row.y_mm * panel.up)
        x, _, z = wanted[row.spot_id]
        off.append(np.hypot(found[0] - middle[0] - 50.0 - x, found[2] - middle[2] + 114.0 - z) / 2)
        within.append(row.within_mm)
    assert np.median(off) < 0.5 and np.mean(np.array(off) <= within) >= 0.9
    # Nor is the doubt wider than it need be.
    assert np.median(within) < 1.0


def test_a_lamp_stands_where_it_was_clicked_on_a_face_and_its_wire_has_a_length(
    demo_answers: Answers,
) -> None:
    build, faces, sizes = demo_answers.build, demo_answers.faces, demo_answers.sizes
    still = build.get(Still, "still-2")
    assert still is not None
    # On the hull's side, as the renderer sees it.
    place = np.array((140.0, 150.0, 140.0))
    x, y = project(next(s for s in SHOTS if s.name.startswith("still-2")), place[None])[0]
    lamp = Lamp(id="own", name="Rail lamp", colour="red", count=1, forward_volts=1.95, current_ma=5.0)
    made = mark_spot(with_entities(build, lamp), still, "rail lamp", (Mark(x - 2, y, 0.6), Mark(x + 2, y, 0.6)))
    placed = with_entities(build, *made.edits.values())
    with pytest.raises(RefusedError, match="its place already"):
        mark_spot(placed, still, "Rail lamp", (Mark(x, y, 0.6), Mark(x, y, 0.6)))
    found = lighting(placed)
    assert found.solved is not None
    routed = routes(placed, found.solved, sizes, faces)
    way = next(row for row in routed.rows if row.name == "Rail lamp")
    stern = np.array((-387.5, 147.0, 90.0))
    straight = np.linalg.norm(place - stern) / 2
    # What a wire needs on its way: three tenths more than straight, 50 mm for its ends.
    assert way.one_way_mm == pytest.approx(1.3 * straight + 50, abs=1.5) and way.measured
    gone = removal(placed, next(iter(made.edits)))
    assert gone["own"].places == ()
