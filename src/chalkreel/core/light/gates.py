"""Test gates: what each branch should draw, and what a reading that is off tells."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final

from chalkreel.core.light.circuit import Branch, Circuit
from chalkreel.core.light.cures import put_right, turned
from chalkreel.core.light.lit import lit

# A closed hull draws the same as it did open, within this share.
SAME: Final = 0.05
_METER: Final = 0.02  # of the reading, 95 %
_NEAR: Final = 0.2


@dataclass(frozen=True)
class Expected:
    """mA of one branch (all its strands together, one of its repeats) and its 95 % ±."""

    branch: int
    ma: float
    plus_minus: float


@dataclass(frozen=True)
class Judged:
    """A reading against what was expected, and what would explain it."""

    right: bool
    words: str


def expected(circuit: Circuit) -> tuple[Expected, ...]:
    """What the meter should show in each branch with fresh cells, every lamp the right way round."""
    circuit = put_right(circuit)
    found = lit(circuit)
    made = []
    for number in range(len(circuit.branches)):
        lamps = [a for a in found.of_branch(number) if a.place == 0]
        if lamps:
            pieces = [circuit.kind(a.kind).pieces for a in lamps]
            ma = sum(a.ma * n for a, n in zip(lamps, pieces, strict=True))
            sigma = sum(a.sigma_ma * n for a, n in zip(lamps, pieces, strict=True))
            made.append(Expected(number, ma, 2 * sigma))
    return tuple(made)


def judged(circuit: Circuit, number: int, read_ma: float) -> Judged:
    """Whether a reading is right, and if not, which one fault would give it."""
    circuit = put_right(circuit)
    wanted = next((e for e in expected(circuit) if e.branch == number), None)
    if wanted is None:
        return Judged(False, "This branch has no lamp.")
    off = abs(read_ma - wanted.ma)
    said = f"expected {wanted.ma:.1f} ± {wanted.plus_minus:.1f} mA"
    if off <= wanted.plus_minus + _METER * read_ma:
        return Judged(True, f"{read_ma:g} mA, {said}: as it should be.")
    close = [
        (abs(ma - read_ma) / max(read_ma, 0.05), words)
        for ma, words in _faults(circuit, number)
        if abs(ma - read_ma) <= max(_NEAR * read_ma, 0.05) and abs(ma - read_ma) < off
    ]
    cause = min(close)[1] if close else "no single fault explains it: look at solder, polarity and resistor"
    return Judged(False, f"{read_ma:g} mA, {said}: {cause}.")


def after_closing(before_ma: float, after_ma: float) -> Judged:
    """The same branch, measured again with the hull closed."""
    if abs(after_ma - before_ma) <= SAME * before_ma:
        return Judged(True, f"{after_ma:g} mA as before ({before_ma:g}): nothing is pinched.")
    word = "a wire is pinched or has come off" if after_ma < before_ma else "two wires touch"
    return Judged(False, f"{after_ma:g} mA, and it was {before_ma:g}: {word}. Open it before the glue sets.")


def _faults(circuit: Circuit, number: int) -> Iterator[tuple[float, str]]:
    """What the branch draws with one thing wrong."""
    branch = circuit.branches[number]
    yield 0.0, "nothing flows: a wire is off, or a lamp sits the wrong way round"
    for count in range(1, len(branch.strands)):
        left = replace(branch, strands=branch.strands[count:])
        rows = "one strand is" if count == 1 else f"{count} strands are"
        yield _drawn(circuit, number, left), f"as if {rows} not lit"
    longest = max(range(len(branch.strands)), key=lambda s: len(branch.strands[s].lamps))
    lamps = branch.strands[longest].lamps
    if len(lamps) > 1:
        strand = replace(branch.strands[longest], lamps=lamps[1:])
        bridged = replace(branch, strands=(*branch.strands[:longest], strand, *branch.strands[longest + 1 :]))
        yield _drawn(circuit, number, bridged), "as if one lamp of the row were bridged by solder"
    if len(branch.strands) > 1:
        yield (
            _drawn(circuit, number, turned(circuit, number, 0, 0).branches[number]),
            "as if one lamp were turned round",
        )
    if branch.ohm:
        yield _drawn(circuit, number, replace(branch, ohm=branch.ohm * 10)), "as with a resistor of ten times the ohms"
        yield _drawn(circuit, number, replace(branch, ohm=branch.ohm / 10)), "as with a resistor of a tenth of the ohms"
        if branch.ohm > 20:
            yield _drawn(circuit, number, replace(branch, ohm=0.0)), "as if the resistor were bridged"


def _drawn(circuit: Circuit, number: int, branch: Branch) -> float:
    branches = (*circuit.branches[:number], branch, *circuit.branches[number + 1 :])
    changed = replace(circuit, branches=branches)
    lamps = [a for a in lit(changed).of_branch(number) if a.place == 0]
    return sum(a.ma * changed.kind(a.kind).pieces for a in lamps)
