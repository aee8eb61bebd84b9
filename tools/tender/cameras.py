"""The demo's stills: where each camera stood, what light there was, and what became of the picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Shot:
    """One still; lengths in mm of the miniature, angles in degrees, sizes in stored pixels.

    `pixel_aspect` is the width of a stored pixel over its height. `white_balance` says how far
    the camera took the colour of the light out (0 none, 1 wholly). `bare` shows the unpainted kit.
    """

    name: str
    version: str
    origin: Vector
    target: Vector
    fov_deg: float
    light: str
    roll_deg: float = 0.0
    width_px: int = 1280
    height_px: int = 800
    pixel_aspect: float = 1.0
    white_balance: float = 0.5
    exposure: float = 1.0
    up: Vector = (0.0, 0.0, 1.0)
    card: bool = False
    finish: str = "photo"
    bare: bool = False


SHOTS = (
    Shot(
        "still-1-port-workshop",
        "series",
        (6.0, 2650.0, 190.0),
        (0.0, 150.0, 118.0),
        21.5,
        "daylight",
        roll_deg=0.4,
        card=True,
    ),
    Shot(
        "still-2-bow-port-workshop",
        "series",
        (980.0, 1260.0, 560.0),
        (-5.0, 0.0, 92.0),
        31.0,
        "tungsten",
        roll_deg=-0.8,
        card=True,
        white_balance=0.45,
    ),
    Shot(
        "still-3-top-workshop",
        "series",
        (-40.0, 70.0, 2200.0),
        (-2.0, 0.0, 120.0),
        24.0,
        "daylight",
        up=(0.0, 1.0, 0.0),
        card=True,
        roll_deg=0.7,
    ),
    Shot(
        "still-4-starboard-frame",
        "series",
        (-420.0, -1500.0, 330.0),
        (-10.0, 0.0, 110.0),
        33.0,
        "tungsten",
        width_px=720,
        height_px=576,
        pixel_aspect=16 / 15,
        finish="graded",
        white_balance=0.9,
    ),
    Shot(
        "still-5-special-exhibit",
        "special",
        (1010.0, -1200.0, 470.0),
        (0.0, 0.0, 95.0),
        32.0,
        "daylight",
        white_balance=0.2,
        exposure=1.05,
    ),
    Shot(
        "still-6-aft-print",
        "series",
        (-1250.0, 640.0, 560.0),
        (-30.0, 0.0, 110.0),
        30.0,
        "daylight",
        width_px=1200,
        height_px=840,
        finish="faded",
    ),
    Shot(
        "bench-dry-fit",
        "special",
        (900.0, 1150.0, 800.0),
        (0.0, 0.0, 80.0),
        34.0,
        "daylight",
        width_px=900,
        height_px=600,
        bare=True,
    ),
)


def project(shot: Shot, points_mm: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Where points (N, 3) of the miniature fall on the stored picture: (N, 2) pixels.

    The centre of the first pixel is (0.5, 0.5); y runs down.
    """
    forward = _unit(np.subtract(shot.target, shot.origin))
    right = _unit(np.cross(forward, shot.up))
    down = np.cross(forward, right)
    roll = np.radians(shot.roll_deg)
    right, down = (np.cos(roll) * right + np.sin(roll) * down, -np.sin(roll) * right + np.cos(roll) * down)
    seen = np.asarray(points_mm) - np.asarray(shot.origin)
    depth = seen @ forward
    shown_width = shot.width_px * shot.pixel_aspect
    focal = shown_width / 2 / np.tan(np.radians(shot.fov_deg) / 2)
    x = (focal * (seen @ right) / depth + shown_width / 2) / shot.pixel_aspect
    y = focal * (seen @ down) / depth + shot.height_px / 2
    return np.stack([x, y], axis=-1)


def _unit(v: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    return np.asarray(v / np.linalg.norm(v))


def rolled_up(shot: Shot) -> npt.NDArray[np.float64]:
    """The camera's own up vector after its roll."""
    forward = _unit(np.subtract(shot.target, shot.origin))
    right = _unit(np.cross(forward, shot.up))
    up = np.cross(right, forward)
    roll = np.radians(shot.roll_deg)
    return np.asarray(np.cos(roll) * up + np.sin(roll) * right)
