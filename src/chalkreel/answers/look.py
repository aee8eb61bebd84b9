"""A still and a photograph of the replica from one camera, to be looked at."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from chalkreel.answers.comparing import Comparing, Finding, StageVerdict
from chalkreel.answers.faces import Faces
from chalkreel.answers.photographs import Subject
from chalkreel.core.arrays import Array, Flags
from chalkreel.core.bench.lines import Lines, visible
from chalkreel.core.bench.overlay import difference, laid_over, scaled, without_light
from chalkreel.core.bench.ways import ways_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.sight import Pixels
from chalkreel.core.measure.camera import Camera
from chalkreel.core.media.picture import Picture
from chalkreel.document.bench_entities import ReplicaPhoto
from chalkreel.document.entities import Still
from chalkreel.document.gallery import picture_name
from chalkreel.document.snapshot import Build

LONGEST_PX = 1500
HATCH_PX, HATCH = 9, 118
Line2 = tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True, eq=False)
class Look:
    """Pictures (h, w, 3) of one size: the still, the photograph in its camera, both without light, their difference.

    What the photograph does not show is hatched. `lines` are pieces of the model's lines in sight; `arrows` tell by
    finding key where it is and how the replica must go for it to be true. All in pixels.
    """

    still: Pixels
    photo: Pixels
    still_flat: Pixels
    photo_flat: Pixels
    gap: Pixels
    lines: tuple[Line2, ...]
    arrows: tuple[tuple[str, Line2], ...]


def look(
    build: Build, subject: Subject, found: Comparing, photo: ReplicaPhoto, picture: Callable[[str], Picture]
) -> Look:
    """Both pictures in the still's camera.

    Raises
    ------
    RefusedError
        The photograph is not laid yet, or answers no solved still.
    """
    faces = subject.faces
    laid, still, solution = found.laid.get(photo.id), build.get(Still, photo.still_id), subject.reel.solution
    if still is None or solution is None or still.id not in solution.layout.views:
        raise RefusedError("Choose the still that this photograph answers; it must be tied in.")
    if laid is None or laid.camera is None:
        raise RefusedError("This photograph is not laid yet: click four landmarks on it.")
    if not faces.skin.faces:
        raise RefusedError("Make faces in Measure first (W): the photograph is carried over through them.")
    camera = solution.camera(still.id)
    width, height = still.width_px * still.pixel_aspect, float(still.height_px)
    factor = min(1.0, LONGEST_PX / max(width, height))
    size = (round(width * factor), round(height * factor))
    seen = scaled(camera, size)
    shown = picture(picture_name(still)).display()
    wanted = np.asarray(cv2.resize(shown, size, interpolation=cv2.INTER_AREA), np.uint8)
    over = laid_over(picture(photo.blob).display(), laid.camera, seen, faces.skin)
    flat, flat_over = without_light(wanted), without_light(over.pixels)
    return Look(
        wanted, _hatched(over.pixels, over.unseen), flat, _hatched(flat_over, over.unseen),
        difference(flat, flat_over, over.unseen),
        _pieces(laid.lines or subject.lines, seen, faces),
        _arrows(build, subject, seen, found.stage(photo.stage)),
    )  # fmt: skip


def _hatched(pixels: Pixels, unseen: Flags) -> Pixels:
    rows, columns = np.nonzero(unseen)
    lines = (rows + columns) % HATCH_PX < HATCH_PX // 3
    found = pixels.copy()
    found[rows[lines], columns[lines]] = HATCH
    return found


def _pieces(lines: Lines, camera: Camera, faces: Faces) -> tuple[Line2, ...]:
    """Between neighbouring samples of one line that are both in sight."""
    seen, places = visible(lines, camera, faces.skin), camera.project(lines.places)
    joined = seen[:-1] & seen[1:] & (lines.line[:-1] == lines.line[1:])
    return tuple(((float(a[0]), float(a[1])), (float(b[0]), float(b[1])))
                 for a, b in zip(places[:-1][joined], places[1:][joined], strict=True))  # fmt: skip


def _arrows(build: Build, subject: Subject, camera: Camera, stage: StageVerdict) -> tuple[tuple[str, Line2], ...]:
    """From where an assembly belongs, one arrow each: the way in which the replica's must go."""
    ratio = build.chain.convert(1.0, "miniature", "replica")
    made = []
    for finding in stage.findings:
        rows = [subject.places.index[i] for i in finding.group.landmark_ids if i in subject.places.index]
        if not rows:
            continue
        points = subject.places.points[rows]
        middle = points.mean(axis=0)
        tip = middle - _move(finding, points) / ratio
        (x, y), (u, v) = camera.project(np.stack([middle, tip]))
        if np.isfinite([x, y, u, v]).all():
            made.append((finding.group.key, ((float(x), float(y)), (float(u), float(v)))))
    return tuple(made)


def _move(finding: Finding, points: Array) -> Array:
    """How the middle, or where it moves most, of an assembly is displaced (3,), in mm of the replica."""
    if not finding.amounts or finding.state in ("fixed", "missing"):
        return np.zeros(3)
    amount = finding.amounts[0]
    bent = next((b for b in ways_of(points) if b.way == amount.way), None)
    if bent is None:
        return np.zeros(3)
    return np.asarray(bent.moves[np.argmax(np.linalg.norm(bent.moves, axis=1))] * amount.mm)
