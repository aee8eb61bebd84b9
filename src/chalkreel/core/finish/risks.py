"""What in a plan is allowed but asks for trouble, each with the number that raised it and what to do."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from typing import Final

from chalkreel.core.finish.airbrush import METALLIC
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.drying import Room
from chalkreel.core.finish.schedule import Schedule, Slot
from chalkreel.core.finish.steps import NOT_FIRST, Step

DAMP_FOR_LACQUER, DAMP_FOR_ALL, COLD_C = 0.65, 0.75, 15.0
MOST_FLUSHES, MOST_MASKING = 3, timedelta(hours=2)
CHIPPING_TAKES = timedelta(minutes=45)
LIGHT: Final = 60.0
_MASKING: Final = frozenset({"mask", "mask bright", "mask faces", "mask glass"})
_CLEAR: Final = frozenset({"glass", "unmask glass"})
_GLUED: Final = frozenset({"add small parts", "add fragile parts"})


@dataclass(frozen=True)
class Risk:
    """Something to look out for; `evening` is when, None for all of the plan."""

    words: str
    remedy: str
    evening: Window | None = None


def risks(
    steps: tuple[Step, ...], plan: Schedule, evenings: tuple[Window, ...], room: Room
) -> tuple[Risk, ...]:  # fmt: skip
    """All risks of a plan, those of the room first, then evening by evening."""
    by_id = {step.id: step for step in steps}
    left = [by_id[slot.step_id] for slot in plan.slots]
    found = [*_of_the_room(left, room), *_of_stripes(left)]
    for evening in evenings:
        slots = [slot for slot in plan.slots if evening.start <= slot.start < evening.end]
        brush = [slot for slot in plan.airbrush if evening.start <= slot.start < evening.end]
        found += _of_an_evening(evening, [(slot, by_id[slot.step_id]) for slot in slots], brush)
    return tuple(found)


def _of_the_room(left: list[Step], room: Room) -> Iterator[Risk]:
    if room.cabinet and any(step.medium for step in left):
        yield Risk(
            "The waits are for a cabinet of 35 to 40 °C.",
            "Let solvents off outside it first, no flame or open heater; vinyl, foam and prints are not put in.",
        )
    damp = f"{room.humidity * 100:.0f} % humidity"
    sprays = [step for step in left if step.spray]
    if room.humidity > DAMP_FOR_ALL and sprays:
        yield Risk(f"{damp}: paint dries slowly and may cloud.", "Wait for a drier day, or dry the room first.")
    elif room.humidity > DAMP_FOR_LACQUER and any(step.medium in ("lacquer", "primer") for step in sprays):
        yield Risk(f"{damp}: lacquer and solvent primer may blush white.", "Spray them on a drier day.")
    if room.celsius < COLD_C and sprays:
        yield Risk(
            f"{room.celsius:g} °C: below {COLD_C:g} °C acrylic forms a poor film.", "Warm the room before and after."
        )


def _of_stripes(left: list[Step]) -> Iterator[Risk]:
    for step in left:
        if NOT_FIRST in step.facts and step.coat == 1:
            words = f"“{step.zone}” cannot be sprayed first: no colour round it can be laid over its tape."
            yield Risk(words, "It is masked and sprayed after it.")


def _of_an_evening(evening: Window, work: list[tuple[Slot, Step]], brush: list[Slot]) -> Iterator[Risk]:
    flushes = sum(slot.what == "flush" for slot in brush)
    if flushes > MOST_FLUSHES:
        remedy = "Clean it well each time, or leave a colour for later."
        yield Risk(f"The airbrush is flushed {flushes} times.", remedy, evening)
    masking = sum((slot.end - slot.start for slot, step in work if step.kind in _MASKING), timedelta())
    if masking > MOST_MASKING:
        minutes = masking.seconds // 60
        yield Risk(f"{minutes} min of masking at a stretch.", "Rest in between: tired hands leave gaps.", evening)
    for slot, step in work:
        if step.kind == "chip" and evening.end - slot.start < CHIPPING_TAKES:
            words = f"{(evening.end - slot.start).seconds // 60} min for chipping before the evening ends."
            yield Risk(words, "It cannot be taken up again: stay on.", evening)
    metal = [slot.start for slot, step in work if step.kind in METALLIC]
    light = [slot.start for slot, step in work if step.spray and (step.lightness or 0.0) > LIGHT]
    if metal and any(at > metal[0] for at in light):
        yield Risk("A light colour follows metal.", "Strip the airbrush in between: flakes stay in it.", evening)
    kinds = {step.kind for _, step in work}
    if kinds & _CLEAR and kinds & _GLUED:
        words = "CA is used on the evening on which clear parts go in."
        yield Risk(words, "Air the room, or use clear-drying glue.", evening)
