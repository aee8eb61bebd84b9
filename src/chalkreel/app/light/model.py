"""View-model of Light (no Qt): lamps read and written as words."""

from __future__ import annotations

from collections.abc import Callable

from chalkreel.answers.lighting import Lighting
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.light.circuit import FORWARD_VOLTS, LedColour
from chalkreel.document.entities import Lamp
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build

SUPPLIES = (("coin cell", "coin cell"), ("AA cells", "AA cells"), ("9 V block", "9 V block"), ("USB 5 V", "USB 5 V"))
COLOURS: tuple[LedColour, ...] = tuple(FORWARD_VOLTS)


def new_lamp(build: Build) -> Lamp:
    """A white LED of 10 mA."""
    number = len(build.all(Lamp)) + 1
    return Lamp(
        id=new_id(), name=f"Lamp {number}", colour="white", count=1, forward_volts=3.1, current_ma=10.0, assembly="Hull"
    )


def bounded(least: float, most: float, what: str) -> Callable[[str], float]:
    """A reader of numbers within bounds, that says what is wrong otherwise."""

    def read(text: str) -> float:
        value = parse_number(text)
        if not least <= value <= most:
            raise RefusedError(f"{what} lies between {least:g} and {most:g}.")
        return value

    return read


count_from = bounded(1, 200, "The number of LEDs")
volts_from = bounded(1.0, 15.0, "Forward voltage in V")
current_from = bounded(0.1, 1000.0, "Current in mA")


def whole(text: str, read: Callable[[str], float]) -> int:
    """A whole number within bounds."""
    value = read(text)
    if value != int(value):
        raise RefusedError("Give a whole number.")
    return int(value)


def run_time_words(lighting: Lighting) -> str:
    """How long it stays lit."""
    circuit = lighting.circuit
    if circuit is None or circuit.total_ma == 0:
        return "not lit"
    if circuit.hours is None:
        return "as long as plugged in"
    return f"{circuit.hours:.0f} h" if circuit.hours >= 2 else f"{60 * circuit.hours:.0f} min"


NOMINAL = (
    "All of this is nominal: the supply at its printed voltage to the end, the lamps without their own curves. "
    "Cells sag and lamps dim long before that time is up; some that fall short may still glow. Try it on the bench "
    "before you wire."
)


def load_words(lighting: Lighting) -> tuple[str, str]:
    """Whether the supply gives the current asked of it, and the state of that."""
    if lighting.circuit is not None and lighting.circuit.total_ma > lighting.power.limit_ma:
        return "too much", "bad"
    return "within what it gives", "good"


def resistor_lines(lighting: Lighting) -> tuple[str, ...]:
    """One line for each kind of branch."""
    if lighting.circuit is None:
        return ()
    lines: dict[str, int] = {}
    for b in lighting.circuit.branches:
        if b.lit:
            row = f"{b.string}: {b.resistor_ohm:g} Ω, {b.rating_w:g} W, {b.current_ma:.1f} mA, {_row_words(b.leds)}"
            lines[row] = lines.get(row, 0) + 1
    return tuple(f"{count} × {row}" for row, count in lines.items())


def _row_words(leds: int) -> str:
    return "alone" if leds == 1 else f"{leds} in a row"
