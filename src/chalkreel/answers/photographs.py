"""Photographs of the replica laid on the solved model: by clicks, by clicks and lines, or by lines alone."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import cv2
import numpy as np

from chalkreel.answers.assemblies import Group, assembly_of, groups_by_name
from chalkreel.answers.faces import Faces
from chalkreel.answers.memo import Memo
from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.traced import profile_of
from chalkreel.core.arrays import Array, Flags
from chalkreel.core.bench.deviations import Judged, judged
from chalkreel.core.bench.edges import Edges, edges_of
from chalkreel.core.bench.equations import Shot
from chalkreel.core.bench.lines import Fitted, Lines, confirmed, fitted, sampled, scored
from chalkreel.core.bench.other_side import median_sigmas, shows_other_side
from chalkreel.core.bench.places import Places, places_of
from chalkreel.core.bench.proposals import proposed
from chalkreel.core.bench.resect import ANY_LENS, LEAST_CLICKS, Lens, resected
from chalkreel.core.bench.search import SURE, Progress, is_sure, searched
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.round import Rim, disc
from chalkreel.core.measure.camera import Camera, rotation_of
from chalkreel.document.bench_entities import LaidPose, ReplicaMark, ReplicaPhoto
from chalkreel.document.entities import Landmark, LandmarkMark, Outline, RoundShape, SkinFace, Still, Tie
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.snapshot import Build

# What a camera wrote down of its lens is good to so much: pictures are cropped a little when they are steadied.
WRITTEN_SIGMA = 0.05
# From so many clicks on, lines add nothing.
ENOUGH_CLICKS = 8
PROPOSED = 30
# So many clicks are asked for on the assembly that takes up most room before any other.
DATUM_CLICKS = 6
# Clicks that miss by more σ than this in the median are of something else; a replica out of true misses by three.
UNFIT_SIGMAS = 8.0
KEPT = 24
# Ids of landmarks by the assembly they move with.
Members = Mapping[str, tuple[str, ...]]


@dataclass(frozen=True, eq=False)
class Laid:
    """A photograph: its camera and how it was found, or what it lacks.

    `off_px` is the median miss of its clicks, `click_px` their median error by how far in one had zoomed, `score` the
    share of the model's lines with an edge at them, `px_per_mm` how large a millimetre of the miniature is on it.
    `ghosts` are where landmarks not clicked must be, `next_ids` those to be clicked next. `lines` are the model's lines
    that its still confirms.
    """

    photo_id: str
    camera: Camera | None = None
    how: str = ""
    problem: str = ""
    clicks: int = 0
    off_px: float = 0.0
    click_px: float = 0.0
    score: float | None = None
    px_per_mm: float = 0.0
    other_side: bool = False
    ghosts: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    next_ids: tuple[str, ...] = ()
    lines: Lines | None = None


@dataclass(frozen=True, eq=False)
class Subject:
    """What photographs are laid on: places, lines and skin of the solved model, and its stills' cameras."""

    places: Places
    lines: Lines
    faces: Faces
    reel: ReelAnswer
    twins: Mapping[int, int]


def subject_of(build: Build, reel: ReelAnswer, faces: Faces) -> Subject | None:
    """The solved model, or nothing before anything is solved."""
    if reel.solution is None or reel.spread is None:
        return None
    landmarks = build.all(Landmark)
    places = places_of(reel.solution, reel.spread, tuple(m.id for m in landmarks))
    twins = {places.index[m.id]: places.index[m.mirror_id] for m in landmarks
             if m.id in places.index and m.mirror_id in places.index}  # fmt: skip
    return Subject(places, sampled(_polylines(build, reel, places)), faces, reel, twins)


def shot_of(build: Build, photo: ReplicaPhoto, places: Places) -> Shot:
    """The clicks of a photograph on landmarks whose places are known."""
    marks = [m for m in build.all(ReplicaMark) if m.photo_id == photo.id and m.landmark_id in places.index]
    return Shot(
        np.array([places.index[m.landmark_id] for m in marks], np.intp),
        np.array([(m.mark.x_px, m.mark.y_px) for m in marks]).reshape(-1, 2),
        np.array([m.mark.sigma_px for m in marks]),
        (photo.width_px, photo.height_px),
        lens_of(photo) or ANY_LENS,
    )


def called_on(groups: tuple[Group, ...], landmark_id: str) -> str:
    """What the smallest assembly is called that a landmark belongs to: one side before both."""
    return next((group.called for group in groups if landmark_id in group.landmark_ids), "")


def lens_of(photo: ReplicaPhoto) -> Lens | None:
    """What the camera wrote down of its lens."""
    return None if photo.focal_widths is None else Lens(photo.focal_widths, WRITTEN_SIGMA)


class Photographs:
    """Lays photographs and judges what they show; the last few answers are kept."""

    def __init__(self, gallery: Gallery) -> None:
        self._gallery = gallery
        self._edges = Memo[str, Edges](KEPT)
        self._lines = Memo[object, Lines](KEPT)
        self._laid = Memo[object, Laid](KEPT)
        self._judged = Memo[object, Judged](KEPT)

    def laid(self, build: Build, subject: Subject, photo: ReplicaPhoto) -> Laid:
        """A photograph on the model."""
        marks = tuple(m for m in build.all(ReplicaMark) if m.photo_id == photo.id)
        still = build.get(Still, photo.still_id)
        told = (photo.blob, photo.width_px, photo.height_px, photo.focal_widths, photo.still_id, photo.laid)
        seen = picture_name(still) if still is not None else ""
        inputs = (subject.reel, subject.faces, told, marks, seen, build.all(Tie))
        laid = self._laid.get(inputs, lambda: self._laid_anew(build, subject, photo))
        guess = laid.camera or _still_camera(subject, photo)
        asks = not laid.other_side
        return replace(laid, next_ids=_next(build, subject, photo, guess) if asks else ())

    def judged(self, build: Build, subject: Subject, photos: Sequence[ReplicaPhoto], members: Members) -> Judged:
        """What photographs of one stage say together; `members` are landmarks by assembly.

        Raises
        ------
        RefusedError
            A photograph has too few clicks, or no camera explains them.
        """
        shots = [shot_of(build, photo, subject.places) for photo in photos]
        marks = tuple(m for m in build.all(ReplicaMark) if m.photo_id in {photo.id for photo in photos})
        lenses = tuple((photo.id, photo.width_px, photo.height_px, photo.focal_widths) for photo in photos)
        inputs = (subject.reel, lenses, marks, tuple(members.items()))
        return self._judged.get(inputs, lambda: judged(subject.places, shots, members))

    def found(self, build: Build, subject: Subject, photo: ReplicaPhoto, progress: Progress) -> LaidPose:
        """Where a photograph was taken from, without a click.

        Raises
        ------
        RefusedError
            It answers no solved still, there are no lines to go by, or the lines do not fit surely enough.
        StoppedError
            `progress` returned False.
        """
        camera = _still_camera(subject, photo)
        if camera is None:
            raise RefusedError("Say first which still it was taken like; that still must be tied in.")
        lines = self._lines_for(build, subject, photo)
        if len(lines.places) == 0 or not subject.faces.skin.faces:
            raise RefusedError("The model has no faces yet to go by. Click four landmarks far apart instead.")
        size = (photo.width_px, photo.height_px)
        edges = self._edges_of(photo.blob)
        best = searched(lines, edges, size, camera, subject.faces.skin, lens_of(photo), progress)
        if not is_sure(best):
            held = (
                "The lines that fit hold it too loosely"
                if best.score >= SURE
                else f"Only {best.score:.0%} of the lines fit"
            )
            raise RefusedError(f"{held}: not sure enough. Click four landmarks far apart.")
        return pose_of(best.camera)

    def _laid_anew(self, build: Build, subject: Subject, photo: ReplicaPhoto) -> Laid:
        shot = shot_of(build, photo, subject.places)
        try:
            pose = resected(shot.clicks(subject.places), shot.size_px, shot.lens)
        except RefusedError as refusal:
            if photo.laid is None:
                return Laid(photo.id, problem=str(refusal), clicks=len(shot.rows))
            camera = camera_of(photo.laid, (photo.width_px, photo.height_px))
            return self._told(build, subject, photo, shot, camera, "lines")
        if shows_other_side(subject.places, shot, pose, subject.twins):
            words = "These clicks fit the other side's landmarks: this photograph shows the other side."
            return Laid(photo.id, pose.camera, "clicks", words, len(shot.rows), other_side=True)
        poor = median_sigmas(pose, shot)
        if poor > UNFIT_SIGMAS:
            words = f"These clicks fit no view of it ({poor:.0f} times their error off). Is each on its landmark?"
            return Laid(photo.id, problem=words, clicks=len(shot.rows))
        if len(shot.rows) >= ENOUGH_CLICKS:
            return self._told(build, subject, photo, shot, pose.camera, "clicks")
        lines, skin = self._lines_for(build, subject, photo), subject.faces.skin
        clicks = shot.clicks(subject.places)
        held = fitted(lines, self._edges_of(photo.blob), pose.camera, skin, shot.lens, clicks) if skin.faces else None
        camera = held.camera if held is not None and held.score > 0 else pose.camera
        return self._told(
            build, subject, photo, shot, camera, "clicks" if camera is pose.camera else "clicks and lines"
        )

    def _told(self, build: Build, subject: Subject, photo: ReplicaPhoto, shot: Shot, camera: Camera, how: str) -> Laid:
        places, skin = subject.places, subject.faces.skin
        lines = self._lines_for(build, subject, photo)
        found: Fitted | None = scored(lines, self._edges_of(photo.blob), camera, skin) if skin.faces else None
        expected = camera.project(places.points)
        miss = np.linalg.norm(expected[shot.rows] - shot.stored, axis=1)
        depth = float(np.median(places.points @ camera.rotation[2] + camera.translation[2]))
        return Laid(
            photo.id, camera, how, "", len(shot.rows),
            off_px=float(np.median(miss)) if len(miss) else 0.0,
            click_px=float(np.median(shot.sigma)) if len(miss) else 0.0,
            score=None if found is None or found.seen == 0 else found.score,
            px_per_mm=camera.focal_px / depth,
            ghosts=_ghosts(subject, camera, expected, shot),
            lines=lines,
        )  # fmt: skip

    def _edges_of(self, name: str) -> Edges:
        def compute() -> Edges:
            pixels = self._gallery.picture(name).display()
            return edges_of(np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), np.uint8))

        return self._edges.get(name, compute)

    def _lines_for(self, build: Build, subject: Subject, photo: ReplicaPhoto) -> Lines:
        """The model's lines without those that the still has no edge at."""
        still, camera = build.get(Still, photo.still_id), _still_camera(subject, photo)
        if still is None or camera is None or not subject.faces.skin.faces:
            return subject.lines
        name, skin = picture_name(still), subject.faces.skin
        inputs = (subject.reel, subject.faces, name, len(subject.lines.places))
        return self._lines.get(inputs, lambda: confirmed(subject.lines, self._edges_of(name), camera, skin))


def pose_of(camera: Camera) -> LaidPose:
    """A camera as a file keeps it."""
    turn = cv2.Rodrigues(camera.rotation)[0].ravel()
    (a, b, c), (x, y, z) = (tuple(float(v) for v in part) for part in (turn, camera.translation))
    return LaidPose((a, b, c), (x, y, z), camera.focal_px / camera.size_px[0], camera.bend)


def camera_of(pose: LaidPose, size_px: tuple[int, int]) -> Camera:
    """The camera that a file has kept."""
    rotation, focal = rotation_of(np.array(pose.turn)), pose.focal_widths * size_px[0]
    return Camera(rotation, np.array(pose.shift), focal, pose.bend, (0.0, 0.0), size_px, 1.0)


def _still_camera(subject: Subject, photo: ReplicaPhoto) -> Camera | None:
    solution = subject.reel.solution
    if solution is None or photo.still_id not in solution.layout.views:
        return None
    return solution.camera(photo.still_id)


def _ghosts(subject: Subject, camera: Camera, expected: Array, shot: Shot) -> dict[str, tuple[float, float]]:
    """Where landmarks in sight must be that are not clicked yet."""
    width, height = camera.size_px
    behind = subject.faces.skin.hidden(camera, subject.places.points)
    shown = np.all((expected >= 0) & (expected <= (width, height)), axis=1) & np.logical_not(behind)
    shown[shot.rows] = False
    return {subject.places.keys[i]: (float(expected[i, 0]), float(expected[i, 1])) for i in np.flatnonzero(shown)}


def _next(build: Build, subject: Subject, photo: ReplicaPhoto, camera: Camera | None) -> tuple[str, ...]:
    """Landmarks to click next: those that tell most, of those that the still shows and that are built."""
    places, shot = subject.places, shot_of(build, photo, subject.places)
    if camera is None:
        return tuple(k for i, k in enumerate(places.keys) if i not in set(shot.rows.tolist()))[:PROPOSED]
    shown = _in_sight(build, subject, photo, camera)
    groups = (np.array([key in ids for key in places.keys], np.bool_) & shown for ids in groups_by_name(build).values())
    datum = max(groups, key=lambda among: _room(places.points[among]))
    first: tuple[int, ...] = ()
    lacking = DATUM_CLICKS - len(shot.rows)
    # What is small may be out of true itself: the roomiest assembly says first where the photograph was taken.
    if lacking > 0:
        first = _in_order(places, camera, shot, datum, tuple(shot.rows), lacking)
    rest = _in_order(places, camera, shot, shown, (*shot.rows, *first), PROPOSED)
    return tuple(places.keys[row] for row in (*first, *rest))


def _room(points: Array) -> float:
    """How much room landmarks (n, 3) take up in space: nothing where they lie flat, however many they are.

    Landmarks in one plane fix a camera badly for all that lies outside it.
    """
    if len(points) < LEAST_CLICKS:
        return 0.0
    return float(np.prod(np.linalg.svd(points - points.mean(axis=0), compute_uv=False) / math.sqrt(len(points))))


def _in_order(
    places: Places, camera: Camera, shot: Shot, among: Flags, done: tuple[int, ...], count: int
) -> tuple[int, ...]:
    """Rows of the landmarks that tell most, beside those done."""
    rows = np.union1d(np.flatnonzero(among), np.array(done, np.intp)).astype(np.intp)
    if not len(rows):
        return ()
    known = tuple(int(n) for n in np.flatnonzero(np.isin(rows, done)))
    return tuple(int(rows[n]) for n in proposed(camera, places.points[rows], known, count, shot.lens))


def _in_sight(build: Build, subject: Subject, photo: ReplicaPhoto, camera: Camera) -> Flags:
    """Which landmarks a camera sees and the replica has; without faces, which its still has marks of."""
    places = subject.places
    gone = {*photo.not_built, *photo.missing}
    side = {k: "port" if p[1] > 0 else "starboard" for k, p in zip(places.keys, places.points, strict=True)}
    there = {m.id for m in build.all(Landmark) if not {assembly_of(m), f"{assembly_of(m)}, {side.get(m.id)}"} & gone}
    if not subject.faces.skin.faces:
        there &= {m.landmark_id for m in build.all(LandmarkMark) if m.still_id == photo.still_id}
    stored = camera.project(places.points)
    shown = np.all((stored > 0) & (stored < np.array(camera.size_px)), axis=1)
    shown &= np.logical_not(subject.faces.skin.hidden(camera, places.points))
    return np.asarray(shown & np.array([key in there for key in places.keys], np.bool_))


def _traced_runs(build: Build, reel: ReelAnswer, face: SkinFace) -> list[Array]:
    """The curves that a face was traced by, and their mirror images where it has them."""
    found: list[Array] = []
    for outline in (build.get(Outline, i) for i in face.outline_ids):
        try:
            runs = profile_of(build, reel, outline).runs if outline is not None else ()
        except RefusedError:
            # One that lies nowhere yet is no line to compare.
            continue
        found += runs
        found += [run * (1.0, -1.0, 1.0) for run in runs if face.twin or face.across]
    return found


def _polylines(build: Build, reel: ReelAnswer, places: Places) -> list[Array]:
    """Edges of faces, edges that join landmarks, and circles; each with its twin."""
    mirror = {m.id: m.mirror_id or m.id for m in build.all(Landmark)}
    pairs: dict[frozenset[str], None] = {}
    for face in build.all(SkinFace):
        ids = face.landmark_ids
        around = [*pairwise(ids), (ids[-1], ids[0])] if ids else []
        pairs |= {frozenset(p): None for p in around}
        if face.twin:
            pairs |= {frozenset((mirror.get(a, a), mirror.get(b, b))): None for a, b in around}
    for tie in build.all(Tie):
        pairs |= {frozenset((tie.a_id, tie.b_id)): None}
        pairs |= {frozenset((mirror.get(tie.a_id, ""), mirror.get(tie.b_id, ""))): None}
    traced = [run for face in build.all(SkinFace) for run in _traced_runs(build, reel, face)]
    known = [sorted(pair) for pair in pairs if len(pair) == 2 and all(i in places.index for i in pair)]
    found = [places.points[[places.index[a], places.index[b]]] for a, b in known]
    found += traced
    solution = reel.solution
    assert solution is not None
    seen = {(r.circle, r.mirrored) for r in solution.scene.rims}
    for circle in build.all(RoundShape):
        if circle.id not in solution.layout.circles:
            continue
        values = solution.unknowns.circles[solution.layout.circles[circle.id]]
        rim = disc("", Rim(values[:3], values[3:6], math.exp(values[6])), values[:3] + values[3:6]).corners
        closed = np.vstack([rim, rim[:1]])
        found += [closed * (1.0, -1.0 if mirrored else 1.0, 1.0) for mirrored in (False, True)
                  if (circle.id, mirrored) in seen]  # fmt: skip
    return found
