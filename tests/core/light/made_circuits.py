"""Circuits for the tests: lamps by their sheet, supplies, branches."""

from __future__ import annotations

from chalkreel.core.light.cells import supply
from chalkreel.core.light.circuit import Branch, Circuit, Driver, LampKind, LampUse, StepUp, Strand
from chalkreel.core.light.design import filled
from chalkreel.core.light.finding import Finding
from chalkreel.core.light.findings import findings
from chalkreel.core.light.kinds import LedColour, Package, SupplyKind, SwitchKind
from chalkreel.core.light.lamps import Point, fit
from chalkreel.core.light.lit import lit
from chalkreel.core.light.run_time import run_times


def lamp(
    key: str, colour: LedColour, volts: float, ma: float, package: Package = "0603", **more: object
) -> LampKind:  # fmt: skip
    curve = fit(colour, package, (Point(volts, 20.0),))
    return LampKind(key, key, colour, package, curve, ma, **more)  # type: ignore[arg-type]


WHITE = lamp("white", "white", 3.05, 5.0)
RED = lamp("red", "red", 1.95, 5.0)
BLINK = lamp("blink", "orange", 2.05, 8.0, "3 mm", flashing=True)
STRIP = lamp("strip", "white", 3.05, 15.0, "strip 12 V", strip_mm=100.0)
KINDS = (WHITE, RED, BLINK, STRIP)


def row(*keys: str, ohm: float = 0.0) -> Strand:
    """Lamps in a row; a key with − in front is turned round."""
    return Strand(tuple(LampUse(k.lstrip("-"), k.startswith("-")) for k in keys), ohm)


def branch(*strands: Strand, ohm: float | None = None, key: str = "b", **more: object) -> Branch:
    return Branch(key, key, strands, ohm, **more)  # type: ignore[arg-type]


def circuit(
    *branches: Branch, kind: SupplyKind = "AA cells", cells: int = 3, fuse: float = 0.0,
    drivers: tuple[Driver, ...] = (), step_up: float = 0.0, rows: int = 1,
    apart: SupplyKind | None = None, switch: SwitchKind = "latching",
) -> Circuit:  # fmt: skip
    supplies: tuple = (("main", supply(kind, cells, rows, fuse)),)
    if step_up:
        supplies = (*supplies, ("module", StepUp(step_up, "main")))
    if apart:
        supplies = (*supplies, ("apart", supply(apart)))
    return Circuit(supplies, KINDS, branches, drivers, switch=switch)


def found_in(made: Circuit) -> tuple[Finding, ...]:
    whole = filled(made)
    return findings(whole, lit(whole), run_times(whole))


def kinds_found(made: Circuit) -> set[str]:
    return {f.kind for f in found_in(made)}
