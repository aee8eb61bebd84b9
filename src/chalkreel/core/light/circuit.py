"""Series and parallel strings of LEDs, each branch with its own resistor (Ohm's law at nominal voltage)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.supplies import Supply

LedColour = Literal["white", "warm white", "blue", "green", "yellow", "orange", "red"]
FORWARD_VOLTS: Final[dict[LedColour, float]] = {
    "white": 3.1, "warm white": 3.0, "blue": 3.1, "green": 3.0, "yellow": 2.1, "orange": 2.05, "red": 1.9,
}  # fmt: skip
# IEC 60063, series E24.
E24: Final = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)
RATINGS_W: Final = (0.125, 0.25, 0.5, 1.0, 2.0, 5.0)
# A resistor that drops less than this cannot hold the current against spread of the forward voltage.
LEAST_DROP_V: Final = 0.25
USABLE_SHARE: Final = 0.8


@dataclass(frozen=True)
class LedString:
    """So many equal LEDs that shine together. `series` None lets the program divide them into branches."""

    name: str
    colour: LedColour
    count: int
    forward_volts: float
    current_ma: float
    flashing: bool = False
    series: int | None = None


@dataclass(frozen=True)
class Branch:
    """LEDs in a row behind one resistor."""

    string: str
    colour: LedColour
    leds: int
    flashing: bool
    resistor_ohm: float
    rating_w: float
    current_ma: float
    lit: bool


@dataclass(frozen=True)
class Circuit:
    """All branches on one supply; `hours` None where the supply does not run down."""

    branches: tuple[Branch, ...]
    total_ma: float
    hours: float | None
    warnings: tuple[str, ...]


def next_standard_ohm(ohm: float) -> float:
    """The E24 value at or just above a resistance (at least 1 Ω)."""
    decade = 10.0 ** math.floor(math.log10(max(ohm, 1.0)))
    for value in (*E24, 100):
        candidate = value * decade / 10
        if candidate >= ohm * (1 - 1e-9):
            return candidate
    return decade * 10


def resistor_rating_w(watt: float) -> float:
    """The standard power rating with at least twice the dissipated power.

    Raises
    ------
    RefusedError
        More heat than a resistor inside a model should make.
    """
    for rating in RATINGS_W:
        if rating >= 2 * watt:
            return rating
    raise RefusedError(f"A resistor would turn {watt:.1f} W into heat inside the model. Use less voltage or current.")


def design(power: Supply, strings: tuple[LedString, ...]) -> Circuit:
    """Divide strings into branches, choose resistors, add up currents and warn in plain words.

    Raises
    ------
    RefusedError
        A count, voltage or current that no LED has.
    """
    branches: list[Branch] = []
    warnings: list[str] = []
    for string in strings:
        _check(string)
        made, words = _branches(power, string)
        branches += made
        warnings += words
    total = sum(b.current_ma for b in branches)
    if total > power.limit_ma:
        warnings.append(
            f"The {power.kind} is overloaded: {total:.0f} mA asked, about {power.limit_ma:.0f} mA is what it gives."
        )
    hours = None if power.charge_mah is None or total == 0 else USABLE_SHARE * power.charge_mah / total
    return Circuit(tuple(branches), total, hours, tuple(warnings))


def _check(string: LedString) -> None:
    if not (1 <= string.count <= 200 and 1.0 <= string.forward_volts <= 15.0 and 0.1 <= string.current_ma <= 1000):
        raise RefusedError(
            f"“{string.name}”: use 1–200 LEDs, a forward voltage of 1–15 V and a current of 0.1–1000 mA."
        )


def _branches(power: Supply, string: LedString) -> tuple[list[Branch], list[str]]:
    longest = math.floor((power.volts - LEAST_DROP_V) / string.forward_volts + 1e-9)
    warnings = []
    if longest < 1 or (string.series or 0) > longest:
        wanted = string.series or 1
        need = wanted * string.forward_volts
        warnings.append(
            f"“{string.name}” falls short by the printed figures: {wanted} × {string.forward_volts:g} V in a row needs "
            f"{need:.1f} V and {LEAST_DROP_V:g} V for the resistor, the supply gives {power.volts:g} V."
        )
        dark = Branch(string.name, string.colour, wanted, string.flashing, 0.0, 0.0, 0.0, False)
        return [dark] * math.ceil(string.count / wanted), warnings
    series = string.series or (1 if string.flashing else min(longest, string.count))
    if string.flashing and series > 1:
        warnings.append(
            f"“{string.name}”: a flashing LED in series makes the whole row flash. Give each its own branch."
        )
    full, rest = divmod(string.count, series)
    sizes = [series] * full + ([rest] if rest else [])
    return [_branch(power, string, leds) for leds in sizes], warnings


def _branch(power: Supply, string: LedString, leds: int) -> Branch:
    drop = power.volts - leds * string.forward_volts
    ohm = next_standard_ohm(drop / (string.current_ma / 1000))
    current = drop / ohm
    rating = resistor_rating_w(drop * current)
    return Branch(string.name, string.colour, leds, string.flashing, ohm, rating, current * 1000, True)
