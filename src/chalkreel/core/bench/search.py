"""A photograph laid without a click: cameras round the still's own, each slid over the photograph, the best refined.

The edges of both are sorted by direction into four small pictures, so that a line is compared with lines that run its
way.

Reference: Dalal & Triggs, "Histograms of Oriented Gradients", 2005 (gradients by direction).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import product

import cv2
import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.bench.edges import Edges, Plane
from chalkreel.core.bench.lines import WINDOWS_PX, Fitted, Lines, fitted, visible
from chalkreel.core.bench.resect import ANY_LENS, Lens
from chalkreel.core.errors import StoppedError
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera, rotation_of

Spectra = npt.NDArray[np.complexfloating]
Progress = Callable[[float], bool]
# How far the photographer may have stood from the still's direction: round it, above it, and how askew it was held.
ROUND_DEG, ABOVE_DEG, ASKEW_DEG = (-14.0, 0.0, 14.0), (-4.0, 0.0, 4.0), (-1.5, 0.0, 1.5)
# Focal lengths in widths of the picture where none is known, and what share of the picture's width the subject fills:
# fewer where there are two lenses to try.
WIDTHS, FILLS = (0.8, 1.5), (0.55, 0.65, 0.75, 0.85, 0.95)
FILLS_OF_ONE = (0.4, 0.47, 0.54, 0.61, 0.68, 0.75, 0.82, 0.89, 0.96, 1.03)
COARSER = 6
# A camera that was slid into place is still far from its edges.
FAR_PX = (*(20.0,) * 6, *(14.0,) * 4, *WINDOWS_PX[2:])
DIRECTIONS = 4
REFINED = 10
# A longer lens from farther away looks much alike: the best few are tried again through others.
AGAIN, DOLLY = 2, (0.7, 1.4)
NEAR_PX = (*(10.0,) * 5, *WINDOWS_PX[4:])
# Without a click a pose is taken only where so many of the lines are met, and they hold every landmark within this
# share of the picture (1 σ).
SURE, HELD = 0.68, 2.2 / 1024


@dataclass(frozen=True, eq=False)
class _Candidate:
    """A camera, and how well its lines meet the photograph's edges where they meet best."""

    camera: Camera
    worth: float


def is_sure(found: Fitted) -> bool:
    """Whether a pose found without clicks may be taken; else four clicks are asked for."""
    return found.score >= SURE and found.loose_px <= HELD * max(found.camera.size_px)


def searched(
    lines: Lines, edges: Edges, size_px: tuple[int, int], still: Camera, skin: Skin, lens: Lens | None = None,
    progress: Progress = lambda _: True,
) -> Fitted:  # fmt: skip
    """The camera near to the direction of a still's at which lines and edges meet best.

    Raises
    ------
    StoppedError
        `progress` returned False.
    """
    shape = _padded(edges)
    planes = np.fft.rfft2(_by_direction(edges), s=shape)
    widths = WIDTHS if lens is None else (lens.widths,)
    found: list[_Candidate] = []
    turns = list(product(ROUND_DEG, ABOVE_DEG, ASKEW_DEG))
    for number, turn in enumerate(turns):
        if not progress(0.5 * number / len(turns)):
            raise StoppedError
        found += _slid(lines, planes, shape, size_px, _turned(still, lines, turn), skin, edges.scale, widths)
    best = sorted(found, key=lambda c: -c.worth)[:REFINED]
    known = lens or ANY_LENS
    tried = []
    for number, candidate in enumerate(best):
        if not progress(0.5 + 0.5 * number / len(best)):
            raise StoppedError
        tried.append(fitted(lines, edges, candidate.camera, skin, known, windows=FAR_PX))
    for near in sorted(tried, key=lambda t: -t.score)[:AGAIN]:
        for factor in DOLLY:
            tried.append(fitted(lines, edges, _dollied(near.camera, lines, factor), skin, known, windows=NEAR_PX))
    return max(tried, key=lambda t: t.score)


def _dollied(camera: Camera, lines: Lines, factor: float) -> Camera:
    """Farther away through a longer lens, so that the subject stays as large."""
    middle = lines.places.mean(axis=0)
    depth = float((camera.rotation @ middle + camera.translation)[2])
    back = np.array([0.0, 0.0, (factor - 1.0) * depth])
    return replace(camera, translation=camera.translation + back, focal_px=camera.focal_px * factor)


def _small(edges: Edges) -> tuple[int, int]:
    return edges.x.shape[0] // COARSER + 1, edges.x.shape[1] // COARSER + 1


def _padded(edges: Edges) -> tuple[int, int]:
    """The next larger size that is quick to transform."""
    height, width = (cv2.getOptimalDFTSize(side) for side in _small(edges))
    return height, width + width % 2


def _by_direction(edges: Edges) -> Plane:
    """How much edge runs in each of four directions (4, h, w), small, without its mean."""
    height, width = _small(edges)
    strength = np.tanh(np.hypot(edges.x, edges.y) / (2.0 * edges.strong))
    angle = np.arctan2(edges.y, edges.x)
    found = []
    for k in range(DIRECTIONS):
        share = np.cos(angle - np.pi * k / DIRECTIONS) ** 4 * strength
        small = cv2.resize(share.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA)
        small = cv2.GaussianBlur(small, (0, 0), 1.0)
        found.append(np.asarray(small - cv2.GaussianBlur(small, (0, 0), 8.0)))
    return np.stack(found)


def _turned(still: Camera, lines: Lines, turn: tuple[float, float, float]) -> Camera:
    """The still's camera carried round the subject's middle, above it, and rolled; its lens straight."""
    middle = lines.places.mean(axis=0)
    around, above, askew = np.radians(turn)
    away = still.position - middle
    side = np.cross(away, np.array([0.0, 0.0, 1.0]))
    side = side / max(float(np.linalg.norm(side)), 1e-9)
    carry = rotation_of(np.array([0.0, 0.0, around])) @ rotation_of(-above * side)
    position = middle + carry @ away
    look = rotation_of(np.array([0.0, 0.0, askew])) @ still.rotation @ carry.T
    return replace(still, rotation=look, translation=-look @ position, bend=0.0, offset_px=(0.0, 0.0), pixel_aspect=1.0)


def _slid(
    lines: Lines, planes: Spectra, shape: tuple[int, int], size_px: tuple[int, int], camera: Camera, skin: Skin,
    scale: float, widths: tuple[float, ...],
) -> list[_Candidate]:  # fmt: skip
    """For each focal length and size, the place on the photograph where lines and edges meet best."""
    middle = lines.places.mean(axis=0)
    way = camera.position - middle
    way = way / np.linalg.norm(way)
    found: list[_Candidate] = []
    shown: Lines | None = None
    for share, fill in product(widths, FILLS if len(widths) > 1 else FILLS_OF_ONE):
        focal = share * size_px[0]
        reach = _reach(lines, camera.rotation, focal, fill * size_px[0])
        at = middle + reach * way
        # Looking straight at the middle; sliding makes up for the rest.
        look = replace(camera, rotation=_facing(camera.rotation, -way), focal_px=focal, size_px=size_px)
        look = replace(look, translation=-look.rotation @ at)
        # What stands before what hardly changes with the distance.
        shown = shown or lines.only(visible(lines, replace(look, size_px=(1 << 20, 1 << 20)), skin))
        found.append(_best_place(shown, planes, shape, look, scale))
    return found


def _facing(rotation: Array, forward: Array) -> Array:
    """A rotation turned as little as possible so that it looks along `forward`."""
    now = rotation[2]
    axis = np.cross(now, forward)
    sine, cosine = float(np.linalg.norm(axis)), float(now @ forward)
    if sine < 1e-9:
        return rotation
    turn = rotation_of(axis / sine * np.arctan2(sine, cosine))
    return np.asarray(rotation @ turn.T)


def _reach(lines: Lines, rotation: Array, focal: float, wide_px: float) -> float:
    """From how far the subject is about so wide on the picture."""
    across = np.ptp(lines.places @ rotation[:2].T, axis=0)
    return float(focal * max(across) / wide_px + 0.5 * np.ptp(lines.places @ rotation[2]))


def _best_place(shown: Lines, planes: Spectra, shape: tuple[int, int], camera: Camera, scale: float) -> _Candidate:
    ends = camera.project(np.concatenate([shown.places, shown.places + shown.ways]))
    places, ahead = np.split(ends * scale / COARSER, 2)
    way = ahead - places
    angle = np.arctan2(way[:, 1], way[:, 0]) + np.pi / 2
    rows = np.floor(places[:, 1]).astype(np.intp)
    columns = np.floor(places[:, 0]).astype(np.intp)
    inside = (rows >= 0) & (rows < shape[0]) & (columns >= 0) & (columns < shape[1])
    template = np.zeros((DIRECTIONS, *shape), np.float32)
    share = np.cos(angle[inside] - np.pi * np.arange(DIRECTIONS)[:, None] / DIRECTIONS) ** 4
    for k in range(DIRECTIONS):
        np.add.at(template[k], (rows[inside], columns[inside]), share[k])
    template = np.minimum(template, 1.5)
    total = np.fft.irfft2((planes * np.conj(np.fft.rfft2(template))).sum(axis=0), s=shape)
    down, right = np.unravel_index(int(np.argmax(total)), shape)
    slide = np.array([right if right < shape[1] / 2 else right - shape[1],
                      down if down < shape[0] / 2 else down - shape[0]], float) * COARSER / scale  # fmt: skip
    # A slide on the picture is a small turn of the camera.
    turn = rotation_of(np.array([-slide[1] / camera.focal_px, slide[0] / camera.focal_px, 0.0]))
    moved = replace(camera, rotation=turn @ camera.rotation, translation=turn @ camera.translation)
    return _Candidate(moved, float(total.max() / max(float(np.linalg.norm(template)), 1e-9)))
