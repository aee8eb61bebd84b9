"""Will it light, and for how long?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

from chalkreel.answers.circuit import BuildCircuit, circuit_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Circuit, StepUp
from chalkreel.core.light.design import filled
from chalkreel.core.light.drawing import Wiring, draw_wiring
from chalkreel.core.light.finding import Finding
from chalkreel.core.light.findings import findings
from chalkreel.core.light.gates import Expected, Judged, after_closing, expected, judged
from chalkreel.core.light.kinds import GATES
from chalkreel.core.light.lamps import VISIBLE_MA
from chalkreel.core.light.lit import Lit, lit, source_sigma_v
from chalkreel.core.light.run_time import CHARGE_SIGMA, RunTime, run_times
from chalkreel.core.light.stand import Fit, fit
from chalkreel.document.light_entities import (
    LIGHT_PLAN_ID,
    BranchReading,
    Lamp,
    LightBranch,
    LightDriver,
    LightPlan,
    PowerSupply,
)
from chalkreel.document.snapshot import Build

EVENTS: Final = ("half", "dark", "done")
# What the circuit is made from.
LIGHT_INPUTS: Final = (PowerSupply, Lamp, LightBranch, LightDriver, LightPlan, BranchReading)


@dataclass(frozen=True)
class Hours:
    """An event's hours with the least and most that tolerances give (95 %); None where it does not come."""

    hours: float
    least: float
    most: float


@dataclass(frozen=True)
class Solved:
    """A circuit with what it does; `half`, `dark` and `done` are of the main supply's cells.

    `asked` is the circuit as told, `circuit` the same with its resistors chosen; `either` are the run times with
    everything off to one side and to the other.
    """

    asked: Circuit
    circuit: Circuit
    lit: Lit
    times: tuple[RunTime, ...]
    either: tuple[RunTime, ...]
    half: Hours | None
    dark: Hours | None
    done: Hours | None
    findings: tuple[Finding, ...]
    wiring: Wiring
    expected: tuple[Expected, ...]

    def dark_branches(self) -> frozenset[int]:
        """Branches of which a lamp is dark with fresh cells."""
        return frozenset(a.branch for a in self.lit.lamps if a.ma < VISIBLE_MA)

    @property
    def main(self) -> Supply | StepUp:
        """The main supply."""
        return self.circuit.supplies[0][1]


@dataclass(frozen=True)
class Lighting:
    """The build's circuit solved and drawn; None with the reason in `problem` where it cannot be.

    `judged` are the latest readings of branches, by branch.
    """

    solved: Solved | None
    planned: frozenset[str] = frozenset()
    fit: Fit | None = None
    judged: Mapping[str, Judged] = field(default_factory=dict)
    problem: str = ""


def lighting(build: Build) -> Lighting:
    """Solve the build's circuit."""
    try:
        made: BuildCircuit = circuit_of(build)
        found = solved(made.circuit)
    except RefusedError as refusal:
        return Lighting(None, problem=str(refusal))
    return Lighting(found, made.planned, fit_in_stand(build, found.main), _judged(build, found))


def _judged(build: Build, found: Solved) -> dict[str, Judged]:
    """The last reading of each branch: against what it should draw, or, once closed, against what it drew before."""
    verdicts: dict[str, Judged] = {}
    open_ones: dict[str, dict[int, float]] = {}
    for number, branch in enumerate(found.circuit.branches):
        read = {r.gate: r.ma for r in build.all(BranchReading) if r.branch_id == branch.id}
        done = [gate for gate in GATES if gate in read]
        if not done:
            continue
        if len(done) > 1 and done[-1] in ("closed", "on the stand"):
            verdicts[branch.id] = after_closing(read[done[-2]], read[done[-1]])
        else:
            open_ones.setdefault(done[-1], {})[number] = read[done[-1]]
    for readings in open_ones.values():
        told = judged(found.circuit, readings)
        verdicts.update({found.circuit.branches[number].id: one for number, one in told.items()})
    return verdicts


def solved(circuit: Circuit) -> Solved:
    """A circuit, its resistors chosen, with what it does.

    Raises
    ------
    RefusedError
        What no wiring can be, or what does not settle.
    """
    whole = filled(circuit)
    state = lit(whole)
    times = run_times(whole)
    either = _either_side(whole)
    timed = _hours(whole, times, either)
    wrong = findings(whole, state, times)
    return Solved(
        circuit, whole, state, times, either, timed["half"], timed["dark"], timed["done"], wrong,
        draw_wiring(whole, state, wrong), expected(whole),
    )  # fmt: skip


def _either_side(circuit: Circuit) -> tuple[RunTime, ...]:
    """The main supply's run time with lamps and supply off to either side by their 95 % tolerance."""
    key, source = circuit.supplies[0]
    if not isinstance(source, Supply) or not source.runs_down:
        return ()
    own = max((kind.curve.own_v for kind in circuit.kinds), default=0.0)
    shift = 2 * (source_sigma_v(source) ** 2 + own**2) ** 0.5
    return tuple(t for by in (-shift, shift) for t in run_times(circuit, by) if t.key == key)


def _hours(circuit: Circuit, times: tuple[RunTime, ...], either: tuple[RunTime, ...]) -> dict[str, Hours | None]:
    now = next((t for t in times if t.key == circuit.supplies[0][0]), None)
    if now is None:
        return dict.fromkeys(EVENTS)
    return {event: _span([getattr(t, event) for t in (now, *either)]) for event in EVENTS}


def _span(found: list[float | None]) -> Hours | None:
    either = [h for h in found if h is not None]
    if found[0] is None:
        return None
    return Hours(found[0], min(either) * (1 - 2 * CHARGE_SIGMA), max(either) * (1 + 2 * CHARGE_SIGMA))


def fit_in_stand(build: Build, main: Supply | StepUp) -> Fit | None:
    """How a supply lies in the stand; None where its cavity was not told."""
    plan = build.get(LightPlan, LIGHT_PLAN_ID)
    if plan is None or plan.cavity_mm is None or not isinstance(main, Supply):
        return None
    return fit(main, plan.cavity_mm, plan.door_mm)
