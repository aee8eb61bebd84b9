"""The drawdown card: a sheet to print and paint on, and reading a photograph of it.

Four printed corner marks give the sheet's plane (homography; Hartley & Zisserman 2004); bare paper beside every
field tells the light there, so that its fall-off over the card drops out. Paper counts as neutral.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import RGB_TO_XYZ, lab_of_xyz
from chalkreel.core.colour.sampling import Region, Sample, sample_region
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture

# The sheet, mm: landscape A5 inside its margins.
WIDTH_MM, HEIGHT_MM = 190.0, 130.0
MARK_MM: Final = 14.0
FIELD_MM: Final = (30.0, 26.0)
# Plain copier paper, and what a printer's black comes to.
PAPER: Final = 0.86
# Shares of the paint in the tints, by drops: 1 in 2, 1 in 5, 1 in 17.
TINTS: Final = (0.5, 0.2, 1.0 / 17.0)
FIELDS: Final = (
    "masstone over white",
    "masstone over black",
    "1 drop + 1 white",
    "1 drop + 4 white",
    "1 drop + 16 white",
)
_DICTIONARY: Final = cv2.aruco.DICT_4X4_50
MARK_IDS: Final = (7, 11, 19, 23)
_FULLEST: Final = 0.97


@dataclass(frozen=True)
class Field:
    """A field of the card in mm from the sheet's upper left corner; `black` is printed black below the paint."""

    name: str
    x_mm: float
    y_mm: float
    black: bool = False


@dataclass(frozen=True, eq=False)
class CardReading:
    """L*a*b* (3,) of each field by name; `problems` says what is wrong with the photograph."""

    colours: dict[str, Array]
    problems: tuple[str, ...]


def fields() -> tuple[Field, ...]:
    """Two masstones above, three tints below."""
    width = FIELD_MM[0]
    return (
        Field(FIELDS[0], 35.0, 30.0), Field(FIELDS[1], 35.0 + width + 25.0, 30.0, black=True),
        *(Field(name, 35.0 + n * (width + 15.0), 78.0) for n, name in enumerate(FIELDS[2:])),
    )  # fmt: skip


def mark_corners() -> dict[int, tuple[float, float]]:
    """Upper left corner of each corner mark in mm."""
    right, low = WIDTH_MM - MARK_MM - 6.0, HEIGHT_MM - MARK_MM - 6.0
    return dict(zip(MARK_IDS, ((6.0, 6.0), (right, 6.0), (right, low), (6.0, low)), strict=True))


def mark_cells(mark: int) -> npt.NDArray[np.bool_]:
    """The black cells (6, 6) of a corner mark, its rim with them."""
    dictionary = cv2.aruco.getPredefinedDictionary(_DICTIONARY)
    image = cv2.aruco.generateImageMarker(dictionary, mark, 6)
    return np.asarray(np.asarray(image) == 0, bool)


def read_card(picture: Picture) -> CardReading:
    """Find the card in a photograph and read its fields.

    Raises
    ------
    RefusedError
        Fewer than four corner marks are to be seen.
    """
    warp = _plane(picture)
    colours, problems = {}, []
    for field in fields():
        sample = _field_sample(picture, warp, field.x_mm, field.y_mm, *FIELD_MM, inset=6.0)
        paper = [_field_sample(picture, warp, *place, inset=0.5) for place in _paper_beside(field)]
        if any(p.clipped_share > 0.05 for p in paper):
            problems.append(f"the paper beside “{field.name}” is overexposed: photograph the card darker")
        light = _light_between(paper)
        rgb = np.array(sample.rgb) / light * PAPER
        xyz = RGB_TO_XYZ @ np.minimum(rgb, _FULLEST)
        colours[field.name] = lab_of_xyz(np.maximum(xyz, 1e-5))
        if sample.gradient > 1.35:
            problems.append(f"“{field.name}” is uneven: streaks, or a glare on it")
        if max(np.ptp([p.rgb[i] for p in paper]) / max(p.rgb[i] for p in paper) for i in range(3)) > 0.5:
            problems.append(f"the light falls off steeply at “{field.name}”: put the lamp further away")
    return CardReading(colours, tuple(dict.fromkeys(problems)))


def _plane(picture: Picture) -> Array:
    """Homography (3, 3) from mm on the card to stored pixels."""
    grey = cv2.cvtColor(picture.display(), cv2.COLOR_RGB2GRAY)
    finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(_DICTIONARY), cv2.aruco.DetectorParameters())
    corners, ids, _ = finder.detectMarkers(grey)
    known = mark_corners()
    seen: dict[int, Array] = {}
    for quad, number in zip(corners, [] if ids is None else ids.ravel(), strict=True):
        if int(number) in known:
            seen[int(number)] = np.asarray(quad, float).reshape(4, 2)
    if len(seen) < len(known):
        raise RefusedError(
            f"Only {len(seen)} of the card’s four corner marks are to be seen. Photograph the whole card, sharp and "
            "without glare on the marks."
        )
    square = MARK_MM * np.array([[0, 0], [1, 0], [1, 1], [0, 1]])
    mm = np.concatenate([np.array(known[i]) + square for i in sorted(seen)])
    pixels = np.concatenate([seen[i] for i in sorted(seen)])
    found, _ = cv2.findHomography(mm.astype(np.float64), pixels.astype(np.float64))
    return np.asarray(found, float)


def _to_pixels(warp: Array, points: Array) -> Array:
    homogeneous = np.concatenate([points, np.ones((len(points), 1))], axis=1) @ warp.T
    return np.asarray(homogeneous[:, :2] / homogeneous[:, 2:])


def _field_sample(
    picture: Picture, warp: Array, x: float, y: float, width: float, height: float, inset: float
) -> Sample:
    corners = np.array([[x + inset, y + inset], [x + width - inset, y + inset],
                        [x + width - inset, y + height - inset], [x + inset, y + height - inset]])  # fmt: skip
    points = _to_pixels(warp, corners)
    return sample_region(picture, Region(tuple((float(px), float(py)) for px, py in points)))


def _paper_beside(field: Field) -> tuple[tuple[float, float, float, float], ...]:
    """Strips of bare paper left and right of a field: x, y, width, height in mm."""
    width, height = FIELD_MM
    return ((field.x_mm - 6.5, field.y_mm, 4.5, height), (field.x_mm + width + 2.0, field.y_mm, 4.5, height))


def _light_between(paper: list[Sample]) -> Array:
    """What paper would show in the middle of the field: between its two strips."""
    return np.asarray(np.sqrt(np.prod([np.maximum(p.rgb, 1e-4) for p in paper], axis=0)))
