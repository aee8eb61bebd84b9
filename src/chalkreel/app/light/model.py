"""View-model of Light (no Qt): lamps, branches, options, wires and readings as words."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING, Final

import msgspec

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.light.kinds import USUAL_VOLTS, Gate, SupplyKind
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Feature, Landmark, Spot
from chalkreel.document.entity import new_id
from chalkreel.document.light_entities import (
    LIGHT_PLAN_ID,
    SUPPLY_ID,
    BranchReading,
    Lamp,
    LampPoint,
    LightBranch,
    LightPlan,
    PowerSupply,
    WiredStrand,
)
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.light_options import SupplyOption
    from chalkreel.answers.lighting import Lighting, Solved
    from chalkreel.core.light.design import Option


def new_lamp(build: Build) -> Lamp:
    """A white lamp of 3 mm, 10 mA."""
    number = len(build.all(Lamp)) + 1
    return Lamp(
        id=new_id(), name=f"Lamp {number}", colour="white", count=1, forward_volts=USUAL_VOLTS["white"],
        current_ma=10.0, assembly="Hull",
    )  # fmt: skip


def bounded(least: float, most: float, what: str) -> Callable[[str], float]:
    """A reader of numbers within bounds, that says what is wrong otherwise."""

    def read(text: str) -> float:
        value = parse_number(text)
        if not least <= value <= most:
            raise RefusedError(f"{what} lies between {least:g} and {most:g}.")
        return value

    return read


count_from = bounded(1, 500, "The number of lamps")
volts_from = bounded(1.0, 15.0, "A lamp's voltage in V")
current_from = bounded(0.01, 1000.0, "A current in mA")
ohm_from = bounded(0, 1e7, "A resistor in Ω")


def strand_ohms_words(branch: LightBranch | None) -> str:
    """'220' where all strands have the same resistor of their own, '220; 0; 470' where not, nothing where none has."""
    ohms = [s.ohm for s in branch.strands] if branch is not None else []
    if not any(ohms):
        return ""
    return f"{ohms[0]:g}" if len(set(ohms)) == 1 else "; ".join(f"{ohm:g}" for ohm in ohms)


def with_strand_ohms(branch: LightBranch | None, text: str) -> tuple[WiredStrand, ...]:
    """A branch's strands with resistors as told: one for all, or one for each in their order.

    Raises
    ------
    RefusedError
        A figure is no resistor's, or there are more or fewer than strands.
    """
    strands = branch.strands if branch is not None else ()
    told = [ohm_from(part) for part in text.split(";") if part.strip()] or [0.0]
    ohms = told * len(strands) if len(told) == 1 else told
    if len(ohms) != len(strands):
        raise RefusedError(f"It has {plural(len(strands), 'strand')}: give one value for all, or one for each.")
    return tuple(msgspec.structs.replace(s, ohm=ohm) for s, ohm in zip(strands, ohms, strict=True))


def whole(text: str, read: Callable[[str], float]) -> int:
    """A whole number within bounds."""
    value = read(text)
    if value != int(value):
        raise RefusedError("Give a whole number.")
    return int(value)


def assemblies(build: Build) -> tuple[str, ...]:
    """All assemblies that something names."""
    names = [z.assembly for z in build.all(Zone)] + [f.assembly for f in build.all(Feature)]
    names += [a.assembly for a in build.all(Lamp)]
    return tuple(dict.fromkeys(name for name in names if name)) or ("Hull",)


def _standing(build: Build) -> dict[str, str]:
    """Names of what a lamp can stand at, by id."""
    return {m.id: m.name for m in build.all(Spot)} | {m.id: m.name for m in build.all(Landmark)}


def places_words(build: Build, lamp: Lamp | None) -> str:
    """The landmarks and marks on panels at which a lamp stands."""
    names = _standing(build)
    return "; ".join(names.get(i, "") for i in lamp.places) if lamp is not None else ""


def places_from(build: Build, text: str) -> tuple[str, ...]:
    """Ids of landmarks and of marks on panels named in words.

    Raises
    ------
    RefusedError
        There is none of a name.
    """
    named = {name.casefold(): key for key, name in _standing(build).items()}
    wanted = [part.strip() for part in text.split(";") if part.strip()]
    unknown = next((w for w in wanted if w.casefold() not in named), None)
    if unknown is not None:
        raise RefusedError(f"No landmark or mark is called “{unknown}”. Several are parted by a semicolon.")
    return tuple(named[w.casefold()] for w in wanted)


def points_words(lamp: Lamp) -> str:
    """'3.1 V at 20 mA; 2.7 V at 1 mA', read ones marked."""
    first = f"{lamp.forward_volts:g} V at {lamp.sheet_ma:g} mA"
    more = (f"{p.volts:g} V at {p.ma:g} mA{' read' if p.bench else ''}" for p in lamp.points)
    return "; ".join((first, *more))


def points_from(text: str) -> tuple[float, float, tuple[LampPoint, ...]]:
    """Read what `points_words` writes: the first is the sheet's, a point with “read” is from the bench.

    Raises
    ------
    RefusedError
        A part is not like “3.1 V at 20 mA”.
    """
    points: list[LampPoint] = []
    # A comma between digits is a decimal one.
    for part in re.split(r";|,(?!\d)", text):
        words = part.casefold().replace("ma", " ").replace("v", " ").replace("at", " ").replace("@", " ").split()
        bench = "read" in words
        numbers = [w for w in words if w != "read"]
        if len(numbers) == 1 and not points and "at" not in part.casefold() and "@" not in part:
            numbers.append("20")
        if len(numbers) != 2:
            raise RefusedError("Give V at mA, as on the sheet: “3.1 V at 20 mA; 2.7 V at 1 mA”. “read” marks your own.")
        points.append(LampPoint(volts=volts_from(numbers[0]), ma=current_from(numbers[1]), bench=bench))
    first = next((p for p in points if not p.bench), points[0])
    rest = list(points)
    rest.remove(first)
    return first.volts, first.ma, tuple(rest)


def ohms_words(values: tuple[float, ...]) -> str:
    """'100; 220; 4700'."""
    return "; ".join(f"{v:g}" for v in values)


def ohms_from(text: str) -> tuple[float, ...]:
    """Resistors as people write them: 100, 220R, 4k7, 1.5 k, parted by semicolons or spaces.

    Raises
    ------
    RefusedError
        One of them is no resistance from 1 Ω to 10 MΩ.
    """
    found = []
    for word in text.replace(";", " ").replace("Ω", " ").replace(" k", "k").split():
        written = re.fullmatch(r"(\d+)(?:[.,](\d+))?([kKMrR]?)(\d*)", word.strip(","))
        if written is None:
            raise RefusedError(f"“{word}” is no resistor. Write 100; 220; 4k7.")
        whole_part, decimals, letter, after = written.groups()
        value = float(f"{whole_part}.{decimals or after or 0}") * {"k": 1e3, "K": 1e3, "M": 1e6}.get(letter, 1.0)
        found.append(bounded(1, 1e7, "A resistor in Ω")(f"{value:g}"))
    return tuple(sorted(set(found)))


def main_supply(build: Build) -> PowerSupply:
    """The main supply, chosen or usual."""
    return build.get(PowerSupply, SUPPLY_ID) or PowerSupply(id=SUPPLY_ID)


# Cells in the holder that one would buy for a kind; what is not named stands alone.
USUAL_CELLS: Final[dict[SupplyKind, int]] = {"AA cells": 3, "AAA cells": 3, "AA rechargeable": 4, "button cell": 3}


def other_supply(kind: SupplyKind) -> dict[str, object]:
    """Another kind of supply with the cells of its usual holder: three coins in a row are no three AA cells."""
    return {"supply_kind": kind, "cells": USUAL_CELLS.get(kind, 1), "rows": 1, "label_mah": 0.0}


def light_plan(build: Build) -> LightPlan:
    """What the lighting has to fit, as told or as usual."""
    return build.get(LightPlan, LIGHT_PLAN_ID) or LightPlan(id=LIGHT_PLAN_ID)


@dataclass(frozen=True)
class BranchRow:
    """A branch of the circuit in words, for lists; `entity` None where it is only planned."""

    id: str
    name: str
    entity: LightBranch | None
    number: int
    times: int
    ma: float
    plus_minus: float
    readings: tuple[tuple[Gate, BranchReading], ...]
    judged: str
    verdict: str


def branch_rows(build: Build, lighting: Lighting | None) -> tuple[BranchRow, ...]:
    """All branches with what they should draw and what was read."""
    found = solved_of(lighting)
    if found is None or lighting is None:
        return ()
    wanted = {e.branch: e for e in found.expected}
    rows = []
    for number, branch in enumerate(found.circuit.branches):
        read = {r.gate: r for r in build.all(BranchReading) if r.branch_id == branch.id}
        said, judged = wanted.get(number), lighting.judged.get(branch.id)
        rows.append(
            BranchRow(
                branch.id, branch.name, build.get(LightBranch, branch.id), number, branch.times,
                said.ma if said else 0.0, said.plus_minus if said else 0.0, tuple(read.items()),
                judged.words if judged else "", judged.verdict if judged else "",
            )
        )  # fmt: skip
    return tuple(rows)


def reading_put(row: BranchRow, gate: Gate, text: str, now: datetime) -> Edits:
    """A reading typed in, which the log keeps too, or taken away where nothing is."""
    present = dict(row.readings).get(gate)
    if not text.strip():
        return {present.id: None} if present is not None else {}
    ma = bounded(0.0, 5000.0, "A reading in mA")(text)
    entity = BranchReading(id=present.id if present else new_id(), branch_id=row.id, gate=gate, ma=ma)
    said = f"{row.name}, {gate}: {ma:g} mA read, {row.ma:.1f} ± {row.plus_minus:.1f} mA expected."
    entry = LogEntry(id=new_id(), at=now.isoformat(timespec="minutes"), words=said)
    return {entity.id: entity, entry.id: entry}


ALL_LIT = "all lit"


def late_words(option: Option) -> str:
    """That a lamp is dark before the cells are used as far as was asked; nothing where none is."""
    return "" if option.lasts else f"dark at {100 * option.circuit.used:.0f} % used"


def option_words(option: SupplyOption) -> tuple[str, str, str, str, str, str, str]:
    """Light kept, hours to half, mean mA, heat, resistors, whether it lights, whether it fits."""
    from chalkreel.core.light.finding import hours_words

    found = option.option
    half = "runs on" if not option.supply.runs_down else hours_words(found.half_h) if found.half_h else "never half"
    fits = "" if option.fits is None else "fits" if option.fits else "does not fit"
    return (
        f"{100 * found.kept:.0f} %", half, f"{found.ma:.0f} mA", f"{1000 * found.heat_w:.0f} mW",
        str(found.resistors), option.wrong or late_words(found) or ALL_LIT, fits,
    )  # fmt: skip


def cavity_from(text: str, read: Callable[[str], float]) -> tuple[float, ...] | None:
    """'70 × 54 × 24' as lengths, nothing as None."""
    parts = [p for p in text.replace("×", "x").split("x") if p.strip()]
    return tuple(read(p) for p in parts) or None


def solved_of(lighting: Lighting | None) -> Solved | None:
    """The solved circuit, where there is one."""
    return lighting.solved if lighting is not None else None


def checked_lamp(lamp: Lamp, **fields: object) -> Lamp:
    """A lamp with other fields, refused at once where its sheet's figures are no lamp's.

    Raises
    ------
    RefusedError
        The points are not of one lamp.
    """
    from chalkreel.answers.circuit import lamp_kind

    changed = msgspec.structs.replace(lamp, **fields)
    lamp_kind(changed)
    return changed


@dataclass(frozen=True)
class RowChoice:
    """So many of a kind in a row, in words."""

    lamp_id: str
    lamp: str
    in_row: int
    kept: str
    half: str
    ma: str
    heat: str
    resistors: str
    now: str
    lasts: bool


def row_choices(
    build: Build, rows: Mapping[str, tuple[Option, ...]], lighting: Lighting | None
) -> tuple[RowChoice, ...]:
    """Rows of each kind of lamp that no branch has fixed."""
    from chalkreel.core.light.finding import hours_words

    found = solved_of(lighting)
    now: dict[str, int] = {}
    for branch in found.circuit.branches if found is not None else ():
        if lighting is not None and branch.id in lighting.planned and branch.strands:
            use = branch.strands[0].lamps
            now[use[0].kind] = max(len(use), now.get(use[0].kind, 0))
    names = {lamp.id: lamp.name for lamp in build.all(Lamp)}
    return tuple(
        RowChoice(
            key, names.get(key, ""), o.in_row, f"{100 * o.kept:.0f} %",
            hours_words(o.half_h) if o.half_h is not None else "runs on", f"{o.ma:.0f} mA", f"{1000 * o.heat_w:.0f} mW",
            str(o.resistors), "so planned" if now.get(key) == o.in_row else late_words(o), o.lasts,
        )
        for key, options in rows.items() if key in now
        for o in options if o.lit
    )  # fmt: skip
