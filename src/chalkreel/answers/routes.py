"""Where the wires run: what each branch needs of wire, hole and groove, the bundle through the tube, the stand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.answers.face_marks import landed_places
from chalkreel.answers.faces import Faces
from chalkreel.answers.lighting import Solved
from chalkreel.answers.sizes import Sizes
from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.bundles import Passing, across_mm, passing, plug_passes, tube_for
from chalkreel.core.light.circuit import Branch, Circuit
from chalkreel.core.light.emitters import Emitter, emitters_for
from chalkreel.core.light.fibre import PORTHOLE_CD, candela, fibres_at_lamp
from chalkreel.core.light.leaks import coats, density_needed
from chalkreel.core.light.wires import BY_NAME, WIRES, WireKind, groove_mm, hole_mm, usual_wire
from chalkreel.document.light_entities import LIGHT_PLAN_ID, Lamp, LightPlan
from chalkreel.document.snapshot import Build

# A wire follows walls and frames; the straight way is this much shorter. Its ends and one new soldering come on top.
DETOUR: Final = 1.3
SLACK_MM: Final = 50.0
_COLOURS: Final = ("white", "yellow", "green", "brown", "grey", "violet", "orange", "blue")


@dataclass(frozen=True)
class WireRow:
    """One branch's wire: kind, mm one way, where that length is from, colour of its +, drill and groove, mm.

    `tight` says that the wire carries more than it should for hours.
    """

    branch: str
    name: str
    wire: WireKind
    one_way_mm: float | None
    measured: bool
    count: int
    colour: str
    hole_mm: float
    groove_mm: tuple[float, float]
    ma: float
    tight: bool


@dataclass(frozen=True)
class Routes:
    """All wires; the bundle that leaves the hull, the tube it needs and how it passes the one there is."""

    rows: tuple[WireRow, ...]
    bundle: tuple[WireKind, ...]
    across_mm: float
    tube_mm: float
    passes: Passing | None
    plug_passes: bool
    density: float
    coats: tuple[str, ...]


def routes(build: Build, found: Solved, sizes: Sizes | None, faces: Faces) -> Routes | None:
    """The routes of a build's circuit; None where nothing is wired or planned."""
    circuit = found.circuit
    plan = build.get(LightPlan, LIGHT_PLAN_ID) or LightPlan(id=LIGHT_PLAN_ID)
    if not circuit.branches:
        return None
    straight, rows = _Straight(build, plan, sizes, faces), []
    for number, branch in enumerate(circuit.branches):
        ma = sum(e.ma for e in found.expected if e.branch == number)
        rows.append(_row(branch, straight, ma, _COLOURS[number % len(_COLOURS)]))
    total = sum(row.ma * row.count for row in rows)
    bundle = _bundle(circuit, total)
    outsides = tuple(w.outside_mm for w in bundle)
    try:
        across = across_mm(outsides)
    except RefusedError:
        across = 0.0
    density = density_needed(plan.room_lux)
    return Routes(
        tuple(rows), bundle, across, tube_for(outsides), passing(outsides, plan.tube_mm) if plan.tube_mm else None,
        plug_passes(plan.tube_mm),
        density, coats(density, plan.shell_mm),
    )  # fmt: skip


def _row(branch: Branch, ways: _Straight, ma: float, colour: str) -> WireRow:
    wire = BY_NAME.get(branch.wire) or usual_wire(ma)
    straight = ways.to(branch)
    length = branch.wire_mm or (None if straight is None else straight * DETOUR + SLACK_MM)
    return WireRow(
        branch.id, branch.name, wire, length, not branch.wire_mm and straight is not None, branch.times, colour,
        hole_mm(2 * wire.outside_mm), groove_mm(wire.outside_mm), ma, wire.steady_ma < ma,
    )  # fmt: skip


class _Straight:
    """How far lamps are from where the wires leave the hull, mm on the replica."""

    def __init__(self, build: Build, plan: LightPlan, sizes: Sizes | None, faces: Faces) -> None:
        solution = sizes.reel.solution if sizes is not None else None
        self._lamps, self._exit = build.all(Lamp), plan.exit_id
        self._factor = build.chain.convert(1.0, "miniature", "replica")
        self._places: dict[str, Array] = {}
        if solution is not None and sizes is not None:
            self._places = {key: solution.point(key) for key in solution.layout.blocks}
            self._places |= landed_places(build, faces, sizes.reel)

    def to(self, branch: Branch) -> float | None:
        """To the branch's farthest lamp; None where a place is not known."""
        ids = {u.kind for s in branch.strands for u in s.lamps}
        places = [i for lamp in self._lamps if lamp.id in ids for i in lamp.places]
        if not places or self._exit not in self._places or not self._places.keys() >= set(places):
            return None
        start = self._places[self._exit]
        return max(float(np.linalg.norm(self._places[i] - start)) for i in places) * self._factor


def _bundle(circuit: Circuit, total_ma: float) -> tuple[WireKind, ...]:
    """What runs through the tube: one pair for all, or a wire for each driver and a thicker common one."""
    pairs = [w for w in WIRES if w.name in ("0.05 mm²", "0.08 mm²", "0.14 mm²")]
    common = next((w for w in pairs if w.steady_ma >= 2 * total_ma), pairs[-1])
    driven = {b.driver for b in circuit.branches if b.driver}
    always = any(not b.driver for b in circuit.branches)
    channels = len(driven) + always
    if channels <= 1:
        return (common, common)
    return (common, *(pairs[0] for _ in range(channels)))


def emitters_of(build: Build) -> tuple[tuple[Lamp, tuple[Emitter, ...]], ...]:
    """What can play each lamp whose size on the replica is known."""
    return tuple((lamp, emitters_for(lamp.size_mm)) for lamp in build.all(Lamp) if lamp.size_mm)


@dataclass(frozen=True)
class FibreLight:
    """How many fibres a lamp feeds; mcd that each gives at the mA wanted, and the mA that are enough for a porthole."""

    count: int
    mcd: float | None
    enough_ma: float | None


# A fibre's usual length in a model; what it loses on the way hardly counts.
FIBRE_LONG_MM: Final = 300.0


def fibres_of(build: Build) -> tuple[tuple[Lamp, FibreLight], ...]:
    """Every lamp that feeds fibres, and what these give; light is taken as in proportion to the current."""
    return tuple((lamp, _fibre_light(lamp)) for lamp in build.all(Lamp) if lamp.fibre_mm)


def _fibre_light(lamp: Lamp) -> FibreLight:
    count = max(1, fibres_at_lamp(lamp.fibre_mm))
    if not lamp.sheet_mcd:
        return FibreLight(count, None, None)
    at_sheet = candela(lamp.sheet_mcd / 1000, lamp.beam_deg, lamp.fibre_mm, FIBRE_LONG_MM)
    each = at_sheet * lamp.current_ma / lamp.sheet_ma
    return FibreLight(count, 1000 * each, lamp.sheet_ma * PORTHOLE_CD / at_sheet)
