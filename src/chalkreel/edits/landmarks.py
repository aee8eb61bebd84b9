"""Landmarks renamed, merged and paired."""

from __future__ import annotations

from msgspec.structs import replace

from chalkreel.core.errors import RefusedError
from chalkreel.document.bench_entities import ReplicaMark
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Dimension, FlatSet, KnownLength, Landmark, LandmarkMark, SkinFace, Still, Tie
from chalkreel.document.snapshot import Build
from chalkreel.edits.marking import landmark_named, mirrored_with

CENTRE_WORDS = ("centre", "centre line", "itself", "middle")


def renamed(build: Build, landmark: Landmark, name: str) -> Edits:
    """A landmark under another name; under that of another landmark the two become one.

    Raises
    ------
    RefusedError
        No name, or two that cannot be one.
    """
    wanted = name.strip()
    if not wanted:
        raise RefusedError("A landmark needs a name.")
    other = landmark_named(build, wanted)
    if other is None or other.id == landmark.id:
        return {landmark.id: replace(landmark, name=wanted)}
    return merged(build, landmark, other)


def merged(build: Build, gone: Landmark, kept: Landmark) -> Edits:
    """All that hangs on one landmark moved to another, which keeps its name.

    Raises
    ------
    RefusedError
        Both are marked on one still, or they are each other's twin.
    """
    if gone.mirror_id == kept.id:
        raise RefusedError(f"“{gone.name}” and “{kept.name}” are each other’s twin: they cannot be one.")
    mine = {m.still_id for m in build.all(LandmarkMark) if m.landmark_id == gone.id}
    theirs = {m.still_id for m in build.all(LandmarkMark) if m.landmark_id == kept.id}
    both = [s.number for s in build.all(Still) if s.id in mine & theirs]
    if both:
        raise RefusedError(
            f"“{gone.name}” and “{kept.name}” are both marked on still {both[0]}: they cannot be one. "
            "Take one of the marks away first."
        )
    twin = gone.mirror_id if gone.mirror_id and gone.mirror_id != gone.id and not kept.mirror_id else ""
    edits: Edits = mirrored_with(build, replace(gone, mirror_id=""), "")
    if twin:
        edits |= mirrored_with(build, kept, twin)
    for mark in build.all(LandmarkMark):
        if mark.landmark_id == gone.id:
            edits[mark.id] = replace(mark, landmark_id=kept.id)
    photographed = {m.photo_id for m in build.all(ReplicaMark) if m.landmark_id == kept.id}
    for click in build.all(ReplicaMark):
        if click.landmark_id == gone.id:
            edits[click.id] = None if click.photo_id in photographed else replace(click, landmark_id=kept.id)
    spans: tuple[Tie | KnownLength | Dimension, ...] = (
        *build.all(Tie), *build.all(KnownLength), *build.all(Dimension)
    )  # fmt: skip
    for entity in spans:
        moved = {f: kept.id for f in ("a_id", "b_id", "corner_id") if getattr(entity, f, "") == gone.id}
        if moved:
            changed = replace(entity, **moved)
            edits[entity.id] = changed if changed.a_id != changed.b_id else None
    flats: tuple[FlatSet | SkinFace, ...] = (*build.all(FlatSet), *build.all(SkinFace))
    for flat in flats:
        if gone.id in flat.landmark_ids:
            ids = tuple(dict.fromkeys(kept.id if i == gone.id else i for i in flat.landmark_ids))
            edits[flat.id] = replace(flat, landmark_ids=ids) if len(ids) > 2 else None
    edits[gone.id] = None
    return edits


def joined(build: Build, landmark: Landmark, assembly: str) -> Edits:
    """A landmark and its twin move with an assembly on the replica; nothing leaves it to their names."""
    twin = build.get(Landmark, landmark.mirror_id)
    both = (landmark,) if twin is None else (landmark, twin)
    return {m.id: replace(m, assembly=assembly.strip()) for m in both}


def paired(build: Build, landmark: Landmark, words: str) -> Edits:
    """A landmark paired with the one named, put on the centre line ("centre"), or on its own (nothing).

    Raises
    ------
    RefusedError
        Nothing has that name.
    """
    wanted = words.strip()
    if not wanted:
        return mirrored_with(build, landmark, "")
    if wanted.casefold() in CENTRE_WORDS:
        return mirrored_with(build, landmark, landmark.id)
    twin = landmark_named(build, wanted)
    if twin is None:
        raise RefusedError(f"No landmark is called “{wanted}”. Name its twin, or write “centre” for the centre line.")
    return mirrored_with(build, landmark, twin.id)
