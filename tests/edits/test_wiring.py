"""Wiring by hand and by cure: what is done to the circuit is what the build then holds, and nothing dangles."""

from __future__ import annotations

from dataclasses import replace

import pytest
from tests.builds import empty_build

from chalkreel.answers.circuit import circuit_of
from chalkreel.answers.lighting import solved
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.circuit import Branch, Circuit
from chalkreel.core.light.design import filled
from chalkreel.document.entities import AnyEntity, Landmark
from chalkreel.document.light_entities import (
    SUPPLY_ID,
    Lamp,
    LightBranch,
    LightDriver,
    LightPlan,
    PowerSupply,
    WiredLamp,
    WiredStrand,
)
from chalkreel.document.snapshot import Build
from chalkreel.document.validated import InvalidBuildError, check_references, decoded
from chalkreel.edits.removing import removal
from chalkreel.edits.wiring import LAYOUTS, changed_circuit, moved_lamp, new_branches, turned_lamp, wired_as_planned


def built(*extra: AnyEntity) -> Build:
    return Build(0, {**empty_build("lantern"), **{e.id: e for e in extra}})


def edited(build: Build, edits: dict[str, AnyEntity | None]) -> Build:
    """The build with edits done, refused where anything then speaks of what is not there."""
    entities = {k: v for k, v in {**build.entities, **edits}.items() if v is not None}
    check_references(entities)
    return Build(0, entities)


def strand(*lamps: str, ohm: float = 0.0) -> WiredStrand:
    return WiredStrand(lamps=tuple(WiredLamp(lamp_id=k.lstrip("-"), turned=k.startswith("-")) for k in lamps), ohm=ohm)


RED = Lamp(id="red", name="Red", colour="red", count=4, forward_volts=1.95, current_ma=5.0, package="0603")
WHITE = Lamp(id="white", name="White", colour="white", count=3, forward_volts=3.05, current_ma=5.0, package="0603")
BLINK = Lamp(id="blink", name="Blink", colour="orange", count=1, forward_volts=2.05, current_ma=8.0, flashing=True)
STRIP = Lamp(id="strip", name="Strip", colour="white", count=1, forward_volts=3.05, current_ma=15.0,
             package="strip 12 V", strip_mm=50.0)  # fmt: skip


def wired(name: str, *strands: WiredStrand, **more: object) -> LightBranch:
    return LightBranch(id=name, name=name, strands=strands, **more)  # type: ignore[arg-type]


WRONG: dict[str, tuple[AnyEntity, ...]] = {
    "turned": (wired("a", strand("red", "-red"), ohm=130.0),),
    "shared": (wired("a", strand("red"), strand("red"), strand("red")),),
    "unlike": (wired("a", strand("red"), strand("white"), ohm=100.0),),
    "too long": (wired("a", strand("white", "white", "white")),),
    "blink in a row": (wired("a", strand("blink", "red"), ohm=56.0),),
    "no resistor": (wired("a", strand("white"), ohm=0.0, times=2),),
    "no fuse": (wired("a", strand("red"), wire="hair 0.1", wire_mm=80.0),),
    "pin": (LightDriver(id="p", name="p", pin="3"), wired("a", strand("red"), times=8, driver_id="p")),
    "two supplies": (PowerSupply(id="other", supply_kind="plug pack 12 V"), STRIP,
                     wired("a", strand("strip"), ohm=0.0, supply_id="other"), wired("b", strand("red"))),
}  # fmt: skip


def alike(branch: Branch) -> tuple[object, ...]:
    """What a branch is, but for its id."""
    return (branch.name, branch.strands, branch.ohm, branch.times, bool(branch.supply), branch.driver, branch.wire)


@pytest.mark.parametrize("name", WRONG)
def test_a_cure_taken_is_the_circuit_that_was_shown(name: str) -> None:
    build = built(RED, WHITE, BLINK, *WRONG[name])
    before = circuit_of(build).circuit
    cures = [f.cure for f in solved(before).findings if f.cure is not None]
    assert cures
    for cure in cures:
        shown = filled(cure(before))
        taken = filled(circuit_of(edited(build, changed_circuit(build, before, cure(before)))).circuit)
        assert sorted(map(alike, taken.branches), key=str) == sorted(map(alike, shown.branches), key=str)
        assert [s for _, s in taken.supplies] == [s for _, s in shown.supplies]
        assert [d.kind for d in taken.drivers] == [d.kind for d in shown.drivers]


@pytest.mark.parametrize("layout", LAYOUTS)
def test_every_layout_wires_all_lamps_of_a_kind_once(layout: str) -> None:
    build = built(RED)
    after = edited(build, new_branches(build, RED, layout))  # type: ignore[arg-type]
    assert not circuit_of(after).planned and len(after.all(LightBranch)) == 1
    with pytest.raises(RefusedError, match="All 4"):
        new_branches(after, RED, layout)  # type: ignore[arg-type]


def test_planned_rows_taken_in_hand_are_the_same_circuit() -> None:
    build = built(RED, WHITE)
    plan = circuit_of(build)
    whole = filled(plan.circuit)
    after = circuit_of(edited(build, wired_as_planned(build, whole, "red")))
    assert {b.id for b in plan.circuit.branches} - {b.id for b in after.circuit.branches} == {"planned:red"}
    assert sorted(map(alike, filled(after.circuit).branches), key=str) == sorted(map(alike, whole.branches), key=str)


def held(build: Build) -> list[str]:
    """Every lamp that stands in a branch, repeats counted; turned ones with −."""
    uses = [u for b in build.all(LightBranch) for s in b.strands for u in s.lamps for _ in range(b.times)]
    return sorted(f"-{u.lamp_id}" if u.turned else u.lamp_id for u in uses)


def test_lamps_are_turned_and_moved_without_one_being_lost() -> None:
    a, b = wired("a", strand("red", "red"), times=2), wired("b", strand("white"))
    build = built(RED, WHITE, a, b)
    # Of two alike, one lamp in one of them is turned.
    assert held(edited(build, turned_lamp(a, 0, 1))) == ["-red", "red", "red", "red", "white"]
    circuit = filled(circuit_of(build).circuit)
    rows = [branch.id for branch in circuit.branches]
    one, other, planned = rows.index("a"), rows.index("b"), rows.index("planned:white")
    assert held(edited(build, moved_lamp(build, circuit, (one, 0, 1), other))) == held(build)
    assert held(build) == ["red", "red", "red", "red", "white"]
    assert held(edited(build, moved_lamp(build, circuit, (other, 0, 0), one))) == held(build)
    # Planned rows are taken in hand where a lamp leaves or joins them: then all six stand in branches.
    everything = sorted([*held(build), "white", "white"])
    for at, to in (((planned, 0, 0), one), ((one, 0, 0), planned), ((planned, 0, 0), None)):
        after = edited(build, moved_lamp(build, circuit, at, to))
        assert held(after) == everything and not circuit_of(after).planned


def test_a_lamp_laid_beside_all_gets_a_branch_of_its_own_with_a_resistor_for_it() -> None:
    row = wired("a", strand("red", "red"), ohm=1.0, driver_id="p")
    build = built(replace_lamp(RED, count=2), LightDriver(id="p", name="p", driver_kind="transistor"), row)
    after = edited(build, moved_lamp(build, filled(circuit_of(build).circuit), (0, 0, 1), None))
    alone = next(b for b in after.all(LightBranch) if b.id != "a")
    assert alone.driver_id == "p" and alone.ohm is None and held(after) == ["red", "red"]
    # By hand: three AA give 4.8 V fresh, the transistor takes 0.15 V; 1.95 V at 20 mA is about 1.85 V at 5 mA.
    found = filled(circuit_of(after).circuit)
    assert next(b.ohm for b in found.branches if b.id == alone.id) == pytest.approx(560, rel=0.1)


def test_what_is_removed_is_taken_out_of_branches_and_places() -> None:
    bow = Landmark(id="bow", name="tip")
    standing = replace_lamp(RED, places=("bow",))
    build = built(
        bow, standing, WHITE, PowerSupply(id="other", supply_kind="9 V block"), LightDriver(id="pin-7", name="deck"),
        LightPlan(id="light plan", exit_id="bow"),
        wired("a", strand("red", "white"), supply_id="other", driver_id="pin-7"),
        wired("b", strand("red")),
    )  # fmt: skip
    without = edited(build, removal(build, "red"))
    assert [b.id for b in without.all(LightBranch)] == ["a"]
    for gone in ("bow", "other", "pin-7"):
        left = edited(build, removal(build, gone))
        assert gone not in str(left.entities)
    with pytest.raises(InvalidBuildError, match="Lamp"):
        check_references({k: v for k, v in build.entities.items() if k != "red"})


def replace_lamp(lamp: Lamp, **fields: object) -> Lamp:
    import msgspec

    return msgspec.structs.replace(lamp, **fields)


def test_a_lamp_of_format_9_is_read_as_it_was_and_planned() -> None:
    old = '{"kind":"lamp","id":"red","name":"Red","colour":"red","count":4,"forward_volts":1.95,"current_ma":5.0,'
    old += '"flashing":false,"series":2,"assembly":"Hull"}'
    found = decoded(old)
    assert isinstance(found, Lamp) and found.package == "3 mm" and found.sheet_ma == 20
    made = circuit_of(built(found, PowerSupply(id=SUPPLY_ID, supply_kind="AA cells", cells=3))).circuit
    assert [(len(b.strands[0].lamps), b.times) for b in made.branches] == [(2, 2)]


def test_a_module_without_a_main_supply_is_fed_by_usual_cells() -> None:
    build = built(RED, PowerSupply(id="m", step_up_v=12.0), wired("a", strand("red"), supply_id="m"))
    made = Circuit(circuit_of(build).circuit.supplies, (), ())
    assert [key for key, _ in made.supplies] == [SUPPLY_ID, "m"]
    assert replace(made, supplies=()).supplies == ()
