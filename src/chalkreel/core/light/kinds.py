"""The words of lighting that documents and windows choose from."""

from __future__ import annotations

from typing import Final, Literal, get_args

LedColour = Literal["white", "warm white", "blue", "green", "leaf green", "yellow", "orange", "red"]
Package = Literal["0201", "0402", "0603", "0805", "1206", "3 mm", "5 mm", "strip 12 V", "strip 5 V"]
SupplyKind = Literal[
    "coin cell", "coin 1220", "coin 2016", "coin 2025", "coin 2450", "button cell", "AAA cells", "AA cells",
    "AA rechargeable", "9 V block", "12 V small", "USB 5 V", "plug pack 12 V", "plug pack 5 V",
]  # fmt: skip
DriverKind = Literal["pin", "transistor", "power transistor"]
Drawer = Literal["E12", "E24", "E96"]
WireName = Literal[
    "", "hair 0.05", "hair 0.08", "hair 0.1", "varnished 0.15", "varnished 0.2", "wrap 0.25", "0.05 mm²", "0.08 mm²",
    "0.14 mm²",
]  # fmt: skip
Gate = Literal["soldered", "before closing", "closed", "on the stand"]
SwitchKind = Literal["latching", "press and hold", "reed and magnet"]
Display = Literal["on a stand", "landed", "both"]

COLOURS: Final[tuple[LedColour, ...]] = get_args(LedColour)
PACKAGES: Final[tuple[Package, ...]] = get_args(Package)
SUPPLY_KINDS: Final[tuple[SupplyKind, ...]] = get_args(SupplyKind)
DRIVER_KINDS: Final[tuple[DriverKind, ...]] = get_args(DriverKind)
DRAWERS: Final[tuple[Drawer, ...]] = get_args(Drawer)
WIRE_NAMES: Final[tuple[WireName, ...]] = get_args(WireName)
GATES: Final[tuple[Gate, ...]] = get_args(Gate)
SWITCH_KINDS: Final[tuple[SwitchKind, ...]] = get_args(SwitchKind)
DISPLAYS: Final[tuple[Display, ...]] = get_args(Display)
# At about 20 mA, where no sheet is at hand.
USUAL_VOLTS: Final[dict[LedColour, float]] = {
    "white": 3.1, "warm white": 3.05, "blue": 3.1, "green": 3.1, "leaf green": 2.15, "yellow": 2.05, "orange": 2.05,
    "red": 1.95,
}  # fmt: skip
