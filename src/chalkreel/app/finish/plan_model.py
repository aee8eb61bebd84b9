"""View-model of the plan (no Qt): evenings drawn wide, the days between narrow, so that curing still passes through."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from itertools import pairwise

from chalkreel.answers.plan import Closing, Curing, closings, curings, planned_spans
from chalkreel.answers.sequence import Sequence
from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.schedule import Slot
from chalkreel.core.finish.steps import Step, step_kinds

# Work further apart than this belongs to another evening.
APART = timedelta(hours=5)
LEAST_PX, PX_PER_MINUTE, GAP_PX = 64.0, 0.62, 26.0
LAST_LABEL_PX = 90.0


@dataclass(frozen=True)
class EveningColumn:
    """One evening and where it is drawn."""

    start: datetime
    end: datetime
    left: float
    right: float


@dataclass(frozen=True)
class Block:
    """A stretch of work in a lane, from x to x, with `room` px for its label up to the next one."""

    step: Step
    lane: int
    left: float
    right: float
    broken: bool
    room: float = LAST_LABEL_PX

    @property
    def label(self) -> str:
        """What stands under it."""
        number = f" {self.step.coat}" if self.step.coats > 1 else ""
        return f"{self.step.kind}{number}"


@dataclass(frozen=True)
class Hatch:
    """Time that passes by itself in a lane: wet until `touch`, curing until `right`."""

    lane: int
    left: float
    touch: float
    right: float


@dataclass(frozen=True)
class Wedge:
    """A window that closes: from where it opens to where it shuts."""

    lane: int
    left: float
    right: float
    words: str
    tight: bool


@dataclass(frozen=True)
class Cup:
    """One filling of the airbrush, with what it serves."""

    left: float
    right: float
    words: str


@dataclass(frozen=True)
class PlanPicture:
    """All that is drawn; x in px from the left of the first evening."""

    lanes: tuple[str, ...]
    columns: tuple[EveningColumn, ...]
    blocks: tuple[Block, ...]
    hatches: tuple[Hatch, ...]
    wedges: tuple[Wedge, ...]
    cups: tuple[Cup, ...]

    @property
    def width(self) -> float:
        """How wide it is in all."""
        return self.columns[-1].right if self.columns else 0.0

    def x(self, at: datetime) -> float:
        """Where a time is drawn."""
        columns = self.columns
        if not columns or at <= columns[0].start:
            return 0.0
        number = bisect_right([c.start for c in columns], at) - 1
        column = columns[number]
        if at <= column.end:
            return column.left + (column.right - column.left) * ((at - column.start) / (column.end - column.start))
        if number + 1 == len(columns):
            return column.right + GAP_PX
        after = columns[number + 1]
        return column.right + (after.left - column.right) * ((at - column.end) / (after.start - column.end))

    def at(self, x: float) -> datetime | None:
        """The time drawn at a place."""
        for number, column in enumerate(self.columns):
            if x <= column.right or number + 1 == len(self.columns):
                share = (x - column.left) / (column.right - column.left)
                return column.start + (column.end - column.start) * min(max(share, 0.0), 1.0)
        return None


EMPTY = PlanPicture((), (), (), (), (), ())


def plan_picture(sequence: Sequence) -> PlanPicture:
    """The plan from the first evening with work left; nothing where there is none."""
    table = sequence.timetable
    if table is None or not table.slots:
        return EMPTY
    lanes = tuple(dict.fromkeys(step.assembly for step in sequence.steps))
    columns = _columns(sequence.evenings, {slot.start for slot in table.slots})
    picture = PlanPicture(lanes, columns, (), (), (), ())
    broken = {v.step for v in sequence.broken} | {one.then for one in table.missed}
    steps = {step.id: step for step in sequence.steps}
    blocks = [
        Block(steps[s.step_id], lanes.index(steps[s.step_id].assembly), picture.x(s.start), picture.x(s.end),
              s.step_id in broken)
        for s in table.slots
    ]  # fmt: skip
    first = columns[0].start
    hatches = [_hatch(one, picture) for one in curings(sequence) if one.over > first]
    wedges = [_wedge(one, picture) for one in closings(sequence) if one.closes > first]
    return PlanPicture(lanes, columns, _with_rooms(blocks), tuple(hatches), tuple(wedges), _cups(sequence, picture))


def _columns(evenings: tuple[Window, ...], begun: set[datetime]) -> tuple[EveningColumn, ...]:
    """Evenings with work, side by side."""
    columns, left = [], 0.0
    for window in evenings:
        if any(window.start <= start < window.end for start in begun):
            width = max(LEAST_PX, window.minutes * PX_PER_MINUTE)
            columns.append(EveningColumn(window.start, window.end, left, left + width))
            left += width + GAP_PX
    return tuple(columns)


def _with_rooms(blocks: list[Block]) -> tuple[Block, ...]:
    found = []
    for lane in sorted({block.lane for block in blocks}):
        here = sorted((b for b in blocks if b.lane == lane), key=lambda b: b.left)
        found += [replace(block, room=after.left - block.left - 3) for block, after in pairwise(here)] + here[-1:]
    return tuple(found)


def _hatch(one: Curing, picture: PlanPicture) -> Hatch:
    lane = picture.lanes.index(one.step.assembly)
    return Hatch(lane, picture.x(one.start), picture.x(one.touch), picture.x(one.over))


def _wedge(one: Closing, picture: PlanPicture) -> Wedge:
    words = f"{one.then.kind} by {one.closes:%a %H:%M}"
    lane = picture.lanes.index(one.then.assembly)
    return Wedge(lane, picture.x(one.opens), picture.x(one.closes), words, one.spare < timedelta(hours=12))


def _cups(sequence: Sequence, picture: PlanPicture) -> tuple[Cup, ...]:
    """Sprays of one colour that follow one another in an evening."""
    assert sequence.timetable is not None
    steps = {step.id: step for step in sequence.steps}
    sprays = [s for s in sequence.timetable.slots if steps[s.step_id].spray]
    found: list[list[Slot]] = []
    for before, slot in pairwise([None, *sprays]):
        same = before is not None and slot is not None and _colour(steps, before) == _colour(steps, slot)
        if slot is None:
            continue
        if same and before is not None and slot.start - before.end < APART:
            found[-1].append(slot)
        else:
            found.append([slot])
    return tuple(
        Cup(picture.x(run[0].start), picture.x(run[-1].end), _cup_words(steps, run)) for run in found
    )  # fmt: skip


def _colour(steps: dict[str, Step], slot: Slot) -> tuple[str, str]:
    return steps[slot.step_id].colour, steps[slot.step_id].medium


def _cup_words(steps: dict[str, Step], run: list[Slot]) -> str:
    served = len({steps[s.step_id].zone or steps[s.step_id].assembly for s in run})
    return steps[run[0].step_id].colour + (f", {served} in one cup" if served > 1 else "")


def by_date(sequence: Sequence, done: tuple[str, ...]) -> tuple[Step, ...]:
    """Steps as they come: those done first, then by the hour they are planned for."""
    spans = planned_spans(sequence)
    far = datetime.max
    order = {step.id: number for number, step in enumerate(sequence.steps)}
    return tuple(
        sorted(
            sequence.steps,
            key=lambda s: (s.id not in done, spans[s.id][0] if s.id in spans else far, order[s.id]),
        )
    )


def order_with(sequence: Sequence, done: tuple[str, ...], step_id: str, at: datetime) -> tuple[str, ...]:
    """The order by date, with one step put to where an hour lies."""
    spans = planned_spans(sequence)
    rest = [step.id for step in by_date(sequence, done) if step.id != step_id]
    place = next((n for n, name in enumerate(rest) if name in spans and spans[name][0] >= at), len(rest))
    return (*rest[:place], step_id, *rest[place:])


def doing_words(step: Step) -> str:
    """How a step is done, in a word."""
    tool = step_kinds()[step.kind].tool
    return {"spray": "airbrush", "look": "by eye"}.get(tool, "by hand")
