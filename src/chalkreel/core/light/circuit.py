"""A circuit as a modeller describes it: supplies, and branches of lamps behind a resistor.

A branch is one strand of lamps in a row, or several strands side by side behind one resistor, or strands along a pair
of wires like the rungs of a ladder. What is planned and what is soldered are the same thing: a plan is a circuit
whose open choices were filled in.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import DESIGN_USED, Supply
from chalkreel.core.light.kinds import Drawer, DriverKind, LedColour, Package, SwitchKind
from chalkreel.core.light.lamps import STRIPS, LampCurve, Strip

MOST_LAMPS: Final = 1000
# Each rung of a ladder is two joints more to be solved.
MOST_RUNGS: Final = 80
# A board's pin has about this to its rail while high (25 to 40 Ω).
PIN_OHM: Final = 32.0
PIN_LIMIT_MA: Final = 20.0
LOW_PIN_LIMIT_MA: Final = 12.0  # of boards at 3.3 V
BOARD_LIMIT_MA: Final = 200.0
SWITCHED_OHM: Final = 0.05  # a power transistor that is on
STEP_UP_OHM: Final = 0.05
LIMITS_MA: Final[dict[Package, float]] = {
    "0201": 10, "0402": 20, "0603": 25, "0805": 30, "1206": 30, "3 mm": 30, "5 mm": 30, "strip 12 V": 25,
    "strip 5 V": 25,
}  # fmt: skip


@dataclass(frozen=True)
class LampKind:
    """A kind of lamp in this build: its curve, the mA wanted in each, and what it brings along.

    `own_ohm` is a resistor in it; `strip_mm` the length where it is a strip.
    """

    id: str
    name: str
    colour: LedColour
    package: Package
    curve: LampCurve
    wanted_ma: float
    flashing: bool = False
    own_ohm: float = 0.0
    strip_mm: float = 0.0
    assembly: str = ""

    @property
    def strip(self) -> Strip | None:
        """Its make-up, where it is a strip."""
        return STRIPS.get(self.package)

    @property
    def pieces(self) -> int:
        """Pieces of strip side by side; one for any other lamp."""
        return max(1, round(self.strip_mm / self.strip.piece_mm)) if self.strip else 1

    @property
    def limit_ma(self) -> float:
        """What one lamp stands for long."""
        return LIMITS_MA[self.package]


@dataclass(frozen=True)
class LampUse:
    """A lamp of a kind at its place; `turned` where its minus faces the plus."""

    kind: str
    turned: bool = False


@dataclass(frozen=True)
class Strand:
    """Lamps in a row, and a resistor of their own (0: none)."""

    lamps: tuple[LampUse, ...]
    ohm: float = 0.0


@dataclass(frozen=True)
class Branch:
    """Strands behind one resistor; `ohm` None leaves it to the program, 0 is none.

    `times` such branches lie side by side. `driver` is what switches it. `wire` runs `wire_mm` to it and back; with
    `pitch_mm` its strands are the rungs of a ladder along that wire, so far apart.
    """

    id: str
    name: str
    strands: tuple[Strand, ...]
    ohm: float | None = None
    times: int = 1
    supply: str = ""
    driver: str = ""
    wire: str = ""
    wire_mm: float = 0.0
    pitch_mm: float = 0.0


@dataclass(frozen=True)
class Driver:
    """A pin of a board, or a stage behind it; `duty` is the share of time it is on."""

    id: str
    name: str
    kind: DriverKind
    pin: str = ""
    duty: float = 1.0
    base_ohm: float = 1000.0


@dataclass(frozen=True)
class StepUp:
    """A module that makes more volts from another supply's."""

    volts: float
    fed_by: str
    efficiency: float = 0.8
    idle_ma: float = 1.0
    limit_ma: float = 250.0


@dataclass(frozen=True)
class Circuit:
    """Everything that is joined together; `supplies` by id, the first is the main one.

    Resistors are chosen from a series, or from `own_ohms` where somebody has just these. Lamps are to shine until so
    much of the cells is `used`.
    """

    supplies: tuple[tuple[str, Supply | StepUp], ...]
    kinds: tuple[LampKind, ...]
    branches: tuple[Branch, ...]
    drivers: tuple[Driver, ...] = ()
    drawer: Drawer = "E24"
    own_ohms: tuple[float, ...] = ()
    switch: SwitchKind = "latching"
    used: float = DESIGN_USED

    def kind(self, key: str) -> LampKind:
        """The lamp kind of an id.

        Raises
        ------
        RefusedError
            There is none.
        """
        for kind in self.kinds:
            if kind.id == key:
                return kind
        raise RefusedError("A branch names a lamp that is no longer there. Take it out of the branch.")

    def supply_of(self, branch: Branch) -> tuple[str, Supply | StepUp]:
        """Where a branch is fed from: its own choice, or the main supply."""
        for key, found in self.supplies:
            if key == branch.supply:
                return key, found
        return self.supplies[0]

    def driver_of(self, branch: Branch) -> Driver | None:
        """What switches a branch."""
        return next((d for d in self.drivers if d.id == branch.driver), None)


def lamps_in(circuit: Circuit, branch: Branch) -> int:
    """How many lamps a branch has, those of a strip and all its repeats counted."""
    each = 0
    for strand in branch.strands:
        for use in strand.lamps:
            kind = circuit.kind(use.kind)
            each += kind.pieces * (kind.strip.lamps if kind.strip else 1)
    return each * branch.times


def check(circuit: Circuit) -> None:
    """Refuse what no wiring can be.

    Raises
    ------
    RefusedError
        No supply, too many lamps, a pin given twice, a strip in a row with others, resistors that are none.
    """
    if not circuit.supplies:
        raise RefusedError("There is no supply yet: choose one, then the lamps can light.")
    pins = [d.pin.strip() for d in circuit.drivers if d.pin.strip()]
    twice = next((p for p in pins if pins.count(p) > 1), None)
    if twice:
        raise RefusedError(f"Pin {twice} is given twice. Each pin switches one thing.")
    if sum(lamps_in(circuit, b) for b in circuit.branches) > MOST_LAMPS:
        raise RefusedError(f"These are more than {MOST_LAMPS} lamps. Plan a model of that size in parts.")
    if sum(len(b.strands) for b in circuit.branches if b.pitch_mm) > MOST_RUNGS:
        raise RefusedError(
            f"These ladders have more than {MOST_RUNGS} rungs. Break them into shorter ones, each fed by itself."
        )
    for branch in circuit.branches:
        _check_branch(circuit, branch)


def _check_branch(circuit: Circuit, branch: Branch) -> None:
    for ohm in (branch.ohm or 0.0, *(s.ohm for s in branch.strands)):
        if not 0 <= ohm <= 1e7:
            raise RefusedError(f"“{branch.name}”: a resistor lies between 0 and 10 MΩ.")
    for strand in branch.strands:
        strips = [use for use in strand.lamps if circuit.kind(use.kind).strip]
        if strips and len(strand.lamps) > 1:
            raise RefusedError(f"“{branch.name}”: a strip has its own resistors and stands alone in its row.")
