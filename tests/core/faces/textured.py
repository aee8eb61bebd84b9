"""Boxes with a pattern that is known everywhere, photographed by slabs and pinholes of their own."""

from __future__ import annotations

import numpy as np

from chalkreel.core.faces.face import Face, face_of
from chalkreel.core.faces.sight import Seen
from chalkreel.core.measure.camera import Camera, looking

# Hull, house and a tower that hides part of the house from one side: least and greatest x, y, z.
BOXES = ((-300.0, 300.0, -100.0, 100.0, 0.0, 90.0), (-60.0, 120.0, -70.0, 70.0, 90.0, 150.0),
         (-220.0, -180.0, -90.0, -50.0, 90.0, 190.0))  # fmt: skip


def pattern(places: np.ndarray) -> np.ndarray:
    """Linear light (…, 3) of places (…, 3)."""
    x, y, z = (places[..., k] for k in range(3))
    waves = [np.sin(x / 23 + 1), np.sin(y / 17 + z / 29), np.cos(x / 41 - z / 13)]
    return 0.32 + 0.2 * np.stack(waves, axis=-1) * np.array([1.0, 0.9, 0.8])


def box_faces() -> tuple[Face, ...]:
    found = []
    for n, (x0, x1, y0, y1, z0, z1) in enumerate(BOXES):
        bounds = ((x0, x1), (y0, y1), (z0, z1))
        middle = np.mean(bounds, axis=1)
        for axis in range(3):
            for end in (0, 1):
                across, along = (k for k in range(3) if k != axis)
                ring = np.zeros((4, 3))
                ring[:, axis] = bounds[axis][end]
                ring[:, across], ring[:, along] = (
                    np.take(bounds[across], [0, 1, 1, 0]),
                    np.take(bounds[along], [0, 0, 1, 1]),
                )
                outside = ring.mean(axis=0) * 2 - middle
                found.append(face_of(f"box {n} {'xyz'[axis]}{end}", ring, outside))
    return tuple(found)


def camera_from(azimuth_deg: float, rise_deg: float, distance: float = 1700.0, focal: float = 2600.0,
                bend: float = 0.0, size: tuple[int, int] = (1500, 1000)) -> Camera:  # fmt: skip
    a, r = np.radians([azimuth_deg, rise_deg])
    place = np.array([0.0, 0, 60]) + distance * np.array([np.cos(r) * np.cos(a), np.cos(r) * np.sin(a), np.sin(r)])
    up = np.array([0.0, 0, 1.0]) if rise_deg < 85 else np.array([1.0, 0, 0])
    turn = looking(np.array([0.0, 0, 60]) - place, up)
    return Camera(turn, -turn @ place, focal, bend, (0.0, 0.0), size, 1.0)


def photographed(
    key: str, camera: Camera, gain: tuple[float, float, float] = (1, 1, 1), seed: int = 0,
    boxes: tuple[tuple[float, ...], ...] = BOXES,
) -> Seen:  # fmt: skip
    """A still of the boxes by the slab method, with grain and a light of its own."""
    width, height = camera.size_px
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    ways = camera.rays(np.stack([x.ravel(), y.ravel()], axis=1))
    nearest = np.full(len(ways), np.inf)
    with np.errstate(divide="ignore", invalid="ignore"):
        for x0, x1, y0, y1, z0, z1 in boxes:
            low = (np.array([x0, y0, z0]) - camera.position) / ways
            high = (np.array([x1, y1, z1]) - camera.position) / ways
            enter, leave = np.minimum(low, high).max(axis=1), np.maximum(low, high).min(axis=1)
            nearest = np.where((enter < leave) & (enter > 0), np.minimum(nearest, enter), nearest)
    hit = np.isfinite(nearest)
    light = np.full((len(ways), 3), 0.05)
    light[hit] = pattern(camera.position + nearest[hit, None] * ways[hit]) * np.array(gain)
    encoded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.clip(light, 0, 1) ** (1 / 2.4) - 0.055)
    grain = np.random.default_rng(seed).normal(0, 2.0, encoded.shape)
    pixels = (255 * encoded + grain).clip(0, 255).astype(np.uint8).reshape(height, width, 3)
    levels = [pixels]
    while min(levels[-1].shape[:2]) > 60:
        half = levels[-1][: levels[-1].shape[0] // 2 * 2, : levels[-1].shape[1] // 2 * 2].astype(float)
        mean = (half[::2, ::2] + half[1::2, ::2] + half[::2, 1::2] + half[1::2, 1::2]) / 4
        levels.append(mean.astype(np.uint8))
    return Seen(key, camera, lambda: tuple(levels))
