"""Wiring by hand: lamps taken into branches, turned, moved; and a change of the whole circuit as edits."""

from __future__ import annotations

from typing import Final, Literal

import msgspec

from chalkreel.answers.circuit import PLANNED, used_in
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Branch, Circuit, StepUp
from chalkreel.document.changes import Edits
from chalkreel.document.entity import new_id
from chalkreel.document.light_entities import (
    SUPPLY_ID,
    Lamp,
    LightBranch,
    LightDriver,
    PowerSupply,
    WiredLamp,
    WiredStrand,
)
from chalkreel.document.snapshot import Build

Layout = Literal["in a row", "each alone", "side by side behind one resistor", "ladder on a pair of wires"]
LAYOUTS: Final[tuple[Layout, ...]] = (
    "each alone", "in a row", "side by side behind one resistor", "ladder on a pair of wires",
)  # fmt: skip
LADDER_MM: Final = 20.0


def new_branches(build: Build, lamp: Lamp, layout: Layout) -> Edits:
    """The lamps of a kind that stand in no branch yet, wired in one of the usual ways.

    Raises
    ------
    RefusedError
        All of them are wired.
    """
    count = lamp.count - used_in(build.all(LightBranch), lamp.id)
    if count < 1:
        raise RefusedError(f"All {lamp.count} of “{lamp.name}” stand in branches: raise their number, or move one.")
    one = WiredLamp(lamp_id=lamp.id)
    alone = WiredStrand(lamps=(one,))
    if layout == "in a row":
        made = LightBranch(id=new_id(), name=lamp.name, strands=(WiredStrand(lamps=(one,) * count),))
    elif layout == "each alone":
        made = LightBranch(id=new_id(), name=lamp.name, strands=(alone,), times=count)
    elif layout == "side by side behind one resistor":
        made = LightBranch(id=new_id(), name=lamp.name, strands=(alone,) * count)
    else:
        made = LightBranch(
            id=new_id(), name=lamp.name, strands=(alone,) * count, wire="hair 0.1", wire_mm=100.0, pitch_mm=LADDER_MM
        )
    return {made.id: made}


def turned_lamp(branch: LightBranch, strand: int, place: int) -> Edits:
    """One lamp the other way round, in one of the branches where several are alike."""
    lamps = list(branch.strands[strand].lamps)
    lamps[place] = msgspec.structs.replace(lamps[place], turned=not lamps[place].turned)
    return _one_changed(branch, _with_lamps(branch, strand, tuple(lamps)))


def moved_lamp(build: Build, circuit: Circuit, at: tuple[int, int, int], to: int | None) -> Edits:
    """A lamp taken out of one branch of a solved circuit and put at the end of the first row of another, or (None) into
    a branch of its own; of several alike, one changes.

    `at` are the numbers of its branch, strand and place. Rows that the program planned are taken in hand first, with
    their resistors left open.
    """
    numbers = [n for n in (at[0], to) if n is not None]
    taken = _taken_in_hand(build, circuit, numbers)
    source, strand, place = taken[circuit.branches[at[0]].id], at[1], at[2]
    lamps = source.strands[strand].lamps
    left = _with_lamps(source, strand, lamps[:place] + lamps[place + 1 :])
    if to is None:
        goal = _branch_of_one(build, source, lamps[place])
        grown: Edits = {goal.id: goal}
    else:
        goal = taken[circuit.branches[to].id]
        grown = _one_changed(goal, _with_lamps(goal, 0, (*goal.strands[0].lamps, lamps[place])))
    fresh: Edits = {b.id: b for b in taken.values() if b.id not in build.entities}
    return {key: entity for key, entity in {**fresh, **_one_changed(source, left), **grown}.items()
            if entity is not None or key in build.entities}  # fmt: skip


def _branch_of_one(build: Build, source: LightBranch, one: WiredLamp) -> LightBranch:
    """A branch of one lamp on the same supply and switch, its resistor open."""
    lamp = build.get(Lamp, one.lamp_id)
    name, strands = lamp.name if lamp is not None else source.name, (WiredStrand(lamps=(one,)),)
    return LightBranch(id=new_id(), name=name, strands=strands, supply_id=source.supply_id, driver_id=source.driver_id)


def _taken_in_hand(build: Build, circuit: Circuit, numbers: list[int]) -> dict[str, LightBranch]:
    """Branches by their id in the circuit; of a kind of lamp that is still planned all its rows."""
    found: dict[str, LightBranch] = {}
    for number in numbers:
        branch = circuit.branches[number]
        present = build.get(LightBranch, branch.id)
        if present is not None:
            found[branch.id] = present
            continue
        kind = branch.strands[0].lamps[0].kind
        rows = (b for b in circuit.branches if b.id.startswith(f"{PLANNED}{kind}") and b.id not in found)
        found.update({b.id: msgspec.structs.replace(_as_entity(build, b, None), ohm=None) for b in rows})
    return found


def _one_changed(branch: LightBranch, changed: LightBranch) -> Edits:
    """One of a branch's repeats changed, or gone where no lamp is left in it; the others stay as they are."""
    rest = msgspec.structs.replace(branch, id=new_id(), times=branch.times - 1) if branch.times > 1 else None
    one = msgspec.structs.replace(changed, times=1) if changed.strands else None
    return {branch.id: one, **({rest.id: rest} if rest is not None else {})}


def changed_circuit(build: Build, before: Circuit, after: Circuit) -> Edits:
    """What makes the build's circuit into another: branches as wired, supplies and drivers that differ.

    Branches that the program plans and that the change leaves alone stay planned.
    """
    edits: Edits = {}
    old = {b.id: b for b in before.branches}
    for branch in after.branches:
        if old.get(branch.id) != branch:
            entity = _as_entity(build, branch, old.get(branch.id))
            edits[entity.id] = entity
    kept = {b.id for b in after.branches}
    edits.update({key: None for key in old if key not in kept and key in build.entities})
    edits.update(_changed_supplies(build, before, after))
    for was_driver, now_driver in zip(before.drivers, after.drivers, strict=True):
        present_driver = build.get(LightDriver, now_driver.id)
        if was_driver != now_driver and present_driver is not None:
            edits[now_driver.id] = msgspec.structs.replace(present_driver, driver_kind=now_driver.kind)
    return edits


def _changed_supplies(build: Build, before: Circuit, after: Circuit) -> Edits:
    old, new = dict(before.supplies), dict(after.supplies)
    edits: Edits = {key: None for key in old if key not in new and key in build.entities}
    for key, now in new.items():
        present = build.get(PowerSupply, key) or PowerSupply(id=key)
        if isinstance(now, StepUp) and key not in build.entities:
            edits[key] = PowerSupply(id=key, step_up_v=now.volts)
        elif isinstance(now, Supply) and old.get(key) != now:
            edits[key] = msgspec.structs.replace(
                present,
                supply_kind=now.kind,
                cells=now.cells,
                rows=now.rows,
                fuse_ma=now.fuse_ma,
                label_mah=now.label_mah,
            )
    if before.switch != after.switch:
        main = build.get(PowerSupply, SUPPLY_ID) or PowerSupply(id=SUPPLY_ID)
        edits[SUPPLY_ID] = msgspec.structs.replace(main, switch=after.switch)
    return edits


def _as_entity(build: Build, branch: Branch, was: Branch | None) -> LightBranch:
    present = build.get(LightBranch, branch.id)
    ohm = branch.ohm
    if was is not None and ohm == was.ohm:
        # What the program chose stays its choice.
        ohm = present.ohm if present is not None else None
    return LightBranch(
        id=branch.id if present is not None else new_id(),
        name=branch.name,
        strands=tuple(
            WiredStrand(lamps=tuple(WiredLamp(lamp_id=u.kind, turned=u.turned) for u in s.lamps), ohm=s.ohm)
            for s in branch.strands
        ),
        ohm=ohm, times=branch.times, supply_id=branch.supply, driver_id=branch.driver,
        wire=present.wire if present is not None else "", wire_mm=branch.wire_mm, pitch_mm=branch.pitch_mm,
    )  # fmt: skip


def wired_as_planned(build: Build, circuit: Circuit, lamp_id: str) -> Edits:
    """The planned branches of a lamp as branches of the build, their resistors fixed at what was planned."""
    made = [_as_entity(build, b, None) for b in circuit.branches if b.id.startswith(f"{PLANNED}{lamp_id}")]
    return {b.id: b for b in made}


def _with_lamps(branch: LightBranch, strand: int, lamps: tuple[WiredLamp, ...]) -> LightBranch:
    strands = [s if n != strand else msgspec.structs.replace(s, lamps=lamps) for n, s in enumerate(branch.strands)]
    return msgspec.structs.replace(branch, strands=tuple(s for s in strands if s.lamps))
