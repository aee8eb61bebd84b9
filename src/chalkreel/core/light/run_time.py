"""For how long: to half the light, to the first dark lamp, to the end of the cells.

No stepping through time: the circuit is solved at many shares of the charge at once, and t = ∫ Q(I)/I du, where Q is
what the cell gives at that current and I falls exponentially between the points.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Circuit, StepUp
from chalkreel.core.light.island import Island, open_and_ohm
from chalkreel.core.light.lamps import VISIBLE_MA
from chalkreel.core.light.lit import islands
from chalkreel.core.light.operating import Operating, solve

# Shares of the charge: closer together at the end, where cells fall.
SHARES: Final = np.concatenate([np.linspace(0, 0.88, 45), np.linspace(0.89, 1.0, 23)])
# What cells of one type and mark differ in charge, 1 σ.
CHARGE_SIGMA: Final = 0.08
HALF: Final = 0.5


@dataclass(frozen=True)
class RunTime:
    """Hours to events; None where it does not come before the cells are done. `which` is the (branch, strand, place).

    `dark_used` is the share of the charge used by then. `hours` (U,) and `light` (U,) of the lamp that fades first
    draw the curve.
    """

    key: str
    half: float | None
    half_which: tuple[int, int, int] | None
    dark: float | None
    dark_which: tuple[int, int, int] | None
    dark_used: float
    done: float
    hours: tuple[float, ...]
    light: tuple[float, ...]


def run_times(circuit: Circuit, shift_v: float = 0.0) -> tuple[RunTime, ...]:
    """The run time of every supply that runs down and has something to feed; `shift_v` off its volts.

    Raises
    ------
    RefusedError
        What no wiring can be, or what does not settle.
    """
    sources = dict(circuit.supplies)
    made = islands(circuit)
    found = []
    for part in made:
        supply = sources[part.key]
        if isinstance(supply, Supply) and supply.runs_down and (part.network.rows or part.network.draws):
            behind = tuple(
                p for p in made if isinstance(s := sources[p.key], StepUp) and s.fed_by == part.key and p.network.rows
            )
            timed = _run_time(part, supply, behind, shift_v)
            if timed is not None:
                found.append(timed)
    return tuple(found)


def _run_time(part: Island, supply: Supply, behind: tuple[Island, ...], shift_v: float) -> RunTime | None:
    phases = len(part.phases)
    volts, ohm = open_and_ohm(supply, SHARES)
    values = part.values()
    stacked = type(values)(
        values.saturation, values.n, values.lamp_ohm, np.tile(values.row_ohm, (len(SHARES), 1)),
        np.repeat(volts + shift_v, phases)[:, None], np.repeat(ohm, phases)[:, None],
    )  # fmt: skip
    state = solve(part.network, stacked, part.shape)
    mean = (state.source_a[:, 0].reshape(-1, phases) * part.weights).sum(axis=1)
    if mean[0] < 1e-7:
        return None
    fed = state.fed.reshape(-1, phases).min(axis=1)
    clock = _clock(supply, np.maximum(mean, 1e-7))
    lamps, light, amp = _light(part, state, phases)
    for module in behind:
        names, steady, current = _module_light(module)
        lamps += names
        light = np.hstack([light, fed[:, None] * steady])
        amp = np.hstack([amp, fed[:, None] * current])
    return _events(part.key, clock, lamps, light, amp)


@dataclass(frozen=True)
class _Clock:
    """Hours at each share used, and `rate` (U,): hours that a whole charge would take at the current there."""

    rate: Array
    hours: Array

    def within(self, at: int, share: float) -> float:
        """Hours a share of the way from point `at` to the next: in between the current falls exponentially."""
        left, right = self.rate[at], self.rate[at + 1]
        return float(
            self.hours[at] + (SHARES[at + 1] - SHARES[at]) * share * _mean(left, left * (right / left) ** share)
        )


def _mean(left: Array, right: Array) -> Array:
    """The mean of what grows exponentially from one to the other."""
    ratio = np.log(right / left)
    even = np.abs(ratio) < 1e-9
    return np.where(even, left, (right - left) / np.where(even, 1.0, ratio))


def _clock(supply: Supply, amp: Array) -> _Clock:
    rate = supply.mah(1000 * amp) / 1000 / amp
    return _Clock(rate, np.concatenate([[0.0], np.cumsum(_mean(rate[:-1], rate[1:]) * np.diff(SHARES))]))


def _light(part: Island, state: Operating, phases: int) -> tuple[list[tuple[int, int, int]], Array, Array]:
    amp = np.maximum(state.lamp_a, 0).reshape(len(SHARES), phases, -1).max(axis=1)
    names, place, before = [], 0, -1
    for row in part.shape.row_of:
        place = place + 1 if row == before else 0
        before = row
        names.append((part.where[row].branch, part.where[row].strand, place))
    gamma = np.array([lamp.curve.gamma for row in part.network.rows for lamp in row.lamps])
    seen = amp[0] >= VISIBLE_MA / 1000
    light = (amp / np.maximum(amp[0], 1e-12)) ** gamma if len(gamma) else amp
    return [n for n, s in zip(names, seen, strict=True) if s], light[:, seen], amp[:, seen]


def _module_light(part: Island) -> tuple[list[tuple[int, int, int]], Array, Array]:
    state = solve(part.network, part.values(), part.shape)
    amp = np.maximum(state.lamp_a, 0).max(axis=0)
    names = [(part.where[r].branch, part.where[r].strand, 0) for r in part.shape.row_of]
    return names, np.ones((1, len(names))), amp[None]


def _events(key: str, clock: _Clock, lamps: list[tuple[int, int, int]], light: Array, amp: Array) -> RunTime:
    half, half_which = _first_below(clock, light, HALF, lamps)
    dark, dark_which = _first_below(clock, amp, VISIBLE_MA / 1000, lamps)
    worst = light.min(axis=1) if len(lamps) else np.zeros(len(SHARES))
    hours = clock.hours
    used = float(np.interp(dark, hours, SHARES)) if dark is not None else 1.0
    return RunTime(
        key, half, half_which, dark, dark_which, used, float(hours[-1]), tuple(hours.tolist()), tuple(worst.tolist())
    )


def _first_below(
    clock: _Clock, values: Array, limit: float, lamps: list[tuple[int, int, int]]
) -> tuple[float | None, tuple[int, int, int] | None]:
    """When the first column falls below a limit, between points by the logarithm."""
    best: tuple[float | None, tuple[int, int, int] | None] = (None, None)
    for column, name in enumerate(lamps):
        below = np.flatnonzero(values[:, column] < limit)
        if not len(below) or below[0] == 0:
            continue
        at = int(below[0]) - 1
        high, low = np.log(values[at, column]), np.log(max(values[at + 1, column], 1e-15))
        when = clock.within(at, float((high - np.log(limit)) / max(high - low, 1e-12)))
        if best[0] is None or when < best[0]:
            best = (when, name)
    return best
