"""A circuit as arrays: joints and what lies between them, ready to be solved many times over.

Joint 0 is the return. A *row* is what carries one current between two joints: lamps one after another with all
resistance in series with them folded in, so that it needs no joints of its own.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from chalkreel.core.arrays import Array
from chalkreel.core.light.lamps import LampCurve


@dataclass(frozen=True)
class LampInRow:
    """A lamp with its curve; `turned` where its minus faces the plus."""

    curve: LampCurve
    turned: bool = False


@dataclass(frozen=True)
class Row:
    """Lamps (or none) and resistance between two joints; `times` such rows lie side by side, all alike."""

    plus: int
    minus: int
    ohm: float
    lamps: tuple[LampInRow, ...] = ()
    times: float = 1.0


@dataclass(frozen=True)
class Source:
    """Volts behind a resistance, between the return and a joint."""

    joint: int
    volts: float
    ohm: float


@dataclass(frozen=True)
class Transistor:
    """An NPN stage: its three joints; its collector has 0.4 Ω in front of it as a row of its own."""

    collector: int
    base: int
    emitter: int
    gain: float = 200.0


@dataclass(frozen=True)
class Draw:
    """A step-up module as its cells see it: so many W (its idle current at the joint's own volts included)."""

    joint: int
    watt: float
    idle_a: float = 0.0


@dataclass(frozen=True)
class Network:
    """So many joints besides the return, and all that lies between them."""

    joints: int
    rows: tuple[Row, ...]
    sources: tuple[Source, ...]
    transistors: tuple[Transistor, ...] = ()
    draws: tuple[Draw, ...] = ()


@dataclass(frozen=True)
class Values:
    """What may differ from copy to copy; B copies. Lamps are numbered through all rows.

    saturation (A), n, lamp_ohm: (B, L). row_ohm: (B, R). volts, source_ohm: (B, S).
    """

    saturation: Array
    n: Array
    lamp_ohm: Array
    row_ohm: Array
    volts: Array
    source_ohm: Array

    @property
    def copies(self) -> int:
        """How many copies the arrays stand for."""
        return max(len(a) for a in vars(self).values())


@dataclass(frozen=True)
class Shape:
    """How a network hangs together: `row_of` (L,) the row of each lamp, `sign` (L,) −1 where it is turned.

    `across` (E, J) has +1 and −1 at the joints of each row and then of each source; `times` (E,).
    """

    row_of: npt.NDArray[np.intp]
    sign: Array
    gather: Array = field(repr=False)  # (L, R): one at each lamp's row
    across: Array = field(repr=False)
    times: Array = field(repr=False)


def shape_of(network: Network) -> Shape:
    """Number lamps and elements."""
    row_of = np.array([r for r, row in enumerate(network.rows) for _ in row.lamps], dtype=np.intp)
    sign = np.array([-1.0 if lamp.turned else 1.0 for row in network.rows for lamp in row.lamps])
    gather = np.zeros((len(row_of), len(network.rows)))
    gather[np.arange(len(row_of)), row_of] = 1.0
    across = np.zeros((len(network.rows) + len(network.sources), network.joints + 1))
    for e, row in enumerate(network.rows):
        across[e, row.plus] += 1.0
        across[e, row.minus] -= 1.0
    for s, source in enumerate(network.sources):
        across[len(network.rows) + s, source.joint] = 1.0
    times = np.array([row.times for row in network.rows] + [1.0] * len(network.sources))
    return Shape(row_of, sign, gather, across[:, 1:], times)


def values_of(network: Network) -> Values:
    """The one copy in which everything is as said."""
    curves = [lamp.curve for row in network.rows for lamp in row.lamps]
    return Values(
        np.array([[c.saturation_a for c in curves]]),
        np.array([[c.n for c in curves]]),
        np.array([[c.ohm for c in curves]]),
        np.array([[row.ohm for row in network.rows]]),
        np.array([[s.volts for s in network.sources]]),
        np.array([[s.ohm for s in network.sources]]),
    )


def at_volts(values: Values, volts: Array, ohm: Array) -> Values:
    """The same lamps on other supplies: volts and ohm (B, S), as at several shares of a charge."""
    return replace(values, volts=volts, source_ohm=ohm)
