"""Everything wrong with a circuit."""

from __future__ import annotations

from chalkreel.core.light.branch_findings import of_branch
from chalkreel.core.light.circuit import Circuit
from chalkreel.core.light.finding import Finding
from chalkreel.core.light.lit import Lit
from chalkreel.core.light.run_time import RunTime
from chalkreel.core.light.supply_findings import of_drivers, of_supplies, of_switching, of_time


def findings(circuit: Circuit, found: Lit, times: tuple[RunTime, ...]) -> tuple[Finding, ...]:
    """Everything wrong, the worst first."""
    made: list[Finding] = []
    for number, branch in enumerate(circuit.branches):
        made += of_branch(circuit, found, number, branch)
    made += of_supplies(circuit, found)
    made += of_switching(circuit)
    made += of_drivers(circuit, found)
    made += of_time(circuit, times)
    return tuple(sorted(made, key=lambda f: f.weight != "bad"))
