"""The jobs between the kit and the version being built, and what parts of the kit ask for."""

from __future__ import annotations

import statistics
from dataclasses import dataclass, replace

from chalkreel.answers.sizes import Sizes
from chalkreel.answers.stock import owned_sections
from chalkreel.core.convert.kinds import Verb
from chalkreel.core.convert.operations import (
    HOURS,
    Difference,
    FeatureState,
    Operation,
    jobs_in_note,
    judged,
    state_job,
)
from chalkreel.core.convert.stock import StockChoice, nearest_stock
from chalkreel.core.finish.pace import Took, paces
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.verdict import CALLIPER_SIGMA_MM
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import Dimension, Feature, FeatureInVersion, KitPart
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class OperationRow:
    """One job with the feature it serves and its assembly, the stock nearest to its size, and further sizes."""

    feature_id: str
    assembly: str
    operation: Operation
    stock: StockChoice | None
    evidence_still_id: str
    further: tuple[tuple[str, Size], ...] = ()


@dataclass(frozen=True)
class JobOffer:
    """A job that a kit part asks for and no feature has yet; `dimension_id` is the size that it would be made to."""

    part_id: str
    verb: Verb
    why: str
    dimension_id: str = ""


@dataclass(frozen=True)
class Conversion:
    """All jobs and their hours; `notes` say of features why there is nothing to do; `offers` come from the kit's parts.

    `pace` is what jobs take this modeller, over the usual; 1 where the log does not say.
    """

    rows: tuple[OperationRow, ...]
    hours: float
    without_evidence: tuple[str, ...]
    notes: tuple[tuple[str, str], ...] = ()
    offers: tuple[JobOffer, ...] = ()
    pace: float = 1.0

    @property
    def shopping(self) -> tuple[str, ...]:
        """Materials, each once."""
        return tuple(dict.fromkeys(row.operation.material for row in self.rows if row.operation.verb != "check"))


def conversion(build: Build, sizes: Sizes) -> Conversion:
    """Compare, feature by feature, the kit's version with the one being built."""
    info = build.info
    wanted_sizes = {row.dimension_id: row.replica for row in sizes.rows if row.replica}
    owned, pace = owned_sections(build), _pace(build)
    rows: list[OperationRow] = []
    bare, notes = [], []
    for feature in build.all(Feature):
        wanted = state_in(build, feature.id, info.version_id)
        kit = state_in(build, feature.id, info.kit_version_id)
        difference = _difference(build, feature, kit, wanted, wanted_sizes.get(feature.dimension_id))
        still_id = wanted.still_id if wanted else ""
        found = judged(difference, info.unit)
        for operation in found.operations:
            hours = operation.hours if operation.hours == feature.hours else operation.hours * pace
            timed = replace(operation, hours=hours)
            stock = nearest_stock(timed.size_mm, build.chain.replica_ratio, owned, info.unit) if timed.size_mm else None
            further = tuple((i, wanted_sizes[i]) for i in feature.other_dimension_ids if i in wanted_sizes)
            rows.append(OperationRow(feature.id, feature.assembly, timed, stock, still_id, further))
        if found.note:
            notes.append((feature.id, found.note))
        if not still_id and _only_a_still_tells(kit, wanted):
            bare.append(feature.name)
    hours = sum(row.operation.hours for row in rows)
    return Conversion(tuple(rows), hours, tuple(bare), tuple(notes), job_offers(build, sizes), pace)


def _only_a_still_tells(kit: FeatureInVersion | None, wanted: FeatureInVersion | None) -> bool:
    """Whether a version is said to differ from the kit, or nothing is known of it: a repair needs no still."""
    if kit is None or wanted is None or wanted.present is None:
        return True
    return (kit.present, kit.form, kit.place) != (wanted.present, wanted.form, wanted.place)


def _pace(build: Build) -> float:
    """What jobs take, over the usual: from log entries that name the step of a job."""
    took = []
    for entry in build.all(LogEntry):
        verb = entry.step_id.split("/")[2] if entry.step_id.count("/") >= 2 else ""
        if verb in HOURS and entry.minutes:
            took.append(Took("job", 60 * HOURS[verb], entry.minutes))
    return paces(took)[0] if took else 1.0


def job_offers(build: Build, sizes: Sizes) -> tuple[JobOffer, ...]:
    """What parts that are not right ask for, or that Measure would make anew, where no feature speaks of them."""
    spoken_of = {feature.part_id for feature in build.all(Feature)}
    parts = {d.id: d.part_id for d in build.all(Dimension) if d.part_id}
    measured = {parts[row.dimension_id]: row for row in sizes.rows if row.dimension_id in parts}
    found: list[JobOffer] = []
    for part in build.all(KitPart):
        if part.id in spoken_of:
            continue
        row = measured.get(part.id)
        size = row.dimension_id if row is not None else ""
        job = state_job(part.state)
        if part.state == "missing":
            found.append(JobOffer(part.id, "add", "missing from the kit", size))
        elif row is not None and row.verdict.action == "make new":
            found.append(JobOffer(part.id, "replace", row.verdict.words, size))
        elif job is not None:
            found.append(JobOffer(part.id, *job, size))
        else:
            found += [JobOffer(part.id, verb, part.fit_note, size) for verb in jobs_in_note(part.fit_note)[:1]]
    return tuple(found)


def middle_miss(sizes: Sizes) -> tuple[float, int] | None:
    """The middle of how far the kit's parts are from what is wanted (mm), and how many were measured."""
    misses = [abs(row.verdict.excess_mm) for row in sizes.rows if row.verdict.excess_mm is not None]
    return (statistics.median(misses), len(misses)) if misses else None


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
        part.fit_note if part else "",
        feature.way,
        feature.also,
        feature.material,
        feature.hours,
        feature.when,
    )


def _state(entry: FeatureInVersion | None, size: Size | None) -> FeatureState:
    if entry is None:
        return FeatureState(None, size=size)
    return FeatureState(entry.present, entry.form, entry.place, size)
