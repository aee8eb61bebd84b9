"""Test gates: what each branch should draw, and which faults explain readings that are off.

All readings of one gate are judged together: cells that are used up show in every branch, a turned lamp in one.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final, Literal

from chalkreel.core.light.circuit import Branch, Circuit, LampKind
from chalkreel.core.light.cures import put_right
from chalkreel.core.light.faults import Fault, common_faults, faults_of
from chalkreel.core.light.lit import Lit, lit

# A closed hull draws the same as it did open, within this share.
SAME: Final = 0.05
METER: Final = 0.02  # of the reading, 95 %
METER_MA: Final = 0.02  # last digit of a meter at 20 mA
# A fault explains readings that lie within so many of its σ; one so much further off than the best is not told.
EXPLAINS, AS_WELL = 2.5, 4.0
TOLD: Final = 2


@dataclass(frozen=True)
class Expected:
    """mA of one branch (all its strands together, one of its repeats) and its 95 % ±, the meter's own counted."""

    branch: int
    ma: float
    plus_minus: float


Verdict = Literal["right", "fits", "off"]


@dataclass(frozen=True)
class Judged:
    """A reading against what was expected, and what would explain it: two causes at most, the likelier first.

    One that "fits" would also be read with a lamp dark or of another colour: what a meter cannot tell, an eye can.
    """

    verdict: Verdict
    words: str
    causes: tuple[str, ...] = ()


def expected(circuit: Circuit) -> tuple[Expected, ...]:
    """What the meter should show in each branch with fresh cells, every lamp the right way round."""
    circuit = put_right(circuit)
    found = lit(circuit)
    drawn = {n: _drawn(circuit, found, n) for n in range(len(circuit.branches))}
    sure = found.branch_sigma_ma
    return tuple(
        Expected(n, ma, math.hypot(2 * sure[n], METER * ma) + METER_MA) for n, ma in drawn.items() if ma is not None
    )


def judged(circuit: Circuit, read_ma: Mapping[int, float]) -> dict[int, Judged]:
    """Readings of branches at one gate, by branch: which are right, and which faults would give those that are not."""
    circuit = put_right(circuit)
    wanted = {e.branch: e for e in expected(circuit)}
    known = {n: ma for n, ma in read_ma.items() if n in wanted}
    right = {n for n, ma in known.items() if abs(ma - wanted[n].ma) <= wanted[n].plus_minus}
    made = {n: Judged("off", "This branch has no lamp.") for n in read_ma if n not in wanted}
    common = _common(circuit, wanted, known, right) if len(right) < len(known) else None
    for n, ma in known.items():
        said = f"{ma:g} mA, expected {wanted[n].ma:.1f} ± {wanted[n].plus_minus:.1f} mA"
        hidden = _found(circuit, wanted[n], ma, hidden=True) if n in right else ()
        if n in right:
            made[n] = Judged("fits" if hidden else "right", f"{said}: {_right_words(hidden)}", hidden)
        else:
            causes = (common,) if common else _found(circuit, wanted[n], ma)
            lead = " or ".join(causes) if causes else "no single fault explains it: look at solder, polarity, resistor"
            made[n] = Judged("off", f"{said}: {lead}.", causes)
    return made


def after_closing(before_ma: float, after_ma: float) -> Judged:
    """The same branch, measured again with the hull closed."""
    if abs(after_ma - before_ma) <= SAME * before_ma:
        return Judged("right", f"{after_ma:g} mA as before ({before_ma:g}): nothing is pinched.")
    word = "a wire is pinched or has come off" if after_ma < before_ma else "two wires touch"
    return Judged("off", f"{after_ma:g} mA, and it was {before_ma:g}: {word}. Open it before the glue sets.")


def _right_words(hidden: tuple[str, ...]) -> str:
    if not hidden:
        return "as it should be."
    return f"it fits, but a meter would read the same {' or '.join(hidden)}: look that each lamp lights as meant."


def _common(
    circuit: Circuit, wanted: Mapping[int, Expected], known: Mapping[int, float], right: set[int]
) -> str | None:  # fmt: skip
    """A fault of the supply that explains every reading, where more than one is off, or all that there are."""
    if len(known) - len(right) < min(2, len(circuit.branches)):
        return None
    best: tuple[float, str] | None = None
    for fault in common_faults(circuit):
        found = lit(fault.circuit)
        drawn = {n: _drawn(fault.circuit, found, n, fault.used) or 0.0 for n in known}
        misses = [_miss(wanted[n], drawn[n], ma) for n, ma in known.items()]
        if max(misses) <= EXPLAINS and (best is None or sum(misses) < best[0]):
            best = sum(misses), fault.words
    return best[1] if best else None


def _found(circuit: Circuit, wanted: Expected, read_ma: float, hidden: bool = False) -> tuple[str, ...]:
    """What would make a branch draw what was read; with `hidden` only faults that leave a lamp dark or unlike."""
    close: list[tuple[float, str, str]] = []
    for fault in _drawn_faults(circuit, wanted.branch):
        if hidden and not fault[1].darkens:
            continue
        miss = _miss(wanted, fault[0], read_ma)
        if miss <= (1.0 if hidden else EXPLAINS):
            close.append((miss + fault[1].rare, fault[1].words, fault[1].alike or fault[1].words))
    close.sort()
    kept: dict[str, str] = {}
    for miss, words, alike in close:
        if miss <= close[0][0] + AS_WELL:
            kept.setdefault(alike, words)
    return tuple(kept.values())[:TOLD]


def _drawn_faults(circuit: Circuit, number: int) -> Iterator[tuple[float, Fault]]:
    for fault in faults_of(circuit, number):
        if fault.branch is None:
            yield fault.ma, fault
            continue
        changed = _with(circuit, number, fault.branch, fault.kinds)
        yield _drawn(changed, lit(changed), number) or 0.0, fault


def _miss(wanted: Expected, ma: float, read_ma: float) -> float:
    """By how many σ a reading misses what a fault would give; known as surely by its ratio as the right one is."""
    sigma = wanted.plus_minus / 2 * (ma / wanted.ma if wanted.ma > 0 else 1.0)
    return abs(read_ma - ma) / (math.hypot(sigma, METER / 2 * read_ma) + METER_MA)


def _drawn(circuit: Circuit, found: Lit, number: int, used: bool = False) -> float | None:
    """What one repeat of a branch draws, mA; with `used` once the cells are used as far as the circuit asks."""
    lamps = [a for a in found.of_branch(number) if a.place == 0]
    if not lamps:
        return None
    return sum((a.used_ma if used else a.ma) * circuit.kind(a.kind).pieces for a in lamps)


def _with(circuit: Circuit, number: int, branch: Branch, kinds: Sequence[LampKind]) -> Circuit:
    branches = (*circuit.branches[:number], branch, *circuit.branches[number + 1 :])
    return replace(circuit, branches=branches, kinds=(*circuit.kinds, *kinds))
