"""The operations between the kit and the version being built."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.answers.sizes import Sizes
from chalkreel.core.convert.operations import Difference, FeatureState, Operation, operations_for
from chalkreel.core.convert.stock import StockChoice, nearest_stock
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.verdict import CALLIPER_SIGMA_MM
from chalkreel.document.entities import Feature, FeatureInVersion, KitPart
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class OperationRow:
    """One job with the feature it serves, its assembly and the stock nearest to its size."""

    feature_id: str
    assembly: str
    operation: Operation
    stock: StockChoice | None
    evidence_still_id: str


@dataclass(frozen=True)
class Conversion:
    """All jobs, what to buy or cut, and the hours."""

    rows: tuple[OperationRow, ...]
    hours: float
    without_evidence: tuple[str, ...]

    @property
    def shopping(self) -> tuple[str, ...]:
        """Materials, each once."""
        return tuple(dict.fromkeys(row.operation.material for row in self.rows if row.operation.verb != "check"))


def conversion(build: Build, sizes: Sizes) -> Conversion:
    """Compare, feature by feature, the kit's version with the one being built."""
    info = build.info
    wanted_sizes = {row.dimension_id: row.replica for row in sizes.rows if row.replica}
    rows: list[OperationRow] = []
    bare = []
    for feature in build.all(Feature):
        wanted = state_in(build, feature.id, info.version_id)
        kit = state_in(build, feature.id, info.kit_version_id)
        difference = _difference(build, feature, kit, wanted, wanted_sizes.get(feature.dimension_id))
        still_id = wanted.still_id if wanted else ""
        rows += [
            OperationRow(feature.id, feature.assembly, op, _stock(build, op), still_id)
            for op in operations_for(difference, info.unit)
        ]
        if not still_id:
            bare.append(feature.name)
    return Conversion(tuple(rows), sum(row.operation.hours for row in rows), tuple(bare))


def _stock(build: Build, operation: Operation) -> StockChoice | None:
    size = operation.size_mm
    return nearest_stock(size, build.chain.replica_ratio, build.info.unit) if size else None


def state_in(build: Build, feature_id: str, version_id: str) -> FeatureInVersion | None:
    """What the table says of a feature in a version."""
    return next(
        (s for s in build.all(FeatureInVersion) if s.feature_id == feature_id and s.version_id == version_id), None
    )


def _difference(
    build: Build, feature: Feature, kit: FeatureInVersion | None, wanted: FeatureInVersion | None, size: Size | None
) -> Difference:
    part = build.get(KitPart, feature.part_id)
    return Difference(
        feature.name,
        _state(kit, Size(part.calliper_mm, CALLIPER_SIGMA_MM) if part and part.calliper_mm else None),
        _state(wanted, size),
        feature.moulded_on,
        part.state if part else "present",
        feature.material,
        feature.hours,
        feature.when,
    )


def _state(entry: FeatureInVersion | None, size: Size | None) -> FeatureState:
    if entry is None:
        return FeatureState(None)
    if size is None:
        return FeatureState(entry.present, entry.form, entry.place)
    return FeatureState(entry.present, entry.form, entry.place, size.mm, size.half_width_mm)
