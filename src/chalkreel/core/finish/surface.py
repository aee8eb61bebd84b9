"""The surface of each zone as a stack of layers: what lies on top, and what a step finds there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from chalkreel.core.finish.limits import together, zone_layers
from chalkreel.core.finish.rules import PairRule, TopRule, rule_book
from chalkreel.core.finish.steps import SHINY, Step, step_kinds
from chalkreel.core.materials import Sheen

_SHEENS: Final[dict[str, Sheen]] = {
    "gloss": "gloss", "seal": "gloss", "seal coat": "gloss", "decal": "gloss", "gloss black": "gloss",
    "black under chrome": "gloss", "chrome": "gloss", "shine": "gloss", "glass": "gloss",
}  # fmt: skip
# What leaves the sheen of the layer beneath as it was.
_SEE_THROUGH: Final = frozenset({"wash", "mark", "edge"})
# Thinners by strength: 1 water and alcohol, 2 white spirit, 3 lacquer thinner. Materials that are not named attack
# nothing that is cured.
_STRENGTH: Final = {"enamel": 2, "oil": 2, "lacquer": 3}
_RESISTS: Final = {
    "water acrylic": 2, "alcohol acrylic": 2, "varnish": 2, "clear acrylic": 2, "decals": 1, "chipping medium": 2,
    "enamel": 1, "oil": 1, "lacquer": 3, "primer": 3,
}  # fmt: skip


@dataclass(frozen=True)
class Violation:
    """A rule that an order breaks: at `step`, because of `other` (empty where something is missing).

    `cure` is "order" where another place in the order mends it, "add" where a step is missing, "choice" where only
    another paint or finish does.
    """

    rule: str
    number: int
    step: str
    other: str
    reason: str
    cure: str


def sheen_of(layers: tuple[Step, ...]) -> Sheen | None:
    """The sheen on top: the last layer's that has one; None on bare material."""
    for layer in reversed(layers):
        if step_kinds()[layer.kind].lays not in _SEE_THROUGH:
            return "gloss" if SHINY in layer.facts else _SHEENS.get(layer.kind, "matte")
    return None


def attacks(upper: str, lower: str) -> bool:
    """Whether a material's thinner dissolves another that is dry beneath it."""
    return _STRENGTH.get(upper, 1) > _RESISTS.get(lower, 3)


def missing(steps: tuple[Step, ...]) -> Iterator[Violation]:
    """Steps that need another which is nowhere in the sequence."""
    for rule in rule_book().rule:
        if rule.needed:
            yield from _missing(rule, steps)


def _missing(rule: PairRule, steps: tuple[Step, ...]) -> Iterator[Violation]:
    for step in steps:
        if step.kind not in rule.then or not _given(rule, step, steps):
            continue
        if not any(other.kind in rule.first and together(other, step, rule) for other in steps):
            yield Violation(rule.name, rule.number, step.id, "", rule.reason, "add")


def _given(rule: PairRule, step: Step, steps: tuple[Step, ...]) -> bool:
    if set(rule.unless) & set(step.facts):
        return False
    if not rule.given:
        return True
    if set(rule.given) & set(step.facts):
        return True
    return any(s.kind in rule.given and s.assembly == step.assembly for s in steps)


def on_the_wrong_ground(steps: tuple[Step, ...]) -> Iterator[Violation]:
    """Steps that find something on top of a zone that they must not, in this order."""
    for number, step in enumerate(steps):
        for rule in rule_book().top:
            if step.kind in rule.then:
                yield from _wrong_ground(rule, step, steps[:number])


def _wrong_ground(rule: TopRule, step: Step, earlier: tuple[Step, ...]) -> Iterator[Violation]:
    for layers in _stacks_below(step, earlier):
        top = layers[-1] if layers else None
        if rule.on:
            wrong = step.medium in rule.media and bool(set(rule.on) & set(step.facts))
        elif rule.sheens:
            wrong = sheen_of(layers) not in rule.sheens
        elif rule.over:
            wrong = top is not None and step_kinds()[top.kind].lays in rule.over and step.medium not in rule.media
        else:
            strong = not rule.media or step.medium in rule.media
            wrong = strong and top is not None and attacks(step.medium, top.medium)
        if wrong:
            yield Violation(rule.name, rule.number, step.id, top.id if top else "", rule.reason, "choice")
            return


def _stacks_below(step: Step, earlier: tuple[Step, ...]) -> Iterator[tuple[Step, ...]]:
    """The layers on each zone that a step covers: its own, or every painted one of its assembly."""
    here = tuple(s for s in earlier if s.assembly == step.assembly)
    if step.zone or not any(s.zone for s in here):
        # The step itself makes its zone known where nothing was done to it before.
        yield next((layers[:-1] for layers in zone_layers((*here, step)) if layers and layers[-1] is step), ())
    else:
        yield from zone_layers(here)
