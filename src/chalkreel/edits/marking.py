"""Edits for marks that belong to the whole reel: landmarks, edges, rims and known lengths."""

from __future__ import annotations

import re
from typing import Final

import msgspec

from chalkreel.core.draft.node import NodeKind
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.axis import Axis
from chalkreel.core.measure.bend import bend_from_lines
from chalkreel.core.measure.marks import Mark
from chalkreel.document.changes import Edits
from chalkreel.document.entities import (
    Dimension,
    EdgeMark,
    FlatSet,
    Landmark,
    LandmarkMark,
    Outline,
    RepeatedParts,
    RimMark,
    RoundShape,
    SkinFace,
    Spot,
    Still,
    StraightEdge,
    Tie,
)
from chalkreel.document.entity import new_id
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made

# Words for the two sides. Single letters are none: "bolt L" may stand between K and M.
SIDES: Final = {
    "port": "starboard", "starboard": "port", "left": "right", "right": "left", "prt": "stbd", "stbd": "prt",
    "lh": "rh", "rh": "lh",
}  # fmt: skip
LEAST_RIM: Final = 5
LEAST_FLAT: Final = 3


def landmark_named(build: Build, name: str) -> Landmark | None:
    """The landmark of a name, whatever its capitals."""
    wanted = name.strip().casefold()
    return next((m for m in build.all(Landmark) if m.name.casefold() == wanted), None)


def mark_landmark(build: Build, still: Still, name: str, mark: Mark, unconfirmed: bool = False) -> Made:
    """Mark a landmark on a still: moved if it is there already, made if its name is new.

    A new one whose name has "port" or "starboard" in it pairs up with the one that has the other word in its place.
    """
    edits: Edits = {}
    landmark = landmark_named(build, name)
    if landmark is None:
        landmark = Landmark(id=new_id(), name=name.strip() or f"Landmark {len(build.all(Landmark)) + 1}")
        twin = landmark_named(build, _other_side(landmark.name)) if _other_side(landmark.name) else None
        if twin is not None and not twin.mirror_id:
            landmark = msgspec.structs.replace(landmark, mirror_id=twin.id)
            edits[twin.id] = msgspec.structs.replace(twin, mirror_id=landmark.id)
        edits[landmark.id] = landmark
    present = mark_on(build, still.id, landmark.id)
    made = LandmarkMark(
        id=present.id if present else new_id(), still_id=still.id, landmark_id=landmark.id, mark=mark,
        unconfirmed=unconfirmed,
    )  # fmt: skip
    return Made({**edits, made.id: made}, made.id)


def mark_on(build: Build, still_id: str, landmark_id: str) -> LandmarkMark | None:
    """The mark of a landmark on a still."""
    return next((m for m in build.all(LandmarkMark) if m.still_id == still_id and m.landmark_id == landmark_id), None)


def mirrored_with(build: Build, landmark: Landmark, twin_id: str) -> Edits:
    """Make two landmarks each other's mirror image; its own id puts one on the centre line, empty parts it."""
    edits: Edits = {}
    for other in build.all(Landmark):
        # Whoever was paired with either of the two is on its own again.
        if other.id not in (landmark.id, twin_id) and other.mirror_id in (landmark.id, twin_id) and other.mirror_id:
            edits[other.id] = msgspec.structs.replace(other, mirror_id="")
    former = build.get(Landmark, landmark.mirror_id)
    if former is not None and former.id not in (landmark.id, twin_id):
        edits[former.id] = msgspec.structs.replace(former, mirror_id="")
    edits[landmark.id] = msgspec.structs.replace(landmark, mirror_id=twin_id)
    twin = build.get(Landmark, twin_id)
    if twin is not None and twin.id != landmark.id:
        edits[twin.id] = msgspec.structs.replace(twin, mirror_id=landmark.id)
    return edits


def mark_edge(still: Still, ends: tuple[Mark, Mark], direction: str, landmark_ids: tuple[str, str]) -> Made:
    """A straight edge; between two landmarks it joins them, else it is seen on this still alone, along a direction.

    Raises
    ------
    RefusedError
        No direction is named.
    """
    a_id, b_id = landmark_ids
    if a_id and b_id and a_id != b_id:
        tie = Tie(id=new_id(), a_id=a_id, b_id=b_id, direction=direction.strip())
        return Made({tie.id: tie}, tie.id)
    if not direction.strip():
        raise RefusedError("Say which way the edge runs: along the length, the beam, the height, or a name of its own.")
    edge = EdgeMark(id=new_id(), still_id=still.id, a=ends[0], b=ends[1], direction=direction.strip())
    return Made({edge.id: edge}, edge.id)


def mark_rim(build: Build, still: Still, name: str, marks: tuple[Mark, ...], mirrored: bool) -> Made:
    """Points round a circle's rim on a still, in place of any clicked there before.

    Raises
    ------
    RefusedError
        Fewer than five points.
    """
    if len(marks) < LEAST_RIM:
        raise RefusedError("Click at least five points round the rim.")
    edits: Edits = {}
    wanted = name.strip().casefold()
    circle = next((c for c in build.all(RoundShape) if c.name.casefold() == wanted), None)
    if circle is None:
        circle = RoundShape(id=new_id(), name=name.strip() or f"Circle {len(build.all(RoundShape)) + 1}")
        edits[circle.id] = circle
    for rim in build.all(RimMark):
        if (rim.still_id, rim.circle_id, rim.mirrored) == (still.id, circle.id, mirrored):
            edits[rim.id] = None
    made = RimMark(id=new_id(), still_id=still.id, circle_id=circle.id, marks=marks, mirrored=mirrored)
    return Made({**edits, made.id: made}, made.id)


def mark_flat(build: Build, name: str, landmark_ids: tuple[str, ...], across: Axis | None) -> Made:
    """Landmarks that lie in one plane.

    Raises
    ------
    RefusedError
        Fewer than three landmarks.
    """
    chosen = tuple(dict.fromkeys(i for i in landmark_ids if i))
    if len(chosen) < LEAST_FLAT:
        raise RefusedError("A flat needs three landmarks or more: click on their marks, then press Enter.")
    made = FlatSet(
        id=new_id(), name=name.strip() or f"Flat {len(build.all(FlatSet)) + 1}", landmark_ids=chosen, across=across
    )
    return Made({made.id: made}, made.id)


def mark_face(build: Build, name: str, landmark_ids: tuple[str, ...], template: bool = False) -> Made:
    """A face between landmarks, in the order in which they were clicked; one that is there becomes a template.

    Raises
    ------
    RefusedError
        Fewer than three landmarks, a click that met none, or one is there already and no template is asked for.
    """
    if not all(landmark_ids):
        raise RefusedError("One of the corners met no landmark. Click on marks, or on ghosts of those not marked here.")
    chosen = tuple(dict.fromkeys(landmark_ids))
    if len(chosen) < LEAST_FLAT:
        raise RefusedError("A face needs three landmarks or more, in order round it; then press Enter.")
    present = _same_face(build, frozenset(chosen))
    if present is not None:
        if not template or present.template:
            more = "and has its template" if present.template else "Shift+Enter makes it a template"
            raise RefusedError(f"“{present.name}” is that face already: {more}.")
        return Made({present.id: msgspec.structs.replace(present, template=True)}, present.id)
    name = name.strip() or f"Face {len(build.all(SkinFace)) + 1}"
    made = SkinFace(id=new_id(), name=name, landmark_ids=chosen, template=template)
    return Made({made.id: made}, made.id)


def _same_face(build: Build, corners: frozenset[str]) -> SkinFace | None:
    """The face that has just these corners, itself or on the other side."""
    mirror = {m.id: m.mirror_id for m in build.all(Landmark)}
    for face in build.all(SkinFace):
        own = frozenset(face.landmark_ids)
        if own and corners in (own, frozenset(mirror.get(i, "") for i in own) if face.twin else own):
            return face
    return None


def round_face(build: Build, circle: RoundShape, other: RoundShape | None) -> Made:
    """The disc within a circle's rim, or the wall between two.

    Raises
    ------
    RefusedError
        There is one already.
    """
    ids = (circle.id,) if other is None else (circle.id, other.id)
    present = next((f for f in build.all(SkinFace) if set(f.circle_ids) == set(ids)), None)
    if present is not None:
        raise RefusedError(f"“{present.name}” is that face already.")
    name = f"{circle.name} disc" if other is None else f"{circle.name} to {other.name}"
    made = SkinFace(id=new_id(), name=name, circle_ids=ids)
    return Made({made.id: made}, made.id)


def traced_face(build: Build, outline: Outline, other: Outline | None = None, across: bool = False) -> Made:
    """What lies within a traced outline, or the wall from it to another, or `across` to its mirror image.

    Raises
    ------
    RefusedError
        There is one already.
    """
    ids = (outline.id,) if other is None else (outline.id, other.id)
    same = (f for f in build.all(SkinFace) if set(f.outline_ids) == set(ids) and f.across == across)
    present = next(same, None)
    if present is not None:
        raise RefusedError(f"“{present.name}” is that face already.")
    name = f"{outline.name} to {other.name}" if other is not None else outline.name
    made = SkinFace(id=new_id(), name=f"{name}, across" if across else name, outline_ids=ids, across=across)
    return Made({made.id: made}, made.id)


def trace(build: Build, still: Still, name: str, marks: tuple[Mark, ...], bend: NodeKind) -> Made:
    """A closed outline traced on a squared-up still.

    Raises
    ------
    RefusedError
        The still is not squared up, or fewer than three points.
    """
    if still.squared is None:
        raise RefusedError("Square a plane up first: outlines are true to size only on a squared-up still.")
    if len(marks) < LEAST_FLAT:
        raise RefusedError("An outline needs three points or more.")
    made = Outline(
        id=new_id(), still_id=still.id, name=name.strip() or f"Template {len(build.all(Outline)) + 1}", points=marks,
        bends=tuple(bend for _ in marks),
    )  # fmt: skip
    return Made({made.id: made}, made.id)


def mark_straight(still: Still, marks: tuple[Mark, ...]) -> Made:
    """Points along an edge that is straight in truth.

    Raises
    ------
    RefusedError
        The lens cannot be told from them.
    """
    bend_from_lines((marks,), (still.width_px, still.height_px), still.pixel_aspect)
    made = StraightEdge(id=new_id(), still_id=still.id, marks=marks)
    return Made({made.id: made}, made.id)


def mark_repeats(build: Build, still: Still, circle: str, marks: tuple[Mark, ...], mirrored: bool) -> Made:
    """Like parts round a rim; on a still that is not squared up they lie in the plane of a circle.

    Raises
    ------
    RefusedError
        Fewer than three, or no circle to lie on.
    """
    if len(marks) < LEAST_FLAT:
        raise RefusedError("Click three parts or more round the rim.")
    wanted = circle.strip().casefold()
    found = next((c for c in build.all(RoundShape) if c.name.casefold() == wanted), None)
    if still.squared is None and found is None:
        raise RefusedError("Choose the circle on whose plane the parts lie, or click them on a squared-up still.")
    made = RepeatedParts(
        id=new_id(), still_id=still.id, name=f"round the {found.name}" if found else "parts round a rim", marks=marks,
        circle_id=found.id if found and still.squared is None else "", mirrored=mirrored,
    )  # fmt: skip
    return Made({made.id: made}, made.id)


def mark_spot(build: Build, still: Still, name: str, ends: tuple[Mark, Mark]) -> Made:
    """A chip, hit, streak or decal from one end to the other; like ones are numbered by themselves.

    One that is called like a lamp of Light is the place of that lamp.

    Raises
    ------
    RefusedError
        Every lamp of that name has its place already.
    """
    kind, taken = name.strip() or "mark", {spot.name for spot in build.all(Spot)}
    free = (n for k in range(1, len(taken) + 2) if (n := kind if k == 1 else f"{kind} {k}") not in taken)
    made = Spot(id=new_id(), still_id=still.id, name=next(free), a=ends[0], b=ends[1])
    lamp = next((a for a in build.all(Lamp) if a.name.casefold() == kind.casefold()), None)
    if lamp is None:
        return Made({made.id: made}, made.id)
    if len(lamp.places) >= lamp.count:
        raise RefusedError(f"Every “{lamp.name}” has its place already. Raise their number in Light, or remove a mark.")
    placed = msgspec.structs.replace(lamp, places=(*lamp.places, made.id))
    return Made({made.id: made, lamp.id: placed}, made.id)


def turned_bend(outline: Outline, index: int) -> Outline:
    """The outline with one point's bend changed: corner, arc, smooth, and round again."""
    following: dict[NodeKind, NodeKind] = {"corner": "arc", "arc": "smooth", "smooth": "corner"}
    bends = tuple(following[b] if i == index else b for i, b in enumerate(outline.bends))
    return msgspec.structs.replace(outline, bends=bends)


def span(build: Build, a_id: str, b_id: str, corner_id: str = "") -> Made:
    """A dimension between two landmarks, or the angle at a corner."""
    names = [m.name if (m := build.get(Landmark, i)) else "" for i in (a_id, b_id)]
    if corner_id:
        corner = build.get(Landmark, corner_id)
        name = f"angle at {corner.name if corner else ''}"
    else:
        name = f"{names[0]} – {names[1]}"
    dimension = Dimension(id=new_id(), name=name, a_id=a_id, b_id=b_id, corner_id=corner_id)
    return Made({dimension.id: dimension}, dimension.id)


def _other_side(name: str) -> str:
    """The name with port and starboard exchanged, or nothing where neither is in it."""
    sides = "|".join(sorted(SIDES, key=len, reverse=True))
    swapped = re.sub(rf"\b({sides})\b", lambda m: _as_written(SIDES[m[0].casefold()], m[0]), name, count=1, flags=re.I)
    return swapped if swapped != name else ""


def _as_written(word: str, like: str) -> str:
    """A word in the capitals of another."""
    return word.upper() if like.isupper() else word.capitalize() if like[:1].isupper() else word
