"""The rules as data: what must be true of the surface when a step begins."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from typing import Literal

import msgspec

from chalkreel.core.finish.drying import Hours, State
from chalkreel.core.materials import Sheen

Within = Literal["zone", "assembly", "build"]


class PairRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Kinds of steps that come before others on the same zone, assembly or build, and how long before.

    The fields are explained at the head of data/rules.toml.
    """

    number: int
    name: str
    first: tuple[str, ...]
    then: tuple[str, ...]
    reason: str
    within: Within = "assembly"
    wait: Hours | State | None = None
    latest: float | Literal["soft"] | None = None
    dries: bool = False
    last_coat: bool = False
    same_job: bool = False
    needed: bool = False
    given: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    media: tuple[str, ...] = ()
    rescue: str = ""


class TopRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What must lie on top of a zone when a step of these kinds begins.

    A sheen (`is`), or, `over` a layer of these sorts, a step of these `media`; or (`attacks`) nothing that the step's
    own thinner dissolves; or nothing of these `media` `on` parts of which that is said.
    """

    number: int
    name: str
    then: tuple[str, ...]
    reason: str
    sheens: tuple[Sheen, ...] = msgspec.field(default=(), name="is")
    over: tuple[str, ...] = ()
    media: tuple[str, ...] = ()
    attacks: bool = False
    on: tuple[str, ...] = ()


class SpecialRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rule that the code applies in its own way."""

    number: int
    name: str
    reason: str


class RuleBook(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """All rules the program ships."""

    rule: tuple[PairRule, ...]
    top: tuple[TopRule, ...]
    special: tuple[SpecialRule, ...]


@cache
def rule_book() -> RuleBook:
    """The rules in data/rules.toml."""
    data = files("chalkreel.core.finish").joinpath("data/rules.toml").read_bytes()
    return msgspec.toml.decode(data, type=RuleBook)


def special(number: int) -> SpecialRule:
    """One of the rules that the code applies in its own way."""
    return next(rule for rule in rule_book().special if rule.number == number)
