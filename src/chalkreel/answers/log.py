"""The log in the order in which things happened, what is known of a step beforehand, and what was set the last time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.paint_entities import PaintPot, Zone
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.core.finish.steps import Step


@dataclass(frozen=True)
class Known:
    """What the program can fill in of a step: the pot in use and its mix, coats, thinner, and the room."""

    pot_id: str = ""
    mix: str = ""
    coats: int = 0
    thinner_parts: float = 0.0
    room_c: float | None = None
    room_humidity: float | None = None


def in_time(entries: tuple[LogEntry, ...]) -> tuple[LogEntry, ...]:
    """Oldest first; entries of the same minute stay in the order in which they were written."""
    return tuple(sorted(entries, key=lambda entry: entry.at))


def found_in_log(entries: tuple[LogEntry, ...], words: str) -> tuple[LogEntry, ...]:
    """Entries that hold every word, in what happened, the mix, the step or the day."""
    wanted = words.casefold().split()
    return tuple(
        e for e in entries if all(w in f"{e.words} {e.mix} {e.step_id} {e.step_kind} {e.at}".casefold() for w in wanted)
    )


def known_of(build: Build, step: Step | None) -> Known:
    """What is known of a step before it is written down; paint only where it sprays or brushes a zone's colour."""
    info = build.info
    room = Known(room_c=info.room_c, room_humidity=info.room_humidity)
    if step is None or not step.colour:
        return room
    zone = next((z for z in build.all(Zone) if z.name == step.zone and z.assembly == step.assembly), None)
    pot = None
    if zone is not None and zone.surface_id:
        pot = next((p for p in reversed(build.all(PaintPot)) if p.surface_id == zone.surface_id), None)
    words = next((m for m in step.materials if ":" in m), step.colour)
    return Known(
        pot.id if pot is not None else "", pot.label if pot is not None else words, 1,
        info.thinner_parts if step.spray else 0.0, info.room_c, info.room_humidity,
    )  # fmt: skip


def last_setting(entries: tuple[LogEntry, ...], kind: str) -> LogEntry | None:
    """The last entry of a kind of step that says how the airbrush was set."""
    told = (e for e in in_time(entries) if e.step_kind == kind and (e.bar or e.needle_mm or e.thinner_parts))
    return max(told, key=lambda e: e.at, default=None)


def setting_told(entry: LogEntry) -> str:
    """'1.5 bar, needle 0.3, thinned 1 : 2': needles go by their size, whatever the unit of the build."""
    parts = [f"{entry.bar:g} bar"] * bool(entry.bar) + [f"needle {entry.needle_mm:g}"] * bool(entry.needle_mm)
    return ", ".join(parts + [f"thinned 1 : {entry.thinner_parts:g}"] * bool(entry.thinner_parts))


def entry_details(entry: LogEntry) -> str:
    """Mix, coats, setting and room of an entry, as far as they were said."""
    parts = [entry.mix] * bool(entry.mix)
    parts += [f"{entry.coats} coat" + "s" * (entry.coats > 1)] * bool(entry.coats)
    parts += [setting_told(entry)] * bool(setting_told(entry))
    parts += [f"touch-dry after {entry.dry_hours:g} h"] * bool(entry.dry_hours)
    if entry.room_c is not None:
        parts.append(f"{entry.room_c:g} °C")
    if entry.room_humidity is not None:
        parts.append(f"{entry.room_humidity:g} %")
    return ", ".join(parts)


def pictures_of(entry: LogEntry) -> tuple[str, ...]:
    """All photographs of an entry, the first first."""
    return tuple(dict.fromkeys(p for p in (entry.photo, *entry.photos) if p))
