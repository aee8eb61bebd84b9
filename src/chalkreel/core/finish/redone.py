"""A layer that went wrong: it dries, is sanded or stripped back, and only then comes the step that is done again."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from chalkreel.core.finish.drying import Room
from chalkreel.core.finish.limits import Limit
from chalkreel.core.finish.steps import Step, caution_words, step_kinds

WRONG, SAND_BACK = "wrong layer", "sand back"
# The group of rules on the ground that a coat finds (23 on), and why.
NUMBER: Final = 29
RULE: Final = "sound ground for a coat done again"
REASON: Final = "A layer that went wrong is sanded or stripped once it is dry through, and only then painted again."


@dataclass(frozen=True)
class WrongLayer:
    """The step to be done again, what was laid over it last (`medium`), and when that ended."""

    step_id: str
    medium: str
    ended: datetime


def sand_back_id(step_id: str) -> str:
    """The id of the sanding before a step that is done again."""
    return f"{step_id}/{SAND_BACK}"


def wrong_id(step_id: str) -> str:
    """The id of the layer that went wrong."""
    return f"{step_id}/wrong"


def with_sanding(steps: tuple[Step, ...], wrong: tuple[WrongLayer, ...]) -> tuple[Step, ...]:
    """The steps, each that is done again behind its wrong layer and the sanding of that."""
    by_id = {one.step_id: one for one in wrong}
    return tuple(made for step in steps for made in (*_before(step, by_id.get(step.id)), step))


def _before(step: Step, wrong: WrongLayer | None) -> Iterator[Step]:
    if wrong is None:
        return
    plain = replace(step, coat=1, coats=1, lightness=None, colour="")
    for key, kind in ((wrong_id(step.id), WRONG), (sand_back_id(step.id), SAND_BACK)):
        entry = step_kinds()[kind]
        yield replace(
            plain, id=key, kind=kind, title=f"{entry.title}: {step.title}", minutes=entry.minutes,
            materials=entry.materials, cautions=caution_words(kind), medium=wrong.medium if kind == WRONG else "",
        )  # fmt: skip


def sanding_limits(steps: tuple[Step, ...], wrong: tuple[WrongLayer, ...], room: Room) -> Iterator[Limit]:
    """Sanding waits until the wrong layer is through, the step for the sanding.

    Raises
    ------
    RefusedError
        A room for which no drying time can be told.
    """
    by_id = {step.id: step for step in steps}
    for one in wrong:
        layer, sanding = by_id.get(wrong_id(one.step_id)), sand_back_id(one.step_id)
        if layer is not None:
            low, high = layer.dries("over", room)
            yield Limit(RULE, NUMBER, layer.id, sanding, low, high, None, REASON)
            yield Limit(RULE, NUMBER, sanding, one.step_id, 0.0, 0.0, None, REASON)
