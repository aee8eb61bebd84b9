"""Fills in what a plan leaves open: which resistor each branch gets, and how many lamps stand in a row.

Resistors are chosen by the light they give with fresh cells. Rows are chosen for what is left of it when the cells are
part used: the stiffer a row, the less it fades; the longer, the fewer mA. Both are shown; this is only where to start.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Final

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.circuit import Branch, Circuit, LampKind, LampUse, Strand
from chalkreel.core.light.lamps import VISIBLE_MA
from chalkreel.core.light.lit import Lit, lit
from chalkreel.core.light.resistors import around, nearest_ohm
from chalkreel.core.light.run_time import SHARES, RunTime, run_times

_ROUNDS: Final = 5
LONGEST_ROW: Final = 12


def filled(circuit: Circuit) -> Circuit:
    """The circuit with a resistor of its drawer in every branch that left it open; 0 where the volts are too few.

    Raises
    ------
    RefusedError
        What no wiring can be, or what does not settle.
    """
    open_ones = {i for i, b in enumerate(circuit.branches) if b.ohm is None and b.strands}
    if not open_ones:
        return circuit
    ohm = {i: _first_guess(circuit, circuit.branches[i]) for i in open_ones}
    for _ in range(_ROUNDS):
        found = lit(_with(circuit, ohm))
        ohm = {i: _nearer(circuit, found, i, ohm[i]) for i in open_ones}
    return _rounded(circuit, ohm)


def _with(circuit: Circuit, ohm: dict[int, float]) -> Circuit:
    branches = tuple(replace(b, ohm=ohm[i]) if i in ohm else b for i, b in enumerate(circuit.branches))
    return replace(circuit, branches=branches)


def _wanted_ma(circuit: Circuit, branch: Branch, strand: int = 0) -> float:
    """What the lamps of a strand want: in a row the least of them, so that none is over its own."""
    return min(circuit.kind(use.kind).wanted_ma for use in branch.strands[strand].lamps)


def _first_guess(circuit: Circuit, branch: Branch) -> float:
    supply = circuit.supply_of(branch)[1]
    ma = _wanted_ma(circuit, branch)
    needs = row_volts(circuit, branch.strands[0], ma)
    total = sum(_strand_ma(circuit, branch, s) for s in range(len(branch.strands)))
    return max(0.0, (supply.volts - needs) / (total / 1000))


def _strand_ma(circuit: Circuit, branch: Branch, strand: int) -> float:
    lamps = branch.strands[strand].lamps
    return _wanted_ma(circuit, branch, strand) * max(circuit.kind(use.kind).pieces for use in lamps)


def row_volts(circuit: Circuit, strand: Strand, ma: float) -> float:
    """What a strand needs across it at a current, its own resistors counted."""
    total = strand.ohm * ma / 1000
    for use in strand.lamps:
        kind = circuit.kind(use.kind)
        count, own = (kind.strip.lamps, kind.strip.ohm) if kind.strip else (1, 0.0)
        total += count * kind.curve.volts_at(ma) + (kind.own_ohm + own) * ma / 1000
    return total


def _nearer(circuit: Circuit, found: Lit, number: int, ohm: float) -> float:
    """A step to the wanted current by the row's stiffness; the weakest lamp of several strands counts."""
    lamps = [a for a in found.of_branch(number) if a.place == 0]
    branch = circuit.branches[number]
    total = sum(a.ma * circuit.kind(a.kind).pieces for a in lamps)
    wanted = sum(_strand_ma(circuit, branch, a.strand) for a in lamps)
    if total < 1e-3 * wanted or any(use.turned for s in branch.strands for use in s.lamps):
        return ohm
    stiffness = max(0.05, *(a.stiffness_v for a in lamps))
    return min(max(0.0, ohm + stiffness * math.log(total / wanted) / (wanted / 1000)), 1e7)


def _rounded(circuit: Circuit, ohm: dict[int, float]) -> Circuit:
    """The drawer's resistors: of those around, the one whose light comes nearest."""
    chosen: dict[int, float] = {}
    exact = lit(_with(circuit, ohm))
    for i, wanted in ohm.items():
        lamp = next(iter(exact.of_branch(i)), None)
        if wanted < 1 or lamp is None or lamp.ma < 1e-6:
            chosen[i] = 0.0 if wanted < 1 else around(wanted, circuit.drawer, circuit.own_ohms)[0]
            continue
        total = sum(_strand_ma(circuit, circuit.branches[i], s) for s in range(len(circuit.branches[i].strands)))
        # I falls by I·ΔR/D: to first order in the logarithm.
        gives = {
            r: lamp.ma * math.exp(-(r - wanted) * total / 1000 / max(lamp.stiffness_v, 0.05))
            for r in around(wanted, circuit.drawer, circuit.own_ohms)
        }
        chosen[i] = nearest_ohm(gives, lamp.ma)
    return _with(circuit, chosen)


def rows_of(kind: LampKind, count: int, in_row: int, key: str = "") -> tuple[Branch, ...]:
    """So many lamps in rows of so many, the rest in a shorter one; resistors left open."""
    full, rest = divmod(count, in_row)
    made = []
    for size, times in ((in_row, full), (rest, 1)):
        if size and times:
            strand = Strand((LampUse(kind.id),) * size)
            suffix = "" if size == in_row or not full else "rest"
            made.append(Branch(f"{key or kind.id}{suffix}", kind.name, (strand,), None, times))
    return tuple(made)


@dataclass(frozen=True)
class Option:
    """One way to wire: what is left of the light when cells are 60 % used, hours, mA, heat, resistors.

    `half_h` None where the supply does not run down; `lit` False where a lamp stays dark even when fresh, `lasts` False
    where one is dark before the cells are used as far as the circuit asks.
    """

    circuit: Circuit
    in_row: int
    kept: float
    half_h: float | None
    ma: float
    heat_w: float
    resistors: int
    lit: bool
    lasts: bool


KEPT_AT: Final = 0.6
# A plan that keeps so much of its light is good enough to be chosen for its hours.
KEPT_WELL: Final = 0.5


def weighed(circuit: Circuit, in_row: int = 0) -> Option:
    """What a whole circuit gives, its open choices filled.

    Raises
    ------
    RefusedError
        What no wiring can be, or what does not settle.
    """
    whole = filled(circuit)
    found = lit(whole)
    times = run_times(whole)
    half = min((t.half for t in times if t.half is not None), default=None)
    drawn = next((s for s in found.supplies), None)
    heat = sum(w * b.times for w, b in zip(found.resistor_w, whole.branches, strict=True))
    count = sum(b.times * ((b.ohm or 0) > 0) + b.times * sum(s.ohm > 0 for s in b.strands) for b in whole.branches)
    all_lit = all(a.ma >= 0.1 * whole.kind(a.kind).wanted_ma for a in found.lamps)
    lasts = all(a.used_ma >= VISIBLE_MA for a in found.lamps)
    return Option(whole, in_row, _kept_light(times), half, drawn.mean_ma if drawn else 0.0, heat, count, all_lit, lasts)


def _kept_light(times: tuple[RunTime, ...]) -> float:
    """Light of the lamp that fades most, with cells used to `KEPT_AT`, against fresh ones."""
    if not times:
        return 1.0
    place = int(abs(SHARES - KEPT_AT).argmin())
    return min(t.light[place] for t in times)


def row_options(circuit: Circuit, kind: LampKind, count: int) -> tuple[Option, ...]:
    """Rows of one, two, … of a kind added to a circuit, as far as the supply's fresh volts reach."""
    if not circuit.supplies:
        return ()
    volts = circuit.supplies[0][1].volts
    found = []
    for in_row in range(1, min(count, LONGEST_ROW) + 1):
        needs = row_volts(circuit, Strand((LampUse(kind.id),) * in_row), kind.wanted_ma)
        if in_row > 1 and (needs >= volts or kind.flashing or kind.strip):
            break
        branches = (*circuit.branches, *rows_of(kind, count, in_row))
        try:
            found.append(weighed(replace(circuit, branches=branches), in_row))
        except RefusedError:
            break
    return tuple(found)


def best_of(options: tuple[Option, ...]) -> Option | None:
    """Of ways that keep the light well the one of fewest mA, else the one that keeps most; those that last first."""
    lit_ones = [o for o in options if o.lit and o.lasts] or [o for o in options if o.lit]
    if not lit_ones:
        return options[0] if options else None
    well = [o for o in lit_ones if o.kept >= KEPT_WELL]
    return min(well, key=lambda o: o.ma) if well else max(lit_ones, key=lambda o: o.kept)
