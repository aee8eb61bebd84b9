"""The rules applied to the steps of one build: which comes before which, how long before, and how long at most."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from chalkreel.core.finish.drying import DRYING, USUAL_ROOM, Hours, Room, State, slowness
from chalkreel.core.finish.rules import PairRule, SpecialRule, rule_book, special
from chalkreel.core.finish.steps import FREEHAND, Step, step_kinds

# Between these hours lacquer and enamel must not be recoated: their skin swells and wrinkles.
WRINKLES: Hours = (1.0, 24.0)
# After two weeks primer is so hard that it has to be scuffed before it takes paint.
PRIMER_TAKES_PAINT = 336.0
_WRINKLING = ("lacquer", "enamel")
_SLOW_GROUND = ("enamel", "oil")


@dataclass(frozen=True)
class Limit:
    """`then` begins at least `min_hours` after `first` ended (`low_hours` at the trade's low end), at most `max_hours`.

    It does not begin between the `closed` hours; `rescue` is what to do when it is too late.
    """

    rule: str
    number: int
    first: str
    then: str
    low_hours: float
    min_hours: float
    max_hours: float | None
    reason: str
    closed: Hours | None = None
    rescue: str = ""


def limits(steps: tuple[Step, ...], room: Room = USUAL_ROOM) -> tuple[Limit, ...]:
    """Every pair of steps that a rule speaks of, whatever their order.

    Raises
    ------
    RefusedError
        A room for which no drying time can be told.
    """
    by_kind: dict[str, list[Step]] = defaultdict(list)
    for step in steps:
        by_kind[step.kind].append(step)
    found = [
        _applied(rule, a, b, room)
        for rule in rule_book().rule
        for first in rule.first
        for a in by_kind[first]
        if not rule.media or a.medium in rule.media
        for then in rule.then
        for b in by_kind[then]
        if together(a, b, rule) and not (rule.last_coat and a.coat < a.coats)
    ]
    found += _between_layers(steps, room)
    found += _between_masks(by_kind, room)
    return tuple(found)


def together(a: Step, b: Step, rule: PairRule) -> bool:
    """Whether a rule speaks of these two: on the same zone, assembly or build."""
    if rule.within == "build":
        return True
    if rule.same_job:
        return a.id.startswith(b.id)
    return a.assembly == b.assembly and (rule.within == "assembly" or share_zone(a, b))


def share_zone(a: Step, b: Step) -> bool:
    """Whether two steps of one assembly work on the same zone; one without a zone works on all."""
    return a.zone == b.zone or not a.zone or not b.zone


def _applied(rule: PairRule, a: Step, b: Step, room: Room) -> Limit:
    factor = slowness(a.medium, room) if rule.dries and a.medium else 1.0
    low, high = 0.0, 0.0
    if isinstance(rule.wait, str):
        low, high = a.dries(_state(rule.wait, a, b), room)
    elif rule.wait is not None:
        low, high = rule.wait[0] * factor, rule.wait[1] * factor
    latest = None
    if rule.latest == "soft":
        latest = DRYING[a.medium].soft * slowness(a.medium, room)
    elif rule.latest is not None:
        latest = rule.latest * factor
    return Limit(rule.name, rule.number, a.id, b.id, low, high, latest, rule.reason, rescue=rule.rescue)


def _state(wait: State, a: Step, b: Step) -> State:
    """Paint of one kind is sprayed over itself as soon as it has flashed off, though nobody may touch it yet."""
    return "recoat" if wait == "touch" and b.spray and a.medium == b.medium and a.zone == b.zone else wait


def zone_layers(steps: tuple[Step, ...]) -> Iterator[tuple[Step, ...]]:
    """For each zone the steps that lay something on it, in the order given; a stripe lies on the base colour."""
    for assembly in dict.fromkeys(s.assembly for s in steps):
        here = [s for s in steps if s.assembly == assembly]
        laid = [s for s in here if step_kinds()[s.kind].lays not in ("", "inside", "tape")]
        ground = next((s.zone for s in laid if s.kind in ("base", "metal")), None)
        striped = {s.zone for s in laid if s.kind == "stripe"}
        for zone in dict.fromkeys(s.zone for s in here if s.zone) or ("",):
            beneath = {"", zone, ground} if zone in striped else {"", zone}
            yield tuple(s for s in laid if s.zone in beneath)


def _between_layers(steps: tuple[Step, ...], room: Room) -> Iterator[Limit]:
    """The layers of a zone keep the order of its stack, so that no pair can be forgotten; each waits for the last."""
    rank = {kind: number for number, kind in enumerate(step_kinds())}
    told: set[tuple[str, str]] = set()
    for layers in zone_layers(steps):
        stack = sorted(layers, key=lambda s: (rank[s.kind], s.coat))
        for a, b in pairwise(stack):
            if (a.id, b.id) not in told:
                told.add((a.id, b.id))
                yield _layer_on_layer(a, b, room)


def _layer_on_layer(a: Step, b: Step, room: Room) -> Limit:
    """Paint over paint of its kind once that has flashed off; anything else when it is touch-dry."""
    if a.kind == b.kind == "decal":
        # Beside one another, each laid with care for those that are still wet.
        return _special_limit(special(29), a, b, 0.0, 0.0)
    if a.medium in _SLOW_GROUND and a.medium != b.medium:
        return _special_limit(special(77), a, b, *a.dries("over", room))
    if a.kind == "prime" and step_kinds()[b.kind].lays in ("shade", "undercoat", "colour"):
        return _special_limit(special(24), a, b, *a.dries("touch", room), latest=PRIMER_TAKES_PAINT)
    closed = WRINKLES if a.medium == b.medium and a.medium in _WRINKLING and a.zone == b.zone else None
    return _special_limit(special(29), a, b, *a.dries(_state("touch", a, b), room), closed)


def masking_order(panels: list[tuple[str, float | None]]) -> list[str]:
    """Zones in the order in which they are masked: the lightest first; one of unknown lightness keeps its place."""
    known = iter(sorted((p for p in panels if p[1] is not None), key=lambda p: -(p[1] or 0.0)))
    return [next(known)[0] if lightness is not None else zone for zone, lightness in panels]


def _between_masks(by_kind: dict[str, list[Step]], room: Room) -> Iterator[Limit]:
    """Panels of one assembly border one another: one after the other, light before dark, tape on dry paint only."""
    for assembly in dict.fromkeys(s.assembly for s in by_kind["stripe"]):
        here = {
            kind: [s for s in by_kind[kind] if s.assembly == assembly] for kind in ("stripe", "mask", "unmask")
        }  # fmt: skip
        order = masking_order(list({s.zone: s.lightness for s in here["stripe"]}.items()))
        turn = {zone: number for number, zone in enumerate(order)}
        soft = [
            s for s in (*by_kind["white stripe"], *here["stripe"]) if s.assembly == assembly and FREEHAND in s.facts
        ]
        for start in (*here["mask"], *soft):
            earlier = [s for s in (*here["stripe"], *here["unmask"]) if turn[s.zone] < turn[start.zone]]
            for s in earlier:
                if s.kind == "stripe":
                    yield _special_limit(
                        special(32), s, start, *s.dries("tape" if start.kind == "mask" else "touch", room)
                    )
                else:
                    yield _special_limit(special(38), s, start, 0.0, 0.0)


def _special_limit(
    rule: SpecialRule, a: Step, b: Step, low: float, high: float, closed: Hours | None = None,
    latest: float | None = None,
) -> Limit:  # fmt: skip
    return Limit(rule.name, rule.number, a.id, b.id, low, high, latest, rule.reason, closed)
