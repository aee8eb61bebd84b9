"""A valid order of the steps, and a user's order with new steps worked in."""

from __future__ import annotations

import networkx as nx

from chalkreel.core.finish.rules import constraints
from chalkreel.core.finish.steps import Step


def valid_order(steps: tuple[Step, ...], wish: tuple[str, ...] = ()) -> tuple[Step, ...]:
    """The order nearest to a wish (step ids) that breaks no order rule.

    Steps that the wish does not name keep their usual place among the rest.
    """
    priority = {step.id: number for number, step in enumerate(in_wished_order(steps, wish))}
    by_id = {step.id: step for step in steps}
    graph = nx.DiGraph()
    graph.add_nodes_from(by_id)
    graph.add_edges_from((c.first, c.then) for c in constraints(steps))
    # The shipped rules have no circle (tested), so an order always exists.
    names = nx.lexicographical_topological_sort(graph, key=lambda name: priority[name])
    return tuple(by_id[name] for name in names)


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
