"""The demo's lighting: a few branches wired by hand, one of them wrong; the rest left to the program."""

from __future__ import annotations

from chalkreel.demo.reel import landmark_id
from chalkreel.document.entities import AnyEntity
from chalkreel.document.light_entities import (
    LIGHT_PLAN_ID,
    SUPPLY_ID,
    BranchReading,
    Lamp,
    LampPoint,
    LightBranch,
    LightDriver,
    LightPlan,
    PowerSupply,
    WiredLamp,
    WiredStrand,
)


def lights() -> list[AnyEntity]:
    """Supplies, lamps, branches and what they have to fit."""
    return [
        PowerSupply(id=SUPPLY_ID, supply_kind="AA cells", cells=3, fuse_ma=200.0),
        Lamp(id="lamp-search", name="Searchlights", colour="warm white", count=2, forward_volts=3.05, current_ma=12.0,
             package="5 mm", size_mm=7.5, assembly="Wheelhouse", places=_both("forward window, top forward")),
        Lamp(id="lamp-nav", name="Side lamps", colour="red", count=2, forward_volts=1.95, current_ma=8.0,
             points=(LampPoint(volts=1.72, ma=1.0),), package="0603", size_mm=2.4, assembly="Hull",
             places=_both("bow tip")),
        Lamp(id="lamp-beacon", name="Beacon", colour="orange", count=1, forward_volts=2.05, current_ma=10.0,
             flashing=True, package="3 mm", size_mm=4.5, assembly="Wheelhouse"),
        Lamp(id="lamp-glow", name="Wheelhouse glow", colour="warm white", count=1, forward_volts=3.0, current_ma=12.0,
             package="strip 5 V", strip_mm=50.0, assembly="Wheelhouse"),
        Lamp(id="lamp-port", name="Porthole fibres", colour="white", count=1, forward_volts=3.1, current_ma=3.0,
             package="5 mm", fibre_mm=0.5, sheet_mcd=9000.0, beam_deg=15.0, assembly="Hull"),
        Lamp(id="lamp-deck", name="Deck edge lamps", colour="white", count=6, forward_volts=3.0, current_ma=3.0,
             package="0402", size_mm=1.5, assembly="Deck",
             places=(*_both("deck plate, aft"), *_both("deck plate, forward"))),
        LightDriver(id="driver-search", name="Searchlight switch", driver_kind="pin", pin="5"),
        LightBranch(id="branch-search", name="Searchlights", strands=(_row("lamp-search"),), times=2,
                    driver_id="driver-search"),
        # Its second lamp sits the wrong way round.
        LightBranch(id="branch-nav", name="Side lamps", strands=(
            WiredStrand(lamps=(WiredLamp(lamp_id="lamp-nav"), WiredLamp(lamp_id="lamp-nav", turned=True))),),
            ohm=82.0, wire="hair 0.1"),
        BranchReading(id="reading-nav", branch_id="branch-nav", gate="soldered", ma=0.0),
        LightPlan(id=LIGHT_PLAN_ID, cavity_mm=(70.0, 54.0, 24.0), door_mm=(60.0, 26.0), tube_mm=4.0, room_lux=150.0,
                  exit_id=landmark_id("stern corner")),
    ]  # fmt: skip


def _both(landmark: str) -> tuple[str, str]:
    """A landmark and its twin."""
    return landmark_id(landmark), landmark_id(f"{landmark}/s")


def _row(lamp_id: str) -> WiredStrand:
    return WiredStrand(lamps=(WiredLamp(lamp_id=lamp_id),))
