"""The user's own order of the finishing steps."""

from __future__ import annotations


def moved_step(order: tuple[str, ...], step_id: str, by: int) -> tuple[str, ...]:
    """The order with one step moved up (negative) or down."""
    at = order.index(step_id)
    rest = [name for name in order if name != step_id]
    rest.insert(min(max(0, at + by), len(rest)), step_id)
    return tuple(rest)
