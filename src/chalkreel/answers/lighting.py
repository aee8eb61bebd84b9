"""Will it light, and for how long?"""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.circuit import Circuit, LedString, design
from chalkreel.core.light.supplies import Supply, supply
from chalkreel.core.light.wiring import Wiring, draw_wiring
from chalkreel.document.entities import Lamp, PowerSupply
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class Lighting:
    """The circuit and its drawing; None with the reason in `problem` where none can be made."""

    power: Supply
    circuit: Circuit | None
    wiring: Wiring | None
    problem: str


def lighting(build: Build) -> Lighting:
    """Design the circuit for all lamps on the chosen supply; without a choice, three AA cells."""
    chosen = next(iter(build.all(PowerSupply)), PowerSupply(id=""))
    strings = tuple(
        LedString(a.name, a.colour, a.count, a.forward_volts, a.current_ma, a.flashing, a.series)
        for a in build.all(Lamp)
    )
    power = supply("AA cells", 3)
    try:
        power = supply(chosen.supply_kind, chosen.cells)
        circuit = design(power, strings)
    except RefusedError as refusal:
        return Lighting(power, None, None, str(refusal))
    return Lighting(power, circuit, draw_wiring(power, circuit), "")
