"""Paints as people keep them in lists: a name and a colour on each line, from a file or pasted."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.errors import RefusedError

MOST_LINES, LONGEST_LINE = 2_000, 40
# What a paint list looks like, for whoever brings something else.
LOOKS = "a list with a name and a colour on each line, like “rust, #8c3c28” or “rust, 38, 32, 28”"


@dataclass(frozen=True)
class PaintList:
    """Names and colours; `problems` says of each line that was left out why."""

    colours: tuple[tuple[str, Lab], ...]
    problems: tuple[str, ...]


def parse_paint_list(text: str) -> PaintList:
    """Lines of a name and #rrggbb, or a name and L*, a*, b* (D50 behind them where they hold under that light).

    Cells are parted by tabs, semicolons or commas. Empty lines, a heading and lines that begin with # are passed over.

    Raises
    ------
    RefusedError
        No line is a paint, or there are too many.
    """
    lines = ["".join(c if c.isprintable() or c == "\t" else " " for c in line).strip() for line in text.splitlines()]
    if len(lines) > MOST_LINES:
        raise RefusedError(f"This list has more than {MOST_LINES} lines.")
    colours: list[tuple[str, Lab]] = []
    problems: list[str] = []
    for number, line in enumerate(lines, start=1):
        if not line or line.startswith("#"):
            continue
        name, colour = _parted(line)
        if not name or not any(c.isdigit() for c in colour):
            # A heading, as long as nothing came before it.
            problems += [f"line {number} has no name or no colour"] * bool(colours)
            continue
        try:
            colours.append((name, lab_of_words(colour)))
        except RefusedError as refusal:
            problems.append(f"“{line[:LONGEST_LINE]}”: {str(refusal)[0].lower()}{str(refusal)[1:].rstrip('.')}")
    if not colours:
        why = problems[0] if problems else "No line of this is a paint"
        raise RefusedError(f"{why}. What can be read: {LOOKS}.")
    return PaintList(tuple(colours), tuple(problems))


def _parted(line: str) -> tuple[str, str]:
    """Name and colour of a line, each perhaps empty."""
    mark = next((m for m in ("\t", ";", ",") if m in line), "")
    if not mark:
        return "", ""
    cells = [cell.strip() for cell in line.split(mark)]
    light = cells.pop() if cells[-1].upper() in ("D50", "D65") else ""
    count = 1 if cells[-1].startswith("#") or len(cells) < 4 else 3
    return mark.join(cells[:-count]).strip(), " ".join([*cells[-count:], light]).strip()
