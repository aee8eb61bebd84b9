"""The one next thing to do in a stage of this build; nothing where it is done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final, Literal

from chalkreel.answers.stages import StageName
from chalkreel.core.measure.sides import SEVERAL
from chalkreel.document.bench_entities import LogEntry, ReplicaPhoto
from chalkreel.document.entities import (
    Dimension,
    Feature,
    KitPart,
    KnownLength,
    Landmark,
    LandmarkMark,
    RulerMark,
    SkinFace,
    Still,
)
from chalkreel.document.finish_entities import Evening
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import ColourPatch, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers

Doing = Literal[
    "", "add stills", "describe", "add part", "list parts", "landmark", "ruler", "size", "face", "repair",
    "add feature", "add lamp", "patch", "neutral", "shelf", "add zone", "add evening", "put right", "write",
    "photograph",
]  # fmt: skip
# Landmarks that a still needs to be tied to the others.
FEWEST_MARKS: Final = 4
# With fewer placed landmarks there is hardly a side to draw.
FEWEST_FOR_SKIN: Final = 8


@dataclass(frozen=True)
class NextStep:
    """What to do, in words and on the button that begins it, and what it concerns. Doing "" has no button."""

    words: str
    doing: Doing = ""
    button: str = ""
    still_id: str = ""
    entity_id: str = ""


def next_step(build: Build, answers: Answers | None, stage: StageName) -> NextStep | None:
    """The next step of a stage, as far as build and answers tell."""
    return _STAGES[stage](build, answers)


def _gather(build: Build, _: Answers | None) -> NextStep | None:
    stills = build.all(Still)
    if not stills:
        return NextStep("Add the stills you have: drop them on the window, paste them, or choose files.", "add stills",
                        "Add stills…")  # fmt: skip
    # Whoever has said anything of a still is not asked again.
    vague = next((s for s in stills if s.still_kind == "other" and s.side == SEVERAL), None)
    if vague is not None:
        words = f"Say what still {vague.number} is: its side, its version, and what kind of picture."
        return NextStep(words, "describe", f"Describe still {vague.number}", vague.id)
    if "kit" in build.info.sources and not build.all(KitPart):
        return NextStep("List what is on the runners: a row for each part.", "add part", "List the first part")
    return None


def _measure(build: Build, answers: Answers | None) -> NextStep | None:
    stills = [s for s in build.all(Still) if s.squared is None]
    if not stills:
        return NextStep("There is nothing to measure on yet.", "add stills", "Add stills…")
    marks = build.all(LandmarkMark)
    counts = {s.id: sum(m.still_id == s.id for m in marks) for s in stills}
    first = max(stills, key=lambda s: (counts[s.id], -s.number))
    if counts[first.id] < FEWEST_MARKS:
        words = f"Mark corners that other stills show too, on still {first.number}: each with a name of its own."
        return NextStep(words, "landmark", "Mark a landmark", first.id)
    others = [s for s in stills if s is not first and s.version_id == first.version_id]
    second = max(others, key=lambda s: counts[s.id], default=None)
    if second is not None and counts[second.id] < FEWEST_MARKS:
        here = {m.landmark_id for m in marks if m.still_id == second.id}
        missing = next((m for m in build.all(Landmark) if m.id not in here), None)
        name = f"“{missing.name}”" if missing else "the same landmarks"
        return NextStep(f"Mark {name} on still {second.number} too: that ties the stills together.", "landmark",
                        "Mark it there", second.id, missing.id if missing else "")  # fmt: skip
    if not build.all(KnownLength) and not build.all(RulerMark):
        return NextStep("Make one length that you know a ruler: it gives all sizes their scale.", "ruler",
                        "Mark a known length", first.id)  # fmt: skip
    if not build.all(Dimension):
        return NextStep("Click the two ends of the first size you want.", "size", "Take a size", first.id)
    return _fault(answers) or _skin(build, answers, first.id)


def _fault(answers: Answers | None) -> NextStep | None:
    if answers is None or answers.sizes is None or not answers.sizes.reel.faults:
        return None
    count = len(answers.sizes.reel.faults)
    return NextStep("One mark or belief does not fit the others: look at it first." if count == 1 else
                    f"{count} marks or beliefs do not fit the others: look at the first.")  # fmt: skip


def _skin(build: Build, answers: Answers | None, still_id: str) -> NextStep | None:
    solution = answers.sizes.reel.solution if answers is not None and answers.sizes is not None else None
    if solution is None or build.all(SkinFace) or len(solution.layout.blocks) < FEWEST_FOR_SKIN:
        return None
    words = "Join landmarks to faces: each side is then drawn without perspective, and what lies behind is hidden."
    return NextStep(words, "face", "Make a face", still_id)


def _convert(build: Build, _: Answers | None) -> NextStep | None:
    if "kit" in build.info.sources and not build.all(KitPart):
        return NextStep("Type what the sheet lists, then what is wrong by one letter.", "list parts", "List the parts")
    if build.all(Feature):
        return None
    if "kit" in build.info.sources:
        return NextStep("List what differs between the kit and the version you build.", "add feature", "Add a feature")
    return NextStep("List what is to be made.", "add feature", "Add a feature")


def _light(build: Build, _: Answers | None) -> NextStep | None:
    if build.info.dark:
        return None
    if not build.all(Lamp):
        return NextStep("List the lamps, or say below that this model stays dark.", "add lamp", "Add a lamp")
    return None


def _colour(build: Build, _: Answers | None) -> NextStep | None:
    if not build.all(Surface):
        return NextStep("Name a surface and drag over an even part of it on a still.", "patch", "Take a patch")
    patches = build.all(ColourPatch)
    if not any(not p.surface_id and p.lamp is None for p in patches):
        return NextStep("Mark something on a still that is known to be grey: it takes the still's light out.",
                        "neutral", "Mark a neutral")  # fmt: skip
    if not build.all(ShelfPaint):
        return NextStep("Put your paints on the shelf, or the practice range.", "shelf", "To the shelf")
    return None


def _finish(build: Build, answers: Answers | None) -> NextStep | None:
    if not build.all(Zone):
        return NextStep("List the areas that get a finish of their own.", "add zone", "Add a zone")
    if not build.all(Evening):
        return NextStep("Say when you are at the bench, and the plan gets its days.", "add evening", "Add an evening")
    found = answers.sequence if answers is not None else None
    if found is not None and any(v.cure == "order" for v in found.broken):
        return NextStep("The order breaks a rule that ruins models.", "put right", "Put it right")
    return None


def _bench(build: Build, answers: Answers | None) -> NextStep | None:
    reel = answers.sizes.reel if answers is not None and answers.sizes is not None else None
    if reel is not None and reel.solution is not None and not build.all(ReplicaPhoto):
        return NextStep("Photograph the replica like a still: what is out of true is found before it is painted.",
                        "photograph", "Add a photograph")  # fmt: skip
    if build.all(LogEntry):
        return None
    return NextStep("Write down what was done: mixes, coats, minutes. Lessons come back when they matter.", "write",
                    "Write the first entry")  # fmt: skip


_STAGES: Final[dict[StageName, Callable[[Build, Answers | None], NextStep | None]]] = {
    "Gather": _gather, "Measure": _measure, "Convert": _convert, "Light": _light, "Colour": _colour,
    "Finish": _finish, "Bench": _bench,
}  # fmt: skip
