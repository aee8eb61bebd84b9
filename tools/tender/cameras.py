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
    `bend` is the lens's radial coefficient k1; `frame` holds, for a picture that was cropped, the size of
    the whole frame and where the crop's corner lies in it; `fov_deg` spans the whole frame's width.
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
    bend: float = 0.0
    frame: tuple[int, int, int, int] | None = None

    @property
    def whole(self) -> tuple[int, int, int, int]:
        """Size of the whole frame in stored pixels, and the stored picture's corner in it."""
        return self.frame or (self.width_px, self.height_px, 0, 0)

    @property
    def focal_px(self) -> float:
        """Focal length in pixels of the picture's height."""
        return self.whole[0] * self.pixel_aspect / 2 / float(np.tan(np.radians(self.fov_deg) / 2))


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
        "still-7-wide-starboard",
        "series",
        (500.0, -440.0, 270.0),
        (20.0, -10.0, 100.0),
        78.0,
        "daylight",
        roll_deg=1.5,
        bend=-0.12,
        white_balance=0.3,
    ),
    Shot(
        "still-8-stern-crop",
        "series",
        (-1150.0, -900.0, 620.0),
        (-110.0, -40.0, 60.0),
        36.0,
        "tungsten",
        roll_deg=-1.0,
        width_px=1060,
        height_px=700,
        frame=(1600, 1000, 60, 40),
        white_balance=0.8,
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


CLIP_FRAMES = 30
CLIP_BAR_PX = 36
# The frame of the clip that is a still of its own.
CLIP_STILL = 8


def clip_shots() -> tuple[Shot, ...]:
    """The clip: a slow pass from the port bow to right ahead, a wide picture between black bars."""
    angles = np.radians(np.linspace(48.0, 12.0, CLIP_FRAMES))
    return tuple(
        Shot(
            f"clip-{number:02d}",
            "series",
            (1500.0 * float(np.cos(angle)), 1500.0 * float(np.sin(angle)), 420.0),
            (60.0, 0.0, 110.0),
            31.0,
            "tungsten",
            width_px=480,
            height_px=384 - 2 * CLIP_BAR_PX,
            pixel_aspect=16 / 15,
            finish="graded",
            white_balance=0.9,
        )
        for number, angle in enumerate(angles)
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
    ideal = np.stack([seen @ right, seen @ down], axis=-1) / (seen @ forward)[:, None]
    bent = ideal * (1.0 + shot.bend * np.sum(ideal**2, axis=-1, keepdims=True))
    width, height, left, top = shot.whole
    x = (shot.focal_px * bent[:, 0] + width * shot.pixel_aspect / 2) / shot.pixel_aspect - left
    y = shot.focal_px * bent[:, 1] + height / 2 - top
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
