"""From what the kit is and what the chosen version was to the work between them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from chalkreel.core.convert.kinds import PartState, Verb, Way, When
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import LengthUnit, length_words, small_length
from chalkreel.core.measure.verdict import REWORK_SHARE

if TYPE_CHECKING:
    from chalkreel.core.measure.combine import Size


@dataclass(frozen=True)
class FeatureState:
    """A feature in one version: there or not (None: doubtful), its form, place and size at replica scale."""

    present: bool | None
    form: str = ""
    place: str = ""
    size: Size | None = None


@dataclass(frozen=True)
class Difference:
    """One feature as the kit has it and as the version being built had it, with what is known of the kit's part.

    `also` are jobs that somebody added by hand; material, hours and when are the user's own where they are told.
    """

    feature: str
    kit: FeatureState
    wanted: FeatureState
    moulded_on: bool = False
    kit_part: PartState = "present"
    fit_note: str = ""
    way: Way = ""
    also: tuple[Verb, ...] = ()
    material: str = ""
    hours: float | None = None
    when: When | None = None


@dataclass(frozen=True)
class Operation:
    """One job, with the reason for it; its size, where it has one, with half its 95 % interval, told in `unit`."""

    feature: str
    verb: Verb
    reason: str
    material: str
    size_mm: float | None
    hours: float
    when: When
    unit: LengthUnit = "mm"
    doubt_mm: float = 0.0

    @property
    def size_words(self) -> str:
        """The size it is made to, if it has one."""
        return "" if self.size_mm is None else length_words(self.size_mm, self.doubt_mm, self.unit)


@dataclass(frozen=True)
class Judged:
    """All jobs on one feature; `note` says why there is none where a difference was seen but lies within its ±."""

    operations: tuple[Operation, ...]
    note: str = ""


# A difference smaller than this is not seen on a model.
SEEN_MM: Final = 0.25
# Hours for something of USUAL_MM; larger work takes longer by the root of its size, within limits.
HOURS: Final[dict[Verb, float]] = {
    "remove": 0.5, "shorten": 0.75, "lengthen": 1.0, "move": 1.0, "reshape": 1.5, "replace": 1.5, "add": 2.0,
    "swap": 0.75, "tint": 0.5, "repair": 0.75, "straighten": 0.5, "pin": 0.5, "scribe": 0.75, "wire": 0.75,
    "print": 1.0, "mould": 2.0, "drill": 0.5, "check": 0.25,
}  # fmt: skip
USUAL_MM: Final = 40.0
LEAST_FACTOR, MOST_FACTOR = 0.6, 2.5
MATERIAL: Final[dict[Verb, str]] = {
    "remove": "saw, putty for the scar", "shorten": "file, thin sheet to close the end",
    "lengthen": "sheet or strip of the same section, putty", "move": "sheet for the old place, CA",
    "reshape": "putty and file", "replace": "sheet and strip", "add": "sheet and strip",
    "swap": "the spares box", "tint": "transparent colour", "repair": "cement, putty, wet-and-dry",
    "straighten": "warm water or warm air, a jig", "pin": "thin brass rod, CA",
    "scribe": "scriber, straight edge", "wire": "florist wire, CA", "print": "printed part, primer for its layers",
    "mould": "silicone or putty mould, resin", "drill": "pin vice", "check": "none: find a still that decides it",
}  # fmt: skip
# What is done to a part that is there but not right, and why.
_STATE_JOBS: Final[dict[PartState, tuple[Verb, str]]] = {
    "damaged": ("repair", "the kit's part is damaged"),
    "warped": ("straighten", "warped: warm, bend back, hold till cold"),
    "short": ("repair", "short-shot: build up what did not fill"),
    "sunk": ("repair", "sink marks: fill, let shrink, sand"),
    "brittle": ("repair", "brittle: test one that is not needed, seal first"),
}
_WAY_VERBS: Final[dict[Way, Verb]] = {
    "": "add", "swap": "swap", "print": "print", "mould": "mould", "wire": "wire", "order": "add",
}  # fmt: skip
# Words in a fit note that name a job.
_NOTE_JOBS: Final[tuple[tuple[str, Verb], ...]] = (
    ("shallow", "scribe"), ("scribe", "scribe"), ("step", "repair"), ("gap", "repair"), ("loose", "pin"),
    ("butt joint", "pin"),
)  # fmt: skip


def judged(difference: Difference, unit: LengthUnit = "mm") -> Judged:
    """The work on one feature, in words of a unit; none where the kit is already right."""
    reasons, note = _reasons(difference, unit)
    told = {verb for verb, _ in reasons}
    if difference.wanted.present is not False:
        reasons += [(verb, "added by hand") for verb in difference.also if verb not in told]
    size = difference.wanted.size
    operations = []
    for verb, reason in reasons:
        sized = size if verb not in ("remove", "check", "scribe", "pin", "drill") else None
        first = (verb, reason) == reasons[0]
        hours = difference.hours if difference.hours is not None and first else HOURS[verb] * _factor(size)
        operations.append(
            Operation(
                difference.feature, verb, reason, (difference.material if first else "") or _material(difference, verb),
                sized.mm if sized else None, hours, difference.when or "before primer", unit,
                sized.half_width_mm if sized else 0.0,
            )
        )  # fmt: skip
    return Judged(tuple(operations), "" if operations else note)


def jobs_in_note(fit_note: str) -> tuple[Verb, ...]:
    """The jobs that the words of a fit note name."""
    words = fit_note.lower()
    return tuple(dict.fromkeys(verb for word, verb in _NOTE_JOBS if word in words))


def state_job(state: PartState) -> tuple[Verb, str] | None:
    """What is done to a kit part in a state, and why; None where nothing is, or where there is no part."""
    return _STATE_JOBS.get(state)


def _factor(size: Size | None) -> float:
    return 1.0 if size is None else min(MOST_FACTOR, max(LEAST_FACTOR, math.sqrt(size.mm / USUAL_MM)))


def _material(d: Difference, verb: Verb) -> str:
    return "the ordered part" if d.way == "order" and verb in ("add", "replace") else MATERIAL[verb]


def _reasons(d: Difference, unit: LengthUnit) -> tuple[list[tuple[Verb, str]], str]:
    if d.wanted.present is None or d.kit.present is None:
        return [("check", "no still decides whether it was there")], ""
    if not d.wanted.present:
        there = d.kit.present and d.kit_part != "missing"
        return ([("remove", "in the kit, not in this version")], "") if there else ([], "")
    if not d.kit.present:
        return [(_WAY_VERBS[d.way], "in this version, not in the kit")], ""
    if d.kit_part == "missing":
        return [(_WAY_VERBS[d.way], "missing from the kit")], ""
    return _alterations(d, unit)


def _alterations(d: Difference, unit: LengthUnit) -> tuple[list[tuple[Verb, str]], str]:
    """What is done to a part that is there: made anew, or everything else that applies."""
    form = f"{d.kit.form or 'another form'} in the kit, {d.wanted.form} wanted"
    other_form = bool(d.wanted.form) and d.kit.form != d.wanted.form
    elsewhere = bool(d.wanted.place) and d.kit.place != d.wanted.place
    size, size_reason, note = _size_job(d, unit)
    anew: Verb = "replace" if d.way in ("", "order") else _WAY_VERBS[d.way]
    if not d.moulded_on and (other_form or size == "replace" or d.way):
        why = form if other_form else size_reason or "to be made anew"
        return [(anew, f"{why}, at {d.wanted.place}" if elsewhere else why)], ""
    found: list[tuple[Verb, str]] = []
    job = _STATE_JOBS.get(d.kit_part)
    if job is not None:
        found.append(job)
    if other_form:
        found.append(("reshape", form))
    if elsewhere:
        found.append(("move", f"from {d.kit.place or 'the kit’s place'} to {d.wanted.place}"))
    if size is not None:
        found.append((size if size != "replace" else "reshape", size_reason))
    noted = [verb for verb in jobs_in_note(d.fit_note) if verb not in {v for v, _ in found}]
    return found + [(verb, d.fit_note) for verb in noted], note


def _size_job(d: Difference, unit: LengthUnit) -> tuple[Verb | None, str, str]:
    """What a difference in size asks for, why, and the note where it lies within its ±."""
    kit, wanted = d.kit.size, d.wanted.size
    if kit is None or wanted is None:
        return None, "", ""
    excess = kit.mm - wanted.mm
    doubt = NORMAL_95 * math.hypot(kit.sigma_mm, wanted.sigma_mm)
    out, half = small_length(abs(excess), unit), small_length(doubt, unit)
    way = "long" if excess > 0 else "short"
    if abs(excess) <= SEEN_MM:
        return None, "", ""
    if abs(excess) <= doubt:
        return None, "", f"nothing to do: {out} too {way} lies within its ± {half}"
    reason = f"{out} ± {half} too {way}"
    if abs(excess) > REWORK_SHARE * wanted.mm:
        return "replace", f"{reason}: less work to make anew", ""
    return ("shorten", reason, "") if excess > 0 else ("lengthen", reason, "")
