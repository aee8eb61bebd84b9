"""The operating point: joint volts by Newton steps with limited junctions, many copies at once.

Nagel, SPICE2: a computer program to simulate semiconductor circuits (junction limiting and companion models).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.lamps import LEAKAGE_S, THERMAL_V
from chalkreel.core.light.network import Network, Shape, Values, shape_of, values_of

MOST_STEPS: Final = 80
_SETTLED_V: Final = 1e-7
# No exponential is taken beyond this: it would overflow on the way to the solution.
_MOST_EXPONENT: Final = 600.0
# So that a joint at which nothing flows still has a voltage.
_TO_GROUND_S: Final = 1e-9
TRANSISTOR_A: Final = 2e-14
REVERSE_GAIN: Final = 1.0
_BASE_KNEE_V: Final = np.float64(0.633)


@dataclass(frozen=True)
class Operating:
    """What flows, B copies: `row_a` (B, R) one row's current, `source_a` (B, S) drawn, `joint_v` (B, J).

    `lamp_a` (B, L) and `lamp_v` (B, L) are in each lamp's own forward direction. `fed` (B,) is False where cells cannot
    feed a step-up module. `slope_s` (B, E) is each row's and source's conductance here.
    """

    row_a: Array
    source_a: Array
    joint_v: Array
    lamp_a: Array
    lamp_v: Array
    slope_s: Array
    matrix: Array
    fed: Array


def solve(network: Network, values: Values | None = None, shape: Shape | None = None) -> Operating:
    """Solve all copies.

    Raises
    ------
    RefusedError
        The equations do not settle or have no solution: a loop of wire across a supply.
    """
    values, shape = values or values_of(network), shape or shape_of(network)
    bare = np.array([not row.lamps for row in network.rows])
    if (values.source_ohm <= 0).any() or (bare.any() and (values.row_ohm[:, bare] <= 0).any()):
        raise RefusedError("A wire without any resistance closes a loop: join its two ends to one point.")
    copies = values.copies
    state = _State(network, values, shape, copies)
    for _ in range(MOST_STEPS):
        if state.step() < _SETTLED_V:
            return state.found()
    raise RefusedError("This circuit does not settle: look for a supply that is joined to itself without a lamp.")


class _State:
    """Junction volts of all copies, moved step by step."""

    def __init__(self, network: Network, values: Values, shape: Shape, copies: int) -> None:
        self.network, self.v, self.shape = network, values, shape
        self.nvt = values.n * THERMAL_V
        lamps = len(shape.row_of)
        # Lamps start at 1 mA, transistors just off.
        self.knee = self.nvt * np.log1p(1e-3 / values.saturation)
        self.junction = np.broadcast_to(self.knee, (copies, lamps)).copy()
        self.base = np.full((copies, len(network.transistors), 2), (0.6, 0.0))
        self.joint = np.zeros((copies, network.joints))
        self.drawn = np.broadcast_to(values.volts[:, :1], (copies, len(network.draws))).copy()
        self.fed = np.ones(copies, bool)
        self.row = np.zeros((copies, len(network.rows)))

    def _lamps(self) -> tuple[Array, Array]:
        power = np.minimum(self.junction / self.nvt, _MOST_EXPONENT)
        growth = np.exp(power)
        amp = self.v.saturation * (growth - 1) + LEAKAGE_S * self.junction
        return amp, self.v.saturation / self.nvt * growth + LEAKAGE_S

    def step(self) -> float:
        amp, slope = self._lamps()
        sign, gather, across = self.shape.sign, self.shape.gather, self.shape.across
        ohm = self.v.row_ohm + (1 / slope + self.v.lamp_ohm) @ gather
        offset = (sign * (self.junction - amp / slope)) @ gather  # volts a row has before any current
        row_s = 1 / ohm
        source_s = np.broadcast_to(1 / self.v.source_ohm, (len(self.joint), len(self.network.sources)))
        self.slope = np.concatenate([row_s, source_s], axis=1)
        emf = np.concatenate([offset, np.broadcast_to(self.v.volts, source_s.shape)], axis=1)
        weighted = self.slope * self.shape.times
        self.matrix = np.swapaxes(across[None] * weighted[:, :, None], 1, 2) @ across
        self.matrix += _TO_GROUND_S * np.eye(self.network.joints)
        right = (weighted * emf) @ across
        self._add_transistors(right)
        self._add_draws(right)
        try:
            joint = np.linalg.solve(self.matrix, right[:, :, None])[:, :, 0]
        except np.linalg.LinAlgError as error:
            raise RefusedError("This circuit has no one solution: a part hangs in the air.") from error
        drop = joint @ across.T
        self.row = row_s * (drop[:, : len(self.network.rows)] - offset)
        wanted = self.junction + (sign * self.row[:, self.shape.row_of] - amp) / slope
        limited = _limited(self.junction, wanted, self.nvt, self.knee)
        moved = [np.abs(joint - self.joint), np.abs(limited - self.junction)]
        if self.network.transistors:
            moved.append(self._move_transistors(joint))
        self.joint, self.junction = joint, limited
        if self.network.draws:
            moved.append(self._move_draws())
        return max(float(m.max()) if m.size else 0.0 for m in moved)

    def _add_transistors(self, right: Array) -> None:
        """Companion of each transistor (transport model): currents into collector and base at its two junctions."""
        for t, part in enumerate(self.network.transistors):
            vbe, vbc = self.base[:, t, 0], self.base[:, t, 1]
            forward, forward_s = _junction(vbe)
            back, back_s = _junction(vbc)
            # (current, slope by vbe, slope by vbc) into the collector, the base and, what is left, the emitter
            collector = (
                forward - back * (1 + 1 / REVERSE_GAIN), forward_s, -back_s * (1 + 1 / REVERSE_GAIN),
            )  # fmt: skip
            base = (forward / part.gain + back / REVERSE_GAIN, forward_s / part.gain, back_s / REVERSE_GAIN)
            emitter = tuple(-(c + b) for c, b in zip(collector, base, strict=True))
            for joint, (amp, by_e, by_c) in (
                (part.collector, collector), (part.base, base), (part.emitter, emitter),
            ):  # fmt: skip
                if joint == 0:
                    continue
                constant = amp - by_e * vbe - by_c * vbc
                right[:, joint - 1] -= constant
                for other, slope in (
                    (part.base, by_e + by_c), (part.emitter, -by_e), (part.collector, -by_c),
                ):  # fmt: skip
                    if other:
                        self.matrix[:, joint - 1, other - 1] += slope

    def _move_transistors(self, joint: Array) -> Array:
        whole = np.concatenate([np.zeros((len(joint), 1)), joint], axis=1)
        before = self.base.copy()
        for t, part in enumerate(self.network.transistors):
            for side, other in ((0, part.emitter), (1, part.collector)):
                wanted = whole[:, part.base] - whole[:, other]
                self.base[:, t, side] = _limited(self.base[:, t, side], wanted, np.float64(THERMAL_V), _BASE_KNEE_V)
        moved: Array = np.abs(self.base - before)
        return moved

    def _add_draws(self, right: Array) -> None:
        """A module takes P/v: linearised, and let go where the cells would have to fall below half their volts."""
        for d, draw in enumerate(self.network.draws):
            at, on = self.drawn[:, d], self.fed
            self.matrix[:, draw.joint - 1, draw.joint - 1] -= np.where(on, draw.watt / at**2, 0.0)
            right[:, draw.joint - 1] -= np.where(on, 2 * draw.watt / at, 0.0) + draw.idle_a

    def _move_draws(self) -> Array:
        moved = np.zeros_like(self.drawn)
        for d, draw in enumerate(self.network.draws):
            seen = self.joint[:, draw.joint - 1]
            floor = 0.5 * self.v.volts[:, 0]
            failed = self.fed & (seen < floor)
            self.fed = self.fed & ~failed
            after = np.where(self.fed, np.maximum(seen, floor), self.drawn[:, d])
            moved[:, d] = np.where(self.fed, np.abs(after - self.drawn[:, d]), 0) + failed
            self.drawn[:, d] = after
        return moved

    def found(self) -> Operating:
        lamp = self.shape.sign * self.row[:, self.shape.row_of]
        drop = self.v.volts - (self.joint @ self.shape.across.T)[:, len(self.network.rows) :]
        return Operating(
            self.row, drop / self.v.source_ohm, self.joint, lamp, self.junction + self.v.lamp_ohm * lamp,
            self.slope, self.matrix, self.fed.astype(float),
        )  # fmt: skip


def _junction(volts: Array) -> tuple[Array, Array]:
    growth = np.exp(np.minimum(volts / THERMAL_V, _MOST_EXPONENT))
    return TRANSISTOR_A * (growth - 1) + LEAKAGE_S * volts, TRANSISTOR_A / THERMAL_V * growth + LEAKAGE_S


def _limited(old: Array, wanted: Array, nvt: Array | np.float64, knee: Array | np.float64) -> Array:
    """A junction goes up to its knee (1 mA) at once, and beyond by no more than the logarithm of what is asked."""
    rise = (wanted - old) / nvt
    slowed = old + nvt * (2 + np.log(np.maximum(rise - 1, 1e-30)))
    quick: Array = np.where((rise > 2) & (wanted > 0), np.maximum(slowed, np.minimum(wanted, knee)), wanted)
    return quick
