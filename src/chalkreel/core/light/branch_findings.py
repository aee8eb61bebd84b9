"""What is wrong with a branch: lamps turned, dark, dim or over their limit, resistors shared or hot."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial
from typing import Final

from chalkreel.core.light import cures
from chalkreel.core.light.cells import Mains, Supply
from chalkreel.core.light.circuit import (
    Branch,
    Circuit,
    LampKind,
    StepUp,
)
from chalkreel.core.light.design import row_volts
from chalkreel.core.light.finding import OVER, SHORTER, Cure, Finding, Kind, more_cells
from chalkreel.core.light.lamps import REVERSE_LIMIT_V, VISIBLE_MA
from chalkreel.core.light.lit import LampState, Lit
from chalkreel.core.light.resistors import SOFTENS_C, hot_c

GLIMMER: Final = 0.15  # of the mA wanted
DIM_STRIP: Final = 0.5  # of the mA a piece gives at its printed volts
SLIGHT_OHM: Final = 2.0  # less than this in a row holds nothing back
UNEVEN: Final = 2.0


def of_branch(circuit: Circuit, found: Lit, number: int, branch: Branch) -> Iterator[Finding]:
    """What is wrong with one branch."""
    lamps = found.of_branch(number)
    if not lamps:
        return
    turned = [
        (s, p) for s, strand in enumerate(branch.strands) for p, use in enumerate(strand.lamps) if use.turned
    ]  # fmt: skip
    if turned:
        yield _reversed(circuit, lamps, number, branch, turned)
    else:
        yield from _dark_or_dim(circuit, found, lamps, number, branch)
    yield from _shared(circuit, lamps, number, branch)
    for lamp in lamps:
        kind = circuit.kind(lamp.kind)
        if lamp.ma > kind.limit_ma * OVER:
            yield Finding(
                "over lamp", "bad", number, f"{branch.name}: too much current",
                f"{kind.name} would get {lamp.ma:.0f} mA; such a lamp ({kind.package}) stands about "
                f"{kind.limit_ma:g} mA.",
                *_less_current(kind, number), lamp.strand, lamp.place,
            )  # fmt: skip
            break
    along = next((a for a in lamps if a.along), None)
    if along is not None:
        yield _along(circuit, number, branch, along)
    watt = found.resistor_w[number]
    if watt and hot_c(watt, 0.25) > SOFTENS_C:
        yield Finding(
            "hot resistor", "warn", number, f"{branch.name}: hot resistor",
            f"Its resistor burns {1000 * watt:.0f} mW: one of ¼ W would reach about {hot_c(watt, 0.25):.0f} °C in a "
            f"closed hull, and polystyrene softens from {SOFTENS_C:.0f} °C. Put it in the stand, or take one of four "
            "times the rating, 3 mm clear of plastic; or ask for less current.",
        )  # fmt: skip


def _less_current(kind: LampKind, number: int) -> tuple[str, Cure | None]:
    """A resistor chosen anew gives what is asked for: it helps only where that is not itself too much."""
    if kind.wanted_ma > kind.limit_ma * OVER:
        return f"You ask for {kind.wanted_ma:g} mA: ask for {kind.limit_ma:g} mA or less in “wanted, mA”.", None
    return "Let the resistor be chosen anew.", partial(cures.resistor_chosen, number=number)


def _reversed(
    circuit: Circuit, lamps: tuple[LampState, ...], number: int, branch: Branch, turned: list[tuple[int, int]]
) -> Finding:
    strand, place = turned[0]
    use = branch.strands[strand].lamps[place]
    kind = circuit.kind(use.kind)
    state = next((a for a in lamps if (a.strand, a.place) == (strand, place)), None)
    back = state.backwards_v if state else 0.0
    hurt = (
        f"It is not hurt: it sees {back:.1f} V backwards, its limit is {REVERSE_LIMIT_V:.0f} V."
        if back <= REVERSE_LIMIT_V
        else f"It sees {back:.1f} V backwards and its limit is {REVERSE_LIMIT_V:.0f} V: it may be dead. Try it alone."
    )

    def cure(whole: Circuit) -> Circuit:
        for s, p in turned:
            whole = cures.turned(whole, number, s, p)
        return whole

    row = "nothing flows in its row" if len(branch.strands[strand].lamps) > 1 else "nothing flows in it"
    which = _nth_lamp(place) if len(branch.strands[strand].lamps) > 1 else kind.name
    return Finding(
        "reversed", "bad", number, f"{branch.name}: dark, a lamp is turned",
        f"{which[0].upper()}{which[1:]} sits the wrong way round: its − faces the +, so {row}. {hurt}",
        "Swap its two ends." if len(turned) == 1 else f"Swap the ends of {len(turned)} lamps.", cure, strand, place,
    )  # fmt: skip


def _nth_lamp(place: int) -> str:
    names = ("first", "second", "third", "fourth", "fifth")
    return f"the {names[place]} lamp" if place < len(names) else f"lamp {place + 1}"


def _dark_or_dim(
    circuit: Circuit, found: Lit, lamps: tuple[LampState, ...], number: int, branch: Branch
) -> Iterator[Finding]:
    key, fed_by = circuit.supply_of(branch)
    if isinstance(fed_by, StepUp) and not _is_fed(found, fed_by):
        return  # told once, of the module
    dark = [a for a in lamps if a.ma < VISIBLE_MA]
    if dark and len(dark) < len(lamps) and _is_unlike(circuit, branch):
        return  # told as unlike colours side by side
    low = [a for a in lamps if a.ma < GLIMMER * circuit.kind(a.kind).wanted_ma and not circuit.kind(a.kind).strip]
    strip = [a for a in lamps if (k := circuit.kind(a.kind)).strip and a.ma < DIM_STRIP * k.wanted_ma]
    if not (dark or low or strip):
        return
    worst = (dark or strip or low)[0]
    kind = circuit.kind(worst.kind)
    strand = branch.strands[worst.strand]
    needs = row_volts(circuit, strand, kind.wanted_ma)
    volts = fed_by.volts
    if needs > volts - 0.1:
        cause = f"Its row wants {needs:.1f} V for {kind.wanted_ma:g} mA, and the supply gives {volts:.1f} V when fresh."
        words, cure = _more_volts(key, fed_by, number, branch, needs, circuit.used)
    elif (branch.ohm or 0) + strand.ohm < SLIGHT_OHM:
        cause = (
            f"It has {_small(worst.ma)} mA and no resistor to blame: what hangs beside it on {_called(fed_by)} takes "
            "the current and pulls the volts down."
        )
        words, cure = "Resistors chosen anew for all on this supply.", partial(cures.resistors_chosen, key=key)
    else:
        cause = f"Its resistor of {(branch.ohm or 0) + strand.ohm:g} Ω lets only {worst.ma:.2f} mA through."
        words, cure = "Let the resistor be chosen anew.", partial(cures.resistor_chosen, number=number)
    if strip and not dark:
        title = f"{branch.name}: dim strip"
    elif dark:
        title = f"{branch.name}: dark"
    else:
        title = f"{branch.name}: only a glimmer"
    what: Kind = "dim strip" if strip and not dark else "dark" if dark else "glimmer"
    seen = "" if dark else f"It gets {worst.ma:.2g} of {kind.wanted_ma:g} mA. "
    yield Finding(what, "bad", number, title, seen + cause, words, cure, worst.strand)


def _called(fed_by: Supply | StepUp) -> str:
    """What a supply or a module is called in a sentence."""
    return "the step-up module" if isinstance(fed_by, StepUp) else fed_by.name


def _more_volts(
    key: str, fed_by: Supply | StepUp, number: int, branch: Branch, needs: float, used: float
) -> tuple[str, Cure | None]:
    if max(len(s.lamps) for s in branch.strands) > 1:
        return SHORTER, partial(cures.shorter_rows, number=number)
    if not isinstance(fed_by, Supply) or isinstance(fed_by.source, Mains):
        return f"It needs a supply of more than {needs:.1f} V.", None
    # It is to be lit with cells that are nearly used up, too.
    bigger = more_cells(fed_by, needs, used)
    if bigger is not None:
        return f"{bigger.name} instead of {fed_by.name}.", partial(cures.on_supply, key=key, supply=bigger)
    return f"It needs a supply of more than {needs:.1f} V: no row of these cells reaches that.", None


def _is_fed(found: Lit, module: StepUp) -> bool:
    return all(s.fed for s in found.supplies if s.key == module.fed_by)


def _is_unlike(circuit: Circuit, branch: Branch) -> bool:
    """Whether strands side by side without resistors of their own need unlike volts."""
    if len(branch.strands) < 2:
        return False
    needs = [
        sum(circuit.kind(u.kind).curve.volts_at(1.0) for u in s.lamps) for s in branch.strands if s.ohm == 0
    ]  # fmt: skip
    return len(needs) > 1 and max(needs) - min(needs) > 0.3


def _shared(circuit: Circuit, lamps: tuple[LampState, ...], number: int, branch: Branch) -> Iterator[Finding]:
    """One resistor, or none, for several strands side by side."""
    if len(branch.strands) < 2 or any(u.turned for s in branch.strands for u in s.lamps):
        return
    own = partial(cures.own_resistors, number=number)
    if _is_unlike(circuit, branch):
        taker = max(lamps, key=lambda a: a.ma)
        loser = min(lamps, key=lambda a: a.ma)
        yield Finding(
            "unlike side by side", "bad", number, f"{branch.name}: one lamp takes it all",
            f"Lamps of unlike volts side by side: {circuit.kind(taker.kind).name} takes {taker.ma:.1f} mA and leaves "
            f"{circuit.kind(loser.kind).name} {_small(loser.ma)} mA.",
            "A resistor for each.", own, loser.strand, loser.place,
        )  # fmt: skip
        return
    if branch.pitch_mm and all(s.ohm > 0 for s in branch.strands):
        return
    uneven = max(_uneven(circuit.kind(a.kind), a, branch.strands[a.strand].ohm) for a in lamps)
    if uneven > UNEVEN:
        yield Finding(
            "one resistor for several", "warn", number, f"{branch.name}: one resistor for several",
            "Lamps of one bag differ: side by side behind one resistor the brightest may draw about "
            f"{_times(uneven)} what the weakest does.",
            "A resistor for each.", own,
        )  # fmt: skip


def _times(ratio: float) -> str:
    return f"{ratio:.0f} times" if ratio < 20 else "twenty times and more"


def _small(ma: float) -> str:
    return f"{ma:.0f}" if ma >= 10 else f"{ma:.2g}" if ma >= 0.001 else "less than 0.001"


def _uneven(kind: LampKind, state: LampState, ohm: float) -> float:
    """Brightest over weakest of a bag at equal volts: two lamps differ by 2·√2·σ of one."""
    ma = max(state.ma, 0.01)
    stiff = kind.curve.stiffness_v(ma) + (ohm + kind.own_ohm) * ma / 1000
    return math.exp(min(2 * math.sqrt(2) * kind.curve.own_v / stiff, 6.0))


def _along(circuit: Circuit, number: int, branch: Branch, along: LampState) -> Finding:
    flashers = [
        (s, p) for s, strand in enumerate(branch.strands) for p, u in enumerate(strand.lamps)
        if circuit.kind(u.kind).flashing
    ]  # fmt: skip
    name = circuit.kind(along.kind).name
    if not flashers:
        return Finding(
            "flashes along", "warn", number, f"{branch.name}: flashes along",
            f"{name} changes with the flashing lamp, since the supply sags when that is on.", "", None,
        )  # fmt: skip
    s, p = flashers[0]
    return Finding(
        "flashes along", "warn", number, f"{branch.name}: flashes along",
        f"A flashing lamp stands in its row: {name} goes on and off with it.",
        "The flashing lamp in a branch of its own.", partial(cures.alone, number=number, strand=s, place=p),
        along.strand, along.place,
    )  # fmt: skip
