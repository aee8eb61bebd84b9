"""When something must be ordered at the latest, so that it is there when it is needed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

# Days between what has come and the evening it is used.
MARGIN_DAYS: Final = 2


@dataclass(frozen=True)
class OrderDay:
    """The latest day to order, how many days that is from today (negative: too late), and when it comes at worst."""

    latest: date
    days_left: int
    may_come: date


def order_day(needed: date, worst_days: int, today: date, ordered: date | None = None) -> OrderDay:
    """The latest day to order something that is needed on a day and takes so many days at worst."""
    latest = needed - timedelta(days=worst_days + MARGIN_DAYS)
    return OrderDay(latest, (latest - today).days, (ordered or today) + timedelta(days=worst_days))


# What the trade takes for something else, by a word in what is needed: the substitute and how.
SUBSTITUTES: Final[tuple[tuple[tuple[str, ...], str], ...]] = (
    (
        ("lens", "lamp", "searchlight"),
        "clear sprue stretched warm, away from solvents, or a drop of clear resin",
    ),
    (("chrome", "mirror", "bright"), "kitchen foil over filler, burnished"),
    (("window", "pane", "clear", "glaz", "canopy"), "food-box plastic cut to the template"),
    (("aerial", "antenna", "rail", "whip"), "florist wire, or sprue stretched thin"),
    (("spring", "coil", "hose"), "wire wound round a drill"),
)


def substitute(name: str) -> str:
    """What may stand in for something by its name; "" where nothing is known."""
    words = name.lower().split()
    return next((how for names, how in SUBSTITUTES if any(w.startswith(names) for w in words)), "")
