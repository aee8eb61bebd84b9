"""A plan that was offered, taken: it is kept with the build, so that it stands when that is opened again."""

from __future__ import annotations

import msgspec

from chalkreel.core.finish.schedule import Schedule
from chalkreel.document.changes import Edits
from chalkreel.document.finish_entities import PlannedTime
from chalkreel.document.snapshot import Build


def with_plan(build: Build, plan: Schedule) -> Edits:
    """A plan for the steps that are left, in place of the user's own order."""
    slots = sorted((*plan.slots, *plan.airbrush), key=lambda slot: slot.start)
    kept = tuple(
        PlannedTime(
            step_id=slot.step_id, start=slot.start.isoformat(timespec="minutes"),
            end=slot.end.isoformat(timespec="minutes"), what=slot.what,
        )
        for slot in slots
    )  # fmt: skip
    return {build.info.id: msgspec.structs.replace(build.info, plan=kept, order=())}


def without_plan(build: Build) -> Edits:
    """Neither an order of the user's own nor a plan that was taken."""
    return {build.info.id: msgspec.structs.replace(build.info, plan=(), order=())}
