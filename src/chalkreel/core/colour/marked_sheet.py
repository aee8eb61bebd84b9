"""Printed sheets with corner marks, found in a photograph and read against their own paper.

Four corner marks give the sheet's plane (homography; Hartley & Zisserman 2004); bare paper on both sides of every field
tells the light there, so that its fall-off over the sheet drops out. Paper counts as neutral.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Final

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz
from chalkreel.core.colour.sampling import Region, Sample, sample_region
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture

# A sheet, mm: landscape A5 inside its margins.
WIDTH_MM, HEIGHT_MM = 190.0, 130.0
MARK_MM: Final = 14.0
MARGIN_MM: Final = 6.0
# Plain copier paper.
PAPER: Final = 0.86
_DICTIONARY: Final = cv2.aruco.DICT_4X4_100
_FULLEST: Final = 0.97
_OVEREXPOSED, _UNEVEN, _STEEP = 0.05, 1.35, 0.5


@dataclass(frozen=True)
class Box:
    """A rectangle on a sheet in mm from its upper left corner."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float

    def inset(self, across_mm: float, down_mm: float) -> Box:
        """The same without its rim."""
        return Box(self.x_mm + across_mm, self.y_mm + down_mm,
                   self.width_mm - 2.0 * across_mm, self.height_mm - 2.0 * down_mm)  # fmt: skip


@dataclass(frozen=True)
class SheetKind:
    """A kind of sheet by what people call it, and the numbers of its corner marks clockwise from the upper left."""

    name: str
    mark_ids: tuple[int, int, int, int]

    def mark_corners(self) -> dict[int, tuple[float, float]]:
        """Upper left corner of each corner mark in mm."""
        right, low = WIDTH_MM - MARK_MM - MARGIN_MM, HEIGHT_MM - MARK_MM - MARGIN_MM
        places = ((MARGIN_MM, MARGIN_MM), (right, MARGIN_MM), (right, low), (MARGIN_MM, low))
        return dict(zip(self.mark_ids, places, strict=True))


CARD: Final = SheetKind("drawdown card", (7, 11, 19, 23))
STRIPES: Final = SheetKind("stripes sheet", (8, 12, 20, 24))


def mark_cells(mark: int) -> npt.NDArray[np.bool_]:
    """The black cells (6, 6) of a mark, its rim with them."""
    image = cv2.aruco.generateImageMarker(cv2.aruco.getPredefinedDictionary(_DICTIONARY), mark, 6)
    return np.asarray(np.asarray(image) == 0, bool)


@dataclass(frozen=True, eq=False)
class FieldReading:
    """A field's L*a*b* (3,) in the light that its paper tells, and what is wrong with the photograph there."""

    lab: Array
    problems: tuple[str, ...]


class SheetPhotograph:
    """A photograph in which a sheet was looked for."""

    def __init__(self, picture: Picture) -> None:
        self._picture = picture

    @cached_property
    def marks(self) -> dict[int, Array]:
        """Corners (4, 2) in stored pixels of every mark that is to be seen."""
        grey = cv2.cvtColor(self._picture.display(), cv2.COLOR_RGB2GRAY)
        finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(_DICTIONARY))
        corners, ids, _ = finder.detectMarkers(grey)
        numbers = [] if ids is None else ids.ravel()
        return {int(n): np.asarray(quad, float).reshape(4, 2) for quad, n in zip(corners, numbers, strict=True)}

    def plane(self, kind: SheetKind) -> Array:
        """Homography (3, 3) from mm on the sheet to stored pixels.

        Raises
        ------
        RefusedError
            Fewer than four of its corner marks are to be seen, or those of another sheet.
        """
        known = kind.mark_corners()
        seen = {n: quad for n, quad in self.marks.items() if n in known}
        if len(seen) < len(known):
            other = next(
                (k for k in (CARD, STRIPES) if k != kind and len(self.marks.keys() & set(k.mark_ids)) > 1), None
            )
            if other is not None:
                raise RefusedError(f"This is a photograph of a {other.name}, not of a {kind.name}.")
            raise RefusedError(
                f"Only {len(seen)} of the {kind.name}’s four corner marks are to be seen. Photograph the whole sheet, "
                "sharp and without glare on the marks."
            )
        square = MARK_MM * np.array([[0, 0], [1, 0], [1, 1], [0, 1]])
        mm = np.concatenate([np.array(known[i]) + square for i in sorted(seen)])
        pixels = np.concatenate([seen[i] for i in sorted(seen)])
        found, _ = cv2.findHomography(mm.astype(np.float64), pixels.astype(np.float64))
        return np.asarray(found, float)

    def read(self, plane: Array, field: Box, paper: tuple[Box, Box], name: str) -> FieldReading:
        """A field's colour against the paper on its two sides; `name` is what the problems call it."""
        sample = self._sample(plane, field)
        beside = [self._sample(plane, box) for box in paper]
        # What paper would show where the field is: so far on the way from one side to the other.
        left, right = (np.log(np.maximum(p.rgb, 1e-4)) for p in beside)
        there, start, end = (box.x_mm + box.width_mm / 2.0 for box in (field, *paper))
        light = np.exp(left + (right - left) * (there - start) / (end - start))
        xyz = RGB_TO_XYZ @ np.minimum(np.array(sample.rgb) / light * PAPER, _FULLEST)
        problems = []
        if any(p.clipped_share > _OVEREXPOSED for p in beside):
            problems.append(f"the paper beside “{name}” is overexposed: photograph the sheet darker")
        if sample.gradient > _UNEVEN:
            problems.append(f"“{name}” is uneven: streaks, or a glare on it")
        if max(np.ptp([p.rgb[i] for p in beside]) / max(p.rgb[i] for p in beside) for i in range(3)) > _STEEP:
            problems.append(f"the light falls off steeply at “{name}”: put the lamp further away")
        return FieldReading(lab_of_xyz(np.maximum(xyz, 1e-5)), tuple(problems))

    def _sample(self, plane: Array, box: Box) -> Sample:
        right, low = box.x_mm + box.width_mm, box.y_mm + box.height_mm
        corners = np.array([[box.x_mm, box.y_mm, 1], [right, box.y_mm, 1], [right, low, 1], [box.x_mm, low, 1]])
        seen = corners @ plane.T
        return sample_region(self._picture, Region(tuple((float(x / w), float(y / w)) for x, y, w in seen)))
