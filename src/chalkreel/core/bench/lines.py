"""A photograph laid by the model's lines: along each line's normal the nearest good edge, and the pose that meets them.

Reference: Drummond & Cipolla, "Real-Time Visual Tracking of Complex Structures", 2002 (pose from edges along normals).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.bench.edges import Edges
from chalkreel.core.bench.resect import ANY_LENS, UNKNOWNS, Clicks, Lens, linearised, moved, prior
from chalkreel.core.faces.face import Index
from chalkreel.core.faces.skin import Skin
from chalkreel.core.measure.camera import Camera

# How far on either side of a line an edge is looked for, in pixels of the work picture, from first to last.
WINDOWS_PX = (14.0, 14.0, 10.0, 10.0, 7.0, 7.0, 5.0, 5.0, 3.0, 3.0, 3.0)
# An edge this near to a line counts as met.
MET_PX = 1.6
STEP_PX = 0.5
# An edge found is believed within so many pixels (1 σ), and loses weight beyond twice that.
EDGE_PX = 1.0
# The higher, the more the best edge counts alone among those within the window.
SHARPEN = 2.0
# Lines are sampled so many times along the longest of them; short ones get their share.
SAMPLES = 700
LEAST_SEEN = 40
# Samples of one line are not independent: so many count as one.
ALIKE = 20.0
# A line is no edge where the still's own edges run farther from it than this, or are fainter than this.
CONFIRM_PX, OFF_PX, FAINT, LEAST_CONFIRMED = 4.0, 1.1, 0.8, 5


@dataclass(frozen=True, eq=False)
class Lines:
    """Samples (n, 3) along the model's lines, the ways (n, 3) in which these run there, and of which line each is."""

    places: Array
    ways: Array
    line: Index

    def only(self, kept: Flags) -> Lines:
        """Some of the samples, by flags (n,)."""
        return Lines(self.places[kept], self.ways[kept], self.line[kept])


@dataclass(frozen=True, eq=False)
class Fitted:
    """A camera, the share of the visible lines with an edge close by, and how many samples that was judged by.

    `loose_px` is how far (1 σ) the lines leave the worst held landmark.
    """

    camera: Camera
    score: float
    seen: int
    loose_px: float = np.inf


def sampled(polylines: Sequence[Array]) -> Lines:
    """Lines of corners (k, 3) sampled evenly."""
    parts = [(n, a, b) for n, line in enumerate(polylines) for a, b in pairwise(line)]
    if not parts:
        return Lines(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.intp))
    whole = sum(float(np.linalg.norm(b - a)) for _, a, b in parts)
    places, ways, owners = [], [], []
    for number, a, b in parts:
        length = float(np.linalg.norm(b - a))
        count = max(1, round(SAMPLES * length / max(whole, 1e-9)))
        share = (np.arange(count) + 0.5) / count
        places.append(a + share[:, None] * (b - a))
        ways.append(np.tile((b - a) / max(length, 1e-9), (count, 1)))
        owners.append(np.full(count, number, np.intp))
    return Lines(np.concatenate(places), np.concatenate(ways), np.concatenate(owners))


def confirmed(lines: Lines, edges: Edges, camera: Camera, skin: Skin) -> Lines:
    """Without the lines that a still shows no edge at: not every two landmarks that are joined have one between them.

    Lines that the still does not show are kept.
    """
    seen = visible(lines, camera, skin)
    if not seen.any():
        return lines
    shown = lines.only(seen)
    gap, found, _ = _gaps(shown, edges, camera, CONFIRM_PX)
    kept = np.ones(len(lines.line), np.bool_)
    for line in np.unique(shown.line):
        own = shown.line == line
        if own.sum() >= LEAST_CONFIRMED:
            off = abs(float(np.median(gap[own]))) * edges.scale
            if off > OFF_PX or float(np.median(found[own])) < FAINT:
                kept[lines.line == line] = False
    return lines.only(kept)


def visible(lines: Lines, camera: Camera, skin: Skin) -> Flags:
    """Which samples a camera sees: inside the picture, and with no face before them."""
    stored = camera.project(lines.places)
    inside = np.all((stored > 2) & (stored < np.array(camera.size_px) - 2), axis=1)
    if inside.any() and skin.faces:
        inside[inside] = np.logical_not(skin.hidden(camera, lines.places[inside]))
    return np.asarray(inside)


def fitted(
    lines: Lines, edges: Edges, camera: Camera, skin: Skin, lens: Lens = ANY_LENS, clicks: Clicks | None = None,
    windows: tuple[float, ...] = WINDOWS_PX,
) -> Fitted:  # fmt: skip
    """The camera near to one at which lines and edges meet best, within ever narrower windows; clicks hold it."""
    seen, normal = visible(lines, camera, skin), np.eye(UNKNOWNS)
    for number, window in enumerate(windows):
        if number and number % 3 == 0:
            seen = visible(lines, camera, skin)
        if seen.sum() < LEAST_SEEN:
            return Fitted(camera, 0.0, int(seen.sum()))
        normal, downhill = _equations(lines.only(seen), edges, camera, window, lens, clicks)
        tried = moved(
            camera, np.asarray(np.linalg.solve(normal + 1e-9 * np.diag(np.diag(normal)), downhill), np.float64)
        )
        if abs(tried.bend) > 0.5 or not np.isfinite(tried.project(lines.places[seen])).all():
            return Fitted(camera, 0.0, int(seen.sum()))
        camera = tried
    return replace(scored(lines, edges, camera, skin), loose_px=_loose(lines.only(seen), camera, normal))


def _loose(lines: Lines, camera: Camera, normal: Array) -> float:
    slopes = linearised(camera, lines.places)[1]
    spread = slopes @ np.linalg.solve(normal, slopes.transpose(0, 2, 1))
    return float(np.sqrt(np.max(np.trace(spread, axis1=1, axis2=2))))


def scored(lines: Lines, edges: Edges, camera: Camera, skin: Skin) -> Fitted:
    """How well lines and edges meet at a camera."""
    seen = visible(lines, camera, skin)
    if seen.sum() < LEAST_SEEN:
        return Fitted(camera, 0.0, int(seen.sum()))
    places, ways = _on_picture(lines.only(seen), camera, edges.scale)
    offsets = np.arange(-MET_PX, MET_PX + 0.01, STEP_PX * 0.8)
    strength, aligned = edges.along(places, _normals(ways), offsets)
    met = np.any((strength > edges.strong) & (aligned > 0.85), axis=1)
    return Fitted(camera, float(met.mean()), int(seen.sum()))


def _on_picture(lines: Lines, camera: Camera, scale: float) -> tuple[Array, Array]:
    """Where samples are on the work picture (n, 2), and the ways (n, 2) in which lines run there."""
    stored, _, by_point = linearised(camera, lines.places)
    ways = np.einsum("nij,nj->ni", by_point, lines.ways)
    return stored * scale, ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)


def _normals(ways: Array) -> Array:
    return np.stack([-ways[:, 1], ways[:, 0]], axis=1)


def _equations(
    lines: Lines, edges: Edges, camera: Camera, window: float, lens: Lens, clicks: Clicks | None
) -> tuple[Array, Array]:
    """Normal equations (8, 8) and (8,) of what brings lines nearest to the edges found within a window."""
    gap, found, across = _gaps(lines, edges, camera, window)
    sigma = EDGE_PX / edges.scale
    # Far from its edge, for the window, a line is likelier to have met another one.
    wide = max(2.0, 0.4 * window) * sigma
    weight = np.minimum(found, 1.5) / (1.0 + (gap / wide) ** 2) / ALIKE / sigma**2
    off, pull = prior(camera, lens)
    normal = (across * weight[:, None]).T @ across + pull.T @ pull
    downhill = across.T @ (weight * gap) - pull.T @ off
    if clicks is not None:
        at, by_unknowns, _ = linearised(camera, clicks.points)
        scale = np.repeat(1.0 / clicks.sigma, 2)
        flat = by_unknowns.reshape(-1, UNKNOWNS) * scale[:, None]
        normal += flat.T @ flat
        downhill += flat.T @ ((clicks.stored - at).ravel() * scale)
    return normal, downhill


def _gaps(lines: Lines, edges: Edges, camera: Camera, window: float) -> tuple[Array, Array, Array]:
    """How far edges lie beside samples in stored pixels (n,), how good they are (n,), and the slopes (n, 8) of that."""
    stored, slopes, by_point = linearised(camera, lines.places)
    ways = np.einsum("nij,nj->ni", by_point, lines.ways)
    normals = _normals(ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12))
    offsets = np.arange(-window, window + 0.01, STEP_PX)
    strength, aligned = edges.along(stored * edges.scale, normals, offsets)
    near = np.exp(-0.5 * (offsets / (0.6 * window)) ** 2)
    worth = np.minimum(strength / edges.strong, 3.0) * aligned**4 * near
    # A panel line has two edges: its middle is meant, not the stronger of them.
    share = worth**SHARPEN
    gap = (share @ offsets) / np.maximum(share.sum(axis=1), 1e-12) / edges.scale
    return gap, worth.max(axis=1), np.einsum("ni,nij->nj", normals, slopes)
