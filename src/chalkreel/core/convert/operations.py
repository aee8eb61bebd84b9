"""From what the kit is and what the chosen version was to the work between them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from chalkreel.core.lengths import LengthUnit, format_length, small_length

PartState = Literal["present", "missing", "damaged", "warped"]
Verb = Literal["remove", "shorten", "add", "replace", "move", "reshape", "check"]
When = Literal["before primer", "before closing", "after base colour", "after decals", "after matte coat"]


@dataclass(frozen=True)
class FeatureState:
    """A feature in one version: there or not (None: doubtful), its form, place and size at replica scale.

    `doubt_mm` is half the 95 % interval of the size.
    """

    present: bool | None
    form: str = ""
    place: str = ""
    size_mm: float | None = None
    doubt_mm: float = 0.0


@dataclass(frozen=True)
class Difference:
    """One feature as the kit has it and as the version being built had it."""

    feature: str
    kit: FeatureState
    wanted: FeatureState
    moulded_on: bool
    kit_part: PartState = "present"
    material: str = ""
    hours: float | None = None
    when: When | None = None


@dataclass(frozen=True)
class Operation:
    """One job, with the reason for it; its size is told in `unit`."""

    feature: str
    verb: Verb
    reason: str
    material: str
    size_mm: float | None
    hours: float
    when: When
    unit: LengthUnit = "mm"

    @property
    def size_words(self) -> str:
        """The size it is made to, if it has one."""
        return "" if self.size_mm is None else format_length(self.size_mm, self.unit)


# A difference smaller than this is not seen on a model.
SEEN_MM: Final = 0.25
HOURS: Final[dict[Verb, float]] = {
    "remove": 0.5, "shorten": 0.75, "add": 2.0, "replace": 1.5, "move": 1.0, "reshape": 1.5, "check": 0.25,
}  # fmt: skip
MATERIAL: Final[dict[Verb, str]] = {
    "remove": "saw, putty for the scar", "shorten": "file, thin sheet to close the end",
    "add": "sheet and strip", "replace": "sheet and strip", "move": "sheet for the old place, CA",
    "reshape": "putty and file", "check": "none: find a still that decides it",
}  # fmt: skip


def operations_for(difference: Difference, unit: LengthUnit = "mm") -> tuple[Operation, ...]:
    """The work on one feature, in words of a unit; none where the kit is already right."""
    verb_reasons = _verbs(difference, unit)
    return tuple(
        Operation(
            feature=difference.feature,
            verb=verb,
            reason=reason,
            material=difference.material or MATERIAL[verb],
            size_mm=None if verb in ("remove", "check") else difference.wanted.size_mm,
            hours=difference.hours if difference.hours is not None else HOURS[verb],
            when=difference.when or "before primer",
            unit=unit,
        )
        for verb, reason in verb_reasons
    )


def _verbs(d: Difference, unit: LengthUnit) -> list[tuple[Verb, str]]:
    if d.wanted.present is None or d.kit.present is None:
        return [("check", "no still decides whether it was there")]
    if not d.wanted.present:
        return [("remove", "in the kit, not in this version")] if d.kit.present else []
    if not d.kit.present:
        return [("add", "in this version, not in the kit")]
    if d.kit_part == "missing":
        return [("add", "missing from the kit")]
    if d.kit_part == "damaged":
        return [("replace", "the kit's part is damaged")]
    return _alterations(d, unit)


def _alterations(d: Difference, unit: LengthUnit) -> list[tuple[Verb, str]]:
    found: list[tuple[Verb, str]] = []
    if d.kit_part == "warped":
        found.append(("reshape", "warped: warm, bend back, cool held"))
    if d.kit.form != d.wanted.form and d.wanted.form:
        verb: Verb = "reshape" if d.moulded_on else "replace"
        found.append((verb, f"{d.kit.form or 'another form'} in the kit, {d.wanted.form} wanted"))
    if d.kit.place != d.wanted.place and d.wanted.place:
        found.append(("move", f"from {d.kit.place or 'the kit’s place'} to {d.wanted.place}"))
    made_anew = any(verb == "replace" for verb, _ in found)
    if d.kit.size_mm is not None and d.wanted.size_mm is not None and not made_anew:
        excess = d.kit.size_mm - d.wanted.size_mm
        # A difference inside the doubt of either size is no reason to take up the file.
        if excess > max(SEEN_MM, d.kit.doubt_mm + d.wanted.doubt_mm):
            found.append(("shorten", f"{small_length(excess, unit)} too long"))
        elif excess < -max(SEEN_MM, d.kit.doubt_mm + d.wanted.doubt_mm):
            found.append(("reshape", f"{small_length(-excess, unit)} too short: build up"))
    return found
