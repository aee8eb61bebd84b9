"""What else could be done: the circuit cured, on other supplies, with other rows. Computed after all that is asked."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Final

from chalkreel.answers.circuit import lamp_kind
from chalkreel.answers.lighting import Lighting, Solved, fit_in_stand, solved
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.light.cells import Supply, supply
from chalkreel.core.light.circuit import Circuit
from chalkreel.core.light.cures import put_right
from chalkreel.core.light.design import Option, row_options, weighed
from chalkreel.core.light.finding import Finding
from chalkreel.core.light.findings import findings
from chalkreel.core.light.kinds import SupplyKind
from chalkreel.core.light.lit import lit
from chalkreel.core.light.run_time import run_times
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class SupplyOption:
    """The whole circuit on another supply, resistors chosen anew; `fits` the stand, None where it has no size.

    `wrong` is the kind of the worst finding that would make it fail.
    """

    supply: Supply
    option: Option
    fits: bool | None
    wrong: str


@dataclass(frozen=True)
class LightOptions:
    """`cured` has, for each finding in its order, the circuit with its cure, None where that would not cure it; `rows`
    the rows possible by lamp.
    """

    cured: tuple[Solved | None, ...] = ()
    supplies: tuple[SupplyOption, ...] = ()
    rows: Mapping[str, tuple[Option, ...]] = field(default_factory=dict)


# What a modeller would think of, each with the cells of a usual holder.
_OTHERS: Final[tuple[tuple[SupplyKind, int], ...]] = (
    ("AA cells", 2), ("AA cells", 3), ("AA cells", 4), ("AA cells", 6), ("AAA cells", 3), ("AA rechargeable", 4),
    ("coin cell", 1), ("9 V block", 1), ("USB 5 V", 1), ("plug pack 12 V", 1),
)  # fmt: skip


def light_options(build: Build, now: Lighting, progress: Progress) -> LightOptions:
    """Everything that could be done with a circuit.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    found = now.solved
    if found is None or not found.circuit.branches or build.info.dark:
        return LightOptions()
    return LightOptions(_cured(found, progress), _supplies(build, found, progress), _rows(build, found, progress))


def _cured(found: Solved, progress: Progress) -> tuple[Solved | None, ...]:
    made: list[Solved | None] = []
    for finding in found.findings:
        _go_on(progress)
        try:
            after = solved(finding.cure(found.asked)) if finding.cure is not None else None
        except RefusedError:
            after = None
        made.append(after if after is not None and _is_cured(finding, found, after) else None)
    return tuple(made)


def _is_cured(finding: Finding, before: Solved, after: Solved) -> bool:
    """Whether what was found is gone: a cure is solved again before it is offered."""
    if finding.branch < 0:
        return all((f.kind, f.title) != (finding.kind, finding.title) for f in after.findings)
    key = before.circuit.branches[finding.branch].id
    made = {n for n, b in enumerate(after.circuit.branches) if b.id == key or b.id.startswith(f"{key}-")}
    return all(f.kind != finding.kind or f.branch not in made for f in after.findings)


def _supplies(build: Build, found: Solved, progress: Progress) -> tuple[SupplyOption, ...]:
    """Rows stay as they are; their resistors are chosen anew for each supply, and turned lamps count as put right."""
    key = found.circuit.supplies[0][0]
    upright = put_right(found.circuit).branches
    branches = tuple(replace(b, ohm=None) if found.circuit.supply_of(b)[0] == key else b for b in upright)
    made = []
    for kind, cells in _OTHERS:
        _go_on(progress)
        other = supply(kind, cells)
        supplies = ((key, other), *found.circuit.supplies[1:])
        try:
            option = weighed(replace(found.circuit, supplies=supplies, branches=branches))
        except RefusedError:
            continue
        lies = fit_in_stand(build, other)
        fits = lies.fits and lies.comes_out if lies is not None else None
        made.append(SupplyOption(other, option, fits, _worst(option.circuit)))
    return tuple(made)


def _worst(circuit: Circuit) -> str:
    found = findings(circuit, lit(circuit), run_times(circuit))
    return next((f.kind for f in found if f.weight == "bad"), "")


def _rows(build: Build, found: Solved, progress: Progress) -> dict[str, tuple[Option, ...]]:
    """For each kind of lamp by itself on the main supply: alone, two in a row, three, …"""
    made: dict[str, tuple[Option, ...]] = {}
    for lamp in build.all(Lamp):
        _go_on(progress)
        bare = replace(found.circuit, supplies=found.circuit.supplies[:1], branches=(), drivers=())
        made[lamp.id] = row_options(bare, lamp_kind(lamp), lamp.count)
    return made


def _go_on(progress: Progress) -> None:
    if not progress(0.0):
        raise StoppedError
