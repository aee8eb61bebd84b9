"""A step that went wrong: it is to be done again, and with it all that was laid over it."""

from __future__ import annotations

from chalkreel.core.finish.limits import Limit, share_zone
from chalkreel.core.finish.steps import Step


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
