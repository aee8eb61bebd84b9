"""The stock that is owned, and the nearest of it to every size; what is commonly sold where nobody told of any."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from chalkreel.core.convert.kinds import StockForm
from chalkreel.core.convert.stock import LARGEST_STOCK_MM, CutLength, StockChoice, cut_length, nearest_stock, sold
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.sizes import Sizes


def owned_sections(build: Build) -> tuple[tuple[StockForm, float], ...]:
    """Form and measured thickness (mm) of everything that is there, each once."""
    there = tuple(dict.fromkeys((s.form, s.thick_mm) for s in build.all(StockPiece) if s.count))
    return there or sold(build.info.unit)


def nearest_stocks(build: Build, sizes: Sizes) -> Mapping[str, StockChoice | CutLength]:
    """The stock nearest to every size of the replica, by dimension; of one that is cut to length, the strip, rod or
    tube of one's own of which least is left, and nothing where none is long enough.
    """
    owned, found = owned_sections(build), dict[str, StockChoice | CutLength]()
    lengths = [(s.id, s.long_mm) for s in build.all(StockPiece) if s.count and s.form != "sheet"]
    for row in sizes.rows:
        if row.replica is not None:
            choice = nearest_stock(row.replica.mm, build.chain.replica_ratio, owned, build.info.unit)
            cut = cut_length(row.replica.mm, lengths) if row.replica.mm > LARGEST_STOCK_MM else None
            stock = choice or cut
            if stock is not None:
                found[row.dimension_id] = stock
    return found
