"""What shines and how brightly: every lamp of a circuit with fresh cells and with nearly empty ones."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Circuit, StepUp, check
from chalkreel.core.light.doubt import doubt
from chalkreel.core.light.island import Island, island, open_and_ohm
from chalkreel.core.light.network import at_volts
from chalkreel.core.light.operating import Operating, solve
from chalkreel.core.light.resistors import TOLERANCE

# A lamp that is not flashing itself flashes along where its current changes by more than this.
ALONG = 2.0


@dataclass(frozen=True)
class LampState:
    """One lamp: mA (1 σ) while it is on with fresh cells, and volts if it is backwards.

    `used_ma` flows with cells `used` as far as the circuit asks. `along` says that it flashes with another lamp.
    `stiffness_v` is D of its row: volts for an e-fold of its current.
    """

    branch: int
    strand: int
    place: int
    kind: str
    ma: float
    sigma_ma: float
    used_ma: float
    backwards_v: float
    along: bool
    stiffness_v: float


@dataclass(frozen=True)
class SupplyState:
    """mA drawn from a supply (1 σ) in its busiest phase and on average; whether its cells can feed their module."""

    key: str
    ma: float
    sigma_ma: float
    mean_ma: float
    fed: bool


@dataclass(frozen=True)
class Lit:
    """The whole circuit with fresh cells.

    `resistor_w` is the heat in each branch's resistors, W a piece; `driver_ma` what each driver's pin gives.
    `branch_sigma_ma` is 1 σ of what one of each branch's repeats draws: strands behind one resistor share it, and are
    far surer together than each.
    """

    lamps: tuple[LampState, ...]
    supplies: tuple[SupplyState, ...]
    resistor_w: tuple[float, ...]
    driver_ma: tuple[tuple[str, float], ...]
    branch_sigma_ma: tuple[float, ...]

    def of_branch(self, number: int) -> tuple[LampState, ...]:
        """The lamps of a branch."""
        return tuple(lamp for lamp in self.lamps if lamp.branch == number)


def islands(circuit: Circuit) -> tuple[Island, ...]:
    """The networks of all supplies; what modules draw is worked out first.

    Raises
    ------
    RefusedError
        What no wiring can be.
    """
    check(circuit)
    made: list[Island] = []
    for key, found in circuit.supplies:
        watt = idle = 0.0
        for other, module in circuit.supplies:
            if isinstance(module, StepUp) and module.fed_by == key and not isinstance(found, StepUp):
                inner = island(circuit, other)
                out = solve(inner.network, inner.values(), inner.shape).source_a[:, 0]
                watt += module.volts * float(out.max()) / module.efficiency
                idle += module.idle_ma
        made.append(island(circuit, key, watt, idle))
    return tuple(made)


def lit(circuit: Circuit) -> Lit:
    """Solve with fresh and with nearly empty cells.

    Raises
    ------
    RefusedError
        What no wiring can be, or what does not settle.
    """
    lamps: list[LampState] = []
    supplies: list[SupplyState] = []
    heat, sure = np.zeros(len(circuit.branches)), np.zeros(len(circuit.branches))
    drivers: dict[str, float] = {}
    sources = dict(circuit.supplies)
    made = islands(circuit)
    unfed: set[str] = set()
    tired: set[str] = set()
    for part in made:
        supply = sources[part.key]
        fresh, used = _at(part, supply, 0.0), _at(part, supply, circuit.used)
        state = _supply_state(circuit, part, supply, fresh)
        supplies.append(state)
        modules = {k for k, s in circuit.supplies if isinstance(s, StepUp) and s.fed_by == part.key}
        unfed |= modules if not state.fed else set()
        tired |= modules if not used.fed.all() else set()
        lamps += _lamp_states(circuit, part, supply, fresh, used)
        for number, watt in _resistor_w(circuit, part, fresh).items():
            heat[number] = watt
        for number, ma in _branch_sigma_ma(circuit, part, supply, fresh).items():
            sure[number] = ma
        for key, row in part.switched:
            drivers[key] = 1000 * float(np.abs(fresh.row_a[:, row] * part.shape.times[row]).max())
    # A module that its cells cannot feed, or no longer, leaves its lamps dark.
    behind = [circuit.supply_of(b)[0] for b in circuit.branches]
    lamps = [replace(a, ma=0.0, sigma_ma=0.0) if behind[a.branch] in unfed else a for a in lamps]
    lamps = [replace(a, used_ma=0.0) if behind[a.branch] in unfed | tired else a for a in lamps]
    return Lit(
        tuple(sorted(lamps, key=lambda a: (a.branch, a.strand, a.place))), tuple(supplies),
        tuple(float(h) for h in heat), tuple(drivers.items()), tuple(float(ma) for ma in sure),
    )  # fmt: skip


def _at(part: Island, supply: Supply | StepUp, used: float) -> Operating:
    volts, ohm = open_and_ohm(supply, np.array([used]))
    return solve(part.network, at_volts(part.values(), volts[:, None], ohm[:, None]), part.shape)


def source_sigma_v(supply: Supply | StepUp) -> float:
    """1 σ of a supply's volts; a module holds its own to 1 %."""
    return 0.01 * supply.volts if isinstance(supply, StepUp) else supply.sigma_v


def _supply_state(circuit: Circuit, part: Island, supply: Supply | StepUp, fresh: Operating) -> SupplyState:
    drawn = fresh.source_a[:, 0]
    busiest = int(np.argmax(drawn))
    sure = doubt(
        part.network, part.shape, fresh, np.array([source_sigma_v(supply)]), TOLERANCE[circuit.drawer] / 2, busiest
    )
    return SupplyState(
        part.key, 1000 * float(drawn[busiest]), 1000 * float(sure.source_a[0]),
        1000 * float(part.weights @ drawn), bool(fresh.fed.all()),
    )  # fmt: skip


def _branch_sigma_ma(
    circuit: Circuit, part: Island, supply: Supply | StepUp, fresh: Operating
) -> dict[int, float]:  # fmt: skip
    """1 σ of what all strands of one repeat of each branch draw together, in the phase in which they draw most."""
    strands: dict[int, list[int]] = {}
    for row, where in enumerate(part.where):
        if where.strand >= 0 and part.network.rows[row].lamps:
            strands.setdefault(where.branch, []).append(row)
    if not strands:
        return {}
    found: dict[int, float] = {}
    source, tolerance = np.array([source_sigma_v(supply)]), TOLERANCE[circuit.drawer] / 2
    each = [doubt(part.network, part.shape, fresh, source, tolerance, p) for p in range(len(part.phases))]
    for number, rows in strands.items():
        times = part.shape.times[rows] / circuit.branches[number].times
        busiest = int(np.argmax(fresh.row_a[:, rows] @ times))
        found[number] = 1000 * float(np.linalg.norm(times @ each[busiest].by_tolerance[rows]))
    return found


def _lamp_states(
    circuit: Circuit, part: Island, supply: Supply | StepUp, fresh: Operating, used: Operating
) -> list[LampState]:
    if not len(part.shape.row_of):
        return []
    on = np.argmax(fresh.lamp_a, axis=0)
    flows = fresh.lamp_a.max(axis=0)
    flash_on = np.array([p.flash_on for p in part.phases])
    lit_while = fresh.lamp_a[flash_on].max(axis=0) if flash_on.any() else flows
    dim = fresh.lamp_a[~flash_on].max(axis=0) if (~flash_on).any() else lit_while
    late = np.maximum(used.lamp_a.max(axis=0), 0.0)
    sigmas = [
        doubt(part.network, part.shape, fresh, np.array([source_sigma_v(supply)]), TOLERANCE[circuit.drawer] / 2, p)
        for p in range(len(part.phases))
    ]
    states, place, before = [], 0, -1
    for number, row in enumerate(part.shape.row_of):
        place = place + 1 if row == before else 0
        before = row
        where, whole = part.where[row], part.network.rows[row]
        strand = circuit.branches[where.branch].strands[where.strand]
        kind = circuit.kind(strand.lamps[min(place, len(strand.lamps) - 1)].kind)
        if kind.strip and place:
            continue
        amp = float(flows[number])
        low, high = sorted((float(lit_while[number]), float(dim[number])))
        states.append(
            LampState(
                where.branch, where.strand, place, kind.id, 1000 * max(amp, 0.0),
                1000 * float(sigmas[int(on[number])].row_a[row]),
                1000 * float(late[number]),
                max(0.0, -float(fresh.lamp_v[:, number].min())),
                not kind.flashing and high > max(ALONG * low, 2e-5),
                sum(lamp.curve.stiffness_v(1000 * amp) for lamp in whole.lamps) + amp * whole.ohm,
            )
        )  # fmt: skip
    return states


def _resistor_w(circuit: Circuit, part: Island, fresh: Operating) -> dict[int, float]:
    """Heat of the hottest resistor of each branch, its own or a strand's, by branch; pulsed: the mean square counts."""
    weights, rows = part.weights, part.network.rows
    square = weights @ fresh.row_a**2
    through: dict[int, float] = {}
    found: dict[int, float] = {}
    mean = weights @ fresh.row_a * part.shape.times[: len(rows)]
    strands = [(r, where) for r, where in enumerate(part.where) if rows[r].lamps and where.strand >= 0]
    for r, where in strands:
        branch = circuit.branches[where.branch]
        through[where.branch] = through.get(where.branch, 0.0) + float(mean[r]) / branch.times
        own = branch.strands[where.strand].ohm * float(square[r])
        found[where.branch] = max(found.get(where.branch, 0.0), own)
    for r, where in strands:
        branch = circuit.branches[where.branch]
        common = through[where.branch] ** 2 if len(branch.strands) > 1 else float(square[r])
        found[where.branch] = max(found[where.branch], (branch.ohm or 0.0) * common)
    return found
