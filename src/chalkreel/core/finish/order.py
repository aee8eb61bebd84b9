"""A valid order of the steps, a user's order with new steps worked in, and what is wrong with it."""

from __future__ import annotations

from graphlib import TopologicalSorter
from heapq import heappop, heappush

from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.steps import Step
from chalkreel.core.finish.surface import Violation, missing, on_the_wrong_ground


def valid_order(steps: tuple[Step, ...], found: tuple[Limit, ...], wish: tuple[str, ...] = ()) -> tuple[Step, ...]:
    """The order nearest to a wish (step ids) that keeps all limits.

    Steps that the wish does not name keep their usual place among the rest.
    """
    priority = {step.id: number for number, step in enumerate(in_wished_order(steps, wish))}
    by_id = {step.id: step for step in steps}
    sorter = TopologicalSorter({step.id: set() for step in steps})
    for limit in found:
        sorter.add(limit.then, limit.first)
    # The shipped rules have no cycle (tested), so an order always exists.
    sorter.prepare()
    order: list[Step] = []
    ready: list[tuple[int, str]] = []
    while sorter.is_active():
        for name in sorter.get_ready():
            heappush(ready, (priority[name], name))
        _, first = heappop(ready)
        order.append(by_id[first])
        sorter.done(first)
    return tuple(order)


def in_wished_order(steps: tuple[Step, ...], wish: tuple[str, ...]) -> tuple[Step, ...]:
    """The steps just as wished, right or wrong; steps not named come where the usual stack has them."""
    known = {step.id for step in steps}
    wished = [name for name in wish if name in known]
    if not wished:
        return steps
    by_id = {step.id: step for step in steps}
    order = list(wished)
    for number, step in enumerate(steps):
        if step.id not in wished:
            before = next((s.id for s in reversed(steps[:number]) if s.id in order), None)
            order.insert(order.index(before) + 1 if before else 0, step.id)
    return tuple(by_id[name] for name in order)


def violations(steps: tuple[Step, ...], found: tuple[Limit, ...]) -> tuple[Violation, ...]:
    """What is wrong with the steps in this very order: pairs the wrong way round, missing steps, wrong ground."""
    place = {step.id: number for number, step in enumerate(steps)}
    turned = {
        (limit.rule, limit.first, limit.then): Violation(
            limit.rule, limit.number, limit.then, limit.first, limit.reason, "order"
        )
        for limit in found
        if place[limit.first] > place[limit.then]
    }
    return (*turned.values(), *missing(steps), *on_the_wrong_ground(steps))
