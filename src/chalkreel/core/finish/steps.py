"""From zones and operations to the steps of the finishing sequence."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Final, Literal

import msgspec

from chalkreel.core.convert.operations import Operation
from chalkreel.core.materials import Medium, Sheen

Role = Literal["base", "stripe", "glass", "bright metal"]
Wear = Literal["pre-shade", "chipping", "wash", "dry-brush", "streaks", "powders"]

_WHEN_KIND: Final = {
    "before primer": "rework", "before closing": "rework", "after base colour": "detail",
    "after decals": "add small parts", "after matte coat": "add fragile parts",
}  # fmt: skip


class StepKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Title, hands-on minutes, materials and cautions of a kind of step."""

    title: str
    minutes: int
    materials: tuple[str, ...]
    cautions: tuple[str, ...]


class _StepBook(msgspec.Struct, frozen=True):
    kinds: dict[str, StepKind]
    cautions: dict[str, str]


@cache
def _book() -> _StepBook:
    data = files("chalkreel.core.finish").joinpath("data/steps.toml").read_bytes()
    return msgspec.toml.decode(data, type=_StepBook)


def step_kinds() -> dict[str, StepKind]:
    """All kinds, in the order of the usual stack."""
    return _book().kinds


@dataclass(frozen=True)
class ZonePlan:
    """A zone as the sequence sees it."""

    name: str
    assembly: str
    colour_words: str
    medium: Medium
    sheen: Sheen
    role: Role
    wear: tuple[Wear, ...] = ()
    decals: bool = False
    lightness: float | None = None
    coats: int = 2


@dataclass(frozen=True)
class AssemblyPlan:
    """A thing painted as one: its zones, its operations, and whether lights go into it."""

    name: str
    zones: tuple[ZonePlan, ...]
    operations: tuple[Operation, ...] = ()
    lit: bool = False


@dataclass(frozen=True)
class Step:
    """One step; `zone` is empty where it concerns the whole assembly."""

    id: str
    kind: str
    assembly: str
    zone: str
    title: str
    minutes: int
    materials: tuple[str, ...]
    cautions: tuple[str, ...] = field(default=())
    medium: str = ""
    lightness: float | None = None


def steps_for(assemblies: tuple[AssemblyPlan, ...]) -> tuple[Step, ...]:
    """Every step the plans call for, assembly by assembly in the order of the usual stack."""
    rank = {kind: number for number, kind in enumerate(step_kinds())}
    found: list[Step] = []
    for assembly in assemblies:
        made = {step.id: step for step in _assembly_steps(assembly)}
        found += sorted(made.values(), key=lambda s: rank[s.kind])
    return tuple(found)


def _assembly_steps(plan: AssemblyPlan) -> list[Step]:
    name = plan.name
    steps = [_step("clean", name)]
    steps += [_operation_step(op, name, number) for number, op in enumerate(plan.operations)]
    if plan.lit:
        steps += [_step(kind, name) for kind in ("light block", "wire", "test lights", "close")]
    painted = [zone for zone in plan.zones if zone.role in ("base", "stripe")]
    if painted:
        steps += [_step("seams", name), _step("prime", name, medium="lacquer")]
        steps += _varnish_steps(plan, painted)
    for zone in plan.zones:
        steps += _zone_steps(zone)
    return steps


def _zone_steps(zone: ZonePlan) -> list[Step]:
    where = (zone.assembly, zone.name)
    if zone.role in ("glass", "bright metal"):
        return [_step("glass" if zone.role == "glass" else "chrome", *where)]
    paint = f"{zone.coats} thin coats of {zone.colour_words}"
    steps = [_step(zone.role, *where, extra=paint, medium=zone.medium, lightness=zone.lightness, coats=zone.coats)]
    if zone.role == "stripe":
        steps.append(_step("unmask", *where))
    if "pre-shade" in zone.wear:
        steps.append(_step("pre-shade", zone.assembly, medium=zone.medium))
    if "chipping" in zone.wear and zone.role == "base":
        steps += [
            _step("under-colour", *where, medium=zone.medium),
            _step("chipping medium", *where),
            _step("chip", *where),
        ]
    return steps


def _varnish_steps(plan: AssemblyPlan, painted: list[ZonePlan]) -> list[Step]:
    name = plan.name
    wear = {kind for zone in painted for kind in zone.wear}
    decals = any(zone.decals for zone in painted)
    steps = []
    if decals or "wash" in wear:
        steps.append(_step("gloss", name, medium="water acrylic"))
    if decals:
        steps += [_step("decal", name), _step("seal", name, medium="water acrylic")]
    if "wash" in wear:
        steps.append(_step("wash", name, medium="enamel"))
    if any(zone.sheen != "gloss" for zone in painted):
        steps.append(_step("matte", name, medium="water acrylic"))
    named = {"dry-brush": "dry-brush", "streaks": "streaks", "powders": "pigments"}
    return steps + [_step(kind, name) for word, kind in named.items() if word in wear]


def _step(
    kind: str, assembly: str, zone: str = "", extra: str = "", medium: str = "", lightness: float | None = None,
    coats: int = 1,
) -> Step:  # fmt: skip
    entry, where = step_kinds()[kind], zone or assembly
    title = f"{entry.title}: {where}"
    materials = ((extra,) if extra else ()) + entry.materials
    return Step(
        f"{assembly}/{zone}/{kind}", kind, assembly, zone, title, entry.minutes + 12 * (coats - 1), materials,
        tuple(_book().cautions[c] for c in entry.cautions), medium, lightness,
    )  # fmt: skip


def _operation_step(operation: Operation, assembly: str, number: int) -> Step:
    kind = _WHEN_KIND[operation.when]
    entry = step_kinds()[kind]
    size = f", {operation.size_words}" if operation.size_mm else ""
    return Step(
        f"{assembly}/{operation.feature}/{operation.verb}/{number}", kind, assembly, "",
        f"{operation.verb.capitalize()} {operation.feature}{size}", max(5, round(operation.hours * 60)),
        (operation.material,), tuple(_book().cautions[c] for c in entry.cautions),
    )  # fmt: skip
