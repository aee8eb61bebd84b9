"""Which orders are late: those not made in time, and those made that may come after they are needed."""

from datetime import date

import pytest

from chalkreel.answers.ordering import OrderRow
from chalkreel.app.convert.model import due_words
from chalkreel.core.convert.orders import order_day
from chalkreel.document.convert_entities import Order

NEEDED, TODAY = date(2027, 1, 20), date(2027, 1, 1)


@pytest.mark.parametrize(
    ("worst", "ordered", "came", "late", "said"),
    [(10, "", "", False, "8 Jan 2027, in 7 days"), (21, "", "", True, "✗ 28 Dec 2026, 4 days ago"),
     (21, "2026-12-28", "", False, "on its way since 2026-12-28"),
     (40, "2026-12-28", "", True, "✗ may come 2027-02-06, too late: on its way since 2026-12-28"),
     (40, "2026-12-28", "2027-01-02", False, "✓ came on 2027-01-02")],
)  # fmt: skip
def test_an_order_is_late_by_its_worst_days(worst: int, ordered: str, came: str, late: bool, said: str) -> None:
    order = Order(id="o", name="lens", worst_days=worst, ordered_on=ordered, came_on=came)
    due = order_day(NEEDED, worst, TODAY, date.fromisoformat(ordered) if ordered else None)
    row = OrderRow(order, NEEDED, due, "", TODAY)
    assert (row.late, due_words(row)) == (late, said)
