"""Order rules as data, and the steps that break them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal

import msgspec

from chalkreel.core.finish.steps import Step

Within = Literal["zone", "assembly", "build"]


class OrderRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Kinds of steps that come before others on the same zone, assembly or build."""

    name: str
    first: tuple[str, ...]
    then: tuple[str, ...]
    within: Within
    min_hours: float
    reason: str
    max_hours: float | None = None


class LightnessRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Steps of these kinds on one assembly go from light to dark."""

    name: str
    kinds: tuple[str, ...]
    reason: str


class LayerRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A medium that must not come to lie over another; `kinds` limits the upper step."""

    name: str
    below: tuple[str, ...]
    above: tuple[str, ...]
    reason: str
    kinds: tuple[str, ...] = ()


class RuleBook(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """All rules the program ships."""

    rule: tuple[OrderRule, ...]
    lightness_rule: tuple[LightnessRule, ...]
    layer_rule: tuple[LayerRule, ...]


@dataclass(frozen=True)
class Constraint:
    """One rule applied to two steps: `first` ends at least `min_hours` before `then` begins."""

    rule: str
    first: str
    then: str
    min_hours: float
    max_hours: float | None
    reason: str


@dataclass(frozen=True)
class Violation:
    """A rule broken by an order, or by the choice of media (then no reordering helps)."""

    rule: str
    first: str
    then: str
    reason: str
    by_order: bool


@cache
def rule_book() -> RuleBook:
    """The rules in data/rules.toml."""
    data = files("chalkreel.core.finish").joinpath("data/rules.toml").read_bytes()
    return msgspec.toml.decode(data, type=RuleBook)


def constraints(steps: tuple[Step, ...]) -> tuple[Constraint, ...]:
    """Every ordered pair of steps that a rule speaks of."""
    book = rule_book()
    found = [
        Constraint(rule.name, a.id, b.id, rule.min_hours, rule.max_hours, rule.reason)
        for rule in book.rule
        for a in steps if a.kind in rule.first
        for b in steps if b.kind in rule.then and a.id != b.id and _together(a, b, rule.within)
    ]  # fmt: skip
    for light in book.lightness_rule:
        found += [
            Constraint(light.name, a.id, b.id, 0.0, None, light.reason)
            for a, b in _pairs(steps)
            if a.kind in light.kinds and b.kind in light.kinds and _together(a, b, "assembly")
            and a.lightness is not None and b.lightness is not None and a.lightness > b.lightness
        ]  # fmt: skip
    return tuple(found)


def _together(a: Step, b: Step, within: Within) -> bool:
    if within == "build":
        return True
    return a.assembly == b.assembly and (within == "assembly" or a.zone == b.zone)


def _pairs(steps: tuple[Step, ...]) -> Iterator[tuple[Step, Step]]:
    return ((a, b) for a in steps for b in steps if a.id != b.id)


def violations(steps: tuple[Step, ...]) -> tuple[Violation, ...]:
    """What is wrong with the steps in this very order."""
    place = {step.id: number for number, step in enumerate(steps)}
    broken = [
        Violation(c.rule, c.first, c.then, c.reason, by_order=True)
        for c in constraints(steps)
        if place[c.first] > place[c.then]
    ]
    for rule in rule_book().layer_rule:
        broken += [
            Violation(rule.name, upper.id, ground.id, rule.reason, by_order=False)
            for number, upper in enumerate(steps)
            if upper.medium in rule.above and (not rule.kinds or upper.kind in rule.kinds)
            for ground in _ground(steps[:number], upper)
            if ground.medium in rule.below
        ]
    return tuple(broken)


def _ground(earlier: tuple[Step, ...], upper: Step) -> tuple[Step, ...]:
    """The last coats that `upper` touches: on its own zone, or on every zone where it covers the assembly."""
    coats = [s for s in earlier if s.medium and s.assembly == upper.assembly]
    zones = {upper.zone} if upper.zone else {s.zone for s in coats}
    tops = (next((s for s in reversed(coats) if s.zone in ("", zone)), None) for zone in sorted(zones))
    return tuple(dict.fromkeys(top for top in tops if top is not None))
