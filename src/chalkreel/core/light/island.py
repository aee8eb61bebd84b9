"""What hangs on one supply, as a network with the way back from its rows to the branches."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from chalkreel.core.arrays import Array, Flags
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import (
    PIN_OHM,
    STEP_UP_OHM,
    SWITCHED_OHM,
    Branch,
    Circuit,
    Driver,
    StepUp,
    Strand,
)
from chalkreel.core.light.network import (
    Draw,
    LampInRow,
    Network,
    Row,
    Shape,
    Source,
    Transistor,
    Values,
    shape_of,
    values_of,
)
from chalkreel.core.light.wires import BY_NAME

COLLECTOR_OHM = 0.4
# What is switched off has so much in series: nothing to be seen flows.
OPEN_OHM = 1e7
MOST_DUTIES = 8


@dataclass(frozen=True)
class Where:
    """The branch and strand that a row is; strand −1 where it is only wire or a switch."""

    branch: int
    strand: int = -1


@dataclass(frozen=True)
class Phase:
    """A state of flashing lamps and pulsed pins, and its share of the time."""

    weight: float
    flash_on: bool
    pins_on: frozenset[str]


@dataclass(frozen=True)
class Island:
    """One supply's network. `where` (R) tells what each row is, `switched` which rows each driver cuts off."""

    key: str
    network: Network
    shape: Shape
    where: tuple[Where, ...]
    flashing: Flags  # (R,)
    switched: tuple[tuple[str, int], ...]
    phases: tuple[Phase, ...]

    def values(self) -> Values:
        """One copy for each phase."""
        base = values_of(self.network)
        ohm = np.repeat(base.row_ohm, len(self.phases), axis=0)
        for p, phase in enumerate(self.phases):
            if not phase.flash_on:
                ohm[p, self.flashing] += OPEN_OHM
            for key, row in self.switched:
                if key not in phase.pins_on:
                    ohm[p, row] += OPEN_OHM
        return replace(base, row_ohm=ohm)

    @property
    def weights(self) -> Array:
        """Share of time of each phase."""
        return np.array([p.weight for p in self.phases])


def open_and_ohm(supply: Supply | StepUp, used: Array) -> tuple[Array, Array]:
    """Open volts and inner ohm of a supply at used shares (U,)."""
    if isinstance(supply, StepUp):
        return np.full(used.shape, supply.volts), np.full(used.shape, STEP_UP_OHM)
    return supply.open_v(used), supply.ohm(used)


def island(circuit: Circuit, key: str, watt: float = 0.0, idle_ma: float = 0.0) -> Island:
    """Everything fed by the supply of a key; `watt` is what modules on it draw."""
    made = _Maker(circuit, key)
    for number, branch in enumerate(circuit.branches):
        if circuit.supply_of(branch)[0] == key:
            made.add(number, branch)
    supply = dict(circuit.supplies)[key]
    volts, ohm = open_and_ohm(supply, np.zeros(1))
    draws = (Draw(1, watt, idle_ma / 1000),) if watt or idle_ma else ()
    source = Source(1, float(volts[0]), float(ohm[0]))
    network = Network(made.joints, tuple(made.rows), (source,), tuple(made.transistors), draws)
    return Island(
        key, network, shape_of(network), tuple(made.where), np.array(made.flashing, bool), tuple(made.switched),
        _phases(circuit, key, bool(np.any(made.flashing))),
    )  # fmt: skip


class _Maker:
    """Rows and joints as they are laid; joint 1 is the supply's plus."""

    def __init__(self, circuit: Circuit, key: str) -> None:
        self.circuit, self.key = circuit, key
        self.joints = 1
        self.rows: list[Row] = []
        self.where: list[Where] = []
        self.flashing: list[bool] = []
        self.transistors: list[Transistor] = []
        self.switched: list[tuple[str, int]] = []
        self.ends: dict[str, tuple[int, int]] = {}

    def joint(self) -> int:
        self.joints += 1
        return self.joints

    def lay(self, row: Row, where: Where, flashing: bool = False) -> None:
        self.rows.append(row)
        self.where.append(where)
        self.flashing.append(flashing)

    def driven(self, number: int, driver: Driver) -> tuple[int, int]:
        """The joints between which a driver's branches hang."""
        if driver.id not in self.ends:
            far = self.joint()
            if driver.kind == "pin":
                self.switched.append((driver.id, len(self.rows)))
                self.lay(Row(1, far, PIN_OHM), Where(number))
                self.ends[driver.id] = (far, 0)
            elif driver.kind == "power transistor":
                self.switched.append((driver.id, len(self.rows)))
                self.lay(Row(far, 0, SWITCHED_OHM), Where(number))
                self.ends[driver.id] = (1, far)
            else:
                collector, base = self.joint(), self.joint()
                self.lay(Row(far, collector, COLLECTOR_OHM), Where(number))
                self.switched.append((driver.id, len(self.rows)))
                self.lay(Row(1, base, driver.base_ohm + PIN_OHM), Where(number))
                self.transistors.append(Transistor(collector, base, 0))
                self.ends[driver.id] = (1, far)
        return self.ends[driver.id]

    def add(self, number: int, branch: Branch) -> None:
        driver = self.circuit.driver_of(branch)
        plus, minus = self.driven(number, driver) if driver else (1, 0)
        per_mm = BY_NAME[branch.wire].ohm_per_m / 1000 if branch.wire in BY_NAME else 0.0
        common = (branch.ohm or 0.0) + 2 * per_mm * branch.wire_mm
        strands = [self._as_row(branch, strand) for strand in branch.strands]
        if branch.pitch_mm and len(strands) > 1:
            self._ladder(number, branch, strands, plus, minus, common, max(per_mm * branch.pitch_mm, 1e-6))
            return
        alone = len(strands) == 1 and strands[0][0].times == branch.times
        if not alone and common > 0:
            middle = self.joint()
            self.lay(Row(plus, middle, common, times=branch.times), Where(number))
            plus, common = middle, 0.0
        for place, (row, flashing) in enumerate(strands):
            self.lay(replace(row, plus=plus, minus=minus, ohm=row.ohm + common), Where(number, place), flashing)

    def _ladder(
        self, number: int, branch: Branch, strands: list[tuple[Row, bool]], plus: int, minus: int, common: float,
        step: float,
    ) -> None:  # fmt: skip
        for place, (row, flashing) in enumerate(strands):
            near, far = self.joint(), self.joint()
            first = place == 0
            self.lay(Row(plus, near, (common if first else 0.0) + step, times=branch.times), Where(number))
            self.lay(Row(far, minus, step, times=branch.times), Where(number))
            self.lay(replace(row, plus=near, minus=far), Where(number, place), flashing)
            plus, minus = near, far

    def _as_row(self, branch: Branch, strand: Strand) -> tuple[Row, bool]:
        lamps: list[LampInRow] = []
        ohm, times, flashing = strand.ohm, float(branch.times), False
        for use in strand.lamps:
            kind = self.circuit.kind(use.kind)
            strip = kind.strip
            lamps += [LampInRow(kind.curve, use.turned)] * (strip.lamps if strip else 1)
            ohm += kind.own_ohm + (strip.ohm if strip else 0.0)
            times *= kind.pieces
            flashing = flashing or kind.flashing
        # A strand of bare wire still has some resistance.
        return Row(0, 0, max(ohm, 1e-3), tuple(lamps), times), flashing


def _phases(circuit: Circuit, key: str, flashes: bool) -> tuple[Phase, ...]:
    """All states in turn: flashing lamps on and off, and between the ends of the pulses."""
    drivers = {b.driver for b in circuit.branches if b.driver and circuit.supply_of(b)[0] == key}
    duties = {d.id: min(max(d.duty, 0.0), 1.0) for d in circuit.drivers if d.id in drivers}
    if len(set(duties.values())) > MOST_DUTIES:
        # Many unlike pulses: each counts as the next of a few steps of brightness.
        duties = {k: math.ceil(duty * MOST_DUTIES) / MOST_DUTIES for k, duty in duties.items()}
    edges = sorted({0.0, 1.0, *duties.values()})
    pulses = [
        (end - start, frozenset(k for k, duty in duties.items() if duty >= end - 1e-12))
        for start, end in pairwise(edges)
    ]
    halves = ((0.5, True), (0.5, False)) if flashes else ((1.0, True),)
    return tuple(Phase(share * part, on, pins) for part, pins in pulses for share, on in halves)
