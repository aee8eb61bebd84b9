"""View-model of the comparison (no Qt): what photographs are called, findings as rows, what a gesture changes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from chalkreel.core.measure.sides import spoken
from chalkreel.document.bench_entities import ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.entities import Dimension, Landmark, Still, reel_place

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.answers.comparing import Comparing, Finding, StageVerdict
    from chalkreel.answers.photographs import Laid
    from chalkreel.core.finish.steps import Step
    from chalkreel.document.snapshot import Build

THERE, NOT_BUILT, MISSING = "there", "not built yet", "missing"
STATES: Final = (THERE, NOT_BUILT, MISSING)
# So many steps are offered to be done again.
MOST_STEPS: Final = 12
# States of findings as cards colour them.
COLOURS: Final = {"missing": "bad", "fixed": "good", "accepted": "quiet", "not seen": "quiet"}


@dataclass(frozen=True)
class FindingRow:
    """A finding as the card and the picture show it; only what is open has a number."""

    key: str
    number: int
    title: str
    words: str
    note: str
    state: str
    is_open: bool
    finding: Finding


@dataclass(frozen=True)
class AssemblyRow:
    """An assembly on a photograph: whether it is there, how many of its landmarks are clicked, what was found."""

    id: str
    called: str
    state: str
    clicks: int
    found: str


@dataclass(frozen=True)
class ReadingRow:
    """A size of the replica by calliper beside what is wanted."""

    id: str
    name: str
    measured: str
    wanted: str


def photos_of(build: Build) -> tuple[ReplicaPhoto, ...]:
    """Photographs as they were taken."""
    return tuple(sorted(build.all(ReplicaPhoto), key=lambda p: (p.taken_at, p.number)))


def photo_choices(build: Build) -> list[tuple[str, str]]:
    """Photographs to choose from, the last first."""
    return [(p.id, f"{p.number}  {p.title}") for p in reversed(photos_of(build))]


def still_choices(build: Build) -> list[tuple[str, str]]:
    """Stills that a photograph may answer."""
    stills = sorted(build.all(Still), key=reel_place)
    return [("", "like which still?"), *((s.id, f"like still {s.number}, {spoken(s.side)}") for s in stills)]


def laid_of(answers: Answers | None, photo: ReplicaPhoto | None) -> Laid | None:
    """How a photograph lies."""
    return answers.comparing.laid.get(photo.id) if answers is not None and photo is not None else None


def marks_on(build: Build, photo: ReplicaPhoto | None) -> dict[str, tuple[float, float]]:
    """Landmarks clicked on a photograph."""
    if photo is None:
        return {}
    return {m.landmark_id: (m.mark.x_px, m.mark.y_px) for m in build.all(ReplicaMark) if m.photo_id == photo.id}


def names_of(build: Build) -> dict[str, str]:
    """Names of landmarks by id."""
    return {m.id: m.name for m in build.all(Landmark)}


def finding_rows(build: Build, stage: StageVerdict) -> tuple[FindingRow, ...]:
    """Findings, those still open first and numbered."""
    from chalkreel.answers.finding_words import finding_title, finding_words, state_words

    rows, number = [], 0
    for finding in stage.findings:
        number += finding.is_open
        rows.append(
            FindingRow(
                finding.group.key, number if finding.is_open else 0, finding_title(finding),
                finding_words(build, finding), state_words(finding, build.info.unit),
                COLOURS.get(finding.state, "warn"), finding.is_open, finding,
            )
        )  # fmt: skip
    return tuple(rows)


def steps_done(answers: Answers, finding: Finding) -> tuple[Step, ...]:
    """Steps that are done and could be done again to mend a finding: its assembly's, or, without any, the last ones."""
    found = answers.sequence
    done = answers.build.info.done
    steps = [s for s in found.steps if s.id in done] if found is not None else []
    steps.sort(key=lambda s: done.index(s.id), reverse=True)
    name = finding.group.name.casefold()
    own = [s for s in steps if name in s.title.casefold() or s.assembly.casefold() in (name, f"{name}s")]
    return tuple(own or steps)[:MOST_STEPS]


def assembly_rows(build: Build, found: Comparing, photo: ReplicaPhoto | None) -> tuple[AssemblyRow, ...]:
    """Assemblies, with their sides, as they are on a photograph."""
    from chalkreel.answers.finding_words import finding_words

    if photo is None:
        return ()
    clicked = set(marks_on(build, photo))
    words = {f.group.key: finding_words(build, f) for f in found.stage(photo.stage).findings}
    rows = []
    for group in found.groups:
        state = NOT_BUILT if group.called in photo.not_built else MISSING if group.called in photo.missing else THERE
        count = len(clicked & set(group.landmark_ids))
        rows.append(AssemblyRow(group.key, group.called, state, count, words.get(group.key, "")))
    return tuple(rows)


def reading_rows(build: Build, answers: Answers | None) -> tuple[ReadingRow, ...]:
    """Calliper readings of the replica."""
    from chalkreel.core.lengths import format_length, length_words

    unit = build.info.unit
    sizes = answers.sizes.rows if answers is not None and answers.sizes is not None else ()
    wanted = {r.dimension_id: length_words(r.replica.mm, r.replica.half_width_mm, unit) for r in sizes if r.replica}
    return tuple(
        ReadingRow(r.id, d.name, format_length(r.length_mm, unit), wanted.get(d.id, "not known yet"))
        for r in build.all(ReplicaReading)
        if (d := build.get(Dimension, r.dimension_id)) is not None
    )


def wanted_landmark(laid: Laid | None, skipped: frozenset[str], chosen: str) -> str:
    """The landmark that a click is for: the chosen one, else the next that was not skipped."""
    if chosen:
        return chosen
    return next((i for i in laid.next_ids if i not in skipped), "") if laid is not None else ""


def ask_words(build: Build, laid: Laid | None, wanted: str) -> str:
    """What the next click is for."""
    landmark = build.get(Landmark, wanted)
    if landmark is None:
        if laid is None:
            return "Working…"
        return laid.problem or "Nothing more to click: all that the still shows is done."
    count = laid.clicks if laid is not None else 0
    more = f"{4 - count} to go, then it lies" if count < 4 else "each more makes it surer"
    return f"Click “{landmark.name}” on the photograph ({more})."
