"""Changes to a circuit that cure a finding; each gives a whole new circuit, to be shown before it is taken."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

import numpy as np

from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Branch, Circuit, LampUse, StepUp, Strand
from chalkreel.core.light.design import row_volts
from chalkreel.core.light.kinds import DriverKind


def turned(circuit: Circuit, number: int, strand: int, place: int) -> Circuit:
    """One lamp of a branch the other way round."""
    branch = circuit.branches[number]
    lamps = list(branch.strands[strand].lamps)
    lamps[place] = LampUse(lamps[place].kind, not lamps[place].turned)
    return _put(circuit, number, replace(branch, strands=_strands(branch, strand, tuple(lamps))))


def put_right(circuit: Circuit) -> Circuit:
    """No lamp turned: the circuit as it is meant."""
    branches = tuple(
        replace(b, strands=tuple(replace(s, lamps=tuple(replace(u, turned=False) for u in s.lamps)) for s in b.strands))
        for b in circuit.branches
    )
    return replace(circuit, branches=branches)


def resistor_chosen(circuit: Circuit, number: int) -> Circuit:
    """The branch's resistor left to the program again; resistors of its own strands stay."""
    return _put(circuit, number, replace(circuit.branches[number], ohm=None))


def resistors_chosen(circuit: Circuit, key: str) -> Circuit:
    """The same for all branches on a supply."""
    branches = tuple(replace(b, ohm=None) if circuit.supply_of(b)[0] == key else b for b in circuit.branches)
    return replace(circuit, branches=branches)


def own_resistors(circuit: Circuit, number: int) -> Circuit:
    """Each strand of a branch as a branch behind a resistor of its own."""
    branch = circuit.branches[number]
    made: list[Branch] = []
    for s, strand in enumerate(branch.strands):
        alone = Strand(strand.lamps)
        if made and made[-1].strands == (alone,):
            made[-1] = replace(made[-1], times=made[-1].times + branch.times)
        else:
            key = branch.id if s == 0 else f"{branch.id}-{s}"
            made.append(replace(branch, id=key, strands=(alone,), ohm=None, pitch_mm=0.0))
    return replace(circuit, branches=circuit.branches[:number] + tuple(made) + circuit.branches[number + 1 :])


def shorter_rows(circuit: Circuit, number: int) -> Circuit:
    """The lamps of a branch in rows half as long, each row behind a resistor of its own."""
    branch = circuit.branches[number]
    made: list[Branch] = []
    for strand in branch.strands:
        half = max(1, len(strand.lamps) // 2)
        for start in range(0, len(strand.lamps), half):
            row = Strand(strand.lamps[start : start + half])
            if made and made[-1].strands == (row,):
                made[-1] = replace(made[-1], times=made[-1].times + branch.times)
            else:
                key = branch.id if not made else f"{branch.id}-{len(made)}"
                made.append(replace(branch, id=key, strands=(row,), ohm=None, pitch_mm=0.0))
    return replace(circuit, branches=circuit.branches[:number] + tuple(made) + circuit.branches[number + 1 :])


def alone(circuit: Circuit, number: int, strand: int, place: int) -> Circuit:
    """One lamp taken out of its row into a branch of its own, as a flashing lamp wants it."""
    branch = circuit.branches[number]
    lamps = branch.strands[strand].lamps
    rest = lamps[:place] + lamps[place + 1 :]
    own = replace(branch, id=f"{branch.id}-own", strands=(Strand((lamps[place],)),), ohm=None, pitch_mm=0.0)
    kept = replace(branch, strands=_strands(branch, strand, rest), ohm=None) if rest else None
    made = (kept, own) if kept else (own,)
    return replace(circuit, branches=circuit.branches[:number] + made + circuit.branches[number + 1 :])


def on_supply(circuit: Circuit, key: str, supply: Supply) -> Circuit:
    """Another supply in the place of one, and all resistors chosen anew for it."""
    supplies = tuple((k, supply if k == key else s) for k, s in circuit.supplies)
    return replace(resistors_chosen(circuit, key), supplies=supplies)


MODULE: Final = "module"
MODULE_V: Final = 12.0


def on_one_supply(circuit: Circuit) -> Circuit:
    """Everything on the main supply; what needs more volts than it keeps hangs on a step-up module."""
    key, main = circuit.supplies[0]
    kept = main.volts if isinstance(main, StepUp) else float(main.open_v(np.array([circuit.used]))[0])
    branches = []
    for branch in circuit.branches:
        if circuit.supply_of(branch)[0] == key or isinstance(circuit.supply_of(branch)[1], StepUp):
            branches.append(branch)
            continue
        needs = max(row_volts(circuit, s, min(circuit.kind(u.kind).wanted_ma for u in s.lamps)) for s in branch.strands)
        branches.append(replace(branch, supply="" if needs < kept else MODULE, ohm=None))
    supplies = tuple((k, s) for k, s in circuit.supplies if k == key or isinstance(s, StepUp))
    if any(b.supply == MODULE for b in branches):
        supplies = (*supplies, (MODULE, StepUp(MODULE_V, key)))
    return replace(circuit, supplies=supplies, branches=tuple(branches))


def fused(circuit: Circuit, key: str, fuse_ma: float) -> Circuit:
    """A resettable fuse at a supply."""
    supplies = tuple(
        (k, replace(s, fuse_ma=fuse_ma) if k == key and isinstance(s, Supply) else s) for k, s in circuit.supplies
    )
    return replace(circuit, supplies=supplies)


def driven_by(circuit: Circuit, key: str, kind: DriverKind) -> Circuit:
    """Another stage behind a pin that has too much to carry."""
    drivers = tuple(replace(d, kind=kind) if d.id == key else d for d in circuit.drivers)
    branches = tuple(replace(b, ohm=None) if b.driver == key else b for b in circuit.branches)
    return replace(circuit, drivers=drivers, branches=branches)


def _put(circuit: Circuit, number: int, branch: Branch) -> Circuit:
    return replace(circuit, branches=(*circuit.branches[:number], branch, *circuit.branches[number + 1 :]))


def _strands(branch: Branch, strand: int, lamps: tuple[LampUse, ...]) -> tuple[Strand, ...]:
    new = replace(branch.strands[strand], lamps=lamps)
    return (*branch.strands[:strand], new, *branch.strands[strand + 1 :])
