"""What asks for trouble is told with its number; durations learn from the log."""

from datetime import datetime, timedelta

import pytest

from chalkreel.core.finish.calendar import Window
from chalkreel.core.finish.drying import USUAL_ROOM, Room
from chalkreel.core.finish.pace import Took, minutes_at, paces
from chalkreel.core.finish.risks import risks
from chalkreel.core.finish.schedule import Schedule, Slot
from chalkreel.core.finish.steps import Step

SEVEN = datetime(2027, 3, 2, 19)
EVENING = Window(SEVEN, SEVEN + timedelta(hours=4))


def told(*kinds: str, room: Room = USUAL_ROOM, minutes: int = 30, flushes: int = 0, **more: object) -> str:
    steps = tuple(
        Step(f"{n}", kind, "H", "z", kind, minutes, medium="lacquer", **more)  # type: ignore[arg-type]
        for n, kind in enumerate(kinds)
    )
    slots = tuple(
        Slot(s.id, SEVEN + timedelta(minutes=n * minutes), SEVEN + timedelta(minutes=(n + 1) * minutes))
        for n, s in enumerate(steps)
    )
    brush = tuple(Slot("", SEVEN, SEVEN, "flush") for _ in range(flushes))
    return " ".join(r.words for r in risks(steps, Schedule(slots, (), brush), (EVENING,), room))


@pytest.mark.parametrize(
    ("words", "risky", "sound"),
    [
        ("70 % humidity", told("base", room=Room(20, 0.7)), told("mask", room=Room(20, 0.7))),
        ("12 °C", told("base", room=Room(12, 0.5)), told("base", room=Room(16, 0.5))),
        ("flushed 4 times", told("base", flushes=4), told("base", flushes=3)),
        ("150 min of masking", told(*["mask"] * 5), told(*["mask"] * 4)),
        ("30 min for chipping", told(*["make"] * 7, "chip"), told("make", "chip")),
        ("follows metal", told("metal", "base", lightness=80.0), told("base", "metal", lightness=80.0)),
        ("cannot be sprayed first", told("stripe", facts=("not first",)), told("stripe")),
        ("CA is used", told("add fragile parts", "glass"), told("glass")),
    ],
)
def test_a_risk_is_told_with_its_number_and_only_where_it_is(words: str, risky: str, sound: str) -> None:
    assert words in risky and words not in sound


def test_minutes_follow_the_log_slowly_and_kinds_share_a_pace() -> None:
    assert paces(()) == (1.0, {})
    shared, by_kind = paces([Took("mask", 20, 40)])
    # One step at twice the time weighs a fifth against the table's four: 2^(1/5) shared, then again for its kind.
    assert shared == pytest.approx(2 ** (1 / 5)) and by_kind["mask"] == pytest.approx(2 ** (0.2 + 0.8 / 5))
    shared, by_kind = paces([Took("mask", 20, 40)] * 60 + [Took("base", 20, 20)])
    assert by_kind["mask"] == pytest.approx(2, rel=0.05) and 1.0 < by_kind["base"] < shared
    assert paces([Took("mask", 20, 1), Took("mask", 20, 900)]) == (1.0, {})
    assert [minutes_at(12, pace) for pace in (1.05, 1.5, 0.1)] == [12, 20, 5]
