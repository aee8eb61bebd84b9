"""The log in the order in which things happened."""

from __future__ import annotations

from chalkreel.document.entities import LogEntry


def in_time(entries: tuple[LogEntry, ...]) -> tuple[LogEntry, ...]:
    """Oldest first; entries of the same minute stay in the order in which they were written."""
    return tuple(sorted(entries, key=lambda entry: entry.at))
