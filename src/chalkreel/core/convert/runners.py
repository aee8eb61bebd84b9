"""Parts of a kit by runner and number, as people write them: 'A1–34, B1–22, less B7'."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

from chalkreel.core.errors import RefusedError

# The largest kits have some 2,000 parts; no runner has a number above 999.
MOST_PARTS: Final = 2_000
LONGEST_TEXT: Final = 20_000
_DASH: Final = r"\s*(?:[-–—]|to|\.\.)\s*"
_RUNNER: Final = r"([A-Za-z]{0,3})\s?"
_ITEM: Final = re.compile(
    rf"{_RUNNER}(\d{{1,3}})(?:{_DASH}{_RUNNER}(\d{{1,3}}))?(?:\s*[x×]\s*(\d{{1,2}}))?", re.IGNORECASE
)
_LESS: Final = re.compile(r"(?:less|without|minus|except|but not|not)\b\s*", re.IGNORECASE)
_BETWEEN: Final = re.compile(r"\s*(?:[,;&+]|\band\b|\n)*\s*", re.IGNORECASE)
_NAME: Final = re.compile(rf"^([A-Z]{{0,3}})\s?(\d{{1,3}})(?:{_DASH}(?:\1\s?)?(\d{{1,3}}))?(?![\w.])\s*(.*)$")
_RUNNER_ALONE: Final = re.compile(r"^([A-Z]{1,2})(?:\s+(.*))?$")


@dataclass(frozen=True)
class PartPlace:
    """Where a part hangs: runner, the numbers it has there (none for a whole runner), and what it is called."""

    runner: str
    numbers: tuple[int, ...]
    called: str


@dataclass(frozen=True)
class Ranges:
    """Parts in the order typed, with how many of each, and those that are not there."""

    parts: tuple[tuple[str, int], ...]
    counts: dict[tuple[str, int], int]
    missing: frozenset[tuple[str, int]]

    @property
    def words(self) -> str:
        """What was understood."""
        count = len(self.parts)
        return f"{count} parts, {len(self.missing)} missing" if count != 1 else "1 part"


def place_of(name: str) -> PartPlace | None:
    """Where a part hangs by its name ('C2 fin', 'A1–A2 hull halves', 'E clear runner'); None where it does not say."""
    match = _NAME.match(name.strip())
    if match is not None:
        runner, first, last, called = match.groups()
        numbers = tuple(range(int(first), int(last or first) + 1))
        return PartPlace(runner, numbers, called) if numbers else None
    alone = _RUNNER_ALONE.match(name.strip())
    return PartPlace(alone.group(1), (), alone.group(2) or "") if alone is not None else None


def part_name(runner: str, number: int, called: str = "") -> str:
    """'C2 port tail fin'."""
    return f"{runner}{number} {called}".strip()


def ranges_words(parts: Iterable[tuple[str, int]]) -> str:
    """Parts as ranges: 'A4–8, A10, B1–3'."""
    runs: list[list[tuple[str, int]]] = []
    for runner, number in sorted(set(parts)):
        if runs and runs[-1][-1] == (runner, number - 1):
            runs[-1].append((runner, number))
        else:
            runs.append([(runner, number)])
    return ", ".join(f"{run[0][0]}{run[0][1]}" + (f"–{run[-1][1]}" if len(run) > 1 else "") for run in runs)


def parse_ranges(text: str) -> Ranges:
    """Parts by ranges; 'less' takes away what follows it, and whatever after it was listed before.

    Raises
    ------
    RefusedError
        Something that is no part, a range that runs backwards or from one runner to another, or too many.
    """
    if len(text) > LONGEST_TEXT:
        raise RefusedError("That is too much text for a parts list: type ranges like A1–34, or paste one part a line.")
    counts: dict[tuple[str, int], int] = {}
    missing: set[tuple[str, int]] = set()
    at, runner, less = _BETWEEN.match(text).end(), "", False  # type: ignore[union-attr]
    while at < len(text):
        word = _LESS.match(text, at)
        at = word.end() if word is not None else at
        parts, count, runner, end = _item(text, at, runner)
        # 'less B7, B9': what was listed already can only be meant as taken away too.
        less = word is not None or (less and all(part in counts for part in parts))
        for part in parts:
            counts.setdefault(part, count)
        if less:
            missing |= set(parts)
        elif any(part in missing for part in parts):
            missing -= set(parts)
        if len(counts) > MOST_PARTS:
            raise RefusedError(f"That makes more than {MOST_PARTS} parts: no kit has so many.")
        between = _BETWEEN.match(text, end)
        assert between is not None
        at = between.end()
    if not counts:
        raise RefusedError("Type what the sheet lists, for example A1–34, B1–22, less B7.")
    return Ranges(tuple(counts), counts, frozenset(missing))


def _item(text: str, at: int, runner: str) -> tuple[list[tuple[str, int]], int, str, int]:
    """The parts of one item, how many of each, its runner, and where it ends."""
    match = _ITEM.match(text, at)
    odd = re.compile(r"[^\s,;]{1,24}").match(text, at)
    if match is None or (match.end() < len(text) and text[match.end()].isalnum()):
        raise RefusedError(f"“{odd.group() if odd else text[at:]}” is no part: type for example A1–34, B1–22, less B7.")
    first_runner, first, last_runner, last, count = match.groups()
    named = (first_runner or runner).upper()
    if last_runner and last_runner.upper() != named:
        raise RefusedError(f"“{match.group().strip()}” runs from one runner to another: type each by itself.")
    start, end = int(first), int(last or first)
    if end < start:
        raise RefusedError(f"“{match.group().strip()}” runs backwards: type {named}{end}–{start}.")
    return [(named, number) for number in range(start, end + 1)], int(count or 1), named, match.end()
