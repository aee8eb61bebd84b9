"""What is wrong with supplies, what switches the branches, and how long it lasts."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Final

from chalkreel.core.light import cures
from chalkreel.core.light.cells import BANK_NEEDS_MA, Mains, Supply, supply
from chalkreel.core.light.circuit import (
    BOARD_LIMIT_MA,
    LOW_PIN_LIMIT_MA,
    PIN_LIMIT_MA,
    Circuit,
    StepUp,
)
from chalkreel.core.light.design import row_volts
from chalkreel.core.light.finding import OVER, SHORTER, Cure, Finding, hours_words, more_cells
from chalkreel.core.light.lit import Lit
from chalkreel.core.light.run_time import RunTime
from chalkreel.core.light.wires import BY_NAME, fuse_for, usual_wire

MOST_ROWS: Final = 4
EVENING_H: Final = 3.0
TRANSISTOR_MA: Final = 80.0  # behind 1 kΩ
_BARELY_MA, _NEARLY_EMPTY = 0.5, 0.97


def of_supplies(circuit: Circuit, found: Lit) -> Iterator[Finding]:
    """What is asked too much of each supply, and what is missing at it."""
    for state in found.supplies:
        source = dict(circuit.supplies)[state.key]
        if isinstance(source, StepUp):
            if state.ma > source.limit_ma * OVER:
                yield Finding(
                    "over supply", "bad", -1, "The step-up module is overloaded",
                    f"{state.ma:.0f} mA asked, such a module gives about {source.limit_ma:.0f} mA.",
                )  # fmt: skip
            continue
        if not state.fed:
            yield Finding(
                "not fed", "bad", -1, "The cells cannot feed the step-up module",
                f"What it makes is more than {source.name} can push through their own resistance: its lamps stay dark.",
                *_bigger(state.key, source, state.ma),
            )  # fmt: skip
        if state.ma > source.limit_ma * OVER:
            yield Finding(
                "over supply", "bad", -1, f"The {source.name} is overloaded",
                f"{state.ma:.0f} mA asked, about {source.limit_ma:.0f} mA is what it gives without harm.",
                *_bigger(state.key, source, state.ma),
            )  # fmt: skip
        if source.kind == "USB 5 V" and 0 < state.mean_ma < BANK_NEEDS_MA:
            yield Finding(
                "bank switches off", "warn", -1, "A power bank may switch off",
                f"{state.mean_ma:.0f} mA is less than many power banks need to stay on (about {BANK_NEEDS_MA:.0f} mA). "
                "A plug in the wall stays on.",
            )  # fmt: skip
        yield from _fuse(circuit, found, state.key, source, state.ma)


def _bigger(key: str, source: Supply, ma: float) -> tuple[str, Cure | None]:
    if isinstance(source.source, Mains):
        return "Ask for less current, or split the lamps between two supplies.", None
    if source.kind.startswith(("coin", "button", "12 V")):
        volts = source.volts
        cells = min(8, max(1, math.ceil(volts / 1.6 - 0.01)))
        others = supply("AA cells", cells, 1, source.fuse_ma)
        return f"{others.name} instead.", partial(cures.on_supply, key=key, supply=others)
    # Cells side by side have less resistance between them, so that a little more flows.
    rows = max(source.rows + 1, math.ceil(1.05 * ma / source.source.limit_ma))
    if rows <= MOST_ROWS:
        more = replace(source, rows=rows)
        words = f"{more.cells * more.rows} cells, in {more.rows} rows side by side."
        return words, partial(cures.on_supply, key=key, supply=more)
    return "Ask for less current.", None


def _fuse(circuit: Circuit, found: Lit, key: str, source: Supply, ma: float) -> Iterator[Finding]:
    """What a short would melt: of wires that were named, and of those that are planned where none was."""
    wires = [
        BY_NAME.get(b.wire) or usual_wire(sum(a.ma for a in found.of_branch(n) if a.place == 0))
        for n, b in enumerate(circuit.branches) if circuit.supply_of(b)[0] == key
    ]  # fmt: skip
    if not wires or source.fuse_ma:
        return
    thinnest = min(wires, key=lambda w: w.copper_mm)
    if source.short_a <= thinnest.melts_a:
        return
    fuse = fuse_for(thinnest, ma)
    words = f"No fuse both carries {ma:.0f} mA and saves this wire: take thicker wire."
    cure: Cure | None = None
    if fuse is not None:
        words = f"A resettable fuse of {fuse:.0f} mA at the holder."
        cure = partial(cures.fused, key=key, fuse_ma=fuse)
    yield Finding(
        "no fuse", "warn", -1, f"A short of the {source.name} would melt a wire",
        f"Through a pinched wire {source.name} drives about {source.short_a:.1f} A; {thinnest.name} melts at about "
        f"{thinnest.melts_a:.1f} A, inside the hull.",
        words, cure,
    )  # fmt: skip


def of_switching(circuit: Circuit) -> Iterator[Finding]:
    """Two supplies to be switched, and a switch that lights only while it is held."""
    used = {circuit.supply_of(b)[0] for b in circuit.branches}
    apart = [s for key, s in circuit.supplies if key in used and isinstance(s, Supply)]
    if len(apart) > 1:
        yield Finding(
            "two supplies", "warn", -1, "Two supplies, two switches",
            f"{' and '.join(s.name for s in apart)}: both must be reached, switched and changed.",
            f"All on {apart[0].name}, with a step-up module for what needs more volts.", cures.on_one_supply,
        )  # fmt: skip
    if circuit.switch != "latching" and circuit.branches:
        yield Finding(
            "held switch", "warn", -1, "It lights only while it is held",
            f"A {circuit.switch} switch in the supply's line is on only while a hand or magnet is there.",
            "A latching switch; the other may trigger a board.", partial(replace, switch="latching"),
        )  # fmt: skip


def of_drivers(circuit: Circuit, found: Lit) -> Iterator[Finding]:
    """Pins, transistors and boards that have too much to carry."""
    total, branches = 0.0, circuit.branches
    for key, ma in found.driver_ma:
        driver = next(d for d in circuit.drivers if d.id == key)
        number = next(i for i, b in enumerate(circuit.branches) if b.driver == key)
        volts = circuit.supply_of(circuit.branches[number])[1].volts
        limit = PIN_LIMIT_MA if volts > 4 else LOW_PIN_LIMIT_MA
        total += ma if driver.kind != "power transistor" else 0.0
        load = sum(
            a.ma * branches[a.branch].times for a in found.lamps if branches[a.branch].driver == key and not a.place
        )
        if driver.kind == "transistor" and load > TRANSISTOR_MA * OVER:
            yield Finding(
                "over transistor", "bad", number, f"{driver.name}: too much for the transistor",
                f"It is to switch {load:.0f} mA; driven through 1 kΩ it carries about {TRANSISTOR_MA:.0f} mA.",
                "A power transistor.", partial(cures.driven_by, key=key, kind="power transistor"),
            )  # fmt: skip
        if driver.kind == "pin" and ma > limit * OVER:
            yield Finding(
                "over pin", "bad", number, f"{driver.name}: too much for a pin",
                f"{ma:.0f} mA asked of one pin, {limit:.0f} mA is what it stands for long.",
                "A transistor behind the pin.", partial(cures.driven_by, key=key, kind="transistor"),
            )  # fmt: skip
    if total > BOARD_LIMIT_MA * OVER:
        yield Finding(
            "over board", "bad", -1, "Too much for the board",
            f"All pins together give {total:.0f} mA; the chip stands {BOARD_LIMIT_MA:.0f} mA. Put the heaviest behind "
            "transistors.",
        )  # fmt: skip


def of_time(circuit: Circuit, times: tuple[RunTime, ...]) -> Iterator[Finding]:
    """Lamps that fade within an evening, or are dark while the cells still have much."""
    for time in times:
        if time.half is not None and time.half < EVENING_H and time.half_which is not None:
            number = time.half_which[0]
            yield Finding(
                "fades", "warn", number, f"{circuit.branches[number].name}: fades within the evening",
                f"After {hours_words(time.half)} it has half its light. More or larger cells, or less current, or "
                "shorter rows keep it longer.",
            )  # fmt: skip
        elif time.dark is not None and time.dark_used < circuit.used and time.dark_which is not None:
            number = time.dark_which[0]
            yield Finding(
                "dark before the end", "warn", number, f"{circuit.branches[number].name}: dark too soon",
                f"It is dark after {hours_words(time.dark)}, when {100 * time.dark_used:.0f} % of the cells is used: "
                "its row needs nearly all their volts.",
                *_stiffer(circuit, number),
            )  # fmt: skip


def _stiffer(circuit: Circuit, number: int) -> tuple[str, Cure | None]:
    """Shorter rows, or cells of which even the last volts suffice."""
    branch = circuit.branches[number]
    if max(len(s.lamps) for s in branch.strands) > 1:
        return SHORTER, partial(cures.shorter_rows, number=number)
    key, source = circuit.supply_of(branch)
    needs = max(row_volts(circuit, s, _BARELY_MA) for s in branch.strands)
    more = more_cells(source, needs, _NEARLY_EMPTY) if isinstance(source, Supply) else None
    if more is None:
        return "", None
    return f"{more.name} instead of {source.name}.", partial(cures.on_supply, key=key, supply=more)  # type: ignore[union-attr]
