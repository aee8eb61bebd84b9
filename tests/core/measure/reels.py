"""Reels whose truth is known: a hull with mirror pairs, seen by cameras all round, with clicks of a given error."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chalkreel.core.measure.camera import Array, Camera, looking  # type: ignore[attr-defined]
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Landmark, Ruler, Scene, Sighting, View
from chalkreel.core.measure.solver.layout import Layout
from chalkreel.core.measure.solver.unknowns import Unknowns

SIDES = {"port": 90.0, "bow": 0.0, "starboard": -90.0, "aft": 180.0}


@dataclass(frozen=True, eq=False)
class Reel:
    """Points (N, 3) by name, the true cameras by key, and the scene that somebody marked."""

    scene: Scene
    points: dict[str, Array]
    cameras: dict[str, Camera]

    def length(self, a: str, b: str) -> float:
        return float(np.linalg.norm(self.points[a] - self.points[b]))

    def truth(self, layout: Layout) -> Unknowns:
        """The true values of all unknowns of a scene of landmarks."""
        seeds = np.zeros((layout.block_count, 3))
        for name, (seed, sign) in layout.blocks.items():
            seeds[seed] = self.points[name] * [1.0, sign, 1.0]
        lenses = np.zeros((len(layout.lenses), 5))
        for view, lens in zip(layout.scene.views, layout.lens_of_view, strict=True):
            camera = self.cameras[view.key]
            lenses[lens] = [np.log(camera.focal_px), camera.bend, *camera.offset_px, 0.0]
        cameras = [self.cameras[view.key] for view in layout.scene.views]
        none = np.zeros((0, 3))
        return Unknowns(
            np.stack([c.rotation for c in cameras]), np.stack([c.translation for c in cameras]), lenses, seeds,
            none, np.zeros((0, 4)), np.zeros((0, 7)),
        )  # fmt: skip


def hull(pairs: int, rng: np.random.Generator, mirrored: bool = True) -> tuple[dict[str, Array], list[Landmark]]:
    """Pairs of points on a hull some 700 mm long, each the other's mirror image."""
    points: dict[str, Array] = {}
    landmarks: list[Landmark] = []
    for number in range(pairs):
        place = rng.uniform([-350, 25, 0], [350, 120, 180])
        for side, sign, twin in (("p", 1.0, "s"), ("s", -1.0, "p")):
            points[f"{side}{number}"] = place * [1.0, sign, 1.0]
            landmarks.append(Landmark(f"{side}{number}", f"{twin}{number}" if mirrored else ""))
    return points, landmarks


def camera_at(
    azimuth_deg: float, elevation_deg: float, distance: float, focal: float, size: tuple[int, int] = (1280, 800),
    aspect: float = 1.0, bend: float = 0.0, offset: tuple[float, float] = (0.0, 0.0),
    target: tuple[float, float, float] = (0.0, 0.0, 80.0),
) -> Camera:  # fmt: skip
    a, e = np.radians([azimuth_deg, elevation_deg])
    out = np.array([np.cos(e) * np.cos(a), np.cos(e) * np.sin(a), np.sin(e)])
    up = np.array([0.0, 0.0, 1.0]) if abs(elevation_deg) < 80 else np.array([0.0, 1.0, 0.0])
    rotation = looking(-out, up)
    position = np.array(target) + distance * out
    return Camera(rotation, -rotation @ position, focal, bend, offset, size, aspect)


def photograph(
    points: dict[str, Array], cameras: dict[str, Camera], click_px: float, rng: np.random.Generator,
    share: float = 1.0, stated_px: float | None = None,
) -> tuple[Sighting, ...]:  # fmt: skip
    """Click a share of the points on every view; what falls outside the picture is not clicked."""
    found = []
    for key, camera in cameras.items():
        stored = camera.project(np.stack(list(points.values())))
        for name, xy in zip(points, stored, strict=True):
            inside = np.all((xy > 0) & (xy < camera.size_px))
            if inside and rng.random() < share:
                x, y = xy + rng.normal(0, click_px, 2) * [1.0 / camera.pixel_aspect, 1.0] if click_px else xy
                found.append(Sighting(key, name, Mark(float(x), float(y), stated_px or max(click_px, 0.1))))
    return tuple(found)


def side_of(azimuth_deg: float) -> str:
    return min(SIDES, key=lambda side: abs((azimuth_deg - SIDES[side] + 180) % 360 - 180))


def reel(
    seed: int = 0, pairs: int = 30, views: int = 5, click_px: float = 0.8, mirrored: bool = True, share: float = 0.75,
    ruler_sigma: float = 0.2, one_lens: bool = False, azimuths: tuple[float, ...] = (75, -20, -100, 20, 150, -60, 110),
) -> Reel:  # fmt: skip
    """Unlike stills of one hull, each with its own lens unless `one_lens`, and one ruler over the length."""
    rng = np.random.default_rng(seed)
    points, landmarks = hull(pairs, rng, mirrored)
    cameras, stills = {}, []
    common = float(rng.uniform(1500, 2500))
    for number in range(views):
        azimuth = azimuths[number % len(azimuths)] + rng.uniform(-12, 12)
        focal = common if one_lens else float(rng.uniform(1300, 3000))
        key = f"v{number}"
        cameras[key] = camera_at(azimuth, rng.uniform(8, 40), focal * rng.uniform(0.75, 1.0), focal)
        stills.append(View(key, (1280, 800), side=side_of(azimuth), lens="shared" if one_lens else ""))
    sightings = photograph(points, cameras, click_px, rng, share)
    ends = sorted(points, key=lambda name: points[name][0])
    length = float(np.linalg.norm(points[ends[-1]] - points[ends[0]]))
    stated = length + (rng.normal(0, ruler_sigma) if click_px else 0.0)
    rulers = (Ruler("overall", ends[0], ends[-1], stated, ruler_sigma),)
    return Reel(Scene(tuple(stills), tuple(landmarks), sightings, rulers=rulers), points, cameras)
