"""What one gesture on a photograph of the replica changes, and what is decided about a finding."""

from __future__ import annotations

from datetime import datetime

import msgspec

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.marks import Mark
from chalkreel.document.bench_entities import Decision, FindingDecision, ReplicaMark, ReplicaPhoto
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Feature, FeatureInVersion, Landmark
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made

IN_TRUE = "in true"


def new_photo(
    build: Build, title: str, blob: str, size_px: tuple[int, int], taken_at: datetime, focal_widths: float | None,
    still_id: str,
) -> ReplicaPhoto:  # fmt: skip
    """A photograph put on the bench; its stage is that of the one before, until told otherwise."""
    photos = build.all(ReplicaPhoto)
    last = max(photos, key=lambda p: (p.taken_at, p.number), default=None)
    return ReplicaPhoto(
        id=new_id(), title=title or "Photograph", blob=blob, width_px=size_px[0], height_px=size_px[1],
        number=1 + max((p.number for p in photos), default=0), taken_at=taken_at.isoformat(timespec="minutes"),
        stage=last.stage if last is not None else "", still_id=still_id, focal_widths=focal_widths,
        not_built=last.not_built if last is not None else (),
    )  # fmt: skip


def clicked(build: Build, photo: ReplicaPhoto, landmark_id: str, mark: Mark) -> Made:
    """A landmark clicked on a photograph, or moved if it was there."""
    present = mark_on_photo(build, photo.id, landmark_id)
    made = ReplicaMark(
        id=present.id if present is not None else new_id(), photo_id=photo.id, landmark_id=landmark_id, mark=mark
    )
    return Made({made.id: made}, made.id)


def mark_on_photo(build: Build, photo_id: str, landmark_id: str) -> ReplicaMark | None:
    """The mark of a landmark on a photograph."""
    return next((m for m in build.all(ReplicaMark) if m.photo_id == photo_id and m.landmark_id == landmark_id), None)


def exchanged_sides(build: Build, photo: ReplicaPhoto) -> Edits:
    """Every landmark clicked on a photograph becomes its twin on the other side."""
    twins = {m.id: m.mirror_id for m in build.all(Landmark) if m.mirror_id}
    return {
        mark.id: msgspec.structs.replace(mark, landmark_id=twins[mark.landmark_id])
        for mark in build.all(ReplicaMark)
        if mark.photo_id == photo.id and mark.landmark_id in twins
    }


def assembly_told(photo: ReplicaPhoto, assembly: str, state: str) -> ReplicaPhoto:
    """An assembly there, "not built" yet, or "missing" on a photograph."""
    not_built = tuple(name for name in photo.not_built if name != assembly)
    missing = tuple(name for name in photo.missing if name != assembly)
    if state == "not built":
        not_built = (*not_built, assembly)
    elif state == "missing":
        missing = (*missing, assembly)
    return msgspec.structs.replace(photo, not_built=not_built, missing=missing)


def accepted(build: Build, assembly: str, side: str, mm: float) -> Edits:
    """Nobody sees it: a finding that is accepted as it is."""
    return {**_former(build, assembly, side), **_one(_decision(build, assembly, side, mm, "accepted", ""))}


def taken_up_again(build: Build, assembly: str, side: str) -> Edits:
    """What was decided is decided no longer."""
    return _former(build, assembly, side)


def made_a_job(build: Build, assembly: str, side: str, what: str, mm: float, missing: bool) -> Made:
    """A feature whose difference between replica and version is the finding, so that Convert has the job.

    Raises
    ------
    RefusedError
        The kit's version and the one being built are not told apart.
    """
    info = build.info
    if not info.version_id or not info.kit_version_id or info.version_id == info.kit_version_id:
        raise RefusedError("Say in Convert which version the kit is and which you build: the job stands between them.")
    name = f"{assembly}, {side}" if side else assembly
    feature = Feature(id=new_id(), name=f"{name}: {what}", assembly=assembly)
    kit = FeatureInVersion(
        id=new_id(), feature_id=feature.id, version_id=info.kit_version_id, present=not missing,
        place="" if missing else what,
    )  # fmt: skip
    wanted = FeatureInVersion(
        id=new_id(), feature_id=feature.id, version_id=info.version_id, present=True, place="" if missing else IN_TRUE
    )
    decision = _decision(build, assembly, side, mm, "job", feature.id)
    edits: Edits = {**_former(build, assembly, side)}
    edits |= {entity.id: entity for entity in (feature, kit, wanted, decision)}
    return Made(edits, feature.id)


def redone(build: Build, assembly: str, side: str, mm: float, title: str) -> Edits:
    """That a step called so is done again to mend a finding."""
    decision = msgspec.structs.replace(_decision(build, assembly, side, mm, "step", ""), again=title)
    return {**_former(build, assembly, side), **_one(decision)}


def _former(build: Build, assembly: str, side: str) -> Edits:
    return {d.id: None for d in build.all(FindingDecision) if (d.assembly, d.side) == (assembly, side)}


def _one(decision: FindingDecision) -> Edits:
    return {decision.id: decision}


def _decision(
    build: Build, assembly: str, side: str, mm: float, decision: Decision, feature_id: str
) -> FindingDecision:
    present = next((d for d in build.all(FindingDecision) if (d.assembly, d.side) == (assembly, side)), None)
    return FindingDecision(
        id=present.id if present is not None else new_id(), assembly=assembly, side=side,
        decision=decision, mm=mm, feature_id=feature_id,
    )  # fmt: skip
