"""The demo's photographs, which a path tracer made, laid by lines and carried into the still's camera."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from chalkreel.answers.answers import Answers
from chalkreel.answers.photographs import Photographs, Subject, camera_of, subject_of
from chalkreel.core.bench.overlay import difference, laid_over, scaled, without_light
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.faces.face import face_of
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera, looking
from chalkreel.demo.photographs import photograph_bytes
from chalkreel.document.bench_entities import ReplicaMark, ReplicaPhoto
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build

# What stands where it should on all photographs.
INNOCENT = ("band", "bow", "stern", "deck", "foredeck", "louvre", "hull")


@pytest.fixture(scope="module")
def exact() -> dict[str, dict[str, list[float]]]:
    """True places of landmarks on the photographs, in stored pixels."""
    told: list[dict[str, Any]] = json.loads((Path(__file__).parents[2] / "data/replica_truth.json").read_text())
    return {one["name"]: one["landmarks"] for one in told}


@pytest.fixture(scope="module")
def bench(demo_answers: Answers) -> tuple[Photographs, Subject, Build]:
    build = demo_answers.build
    assert demo_answers.sizes is not None
    subject = subject_of(build, demo_answers.sizes.reel, demo_answers.faces)
    assert subject is not None
    stills = {s.blob: s for s in build.entities.values() if hasattr(s, "blob")}
    from chalkreel.demo.evidence import still_bytes
    from chalkreel.document.store import digest

    blobs = {digest(b): b for b in (*still_bytes().values(), *photograph_bytes().values())}
    assert set(blobs) & set(stills)
    return Photographs(Gallery(blobs.__getitem__)), subject, build


def with_clicks(build: Build, photo: ReplicaPhoto, count: int, subject: Subject) -> Build:
    """Only as many clicks as the program asks for, in its own order."""
    bare = build.edited({m.id: None for m in build.all(ReplicaMark)}, 1, dict.fromkeys(build.entities, 0))
    laid = Photographs(Gallery(lambda _: b"")).laid(bare, subject, photo)
    wanted = [i for i in laid.next_ids if any(m.landmark_id == i and m.photo_id == photo.id
                                              for m in build.all(ReplicaMark))][:count]  # fmt: skip
    kept = {m.id: m for m in build.all(ReplicaMark) if m.photo_id == photo.id and m.landmark_id in wanted}
    assert len(kept) == count
    return bare.edited(kept, 2, dict.fromkeys((*bare.entities, *kept), 0))


def misses(camera: Camera, subject: Subject, truth: dict[str, list[float]]) -> np.ndarray:
    names = [n for n in truth if n.startswith(INNOCENT)]
    rows = [subject.places.index[f"landmark-{n}"] for n in names]
    return np.linalg.norm(camera.project(subject.places.points[rows]) - np.array([truth[n] for n in names]), axis=1)


@pytest.mark.parametrize("number", [1, 2, 3])
def test_four_clicks_and_the_lines_lay_a_photograph(
    bench: tuple[Photographs, Subject, Build], exact: dict[str, dict[str, list[float]]], number: int
) -> None:
    photographs, subject, build = bench
    photo = build.get(ReplicaPhoto, f"photo-{number}")
    assert photo is not None
    laid = photographs.laid(with_clicks(build, photo, 4, subject), subject, photo)
    assert laid.how == "clicks and lines" and laid.camera is not None and laid.score is not None
    name = ("replica-dry-fit", "replica-dry-fit-aft", "replica-primed")[number - 1]
    off = misses(laid.camera, subject, exact[name])
    # Of a picture 1280 pixels wide; the yardstick's was 1024.
    assert np.median(off) < 3.75 and np.percentile(off, 95) < 10
    assert laid.score > 0.6


def test_a_photograph_is_laid_without_a_click_or_four_are_asked_for(
    bench: tuple[Photographs, Subject, Build], exact: dict[str, dict[str, list[float]]]
) -> None:
    photographs, subject, build = bench
    taken = 0
    for photo, truth in zip(build.all(ReplicaPhoto), exact.values(), strict=True):
        try:
            pose = photographs.found(build, subject, photo, lambda _: True)
        except RefusedError as refusal:
            assert "Click four landmarks" in str(refusal)
            continue
        taken += 1
        off = misses(camera_of(pose, (photo.width_px, photo.height_px)), subject, truth)
        assert np.median(off) < 4 and np.percentile(off, 95) < 10, photo.title
    assert taken >= 1
    with pytest.raises(StoppedError):
        photographs.found(build, subject, build.all(ReplicaPhoto)[0], lambda _: False)


def test_a_photograph_of_something_else_is_not_taken_without_clicks(bench: tuple[Photographs, Subject, Build]) -> None:
    _, subject, build = bench
    photo = build.all(ReplicaPhoto)[0]
    rng = np.random.default_rng(4)
    clutter = np.full((960, 1280, 3), 120, np.uint8)
    for _ in range(160):
        a, b = (tuple(int(v) for v in rng.integers(0, (1280, 960))) for _ in range(2))
        cv2.line(clutter, a, b, tuple(int(v) for v in rng.integers(0, 255, 3)), int(rng.integers(1, 9)))
    pixels = {photo.blob: cv2.imencode(".png", clutter)[1].tobytes()}
    from chalkreel.demo.evidence import still_bytes
    from chalkreel.document.store import digest

    pixels |= {digest(b): b for b in still_bytes().values()}
    with pytest.raises(RefusedError, match="not sure enough"):
        Photographs(Gallery(pixels.__getitem__)).found(build, subject, photo, lambda _: True)


def test_a_photograph_is_carried_over_through_the_faces() -> None:
    """Dots painted on a box, photographed from one side, are where another camera sees them."""
    corners = np.array([[-100.0, 0, 0], [100, 0, 0], [100, 0, 60], [-100, 0, 60]])
    front = face_of("front", corners, np.array([0.0, 500, 0]))
    top = face_of("top", corners[2:][[0, 1, 1, 0]] + [[0, 0, 0], [0, 0, 0], [0, -80, 0], [0, -80, 0]],
                  np.array([0.0, 0, 900]))  # fmt: skip
    skin = Skin((front, top))

    def camera(eye: tuple[float, float, float], size: tuple[int, int]) -> Camera:
        place = np.array(eye)
        turn = looking(-place, np.array([0.0, 0, 1]))
        return Camera(turn, -turn @ place, 1.3 * size[0], -0.03, (0.0, 0.0), size, 1.0)

    still, taken = camera((160, 420, 180), (800, 600)), camera((-120, 360, 220), (1000, 750))
    dots = np.array([[-70.0, 0, 20], [60, 0, 45], [10, -40, 60], [-50, -60, 60]])
    photo = np.full((750, 1000, 3), 40, np.uint8)
    for x, y in taken.project(dots):
        cv2.circle(photo, (round(16 * (x - 0.5)), round(16 * (y - 0.5))), 16 * 5, (255, 255, 255), -1, cv2.LINE_AA, 4)
    over = laid_over(photo, taken, still, skin)
    assert over.pixels.shape == (600, 800, 3)
    for x, y in still.project(dots):
        box = over.pixels[int(y) - 12 : int(y) + 13, int(x) - 12 : int(x) + 13, 0].astype(float) - 40
        rows, columns = np.mgrid[int(y) - 12 : int(y) + 13, int(x) - 12 : int(x) + 13]
        found = (columns * box).sum() / box.sum() + 0.5, (rows * box).sum() / box.sum() + 0.5
        assert found == pytest.approx((x, y), abs=0.6)


def test_light_is_taken_out_before_two_pictures_are_compared() -> None:
    rng = np.random.default_rng(1)
    drawn = np.kron(rng.uniform(60, 180, (20, 30)), np.ones((20, 20)))[..., None].repeat(3, axis=2)
    lit = drawn * np.linspace(0.5, 1.3, 600)[None, :, None] * np.array([1.0, 0.8, 0.6])
    one, other = (np.clip(p, 0, 255).astype(np.uint8) for p in (drawn, lit))
    inner = np.s_[60:-60, 60:-60]
    before = np.abs(one[inner].astype(float) - other[inner]).mean()
    after = np.abs(without_light(one)[inner].astype(float) - without_light(other)[inner]).mean()
    assert after < 0.25 * before
    gap = difference(without_light(one), without_light(other), np.zeros(one.shape[:2], np.bool_))
    assert np.abs(gap[inner].astype(float) - 118).mean() < 8


def test_a_camera_on_a_smaller_picture_sees_the_same() -> None:
    turn = looking(np.array([0.2, -1, -0.3]), np.array([0.0, 0, 1]))
    whole = Camera(turn, np.array([3.0, 4, 700]), 900.0, -0.05, (20.0, -9.0), (720, 576), 16 / 15)
    half = scaled(whole, (384, 288))
    points = np.random.default_rng(0).normal(0, 90, (5, 3))
    assert half.project(points) == pytest.approx(whole.project(points) * [384 / 720, 288 / 576])
