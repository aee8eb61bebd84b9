"""View-model of Convert (no Qt): the features × versions table and the operations in words."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.answers.answers import Answers
from chalkreel.answers.conversion import OperationRow, state_in
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Feature, FeatureInVersion, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build

ABSENT, DOUBTFUL = "not there", "?"


@dataclass(frozen=True)
class Cell:
    """A feature in one version, as one phrase: 'lattice boom at amidships', 'not there' or '?'."""

    feature: Feature
    state: FeatureInVersion | None

    @property
    def words(self) -> str:
        """The phrase."""
        if self.state is None or self.state.present is None:
            return DOUBTFUL
        if not self.state.present:
            return ABSENT
        return " at ".join(part for part in (self.state.form or "as moulded", self.state.place) if part)


def version_titles(build: Build) -> tuple[tuple[str, str], ...]:
    """Every version's id and column title: the kit's first, then the one being built, then the others."""
    info = build.info
    tags = {info.version_id: "being built", info.kit_version_id: "the kit"}
    if info.version_id == info.kit_version_id:
        tags = {info.version_id: "the kit, being built"}
    rank = {info.kit_version_id: 0, info.version_id: 1}
    ordered = sorted(build.all(Version), key=lambda v: rank.get(v.id, 2))
    return tuple((v.id, f"{v.name} ({tags[v.id]})" if v.id in tags else v.name) for v in ordered)


def cell(build: Build, feature: Feature, version_id: str) -> Cell:
    """One cell of the table."""
    return Cell(feature, state_in(build, feature.id, version_id))


def cell_edits(build: Build, feature: Feature, version_id: str, text: str) -> Edits:
    """Read a phrase back: '?', 'not there' (or '-', 'no', 'none'), or 'form at place'."""
    words = text.strip()
    form, _, place = words.partition(" at ")
    present = None if words in ("", DOUBTFUL) else words.lower() not in (ABSENT, "-", "no", "none", "—")
    if not present:
        form = place = ""
    old = state_in(build, feature.id, version_id)
    still_id = old.still_id if old else ""
    entry = FeatureInVersion(
        id=old.id if old else new_id(),
        feature_id=feature.id,
        version_id=version_id,
        present=present,
        form=form.strip(),
        place=place.strip(),
        still_id=still_id,
    )
    return {entry.id: entry}


def evidence_words(build: Build, feature: Feature) -> str:
    """Which still shows the feature in the version being built."""
    state = state_in(build, feature.id, build.info.version_id)
    still = build.get(Still, state.still_id) if state else None
    return f"still {still.number}" if still else "none"


def evidence_edits(build: Build, feature: Feature, words: str) -> Edits:
    """Set the evidence still of the version being built.

    Raises
    ------
    RefusedError
        No such still.
    """
    number = words.removeprefix("still ").strip()
    still = next((s for s in build.all(Still) if str(s.number) == number), None)
    if still is None and words != "none":
        raise RefusedError(f"There is no still {number} on the reel.")
    state = state_in(build, feature.id, build.info.version_id)
    entry = FeatureInVersion(
        id=state.id if state else new_id(),
        feature_id=feature.id,
        version_id=build.info.version_id,
        present=state.present if state else None,
        form=state.form if state else "",
        place=state.place if state else "",
        still_id=still.id if still else "",
    )
    return {entry.id: entry}


def hours_from(text: str) -> float | None:
    """Hours, or None to go back to the usual.

    Raises
    ------
    RefusedError
        Not between a few minutes and a thousand hours.
    """
    if not text.strip():
        return None
    hours = parse_number(text.removesuffix("h"))
    if not 0.05 <= hours <= 1000:
        raise RefusedError("A job takes between 0.05 and 1000 hours.")
    return hours


def job_key(row: OperationRow) -> str:
    """What tells a job from the others, whatever it is made of."""
    return f"{row.feature_id} {row.operation.verb}"


def size_of(row: OperationRow) -> str:
    """The size the job is made to, with the stock nearest to it."""
    if row.operation.size_mm is None:
        return ""
    stock = f", {row.stock.words}" if row.stock else ""
    return f"{row.operation.size_words}{stock}"


def cut_list(answers: Answers) -> tuple[str, ...]:
    """What to cut, from the operations that have a size."""
    rows = answers.conversion.rows if answers.conversion else ()
    return tuple(f"{r.operation.feature}: {r.operation.size_words}" for r in rows if r.operation.size_mm)
