"""What a model is run from. Figures are ordinary ones; the label on the user's own cell wins."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from chalkreel.core.errors import RefusedError

SupplyKind = Literal["coin cell", "AA cells", "9 V block", "USB 5 V"]


@dataclass(frozen=True)
class Supply:
    """Nominal voltage, charge (None: not limited) and the current it gives without harm."""

    kind: SupplyKind
    volts: float
    charge_mah: float | None
    limit_ma: float
    caution: str
    cells: int = 1

    @property
    def name(self) -> str:
        """'3 × AA cells', or the kind alone where one is meant."""
        return f"{self.cells} × {self.kind}" if self.cells > 1 else self.kind.replace("AA cells", "AA cell")


_COIN: Final = "Coin cells kill children who swallow them: a battery door that needs a tool, and count them."
_SHORT: Final = "Cells get hot when shorted: a switch or fuse next to the holder, and no bare wire ends."
_USB: Final = "Only a bought, certified adapter; nothing home-made on the mains side."


def supply(kind: SupplyKind, cells: int = 1) -> Supply:
    """The supply of a kind; `cells` counts only for AA and coin cells, in series.

    Raises
    ------
    RefusedError
        No cells, or more than eight.
    """
    if not 1 <= cells <= 8:
        raise RefusedError("Use one to eight cells in series.")
    if kind == "coin cell":
        return Supply(kind, 3.0 * cells, 200.0, 6.0, _COIN, cells)
    if kind == "AA cells":
        return Supply(kind, 1.5 * cells, 2000.0, 500.0, _SHORT, cells)
    if kind == "9 V block":
        return Supply(kind, 9.0, 500.0, 100.0, _SHORT)
    return Supply(kind, 5.0, None, 500.0, _USB)
