"""A view of the subject's faces as a sheet at the replica's true size: picture, sides, gaps."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from PIL import Image

from chalkreel.answers.faces import TWIN, Faces
from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.draft.sheet import Path, Plate, Sheet, Words
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.frame import Frame, frame_of
from chalkreel.core.faces.gaps import hatch
from chalkreel.core.faces.orthographic import Orthographic, orthographic
from chalkreel.core.faces.outlines import ShownSide, shown_sides
from chalkreel.core.faces.seams import patches
from chalkreel.core.faces.sight import Pixels, Seen
from chalkreel.core.lengths import INCH_MM
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.media.pyramid import halvings
from chalkreel.document.entities import SkinFace, Still
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]
# Beyond this many pixels a side the picture gets fewer dots.
LONGEST_PX = 9_000
# Smaller gaps lie along edges, and are not worth telling.
LEAST_GAP_MM2 = 5.0
HATCH_MM = 1.6


@dataclass(frozen=True, eq=False)
class DrawnView:
    """A view as a sheet in mm of the replica; `share` of its faces is seen by a still.

    `gaps` are the faces of which a part is seen by none, by name, with that part's area in mm² of the replica; the
    largest first. `stills` are the numbers of those that it was made from, `patchwork` which gave what. A `leaning` one
    lies as the cameras were held, since nothing says which way is level. `frame` is how it was seen.
    """

    name: str
    sheet: Sheet
    share: float
    gaps: tuple[tuple[str, float], ...]
    stills: tuple[int, ...]
    dots_per_inch: float
    leaning: bool
    frame: Frame
    patchwork: Sheet


def orthographic_view(
    build: Build, faces: Faces, reel: ReelAnswer, gallery: Gallery, name: str, dots: float, progress: Progress
) -> DrawnView:
    """The view from one side.

    Raises
    ------
    RefusedError
        No face, or no still of this version is solved.
    StoppedError
        `progress` said to stop.
    """
    stills = painting_stills(build, reel)
    to_replica = build.chain.convert(1.0, "miniature", "replica")
    frame = frame_of(faces.skin, name, _step(faces, name, INCH_MM / dots / to_replica))
    solution = reel.solution
    assert solution is not None
    found = orthographic(faces.skin, seen_of(stills, solution, gallery), frame, progress)
    px_mm = frame.mm_per_px * to_replica
    title = f"{build.info.name}, {name} at 1:{build.chain.replica_ratio:.4g}"
    used = [stills[int(k)].number for k in np.unique(found.still) if k >= 0]
    return DrawnView(
        name, _sheet(title, found, shown_sides(faces.skin, frame), px_mm, build), found.share_seen,
        _gaps(build, faces, found, px_mm), tuple(used), INCH_MM / px_mm, reel.leaning, frame,
        _patchwork(found, [still.number for still in stills], px_mm),
    )  # fmt: skip


def painting_stills(build: Build, reel: ReelAnswer) -> list[Still]:
    """Photographs of the version being built; a drawing is no picture, and another version wears other paint.

    Raises
    ------
    RefusedError
        None is solved.
    """
    views = reel.solution.layout.views if reel.solution is not None else {}
    solved = (s for s in build.all(Still) if s.id in views and s.still_kind != "plan")
    found = [s for s in solved if s.version_id in ("", build.info.version_id)]
    if not found:
        raise RefusedError("No still of this version is tied in. Mark its landmarks first.")
    return found


def seen_of(stills: list[Still], solution: Solution, gallery: Gallery) -> list[Seen]:
    """Solved stills as painting takes them: each is fetched when its turn comes."""
    return [Seen(s.id, solution.camera(s.id), partial(_levels, gallery, picture_name(s))) for s in stills]


def _step(faces: Faces, name: str, wanted_mm: float) -> float:
    """mm of the miniature to a pixel: as wanted, or as many as keep the picture within reason."""
    if not faces.skin.faces:
        return wanted_mm
    rough = frame_of(faces.skin, name, 10.0)
    return max(wanted_mm, 10.0 * max(rough.size_px) / LONGEST_PX)


def _levels(gallery: Gallery, name: str) -> tuple[Pixels, ...]:
    return halvings(gallery.picture(name).display())


def _sheet(title: str, found: Orthographic, sides: tuple[ShownSide, ...], px_mm: float, build: Build) -> Sheet:
    width, height = found.frame.size_px
    paths = tuple(
        Path(tuple((float(x) * px_mm, (height - float(y)) * px_mm) for x, y in side.ends[:, :2]),
             "cut" if side.outer else "outline")
        for side in sides
    )  # fmt: skip
    plate = Plate(_png(found, px_mm), (0.0, 0.0), width * px_mm, height * px_mm)
    return Sheet(title, paths, unit=build.info.unit, plate=plate)


def _patchwork(found: Orthographic, numbers: list[int], px_mm: float) -> Sheet:
    """The borders between what different stills gave, each patch with its still's number."""
    height = found.frame.size_px[1]
    paths, words = [], []
    for patch in patches(found.still):
        flat = np.array([0.0, height]) + patch.outline * np.array([1.0, -1.0])
        paths.append(Path(tuple((float(x) * px_mm, float(y) * px_mm) for x, y in flat), "mask", closed=True))
        x, y = patch.middle
        words.append(
            Words((float(x) * px_mm, float(height - y) * px_mm), f"still {numbers[patch.still]}", 3.0, centred=True)
        )
    return Sheet("", tuple(paths), words=tuple(words))


def _png(found: Orthographic, px_mm: float) -> bytes:
    """The picture with gaps hatched and nothing where no face is, and its dots to an inch."""
    picture = np.dstack([found.pixels, np.where(found.face < 0, 0, 255).astype(np.uint8)])
    hatch(picture, (found.face >= 0) & (found.still < 0), max(3.0, HATCH_MM / px_mm))
    out = io.BytesIO()
    dots = INCH_MM / px_mm
    Image.fromarray(picture).save(out, "PNG", dpi=(dots, dots))
    return out.getvalue()


def _gaps(build: Build, faces: Faces, found: Orthographic, px_mm: float) -> tuple[tuple[str, float], ...]:
    missing = found.face[(found.face >= 0) & (found.still < 0)]
    counts: dict[str, int] = {}
    for face, count in zip(faces.skin.faces, np.bincount(missing, minlength=len(faces.skin.faces)), strict=True):
        counts[face.key] = counts.get(face.key, 0) + int(count)
    rows = []
    for key, count in counts.items():
        outline = build.get(SkinFace, key.removesuffix(TWIN))
        if count * px_mm**2 >= LEAST_GAP_MM2 and outline is not None:
            rows.append((outline.name + (", other side" if key.endswith(TWIN) else ""), float(count * px_mm**2)))
    return tuple(sorted(rows, key=lambda row: -row[1]))
