"""What goes wrong with wiring at a bench, one thing at a time, each as the circuit that it makes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from chalkreel.core.light.cells import Cell, Supply
from chalkreel.core.light.circuit import Branch, Circuit, LampKind, LampUse, Strand
from chalkreel.core.light.kinds import USUAL_VOLTS, LedColour
from chalkreel.core.light.lamps import FAMILIES, Point, fit

# Values that are taken for each other in a drawer: neighbours of the E12 series, and a band of tens misread.
NEAR_BY: Final = (0.47, 0.56, 0.68, 0.82, 1.2, 1.5, 1.8, 2.2)
TENFOLD: Final = (10.0, 0.1)
# Open volts of cells that are used to these shares show how far.
USED_TO: Final = (0.2, 0.5, 0.8, 0.95)
# How much less likely a fault is than a turned lamp, in σ of what it explains: so that the usual one is told first.
RARE, RARER = 0.7, 1.4
# Families whose lamps stand above this are those of about 3 V.
LOW_V: Final = 2.0


@dataclass(frozen=True)
class Fault:
    """What is wrong in words, and the branch it makes with kinds of lamps of its own; without one, the mA that flow.

    Of faults that are `alike` only the likeliest is told. `darkens` says that a lamp does not light, or not as meant:
    it can be seen where the meter cannot tell.
    """

    words: str
    branch: Branch | None
    darkens: bool = False
    rare: float = 0.0
    kinds: tuple[LampKind, ...] = ()
    ma: float = 0.0
    alike: str = ""


@dataclass(frozen=True)
class Common:
    """What is wrong with the supply, and the circuit it makes; `used` where its cells are used as far as that asks."""

    words: str
    circuit: Circuit
    used: bool = False


def faults_of(circuit: Circuit, number: int) -> Iterator[Fault]:
    """One thing wrong in a branch."""
    branch = circuit.branches[number]
    yield Fault("nothing flows: a wire is off, or a lamp sits the wrong way round", None)
    yield from _dark_strands(branch)
    yield from _dark_pieces(circuit, branch)
    yield from _bridged(branch)
    yield from _shorted(circuit, branch)
    yield from _other_resistor(branch)
    yield from _other_colour(circuit, branch)


def common_faults(circuit: Circuit) -> Iterator[Common]:
    """One thing wrong with the main supply, which all branches on it feel."""
    key, main = circuit.supplies[0]
    if not isinstance(main, Supply) or not isinstance(main.source, Cell):
        return
    for share in USED_TO:
        volts = float(main.open_v(np.array([share]))[0])
        words = f"the cells are used: about {volts:.1f} V open instead of {main.volts:.1f}"
        yield Common(words, replace(circuit, used=share), used=True)
    if main.cells > 1:
        fewer = replace(main, cells=main.cells - 1)
        supplies = tuple((k, fewer if k == key else s) for k, s in circuit.supplies)
        words = f"one of the {main.cells} cells gives nothing: read the volts of each"
        yield Common(words, replace(circuit, supplies=supplies))


def _dark_strands(branch: Branch) -> Iterator[Fault]:
    """Strands side by side of which some do not light: a lamp turned, dead, or a joint open in each."""
    for count in range(1, len(branch.strands)):
        # Those that differ: a strand of each kind may be the one.
        for strands in dict.fromkeys((branch.strands[count:], branch.strands[:-count])):
            which = "one strand is" if count == 1 else f"{count} strands are"
            rare = 0.0 if count == 1 else RARE
            yield Fault(f"as if {which} not lit", replace(branch, strands=strands), darkens=True, rare=rare)


def _dark_pieces(circuit: Circuit, branch: Branch) -> Iterator[Fault]:
    """Pieces of a strip of which some do not light."""
    for use in dict.fromkeys(u for s in branch.strands for u in s.lamps):
        kind = circuit.kind(use.kind)
        if kind.strip is None:
            continue
        for left in range(1, kind.pieces):
            less = replace(kind, id=f"{kind.id} of {left}", strip_mm=left * kind.strip.piece_mm)
            strands = tuple(_swapped(s, use, less.id, 0) for s in branch.strands)
            words = f"as if {kind.pieces - left} of its {kind.pieces} pieces of strip were not lit"
            yield Fault(words, replace(branch, strands=strands), darkens=True, kinds=(less,))


def _bridged(branch: Branch) -> Iterator[Fault]:
    for place, strand in enumerate(branch.strands):
        if len(strand.lamps) > 1:
            for lamps in dict.fromkeys((strand.lamps[1:], strand.lamps[:-1])):
                less = replace(strand, lamps=lamps)
                words = "as if one lamp of the row were bridged by solder"
                yield Fault(words, _with_strand(branch, place, less), darkens=True, rare=RARE)


def _shorted(circuit: Circuit, branch: Branch) -> Iterator[Fault]:
    """Plus and minus touch behind the resistor."""
    fed_by = circuit.supply_of(branch)[1]
    ohm = (branch.ohm or 0.0) + min((s.ohm for s in branch.strands), default=0.0)
    if ohm and isinstance(fed_by, Supply):
        ma = 1000 * fed_by.volts / (ohm + float(fed_by.ohm(np.zeros(1))[0]))
        yield Fault("as if + and − touched behind the resistor", None, darkens=True, rare=RARE, ma=ma)


def _other_resistor(branch: Branch) -> Iterator[Fault]:
    own = max((s.ohm for s in branch.strands), default=0.0)
    ohm = branch.ohm or own
    if not ohm:
        return
    for times in (*TENFOLD, *NEAR_BY):
        rare = RARE if times in TENFOLD else RARER
        words = f"as with a resistor of about {float(f'{ohm * times:.2g}'):g} Ω instead of {ohm:g} Ω"
        yield Fault(words, _with_ohm(branch, times), rare=rare, alike="resistor")
    if ohm > 20:
        yield Fault("as if the resistor were bridged", _with_ohm(branch, 0.0), rare=RARE)


def _other_colour(circuit: Circuit, branch: Branch) -> Iterator[Fault]:
    """A lamp of another chemistry in the row: 2 V where 3 V were meant, or the other way."""
    for use in dict.fromkeys(u for s in branch.strands for u in s.lamps):
        kind = circuit.kind(use.kind)
        if kind.strip or kind.package.startswith("strip"):
            continue
        other: LedColour = "red" if FAMILIES[kind.colour].volts[0] > LOW_V else "white"
        curve = fit(other, kind.package, (Point(USUAL_VOLTS[other], 20.0),))
        swapped = replace(kind, id=f"{kind.id} as {other}", colour=other, curve=curve)
        for count in (1, 0):
            strands = tuple(_swapped(s, use, swapped.id, count) for s in branch.strands)
            which = "one lamp" if count else "its lamps"
            words = f"as if {which} were of {'2' if other == 'red' else '3'} V instead of {kind.name}"
            changed = replace(branch, strands=strands if not count else (strands[0], *branch.strands[1:]))
            yield Fault(words, changed, darkens=True, rare=RARE, kinds=(swapped,))


def _swapped(strand: Strand, use: LampUse, other: str, count: int) -> Strand:
    """A strand with the first (count 1) or all (0) of its lamps of a kind swapped."""
    lamps, left = [], count or len(strand.lamps)
    for lamp in strand.lamps:
        mine = lamp == use and left > 0
        lamps.append(LampUse(other) if mine else lamp)
        left -= mine
    return replace(strand, lamps=tuple(lamps))


def _with_ohm(branch: Branch, times: float) -> Branch:
    if branch.ohm:
        return replace(branch, ohm=branch.ohm * times)
    first = branch.strands[0]
    return _with_strand(branch, 0, replace(first, ohm=first.ohm * times))


def _with_strand(branch: Branch, place: int, strand: Strand) -> Branch:
    return replace(branch, strands=(*branch.strands[:place], strand, *branch.strands[place + 1 :]))
