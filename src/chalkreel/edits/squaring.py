"""Squared-up stills: a plane of the solved model, or a marked rectangle, laid flat as a still of its own."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from chalkreel.answers.sizes import Sizes
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.rectify import Panel, Pixels, blended, flat_through, flatten, flatten_corners, sharpness
from chalkreel.core.measure.sides import SEVERAL
from chalkreel.core.measure.similarity import Similarity, similarity
from chalkreel.document.changes import Edits
from chalkreel.document.entities import FlatSet, Plane, SquaredPlane, Still
from chalkreel.document.entity import new_id
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.snapshot import Build
from chalkreel.edits.moving import marks_moved

# Finest worth having: a fifth of a millimetre on the replica, unless the stills show less.
FINEST_REPLICA_MM = 0.1
LONGEST_PX = 1800
# So many of the stills that show a plane best are laid over each other.
MOST_BLENDED = 4
# Two pictures of a plane are laid on each other by so many landmarks that both have, or more.
LEAST_SHARED = 2


@dataclass(frozen=True)
class SquaredStill:
    """A picture file (PNG) and the still that will show it; its blob is filled in when the picture is kept."""

    png: bytes
    still: Still


def square_up(build: Build, sizes: Sizes, gallery: Gallery, plane_id: str, blend: bool) -> SquaredStill:
    """Lay a flat of landmarks, or a rectangle marked on a still, flat.

    Raises
    ------
    RefusedError
        Nothing shows it, or nothing says how large it is.
    """
    flat_set, plane = build.get(FlatSet, plane_id), build.get(Plane, plane_id)
    if flat_set is not None:
        return _from_model(build, sizes, gallery, flat_set, blend)
    if plane is None:
        raise RefusedError("Choose a flat or a rectangle to square up.")
    return _from_corners(build, gallery, plane)


def put_on_reel(build: Build, still: Still) -> Edits:
    """A squared-up still on the reel; what was marked on the one it replaces goes along with the subject."""
    before = build.get(Still, still.id)
    if before is None or before.squared is None or still.squared is None:
        return {still.id: still}
    old, new = before.squared, still.squared
    lay = _by_anchors(old, new)
    if lay is not None:

        def follow(x: float, y: float) -> tuple[float, float]:
            there = lay(np.array([x, y]))
            return float(there[0]), float(there[1])

        return {**marks_moved(build, still.id, follow, lay.size), still.id: still}
    corner = np.subtract(old.corner_mm or (0, 0, 0), new.corner_mm or (0, 0, 0))

    def move(x: float, y: float) -> tuple[float, float]:
        place = corner + old.mm_per_px * (x * np.array(old.right) + y * np.array(old.down))
        return float(place @ new.right) / new.mm_per_px, float(place @ new.down) / new.mm_per_px

    return {**marks_moved(build, still.id, move, old.mm_per_px / new.mm_per_px), still.id: still}


def _by_anchors(old: SquaredPlane, new: SquaredPlane) -> Similarity | None:
    """From pixels of one picture of a plane to those of another."""
    after = {key: (x, y) for key, x, y in new.anchors}
    pairs = [((x, y), after[key]) for key, x, y in old.anchors if key in after]
    if len(pairs) < LEAST_SHARED:
        return None
    before, now = np.array(pairs).transpose(1, 0, 2)
    return similarity(before, now)


def _from_model(build: Build, sizes: Sizes, gallery: Gallery, flat_set: FlatSet, blend: bool) -> SquaredStill:
    reel = sizes.reel
    if reel.solution is None:
        raise RefusedError("Mark the same landmarks on two stills first: then any plane of them can be squared up.")
    known = [i for i in flat_set.landmark_ids if i in reel.solution.layout.blocks]
    cameras = {s.id: reel.solution.camera(s.id) for s in build.all(Still) if s.id in reel.solution.layout.views}
    # Its outer side is the one from which its landmarks were marked.
    marking = [s.view for s in reel.solution.scene.sightings if s.landmark in known]
    places = [reel.solution.camera(view).position for view in marking] or [np.zeros(3)]
    points = np.array([reel.solution.point(k) for k in known]).reshape(-1, 3)
    flat = flat_through(points, np.mean(places, axis=0))
    ranked = sorted(cameras, key=lambda i: -sharpness(flat, cameras[i]))
    if not ranked or sharpness(flat, cameras[ranked[0]]) <= 0:
        raise RefusedError(f"No still shows “{flat_set.name}” from outside. Mark its landmarks on one that does.")
    scale = _mm_per_px(build, flat, 1.0 / sharpness(flat, cameras[ranked[0]]))

    def pixels(still_id: str) -> Pixels:
        still = build.get(Still, still_id)
        assert still is not None
        return gallery.picture(picture_name(still)).display()

    if blend:
        picture = blended([(pixels(i), cameras[i]) for i in ranked[:MOST_BLENDED]], flat, scale)
    else:
        picture, _ = flatten(pixels(ranked[0]), cameras[ranked[0]], flat, scale)
    corner, right, down = (tuple(float(v) for v in vector) for vector in (flat.corner, flat.right, flat.down))
    best = build.get(Still, ranked[0])
    source = "several stills" if blend or best is None else f"still {best.number}"
    away = (points - flat.corner) / scale
    anchors = tuple((k, float(v @ flat.right), float(v @ flat.down)) for k, v in zip(known, away, strict=True))
    made_from = tuple(ranked[:MOST_BLENDED] if blend else ranked[:1])
    squared = SquaredPlane(scale, corner, right, down, flat_set.id, anchors, made_from)  # type: ignore[arg-type]
    return _still(build, picture, f"{flat_set.name}, squared up from {source}", squared, best)


def _from_corners(build: Build, gallery: Gallery, plane: Plane) -> SquaredStill:
    still = build.get(Still, plane.still_id)
    assert still is not None
    if plane.height_mm is None:
        raise RefusedError(
            "Only the ratio of its sides is known. Give both sides of the rectangle, and it can be squared up."
        )
    factor = build.chain.convert(1.0, plane.link, "miniature")
    width, height = plane.width_mm * factor, plane.height_mm * factor
    corners = np.array([(m.x_px, m.y_px) for m in plane.corners])
    finest = width / max(float(np.linalg.norm(corners[1] - corners[0])), 1.0)
    flat = Panel(np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), width, height)
    scale = _mm_per_px(build, flat, finest)
    picture = flatten_corners(gallery.picture(picture_name(still)).display(), corners, width, height, scale)
    title = f"{plane.name}, squared up from still {still.number}"
    return _still(build, picture, title, SquaredPlane(scale, plane_id=plane.id), still)


def _mm_per_px(build: Build, flat: Panel, finest_mm: float) -> float:
    least = build.chain.convert(FINEST_REPLICA_MM, "replica", "miniature")
    return max(least, finest_mm / 2, max(flat.width_mm, flat.height_mm) / LONGEST_PX)


def _still(build: Build, picture: Pixels, title: str, squared: SquaredPlane, source: Still | None) -> SquaredStill:
    done, png = cv2.imencode(".png", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
    assert done
    # The same flat squared up again takes the place of the one before.
    before = next(
        (s for s in build.all(Still) if s.squared is not None and s.squared.plane_id == squared.plane_id), None
    )
    still = Still(
        id=before.id if before else new_id(), title=title, blob="",
        width_px=picture.shape[1], height_px=picture.shape[0], still_kind="plan",
        number=before.number if before else max((s.number for s in build.all(Still)), default=0) + 1,
        side=source.side if source else SEVERAL, version_id=source.version_id if source else "",
        trust=source.trust if source else "fair", squared=squared,
    )  # fmt: skip
    return SquaredStill(png.tobytes(), still)
