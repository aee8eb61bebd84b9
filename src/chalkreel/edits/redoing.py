"""A step that went wrong: it is to be done again, and with it all that was laid over it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

import msgspec

from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.limits import Limit, share_zone
from chalkreel.core.finish.redone import sand_back_id
from chalkreel.core.finish.steps import Step, step_kinds
from chalkreel.document.changes import Edits
from chalkreel.document.entities import BuildInfo
from chalkreel.document.finish_entities import WrongStep
from chalkreel.document.snapshot import Build


def step_again(
    build: Build, step: Step, steps: tuple[Step, ...], limits: tuple[Limit, ...], now: datetime
) -> tuple[Edits, int]:
    """A step that is done, and what was laid over it, done no longer; and how many steps that are.

    What was ticked without an hour is taken to have been laid `now`: it dries first, then it is sanded.

    Raises
    ------
    RefusedError
        It is not done.
    """
    info = build.info
    gone = undone_by_redo(step, steps, info.done, limits)
    if not gone:
        raise RefusedError(f"“{step.title}” is not done yet: there is nothing to do again.")
    # Sanded once already, it must be sanded again.
    left_out = {*gone, sand_back_id(step.id)}
    changed = msgspec.structs.replace(
        info, done=tuple(name for name in info.done if name not in left_out),
        done_at=tuple(pair for pair in info.done_at if pair[0] not in left_out),
        wrong=(*(one for one in info.wrong if one.step_id != step.id), *_layer(info, step, steps, gone, now)),
    )  # fmt: skip
    return {changed.id: changed}, len(gone)


def _layer(
    info: BuildInfo, step: Step, steps: tuple[Step, ...], gone: tuple[str, ...], now: datetime
) -> Iterator[WrongStep]:
    """What lies wrong: of all that is done again what was laid last, where a step lays anything that dries."""
    ends, latest = dict(info.done_at), now.isoformat(timespec="minutes")
    laid = [s for s in steps if s.id in gone and s.medium and step_kinds()[s.kind].lays != "tape"]
    if step.medium and laid:
        last = max(laid, key=lambda s: ends.get(s.id, latest))
        yield WrongStep(step_id=step.id, medium=last.medium, at=ends.get(last.id, latest))


def undone_by_redo(
    step: Step, steps: tuple[Step, ...], done: tuple[str, ...], limits: tuple[Limit, ...]
) -> tuple[str, ...]:
    """The steps that are done no longer when one is done again: those on its zone that had to wait for it, upwards.

    Steps of other zones stay done; what covered the whole assembly is gone from this zone, and so is to be laid anew.
    """
    over = {s.id for s in steps if s.assembly == step.assembly and share_zone(s, step)} & set(done)
    gone = {step.id}
    grown = True
    while grown:
        above = {c.then for c in limits if c.first in gone and c.then in over} - gone
        grown = bool(above)
        gone |= above
    return tuple(name for name in done if name in gone)
