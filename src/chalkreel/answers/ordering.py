"""What is to be ordered, and by when, from the plan of the finishing."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from chalkreel.answers.sequence import Sequence
from chalkreel.core.convert.orders import OrderDay, order_day, substitute
from chalkreel.document.convert_entities import Order
from chalkreel.document.entities import Feature
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class OrderRow:
    """One order: when its job is planned (None where the plan does not say), the latest day, and what may stand in.

    It was or would be ordered on the day `begun`.
    """

    order: Order
    needed: date | None
    due: OrderDay | None
    instead: str
    begun: date

    @property
    def usual(self) -> date:
        """When it comes as a rule."""
        return self.begun + timedelta(days=self.order.usual_days)

    @property
    def worst(self) -> date:
        """When it comes at worst."""
        return self.begun + timedelta(days=self.order.worst_days)

    @property
    def order_id(self) -> str:
        """The order's id."""
        return self.order.id

    @property
    def late(self) -> bool:
        """Whether it does not come in time, at worst."""
        if self.order.came_on or self.due is None or self.needed is None:
            return False
        return self.due.may_come > self.needed if self.order.ordered_on else self.due.days_left < 0


def order_rows(build: Build, found: Sequence | None, today: date) -> tuple[OrderRow, ...]:
    """All orders that have not come, the late ones first, then by their latest day; last what has come."""
    rows = []
    for order in build.all(Order):
        needed = _needed(build, found, order)
        ordered = date.fromisoformat(order.ordered_on) if order.ordered_on else None
        due = None
        if needed is not None and not order.came_on:
            due = order_day(needed, order.worst_days, today, ordered)
        feature = build.get(Feature, order.feature_id)
        instead = substitute(order.name) or (substitute(feature.name) if feature is not None else "")
        rows.append(OrderRow(order, needed, due, instead, ordered or today))
    return tuple(sorted(rows, key=lambda r: (bool(r.order.came_on), r.due.latest if r.due is not None else date.max)))


def _needed(build: Build, found: Sequence | None, order: Order) -> date | None:
    """The day of the first step of its job that is still to be done."""
    feature = build.get(Feature, order.feature_id)
    table = found.timetable if found is not None else None
    if feature is None or table is None:
        return None
    steps = f"{feature.assembly}/{feature.name}/"
    days = [slot.start.date() for slot in table.slots if slot.step_id.startswith(steps)]
    return min(days, default=None)
