"""Marks clicked on ordinary stills: where each lies on its face, and the map of every face that has some."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from chalkreel.answers.faces import Faces, face_name
from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.templates import SpotRow, spot_words
from chalkreel.answers.traced import plane_now
from chalkreel.core.arrays import Array
from chalkreel.core.draft.labels import placed
from chalkreel.core.draft.sheet import Path, Sheet, Words, in_rows
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.landing import Landing, landings
from chalkreel.core.faces.panel import Lay
from chalkreel.core.figures import plural
from chalkreel.core.interval import NORMAL_95
from chalkreel.document.entities import Spot, Still
from chalkreel.document.snapshot import Build

# A mark's place is told from the two edges that are nearest, one across and one along; what is shorter than this (mm
# of the replica) has no direction.
LEAST_LENGTH_MM = 0.6
# What the faces themselves are known to, 1 σ in mm of the miniature: their corners' own error and that they are flat.
FACE_SIGMA_MM = 0.35


def face_spot_rows(build: Build, faces: Faces, reel: ReelAnswer) -> tuple[SpotRow, ...]:
    """Every mark on a solved still that is not squared up, and lands on a face with both its ends."""
    return tuple(_row(build, faces, *found) for found in landed_spots(build, faces, reel))


def landed_spots(build: Build, faces: Faces, reel: ReelAnswer) -> Iterator[tuple[Spot, Landing, Landing]]:
    """Each such mark and where its ends landed."""
    solution = reel.solution
    for spot in build.all(Spot):
        still = build.get(Still, spot.still_id)
        if solution is None or still is None or still.squared is not None or still.id not in solution.layout.views:
            continue
        clicks = np.array([(spot.a.x_px, spot.a.y_px), (spot.b.x_px, spot.b.y_px)])
        sigma = np.array([spot.a.sigma_px, spot.b.sigma_px])
        a, b = landings(faces.skin, solution.camera(still.id), clicks, sigma)
        keys = [faces.skin.faces[end.face].key for end in (a, b) if end is not None]
        if a is not None and b is not None and keys[0] == keys[1] and not faces.is_across_cut(a, b):
            yield spot, a, b


def landed_ends(build: Build, faces: Faces, reel: ReelAnswer) -> Iterator[tuple[Spot, Array]]:
    """Each mark whose place in space is known, on a face or a squared-up still, and its ends (2, 3), mm of the
    miniature.
    """
    yield from ((spot, np.stack([a.place, b.place])) for spot, a, b in landed_spots(build, faces, reel))
    for spot in build.all(Spot):
        still = build.get(Still, spot.still_id)
        plane = plane_now(reel, still) if still is not None else None
        if plane is not None:
            yield spot, plane.in_space(np.array([(end.x_px, end.y_px) for end in (spot.a, spot.b)]))


def landed_places(build: Build, faces: Faces, reel: ReelAnswer) -> dict[str, Array]:
    """The middle of each mark whose place is known, mm of the miniature (3,), by the mark's id."""
    return {spot.id: ends.mean(axis=0) for spot, ends in landed_ends(build, faces, reel)}


def face_map(build: Build, faces: Faces, reel: ReelAnswer) -> Sheet:
    """Each face that has marks at the replica's true size, with its outline; distances are from its edges.

    Raises
    ------
    RefusedError
        No mark lies on a face.
    """
    rows = face_spot_rows(build, faces, reel)
    flat = {still.id for still in build.all(Still) if still.squared is not None}
    astray = sum(spot.still_id not in flat for spot in build.all(Spot))
    if not rows and astray:
        raise RefusedError(
            f"{plural(astray, 'mark stands', 'marks stand')} on stills, but none lands with both ends on one face: on "
            "a still that is tied in, click a chip, hit or streak where a face lies behind it."
        )
    if not rows:
        raise RefusedError(
            "No mark yet. On any still that is tied in press M and click a chip, hit or streak from end to end: it "
            "lands on the face behind it."
        )
    factor = build.chain.convert(1.0, "miniature", "replica")
    sheets = []
    for key in dict.fromkeys(face.key for face in faces.skin.faces):
        mine = [row for row in rows if row.face_key == key]
        if mine:
            sheets.append(_panel_sheet(build, key, faces.panel(key).outline * factor, mine))
    name = f"{build.info.name}, marks at 1:{build.chain.replica_ratio:.4g}"
    return replace(in_rows(name, sheets), unit=build.info.unit)


def _row(build: Build, faces: Faces, spot: Spot, a: Landing, b: Landing) -> SpotRow:
    key, factor = faces.skin.faces[a.face].key, build.chain.convert(1.0, "miniature", "replica")
    lays = [faces.lay(a.face), faces.lay(b.face)]
    ends = np.stack([lay.flat(end.place) for lay, end in zip(lays, (a, b), strict=True)])
    (x, y), (dx, dy) = ends.mean(axis=0), ends[1] - ends[0]
    worst = [_worst(end.covariance, lay) for lay, end in zip(lays, (a, b), strict=True)]
    sigma = math.hypot(FACE_SIGMA_MM, *worst) / math.sqrt(2)
    return SpotRow(
        spot.id, spot.name, spot.still_id, float(x) * factor, float(y) * factor, math.hypot(dx, dy) * factor,
        90.0 - (90.0 - math.degrees(math.atan2(dy, dx))) % 180.0,
        tuple((f"the {name}", gap * factor) for gap, name in faces.panel(key).nearest(float(x), float(y))),
        NORMAL_95 * sigma * factor, key,
    )  # fmt: skip


def _worst(covariance: Array, lay: Lay) -> float:
    axes = np.stack([lay.right, lay.up])
    return float(np.sqrt(np.linalg.eigvalsh(axes @ covariance @ axes.T)[-1]))


def _panel_sheet(build: Build, key: str, outline: Array, rows: list[SpotRow]) -> Sheet:
    paths = [Path(tuple((float(x), float(y)) for x, y in outline), "outline", closed=True)]
    words, labels = [Words((0.0, -7.0), face_name(build, key), 3.0)], []
    for number, row in enumerate(rows, start=1):
        turn, half = math.radians(row.angle_deg), max(row.length_mm, LEAST_LENGTH_MM) / 2
        dx, dy = half * math.cos(turn), half * math.sin(turn)
        paths.append(Path(((row.x_mm - dx, row.y_mm - dy), (row.x_mm + dx, row.y_mm + dy)), "mask"))
        labels.append(Words((row.x_mm + 0.8, row.y_mm + 0.8), str(number), 2.0))
        words.append(Words((0.0, -7.0 - 4.0 * number), f"{number}. {spot_words(row, build.info.unit)}", 2.0))
    return Sheet(face_name(build, key), tuple(paths), words=(*words, *placed(labels)))
