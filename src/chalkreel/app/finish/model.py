"""View-model of Finish (no Qt): step rows, lanes on a calendar, zones and evenings in words."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, time

import msgspec

from chalkreel.answers.answers import Answers
from chalkreel.answers.plan import surfaces
from chalkreel.answers.sequence import Sequence
from chalkreel.answers.sequence_inputs import usual_facts
from chalkreel.answers.tonight_words import surface_words
from chalkreel.app.finish.plan_model import APART, by_date
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.finish.finishes import FINISHES, Finish, finish_name
from chalkreel.core.finish.schedule import Slot
from chalkreel.core.finish.stacks import FACTS, Fact
from chalkreel.core.finish.steps import Step
from chalkreel.core.finish.surface import Violation
from chalkreel.core.materials import MEDIA
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import BuildInfo
from chalkreel.document.entity import new_id
from chalkreel.document.finish_entities import Assembly, KeptFinish
from chalkreel.document.paint_entities import Surface, Zone, ZoneDecal
from chalkreel.document.snapshot import Build
from chalkreel.edits.writing import written

# A plan that ends no sooner is offered for at least so many cleanings saved.
WORTH_CLEANINGS = 2
# The evening of what is done, and how a decal under a part is told.
DONE = "done"
_UNDER = ", under a part"
MEDIUM_NAMES: tuple[str, ...] = MEDIA


@dataclass(frozen=True)
class StepRow:
    """One line of the sequence; `broken` holds the reasons it stands wrong.

    `evening` is the day of the evening it is planned for, `DONE`, or empty without an hour.
    """

    step: Step
    number: int
    when: str
    done: bool
    broken: tuple[str, ...]
    evening: str


def step_rows(sequence: Sequence, done: tuple[str, ...]) -> tuple[StepRow, ...]:
    """All steps as they come: those done, then by the hour they are planned for."""
    slots = _first_slots(sequence)
    reasons: dict[str, list[str]] = {}
    for v in sequence.broken:
        reasons.setdefault(v.step, []).append(v.reason)
    for one in sequence.timetable.missed if sequence.timetable else ():
        reasons.setdefault(one.then, []).append(one.reason)
    return tuple(
        StepRow(
            step,
            number,
            "done" if step.id in done else when_words(slots.get(step.id)),
            step.id in done,
            tuple(dict.fromkeys(reasons.get(step.id, ()))),
            DONE if step.id in done else _evening_of(slots.get(step.id)),
        )
        for number, step in enumerate(by_date(sequence, done), start=1)
    )


def each_pair_once(sequence: Sequence) -> tuple[Violation, ...]:
    """Broken rules, of several that speak of one pair of steps the first."""
    found: dict[tuple[str, str], Violation] = {}
    for v in sequence.broken:
        found.setdefault((v.step, v.other), v)
    return tuple(found.values())


def holds_back(sequence: Sequence) -> bool:
    """Whether a plan leaves evenings unused that the odds fill: who goes on at each is done before its last day."""
    table, likely = sequence.timetable, sequence.likely
    if table is None or table.finish is None or likely is None:
        return False
    return likely.four_in_five.date() < table.finish.date()


def _likely_days(sequence: Sequence) -> int | None:
    """By how many days the better plan ends earlier four times in five; it may promise more than it has room for.

    None where that cannot be compared, since what stands is not what was played.
    """
    now, then = sequence.likely, sequence.better_likely
    if now is None or then is None or holds_back(sequence):
        return None
    return (now.four_in_five.date() - then.four_in_five.date()).days


def better_words(sequence: Sequence) -> str:
    """What a plan that keeps no order would gain, and what it would move; empty where that is not worth it."""
    table, better = sequence.timetable, sequence.better
    if table is None or better is None or table.finish is None or better.finish is None:
        return ""
    days, likely = (table.finish.date() - better.finish.date()).days, _likely_days(sequence)
    fewer = table.cleanings - better.cleanings
    gained = likely or 0
    if min(days, gained) < 0 or len(better.missed) > len(table.missed):
        return ""
    if days == gained == 0 and fewer < WORTH_CLEANINGS:
        return ""
    gains = [f"{plural(days, 'day')} earlier by the plan"] * (days > 0)
    gains += [f"{plural(gained, 'day')} earlier four times in five"] * (gained > 0)
    gains += [f"{plural(fewer, 'cleaning')} fewer"] * (fewer > 0)
    gains += ["no sooner done four times in five"] * (likely == 0)
    before, after = ({s.step_id: s.start.date() for s in reversed(plan.slots)} for plan in (table, better))
    moved = [name for name, day in before.items() if after.get(name) != day]
    tonight = table.slots[0].start.date()
    touched = any(before[name] == tonight or after.get(name) == tonight for name in moved)
    return f"{', '.join(gains)}; {len(moved)} steps move to another day, {'some' if touched else 'none'} of tonight's."


def rules_words(sequence: Sequence) -> tuple[str, str]:
    """What was checked of the order and the waits, and how it came out."""
    missed = len(sequence.timetable.missed) if sequence.timetable else 0
    wrong = len(each_pair_once(sequence)) + missed
    if wrong:
        return f"{wrong} rule{'s' if wrong > 1 else ''} broken", "bad"
    if not sequence.checked:
        return "Nothing to check yet: no two steps here follow a rule.", "quiet"
    if sequence.timetable is None:
        return "The order keeps the rules it was checked against; its waits are not planned yet.", "plain"
    return (
        f"{sequence.checked} pairs of steps checked: all in order, no wait too short or too long by the slow end of "
        "the usual times. What a label says goes first.", "good",
    )  # fmt: skip


def done_toggled(info: BuildInfo, step_id: str) -> tuple[tuple[str, ...], tuple[tuple[str, str], ...]]:
    """The steps done, and when, with one ticked now or no longer."""
    others = tuple(pair for pair in info.done_at if pair[0] != step_id)
    if step_id in info.done:
        return tuple(s for s in info.done if s != step_id), others
    now = datetime.now(UTC).astimezone().replace(tzinfo=None).isoformat(timespec="minutes")
    return (*info.done, step_id), (*others, (step_id, now))


def timed_entry(build: Build, step: Step, begun: datetime, ended: datetime) -> LogEntry:
    """A step as it goes into the log when the clock ran."""
    minutes = max(1, round((ended - begun).total_seconds() / 60))
    return written(build, f"{step.title}.", ended, step, minutes)


def _first_slots(sequence: Sequence) -> dict[str, Slot]:
    found: dict[str, Slot] = {}
    for slot in sequence.timetable.slots if sequence.timetable else ():
        found.setdefault(slot.step_id, slot)
    return found


def _evening_of(slot: Slot | None) -> str:
    """The day on which an evening began that may go on past midnight."""
    return f"{slot.start - APART:%Y-%m-%d}" if slot is not None else ""


def decal_words(zone: Zone) -> str:
    """A zone's decals by name, parted by semicolons."""
    return "; ".join(one.name + (_UNDER if one.under else "") for one in zone.decal_list)


def decals_from(text: str) -> tuple[ZoneDecal, ...]:
    """What `decal_words` writes.

    Raises
    ------
    RefusedError
        Two have one name.
    """
    found = []
    for part in (part.strip() for part in text.split(";")):
        name = re.sub(r",?\s*under (a )?parts?$", "", part, flags=re.IGNORECASE).strip()
        if name:
            found.append(ZoneDecal(name=name, under=name != part))
    if len({one.name for one in found}) < len(found):
        raise RefusedError("Two decals have one name: call each otherwise, so that each can be ticked off.")
    return tuple(found)


def when_words(slot: Slot | None) -> str:
    """'Tue 1 Dec 19:30'."""
    return f"{slot.start:%a} {slot.start.day} {slot.start:%b %H:%M}" if slot else ""


def surfaces_words(sequence: Sequence, done: tuple[str, ...], assembly: str, at: datetime) -> str:
    """What each zone of an assembly is like at an hour, one a line under the hour."""
    told = [f"{one.zone}: {surface_words(one, at)}" for one in surfaces(sequence, done, at) if one.assembly == assembly]
    return "\n".join((f"{assembly}, {at:%a} {at.day} {at:%b, %H:%M}", *told))


@dataclass(frozen=True)
class AssemblyRow:
    """What is known of the parts of an assembly; its entity is there once something was said."""

    name: str
    facts: tuple[Fact, ...]
    entity: Assembly | None

    @property
    def id(self) -> str:
        """What a table tells it by."""
        return f"assembly {self.name}"


def assembly_rows(build: Build, sequence: Sequence | None) -> tuple[AssemblyRow, ...]:
    """Every assembly that zones, lamps or jobs name."""
    steps = sequence.steps if sequence is not None else ()
    names = dict.fromkeys([z.assembly for z in build.all(Zone)] + [s.assembly for s in steps])
    told = {assembly.name: assembly for assembly in build.all(Assembly)}
    usual = usual_facts(build.info)
    return tuple(AssemblyRow(n, told[n].facts if n in told else usual, told.get(n)) for n in names)


def fact_put(row: AssemblyRow, fact: Fact, there: bool) -> Assembly:
    """An assembly with one thing said of it, or no longer."""
    facts = tuple(f for f in FACTS if (f in row.facts and f != fact) or (f == fact and there))
    if row.entity is not None:
        return msgspec.structs.replace(row.entity, facts=facts)
    return Assembly(id=new_id(), name=row.name, facts=facts)


def kept_finishes(build: Build) -> tuple[Finish, ...]:
    """The user's own finishes."""
    return tuple(Finish(kept.name, kept.role, kept.sheen, kept.wear) for kept in build.all(KeptFinish))


def finish_of(build: Build, zone: Zone) -> str:
    """The name of a zone's finish."""
    return finish_name(zone.role, zone.sheen, zone.wear, kept_finishes(build))


def kept_as(build: Build, zone: Zone, name: str) -> KeptFinish:
    """A zone's finish under a name; one of that name is replaced.

    Raises
    ------
    RefusedError
        The name is one of the program's.
    """
    if any(finish.name == name for finish in FINISHES):
        raise RefusedError(f"“{name}” is a finish of the program. Choose another name.")
    old = next((kept for kept in build.all(KeptFinish) if kept.name == name), None)
    return KeptFinish(
        id=old.id if old else new_id(), name=name, role=zone.role, sheen=zone.sheen, wear=zone.wear
    )  # fmt: skip


def finish_names(build: Build) -> tuple[str, ...]:
    """All finishes, the user's own first."""
    return tuple(dict.fromkeys(finish.name for finish in (*kept_finishes(build), *FINISHES)))


def finish_named(build: Build, name: str) -> Finish:
    """A finish by its name.

    Raises
    ------
    RefusedError
        None has it.
    """
    found = next((f for f in (*kept_finishes(build), *FINISHES) if f.name == name), None)
    if found is None:
        raise RefusedError("Choose one of the finishes; a mixture of your own is made in the columns beside it.")
    return found


def zone_surface(build: Build, zone: Zone) -> str:
    """The name of a zone's surface."""
    surface = build.get(Surface, zone.surface_id)
    return surface.name if surface else ""


def number_between(text: str, least: float, most: float, what: str) -> float:
    """A number within bounds, or a refusal that names them."""
    value = parse_number(text)
    if not least <= value <= most:
        raise RefusedError(f"{what} lies between {least:g} and {most:g}.")
    return value


def clock(text: str) -> str:
    """Read '19:30'.

    Raises
    ------
    RefusedError
        Not a time of day.
    """
    try:
        return time.fromisoformat(text.strip().zfill(5)).strftime("%H:%M")
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a time of day. Type it like 19:30.") from error


def day_from(text: str) -> str:
    """Read a day as '2026-12-01'; empty means none.

    Raises
    ------
    RefusedError
        Not a day.
    """
    try:
        return date.fromisoformat(text.strip()).isoformat() if text.strip() else ""
    except ValueError as error:
        raise RefusedError(f"“{text}” is not a day. Type it like 2026-12-01.") from error


def days_off_from(text: str) -> tuple[tuple[str, str], ...]:
    """Read '2026-12-24 to 2027-01-01, 2027-01-06'.

    Raises
    ------
    RefusedError
        Not days, or an end before its begin.
    """
    found = []
    for part in filter(None, (p.strip() for p in text.split(","))):
        first, _, last = part.partition(" to ")
        days = (day_from(first), day_from(last or first))
        if days[1] < days[0]:
            raise RefusedError(f"“{part}” ends before it begins.")
        found.append(days)
    return tuple(found)


def days_off_words(days: tuple[tuple[str, str], ...]) -> str:
    """'2026-12-24 to 2027-01-01, 2027-01-06'."""
    return ", ".join(first if first == last else f"{first} to {last}" for first, last in days)


def selected_step(answers: Answers | None, step_id: str) -> Step | None:
    """The chosen step."""
    steps = answers.sequence.steps if answers and answers.sequence else ()
    return next((s for s in steps if s.id == step_id), None)
