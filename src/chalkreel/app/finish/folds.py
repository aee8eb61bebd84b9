"""View-model of the step table (no Qt): steps under their evenings, which fold where there are many."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import groupby
from typing import Final

from chalkreel.app.finish.model import DONE, StepRow
from chalkreel.core.figures import plural

# So many steps are seen at a glance; more stand folded under their evenings.
FOLD_ABOVE: Final = 40


@dataclass(frozen=True)
class EveningRow:
    """The heading of an evening's steps; its id is the day, `DONE` for what is done, empty for what has no hour."""

    id: str
    title: str
    minutes: int
    wrong: int
    is_open: bool


Rows = tuple[StepRow | EveningRow, ...]


def folded(rows: tuple[StepRow, ...], chosen: Mapping[str, bool], selected: str) -> Rows:
    """Steps by evening. Open are the first evening to come, that of the selected step, and as the user has `chosen`."""
    if len(rows) <= FOLD_ABOVE:
        return rows
    found: list[StepRow | EveningRow] = []
    first = next((row.evening for row in rows if not row.done), "")
    for evening, group in groupby(rows, key=lambda row: row.evening):
        own = tuple(group)
        usual = evening == first or any(row.step.id == selected for row in own)
        is_open = chosen.get(evening, usual)
        found.append(_heading(evening, own, is_open))
        if is_open:
            found += own
    return tuple(found)


def _heading(evening: str, own: tuple[StepRow, ...], is_open: bool) -> EveningRow:
    when = {DONE: "Done", "": "Without an hour yet"}.get(evening, own[0].when.rpartition(" ")[0])
    title = f"{'−' if is_open else '+'}  {when}: {plural(len(own), 'step')}"
    return EveningRow(
        evening, title, sum(row.step.minutes for row in own), sum(bool(row.broken) for row in own), is_open
    )


def steps_passed(shown: Rows, all_rows: tuple[StepRow, ...], row: StepRow, by: int) -> int:
    """How many steps a step passes when its row is moved past so many rows, folded ones counted."""
    target = shown[max(0, min(len(shown) - 1, shown.index(row) + by))]
    at = all_rows.index(row)
    if isinstance(target, StepRow):
        return all_rows.index(target) - at
    before = next(n for n, one in enumerate(all_rows) if one.evening == target.id)
    return before - at - (before > at)
