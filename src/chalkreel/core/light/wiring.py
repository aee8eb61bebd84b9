"""Layout of the wiring diagram: plus rail above, minus rail below, one column a branch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from chalkreel.core.light.circuit import Branch, Circuit
from chalkreel.core.light.supplies import Supply

SymbolKind = Literal["supply", "switch", "resistor", "led"]
Polarity = Literal["plus", "minus", "between"]

COLUMN = 124.0
LED_PITCH = 46.0
TOP, SUPPLY_X, FIRST_COLUMN = 30.0, 60.0, 190.0


@dataclass(frozen=True)
class Wire:
    """A straight wire between two points."""

    x0: float
    y0: float
    x1: float
    y1: float
    polarity: Polarity


@dataclass(frozen=True)
class Symbol:
    """A component centred at a point; current runs downwards through resistors and LEDs."""

    kind: SymbolKind
    x: float
    y: float
    label: str
    colour: str = ""
    lit: bool = True


@dataclass(frozen=True)
class Wiring:
    """The whole drawing in its own units."""

    width: float
    height: float
    wires: tuple[Wire, ...]
    symbols: tuple[Symbol, ...]


def draw_wiring(power: Supply, circuit: Circuit) -> Wiring:
    """Place supply, switch, rails and branches."""
    deepest = max((b.leds for b in circuit.branches), default=1)
    bottom = TOP + 84 + deepest * LED_PITCH
    right = FIRST_COLUMN + COLUMN * max(0, len(circuit.branches) - 1)
    middle = (TOP + bottom) / 2
    wires = [
        Wire(SUPPLY_X, middle - 16, SUPPLY_X, TOP, "plus"), Wire(SUPPLY_X, TOP, 104, TOP, "plus"),
        Wire(132, TOP, right, TOP, "plus"), Wire(SUPPLY_X, middle + 16, SUPPLY_X, bottom, "minus"),
        Wire(SUPPLY_X, bottom, right, bottom, "minus"),
    ]  # fmt: skip
    symbols = [
        Symbol("supply", SUPPLY_X, middle, f"{power.name}\n{power.volts:g} V"),
        Symbol("switch", 118, TOP, "switch"),
    ]
    for column, branch in enumerate(circuit.branches):
        x = FIRST_COLUMN + column * COLUMN
        _column(branch, x, bottom, wires, symbols)
    return Wiring(right + COLUMN, bottom + 30, tuple(wires), tuple(symbols))


def _column(branch: Branch, x: float, bottom: float, wires: list[Wire], symbols: list[Symbol]) -> None:
    at = TOP + 40
    wires.append(Wire(x, TOP, x, at - 16, "plus"))
    label = f"{branch.resistor_ohm:g} Ω\n{_watt(branch.rating_w)}" if branch.lit else "no\nresistor"
    symbols.append(Symbol("resistor", x, at, label, lit=branch.lit))
    start = at + 16
    for number in range(branch.leds):
        y = at + 44 + number * LED_PITCH
        wires.append(Wire(x, start, x, y - 12, "between"))
        symbols.append(Symbol("led", x, y, branch.string if number == 0 else "", branch.colour, branch.lit))
        start = y + 12
    wires.append(Wire(x, start, x, bottom, "minus"))


def _watt(rating: float) -> str:
    return {0.125: "⅛ W", 0.25: "¼ W", 0.5: "½ W"}.get(rating, f"{rating:g} W")
