"""An eye that goes round the subject at arm's length, always looking at its middle."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera

# From where each side is seen: degrees round from the bow to port, and up.
SIDE_AT: dict[str, tuple[float, float]] = {
    "port": (90, 0), "starboard": (-90, 0), "bow": (0, 0), "aft": (180, 0), "top": (90, 90), "bottom": (90, -90),
}  # fmt: skip
# A lens of 50 mm over a picture 36 mm wide; the subject's length takes so much of the view's width, and no more than
# so much of its height: it is seldom looked at along the vertical.
LENS_WIDTHS, WIDTH_SHARE, HEIGHT_SHARE = 50 / 36, 0.92, 1.3
LEAST_ZOOM, MOST_ZOOM = 0.4, 20.0


@dataclass(frozen=True)
class Orbit:
    """Where the eye is: `azimuth_deg` from the bow round to port, `rise_deg` up; `zoom` lengthens the lens."""

    azimuth_deg: float = 55.0
    rise_deg: float = 20.0
    zoom: float = 1.0

    def turned(self, azimuth_deg: float, rise_deg: float) -> Orbit:
        """So many degrees further round and up, no further than straight above or below."""
        azimuth = (self.azimuth_deg + azimuth_deg + 180) % 360 - 180
        return replace(self, azimuth_deg=azimuth, rise_deg=min(90.0, max(-90.0, self.rise_deg + rise_deg)))

    def zoomed(self, factor: float) -> Orbit:
        """With a lens so many times as long."""
        return replace(self, zoom=min(MOST_ZOOM, max(LEAST_ZOOM, self.zoom * factor)))


def middle_of(skin: Skin) -> Array:
    """The middle (3,) of the box round all faces."""
    points = np.concatenate([face.corners for face in skin.faces])
    return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)


def camera_on(orbit: Orbit, skin: Skin, size_px: tuple[int, int]) -> Camera:
    """The camera of an eye, for a picture of that size."""
    middle = middle_of(skin)
    radius = float(np.linalg.norm(np.concatenate([face.corners for face in skin.faces]) - middle, axis=1).max())
    width, height = size_px
    focal = LENS_WIDTHS * width
    half = min(WIDTH_SHARE * width, HEIGHT_SHARE * height) / 2
    distance = radius * math.hypot(focal, half) / half
    turn, rise = math.radians(orbit.azimuth_deg), math.radians(orbit.rise_deg)
    away = np.array([math.cos(rise) * math.cos(turn), math.cos(rise) * math.sin(turn), math.sin(rise)])
    right = np.array([-math.sin(turn), math.cos(turn), 0.0])
    rotation = np.stack([right, np.cross(-away, right), -away])
    return Camera(rotation, -rotation @ (middle + distance * away), focal * orbit.zoom, 0.0, (0.0, 0.0), size_px, 1.0)


def orbit_of(camera: Camera, skin: Skin) -> Orbit:
    """The place on the orbit in whose direction a camera stands."""
    away = camera.position - middle_of(skin)
    rise = math.degrees(math.atan2(away[2], math.hypot(away[0], away[1])))
    return Orbit(math.degrees(math.atan2(away[1], away[0])), rise)


def as_photographed(camera: Camera, size_px: tuple[int, int]) -> Camera:
    """The camera of a still with its picture fitted into another size; the lens's bend is left out."""
    width, height = camera.size_px
    fit = min(size_px[0] / (width * camera.pixel_aspect), size_px[1] / height)
    offset = (camera.offset_px[0] * fit, camera.offset_px[1] * fit)
    return replace(
        camera, focal_px=camera.focal_px * fit, bend=0.0, offset_px=offset, size_px=size_px, pixel_aspect=1.0
    )
