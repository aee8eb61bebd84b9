"""Where a camera must stand to photograph the replica as a still shows the subject."""

from __future__ import annotations

import math

import numpy as np

from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.arrays import Array
from chalkreel.core.lengths import LengthUnit, rough_length
from chalkreel.core.measure.camera import Camera
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build

# Lenses are told for a picture as wide as that of small film.
FILM_WIDTH_MM = 36.0
# A camera within this of dead ahead, astern or abeam is said to be so.
DEAD_DEG = 3.0
# One whose way along the ground is less than this share of its height stands overhead.
OVERHEAD = 0.15


def pose_words(build: Build, reel: ReelAnswer | None, still: Still) -> str:
    """Distance, height, direction and lens at the replica's scale; nothing for a still that is not solved.

    From the middle of the landmarks, the direction in the level plane counted from bow or stern, whichever is nearer.
    """
    solution = reel.solution if reel is not None else None
    if solution is None or reel is None or still.id not in solution.layout.views or still.still_kind == "plan":
        return ""
    camera = solution.camera(still.id)
    width = None if still.cropped else still.width_px * still.pixel_aspect
    return stand_words(build, reel, camera, np.median(solution.points, axis=0), width)


def stand_words(build: Build, reel: ReelAnswer, camera: Camera, middle: Array, width_px: float | None) -> str:
    """The same for any camera, from the subject's middle (3,); without a width nothing is said of the lens.

    Nothing is said where nothing gives the scale, or says what is level.
    """
    solution = reel.solution
    if solution is None or not (solution.scene.rulers or solution.scene.gauges) or reel.leaning:
        return ""
    away = (camera.position - middle) * build.chain.convert(1.0, "miniature", "replica")
    told = "" if width_px is None else _lens(camera.focal_px / width_px, build.info.unit)
    distance = rough_length(float(np.linalg.norm(away)), build.info.unit)
    return (
        f"To photograph the replica like this, stand {distance} from its middle, {_where(away, build.info.unit)}{told}."
    )


def _lens(focal_widths: float, unit: LengthUnit) -> str:
    """A focal length in widths of the picture, as photographers have it; by its angle where no millimetre is wanted."""
    if unit == "mm":
        return f", with a lens of {focal_widths * FILM_WIDTH_MM:.0f} mm (picture 36 mm wide)"
    return f", with a lens that sees {2 * math.degrees(math.atan(0.5 / focal_widths)):.0f}° across"


def _where(away: Array, unit: LengthUnit) -> str:
    """Height and bearing of a place (3,) from the middle, in mm of the replica."""
    height = rough_length(abs(float(away[2])), unit)
    over = "above" if away[2] >= 0 else "below"
    if math.hypot(away[0], away[1]) < OVERHEAD * abs(away[2]):
        return f"straight {over} it"
    return f"{height} {over} it, {_bearing(float(away[0]), float(away[1]))}"


def _bearing(ahead: float, port: float) -> str:
    side = "port" if port >= 0 else "starboard"
    angle = math.degrees(math.atan2(abs(port), abs(ahead)))
    end = "bow" if ahead >= 0 else "stern"
    if angle < DEAD_DEG:
        return f"dead on the {end}"
    if angle > 90 - DEAD_DEG:
        return f"square on {side}"
    return f"{angle:.0f}° off the {end} to {side}"
