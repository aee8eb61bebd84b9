"""The build's circuit: branches as they are wired, and rows that the program plans for lamps in none."""

from __future__ import annotations

from dataclasses import dataclass, replace

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import Supply, supply
from chalkreel.core.light.circuit import (
    Branch,
    Circuit,
    Driver,
    LampKind,
    LampUse,
    StepUp,
    Strand,
)
from chalkreel.core.light.design import best_of, row_options, rows_of
from chalkreel.core.light.lamps import Point, fit
from chalkreel.document.light_entities import (
    LIGHT_PLAN_ID,
    SUPPLY_ID,
    Lamp,
    LightBranch,
    LightDriver,
    LightPlan,
    PowerSupply,
)
from chalkreel.document.snapshot import Build

# Ids of branches that the program plans begin so; no entity has such an id.
PLANNED = "planned:"


@dataclass(frozen=True)
class BuildCircuit:
    """The circuit with the resistors that it leaves open; `planned` are the ids of branches that nobody wired yet."""

    circuit: Circuit
    planned: frozenset[str]


def lamp_kind(lamp: Lamp) -> LampKind:
    """A lamp as an electrical part.

    Raises
    ------
    RefusedError
        Its sheet's figures are no lamp's.
    """
    points = (Point(lamp.forward_volts, lamp.sheet_ma), *(Point(p.volts, p.ma, p.bench) for p in lamp.points))
    try:
        curve = fit(lamp.colour, lamp.package, points)
    except RefusedError as refusal:
        raise RefusedError(f"“{lamp.name}”: {refusal}") from refusal
    return LampKind(
        lamp.id, lamp.name, lamp.colour, lamp.package, curve, lamp.current_ma, lamp.flashing, lamp.own_ohm,
        lamp.strip_mm or (50.0 if lamp.package.startswith("strip") else 0.0), lamp.assembly,
    )  # fmt: skip


def supplies_of(build: Build) -> tuple[tuple[str, Supply | StepUp], ...]:
    """The main supply first; a module makes its volts from that one.

    Raises
    ------
    RefusedError
        More cells than such holders take.
    """
    found = sorted(build.all(PowerSupply), key=lambda s: s.id != SUPPLY_ID)
    made: list[tuple[str, Supply | StepUp]] = []
    if not found or found[0].id != SUPPLY_ID:
        made.append((SUPPLY_ID, supply("AA cells", 3)))
    for entity in found:
        if entity.step_up_v:
            made.append((entity.id, StepUp(entity.step_up_v, made[0][0])))
        else:
            made.append(
                (entity.id, supply(entity.supply_kind, entity.cells, entity.rows, entity.fuse_ma, entity.label_mah))
            )
    return tuple(made)


def wired(branch: LightBranch) -> Branch:
    """A branch of the build as a branch of the circuit."""
    strands = tuple(Strand(tuple(LampUse(u.lamp_id, u.turned) for u in s.lamps), s.ohm) for s in branch.strands)
    return Branch(
        branch.id, branch.name, strands, branch.ohm, branch.times, branch.supply_id, branch.driver_id, branch.wire,
        branch.wire_mm, branch.pitch_mm,
    )  # fmt: skip


def used_in(branches: tuple[LightBranch, ...], lamp_id: str) -> int:
    """How many lamps of a kind stand in branches."""
    return sum(b.times * sum(u.lamp_id == lamp_id for s in b.strands for u in s.lamps) for b in branches)


def circuit_of(build: Build) -> BuildCircuit:
    """Everything wired, and rows for what is not.

    Raises
    ------
    RefusedError
        A lamp, supply or branch that cannot be.
    """
    plan = build.get(LightPlan, LIGHT_PLAN_ID) or LightPlan(id=LIGHT_PLAN_ID)
    lamps = build.all(Lamp)
    branches = build.all(LightBranch)
    drivers = tuple(Driver(d.id, d.name, d.driver_kind, d.pin, d.duty) for d in build.all(LightDriver))
    kinds = tuple(lamp_kind(a) for a in lamps)
    main = build.get(PowerSupply, SUPPLY_ID) or PowerSupply(id=SUPPLY_ID)
    bare = Circuit(supplies_of(build), kinds, (), drivers, plan.drawer, plan.own_ohms, main.switch, plan.used)
    planned = [b for lamp in lamps for b in _planned(bare, lamp, lamp.count - used_in(branches, lamp.id))]
    whole = replace(bare, branches=(*(wired(b) for b in branches if b.strands), *planned))
    return BuildCircuit(whole, frozenset(b.id for b in planned))


def _planned(bare: Circuit, lamp: Lamp, count: int) -> tuple[Branch, ...]:
    """Rows for lamps that stand in no branch: as many in a row as was said, or as serves best on this supply."""
    if count < 1:
        return ()
    kind = bare.kind(lamp.id)
    if lamp.series is not None:
        return rows_of(kind, count, min(lamp.series, count), f"{PLANNED}{lamp.id}")
    best = best_of(row_options(bare, kind, count))
    return rows_of(kind, count, best.in_row if best is not None else 1, f"{PLANNED}{lamp.id}")
