"""What a model is run from: cells that sag as they are used, and supplies from the wall.

Typical figures (Linden and Reddy, Handbook of Batteries; sizes by IEC 60086-2); the label of the user's own cell wins.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.kinds import SupplyKind

Box = tuple[float, float, float]
# Used share of the charge at which the open voltages below are given.
USED: Final = (0.0, 0.1, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 1.0)
# The last share of a cell is left out of all designs: a lamp is to be lit at least until here.
DESIGN_USED: Final = 0.8
_ALKALINE: Final = (1.60, 1.50, 1.44, 1.36, 1.30, 1.22, 1.14, 1.05, 0.90)
_LITHIUM: Final = (3.20, 3.05, 3.00, 2.97, 2.94, 2.85, 2.70, 2.45, 2.00)
_SILVER: Final = (1.58, 1.50, 1.44, 1.35, 1.28, 1.18, 1.10, 1.02, 0.90)
_NICKEL: Final = (1.40, 1.31, 1.29, 1.27, 1.25, 1.22, 1.17, 1.11, 1.00)


@dataclass(frozen=True)
class Cell:
    """One cell: open volts at `USED`, inner ohm fresh and at the end, mAh by the current drawn, size, and its limits.

    `box` is one cell in its holder, mm; `sure` is 1 σ of the volts.
    """

    open_v: tuple[float, ...]
    ohm: tuple[float, float]
    mah: tuple[tuple[float, float], ...]
    limit_ma: float
    short_a: float
    box: Box
    series: int = 8
    sure: float = 0.015


@dataclass(frozen=True)
class Mains:
    """A bought supply of steady volts that does not run down, with the spread of its volts as 1 σ."""

    volts: float
    sigma_v: float
    ohm: float
    limit_ma: float
    box: Box


def _times(volts: tuple[float, ...], count: int) -> tuple[float, ...]:
    return tuple(count * v for v in volts)


SUPPLIES: Final[dict[SupplyKind, Cell | Mains]] = {
    "coin cell": Cell(_LITHIUM, (12, 180), ((0.2, 225), (1, 200), (3, 180), (10, 110)), 6, 0.3, (24, 22, 6), 4),
    "coin 1220": Cell(_LITHIUM, (20, 200), ((0.1, 38), (1, 34), (5, 20)), 3, 0.15, (16, 14, 4), 4),
    "coin 2016": Cell(_LITHIUM, (15, 200), ((0.2, 85), (1, 78), (5, 55)), 5, 0.2, (24, 22, 4), 4),
    "coin 2025": Cell(_LITHIUM, (15, 200), ((0.2, 160), (1, 145), (5, 110)), 5, 0.2, (24, 22, 5), 4),
    "coin 2450": Cell(_LITHIUM, (10, 150), ((0.2, 600), (1, 560), (10, 380)), 10, 0.4, (29, 26, 8), 4),
    "button cell": Cell(_SILVER, (4, 45), ((1, 120), (5, 100), (15, 60)), 10, 0.4, (13, 13, 7.5)),
    "AAA cells": Cell(_ALKALINE, (0.25, 2), ((25, 1200), (100, 1000), (250, 700)), 250, 5, (52, 12.5, 13)),
    "AA cells": Cell(
        _ALKALINE, (0.15, 1.2), ((25, 2700), (100, 2400), (250, 1900), (500, 1400)), 500, 8, (58, 15.7, 16)
    ),
    "AA rechargeable": Cell(_NICKEL, (0.03, 0.1), ((100, 2100), (1000, 1900)), 1000, 20, (58, 15.7, 16)),
    "9 V block": Cell(_times(_ALKALINE, 6), (1.7, 19), ((10, 600), (25, 550), (100, 400)), 100, 4, (55, 29, 20), 2),
    "12 V small": Cell(_times(_ALKALINE, 8), (20, 150), ((1, 50), (10, 35), (40, 5)), 15, 0.5, (34, 12, 12), 2),
    "USB 5 V": Mains(5.0, 0.10, 0.2, 500, (40, 20, 12)),
    "plug pack 12 V": Mains(12.0, 0.25, 0.1, 1000, (18, 12, 12)),
    "plug pack 5 V": Mains(5.0, 0.125, 0.1, 1000, (18, 12, 12)),
}
OHM_SIGMA: Final = 0.15  # of a cell's inner resistance, 1 σ
# A power bank takes a small load for none at all and switches off.
BANK_NEEDS_MA: Final = 100.0
_COIN: Final = "Coin cells kill children who swallow them: a battery door that needs a tool, and count them."
_SHORT: Final = "Cells get hot when shorted: a switch and a fuse next to the holder, and no bare wire ends."
_WALL: Final = "Only a bought, certified adapter; nothing home-made on the mains side."
_NICKEL_WORDS: Final = "Take cells out to charge them, in a charger made for them, and stay with it. " + _SHORT


@dataclass(frozen=True)
class Supply:
    """So many cells in a row, and so many such rows side by side; or one supply from the wall. `fuse_ma` 0: none.

    `label_mah` is what the label of one's own cells promises at the smallest current, 0 where it is not told.
    """

    kind: SupplyKind
    cells: int = 1
    rows: int = 1
    fuse_ma: float = 0.0
    label_mah: float = 0.0

    @property
    def source(self) -> Cell | Mains:
        """What it is made of."""
        return SUPPLIES[self.kind]

    @property
    def name(self) -> str:
        """'3 × AA cells', or the kind alone where one is meant."""
        if isinstance(self.source, Mains):
            return self.kind
        count = self.cells * self.rows
        return f"{count} × {self.kind}" if count > 1 else self.kind.replace("cells", "cell")

    @property
    def caution(self) -> str:
        """What to mind with it."""
        if isinstance(self.source, Mains):
            return _WALL
        if self.kind.startswith(("coin", "button")):
            return _COIN
        return _NICKEL_WORDS if self.kind == "AA rechargeable" else _SHORT

    @property
    def limit_ma(self) -> float:
        """What it gives without harm."""
        return self.source.limit_ma * (self.rows if isinstance(self.source, Cell) else 1)

    @property
    def runs_down(self) -> bool:
        """Whether it is made of cells."""
        return isinstance(self.source, Cell)

    @property
    def short_a(self) -> float:
        """About what it drives through a short, A."""
        return self.source.short_a * self.rows if isinstance(self.source, Cell) else 2.0

    @property
    def volts(self) -> float:
        """Open volts when fresh."""
        return float(self.open_v(np.zeros(1))[0])

    @property
    def sigma_v(self) -> float:
        """Doubt of the open volts, 1 σ."""
        return self.volts * self.source.sure if isinstance(self.source, Cell) else self.source.sigma_v

    def open_v(self, used: Array) -> Array:
        """Open volts at used shares of the charge, any shape."""
        if isinstance(self.source, Mains):
            return np.full(np.shape(used), self.source.volts)
        return self.cells * np.interp(used, USED, self.source.open_v)

    def ohm(self, used: Array) -> Array:
        """Inner resistance at used shares: it rises slowly at first and steeply at the end; with the fuse's own."""
        if isinstance(self.source, Mains):
            return np.full(np.shape(used), self.source.ohm) + self.fuse_ohm
        fresh, end = self.source.ohm
        each: Array = fresh * (end / fresh) ** (np.asarray(used) ** 2)
        return each * self.cells / self.rows + self.fuse_ohm

    @property
    def fuse_ohm(self) -> float:
        """A resettable fuse that holds so much has about this in series (typical of small ones)."""
        return 150.0 / self.fuse_ma if self.fuse_ma else 0.0

    def mah(self, ma: Array) -> Array:
        """Charge it gives at currents, inf where it does not run down."""
        if isinstance(self.source, Mains):
            return np.full(np.shape(ma), np.inf)
        currents, charges = zip(*self.source.mah, strict=True)
        each: Array = np.interp(np.log(np.maximum(ma / self.rows, 1e-6)), np.log(currents), charges)
        stated = self.label_mah / charges[0] if self.label_mah else 1.0
        return self.rows * stated * each


def supply(kind: SupplyKind, cells: int = 1, rows: int = 1, fuse_ma: float = 0.0, label_mah: float = 0.0) -> Supply:
    """The supply of a kind.

    Raises
    ------
    RefusedError
        More cells in a row than such holders take, or none.
    """
    source = SUPPLIES[kind]
    if isinstance(source, Mains):
        return Supply(kind, 1, 1, fuse_ma)
    if not (1 <= cells <= source.series and 1 <= rows <= 4):
        raise RefusedError(f"Use one to {source.series} of “{kind}” in a row, and up to four such rows side by side.")
    return Supply(kind, cells, rows, fuse_ma, label_mah)
