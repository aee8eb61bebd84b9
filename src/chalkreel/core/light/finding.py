"""A finding: one thing wrong with a circuit, in sentences, with the change that cures it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from chalkreel.core.light.cells import Cell, Supply, supply
from chalkreel.core.light.circuit import Circuit

Kind = Literal[
    "reversed", "dark", "glimmer", "over lamp", "over pin", "over board", "over supply", "hot resistor",
    "one resistor for several", "unlike side by side", "flashes along", "dim strip", "fades", "dark before the end",
    "not fed", "over transistor", "no fuse", "bank switches off",
    "held switch", "two supplies",
]  # fmt: skip
Weight = Literal["bad", "warn"]

SHORTER: Final = "Shorter rows, each behind its own resistor."
OVER: Final = 1.02  # nothing is called over its limit for the rounding of a resistor
Cure = Callable[[Circuit], Circuit]


@dataclass(frozen=True)
class Finding:
    """One thing wrong: where, how heavy, what it is, and the change that cures it (None: nothing the circuit can do).

    `branch` −1 means the whole; `strand` and `place` point at the culprit, −1 where the whole branch is meant.
    """

    kind: Kind
    weight: Weight
    branch: int
    title: str
    words: str
    cure_words: str = ""
    cure: Cure | None = None
    strand: int = -1
    place: int = -1


def more_cells(source: Supply, needs: float, used: float) -> Supply | None:
    """The fewest cells of a kind, more than there are, that still give so many volts when used to a share."""
    if not isinstance(source.source, Cell):
        return None
    for cells in range(source.cells + 1, source.source.series + 1):
        bigger = supply(source.kind, cells, source.rows, source.fuse_ma, source.label_mah)
        if bigger.open_v(np.array([used]))[0] > needs:
            return bigger
    return None


def hours_words(hours: float) -> str:
    """'40 min', '6.5 h', '26 h', '12 days'."""
    if hours < 1.5:
        return f"{60 * hours:.0f} min"
    if hours < 10:
        return f"{hours:.1f} h"
    return f"{hours:.0f} h" if hours < 96 else f"{hours / 24:.0f} days"
