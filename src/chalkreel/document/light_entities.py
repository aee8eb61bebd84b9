"""Entities of the lighting: supplies, kinds of lamp, branches as wired, what switches them, readings."""

from __future__ import annotations

from typing import Annotated, Final

import msgspec
from msgspec import Meta

from chalkreel.core.light.kinds import (
    Display,
    Drawer,
    DriverKind,
    Gate,
    LedColour,
    Package,
    SupplyKind,
    SwitchKind,
    WireName,
)
from chalkreel.document.entity import Amount, Count, Entity, Length, Name, Positive, Share

SUPPLY_ID: Final = "supply"
LIGHT_PLAN_ID: Final = "light plan"
Times = Annotated[int, Meta(ge=1, le=1000)]


class PowerSupply(Entity, tag="supply", frozen=True, kw_only=True):
    """What the lights run from: cells in a row, and such rows side by side, behind a fuse (0: none).

    With `step_up_v` it is a module that makes so many volts from the main supply's.
    """

    supply_kind: SupplyKind = "AA cells"
    cells: Count = 3
    rows: Count = 1
    fuse_ma: Amount = 0.0
    label_mah: Amount = 0.0
    switch: SwitchKind = "latching"
    step_up_v: Amount = 0.0


class LampPoint(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """V at so many mA: a further point of the sheet, or read at the bench."""

    volts: Positive
    ma: Positive
    bench: bool = False


class Lamp(Entity, tag="lamp", frozen=True, kw_only=True):
    """A kind of lamp and how many of it; `forward_volts` at `sheet_ma` as its sheet says, `current_ma` what is wanted.

    `series` is how many stand in a row where the program wires them; `places` are landmarks, or marks on panels.
    `own_ohm` is a resistor that it brings along, `strip_mm` the length of a strip, `size_mm` of the lamp that it plays.
    It feeds fibres of `fibre_mm`, with `sheet_mcd` at its sheet's mA in a beam of so many degrees to either side.
    """

    name: Name
    colour: LedColour
    count: Count
    forward_volts: Positive
    current_ma: Positive
    flashing: bool = False
    series: Count | None = None
    assembly: str = ""
    sheet_ma: Positive = 20.0
    points: tuple[LampPoint, ...] = ()
    package: Package = "3 mm"
    own_ohm: Amount = 0.0
    strip_mm: Amount = 0.0
    size_mm: Amount = 0.0
    fibre_mm: Amount = 0.0
    sheet_mcd: Amount = 0.0
    beam_deg: Annotated[float, Meta(ge=5, le=85)] = 15.0
    places: tuple[str, ...] = ()


class WiredLamp(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One lamp of a kind in a strand; `turned` where its minus faces the plus."""

    lamp_id: str
    turned: bool = False


class WiredStrand(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Lamps in a row with a resistor of their own (0: none)."""

    lamps: tuple[WiredLamp, ...]
    ohm: Amount = 0.0


class LightBranch(Entity, tag="light branch", frozen=True, kw_only=True):
    """Strands behind one resistor as they are wired; `ohm` None lets the program choose it, 0 is none.

    `times` such branches lie side by side; `pitch_mm` makes its strands the rungs of a ladder along the wire.
    """

    name: Name
    strands: tuple[WiredStrand, ...]
    ohm: Amount | None = None
    times: Times = 1
    supply_id: str = ""
    driver_id: str = ""
    wire: WireName = ""
    wire_mm: Amount = 0.0
    pitch_mm: Amount = 0.0


class LightDriver(Entity, tag="light driver", frozen=True, kw_only=True):
    """A pin of a board, or a stage behind it; `duty` is the share of time it is on."""

    name: Name
    driver_kind: DriverKind = "pin"
    pin: Name = ""
    duty: Share = 1.0


class BranchReading(Entity, tag="branch reading", frozen=True, kw_only=True):
    """mA read in a branch at one of the test gates."""

    branch_id: Name
    gate: Gate
    ma: Amount


class LightPlan(Entity, tag="light plan", frozen=True, kw_only=True):
    """What the lighting has to fit: the room it is shown in, the stand's cavity and door, the tube, the drawer.

    `exit_id` is the landmark where the wires leave the hull. Lamps are to shine until so much of the cells is `used`.
    """

    drawer: Drawer = "E24"
    own_ohms: Annotated[tuple[Positive, ...], Meta(max_length=200)] = ()
    display: Display = "on a stand"
    room_lux: Positive = 200.0
    shell_mm: Positive = 1.0
    cavity_mm: tuple[Length, Length, Length] | None = None
    door_mm: tuple[Length, Length] | None = None
    tube_mm: Amount = 0.0
    exit_id: str = ""
    used: Annotated[float, Meta(ge=0.1, le=1)] = 0.8
