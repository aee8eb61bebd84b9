"""Repairs of faults that the solving found: each is offered, and does one thing."""

from __future__ import annotations

from dataclasses import dataclass

from msgspec.structs import replace

from chalkreel.core.measure.faults.fault import Fault
from chalkreel.document.changes import Edits
from chalkreel.document.entities import KnownLength, Landmark, LandmarkMark, Still
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build
from chalkreel.edits.flopping import flop


@dataclass(frozen=True)
class Repair:
    """What to do, in words, and the edits that do it."""

    words: str
    edits: Edits


def repairs(build: Build, fault: Fault) -> tuple[Repair, ...]:
    """What may be done about a fault, the likeliest first."""
    if fault.kind in ("ruler", "rulers"):
        return tuple(_without_ruler(build, ruler, alone=len(fault.rulers) == 1) for ruler in fault.rulers)
    if fault.kind == "two places":
        return (Repair("Make it two landmarks", _two_landmarks(build, fault)),)
    still = build.get(Still, fault.view)
    return _on_still(build, fault, still) if still is not None else ()


def _on_still(build: Build, fault: Fault, still: Still) -> tuple[Repair, ...]:
    marks = [m for m in build.all(LandmarkMark) if m.still_id == still.id and m.landmark_id in fault.landmarks]
    gone = Repair("Take this mark away" if len(marks) == 1 else "Take these marks away", {m.id: None for m in marks})
    turned = Repair("The print is flopped: turn it", flop(build, still))
    exchanged = _exchanged(build, marks)
    offered = {
        "mark": (gone,),
        "version": (gone,),
        "swap": (Repair("Swap the two", exchanged),),
        "swapped view": (Repair("Exchange port and starboard on it", exchanged), *((turned,) * fault.or_flopped)),
        "flopped": (turned,),
        "aspect": (Repair("Use that pixel shape", {still.id: replace(still, pixel_aspect=fault.aspect)}),),
        "crop": (Repair("It is cropped", {still.id: replace(still, cropped=True)}),),
        "zoom": (Repair("Give each its own lens", _own_lenses(build, (still.id, *fault.elsewhere))),),
    }
    return offered[fault.kind]


def _without_ruler(build: Build, ruler_id: str, *, alone: bool) -> Repair:
    ruler = build.get(KnownLength, ruler_id)
    words = "Leave this ruler out" if alone or ruler is None else f"Leave “{ruler.name}” out"
    return Repair(words, {ruler_id: None})


def _exchanged(build: Build, marks: list[LandmarkMark]) -> Edits:
    edits: Edits = {}
    for mark in marks:
        landmark = build.get(Landmark, mark.landmark_id)
        if landmark is not None and landmark.mirror_id:
            edits[mark.id] = replace(mark, landmark_id=landmark.mirror_id)
    return edits


def _own_lenses(build: Build, still_ids: tuple[str, ...]) -> Edits:
    return {i: replace(s, lens="") for i in still_ids if (s := build.get(Still, i)) is not None}


def _two_landmarks(build: Build, fault: Fault) -> Edits:
    """The marks that lie elsewhere become those of a landmark of their own."""
    first = build.get(Landmark, fault.landmarks[0])
    if first is None:
        return {}
    names = {m.name for m in build.all(Landmark)}
    name = next(n for k in range(2, len(names) + 3) if (n := f"{first.name} {k}") not in names)
    second = Landmark(id=new_id(), name=name)
    moved = [m for m in build.all(LandmarkMark) if m.landmark_id == first.id and m.still_id in fault.elsewhere]
    return {second.id: second, **{m.id: replace(m, landmark_id=second.id) for m in moved}}
