"""The stock that is owned, as sections; what is commonly sold where nobody told of any."""

from __future__ import annotations

from chalkreel.core.convert.kinds import StockForm
from chalkreel.core.convert.stock import sold
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.snapshot import Build


def owned_sections(build: Build) -> tuple[tuple[StockForm, float], ...]:
    """Form and measured thickness (mm) of everything that is there, each once."""
    there = tuple(dict.fromkeys((s.form, s.thick_mm) for s in build.all(StockPiece) if s.count))
    return there or sold(build.info.unit)
