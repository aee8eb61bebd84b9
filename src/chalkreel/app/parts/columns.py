"""How a table's column reads and writes its rows (no Qt)."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Final

from chalkreel.core.errors import RefusedError

YES, NO = "yes", "no"
TICKED: Final = ("yes", "y", "true", "1", "x", "✓")


@dataclass(frozen=True)
class Column:
    """How a column reads a row, and how it writes one if it can.

    `put` gets the row and the typed text, commits, and raises RefusedError for nonsense. `options` lists the words
    to choose from; a `tick` is a box that is "yes" or "no". `keys` are letters that set a word at once.
    `understand` says of typed words what they are taken for. `state` names the colour state of the cell, `swatch`
    a colour shown as it is.
    """

    title: str
    get: Callable[[Any], str]
    put: Callable[[Any, str], object] | None = None
    options: Callable[[], tuple[str, ...]] | None = None
    state: Callable[[Any], str] | None = None
    stretch: bool = False
    right: bool = False
    swatch: Callable[[Any], tuple[int, int, int]] | None = None
    tick: bool = False
    keys: Mapping[str, str] = field(default_factory=dict)
    understand: Callable[[str], str] | None = None


def written(column: Column, row: Any, text: str) -> None:
    """Put typed or pasted words into a cell.

    Raises
    ------
    RefusedError
        They are none of the column's words, or mean nothing to it.
    """
    assert column.put is not None
    words = text.strip()
    if column.tick:
        words = YES if words.casefold() in TICKED else NO
    elif column.options is not None:
        options = column.options()
        words = next((option for option in options if option.casefold() == words.casefold()), "")
        if words.casefold() != text.strip().casefold():
            listed = ", ".join(option for option in options if option)
            raise RefusedError(f"“{text.strip()}” is none of: {listed}.")
    column.put(row, words)


def sort_key(words: str) -> tuple[bool, list[tuple[bool, float, str]]]:
    """Orders cells as people do: 'Part 9' before 'Part 10', 9.5 mm before 10 mm, empty ones last."""
    parts = re.findall(r"\d+(?:\.\d+)?|\D+", words.casefold())
    return not words, [(True, float(p), "") if p[0].isdigit() else (False, 0.0, p) for p in parts]


def pasted_lines(text: str) -> list[list[str]]:
    """Lines copied from a spreadsheet, each as its cells."""
    return [line.split("\t") for line in text.replace("\r\n", "\n").rstrip("\n").split("\n")] if text.strip() else []


def pasted_cells(text: str, columns: tuple[Column, ...]) -> list[dict[int, str]]:
    """Rows copied from a spreadsheet, each as cells by column number.

    A first row of titles says which columns they are for; else they go to the columns that can be written, in order.
    """
    lines = [line for line in pasted_lines(text) if any(cell.strip() for cell in line)]
    if not lines:
        return []
    titles = {column.title.casefold(): n for n, column in enumerate(columns) if column.put is not None}
    head = [cell.strip().casefold() for cell in lines[0]]
    named = len(lines) > 1 and all(cell in titles for cell in head if cell)
    order = [titles.get(cell, -1) for cell in head] if named else list(titles.values())
    return [
        {n: cell.strip() for n, cell in zip(order, line, strict=False) if n >= 0 and cell.strip()}
        for line in (lines[1:] if named else lines)
    ]


def filled_columns(text: str, columns: tuple[Column, ...], start: int) -> list[int]:
    """The columns that pasted lines fill from a chosen cell on; none where they are new rows.

    They fill cells where the chosen one is not the first that can be written, the columns from there on can be written
    too, and no row of titles stands above the lines.
    """
    writable = [n for n, column in enumerate(columns) if column.put is not None]
    lines = pasted_lines(text)
    titles = {column.title.casefold() for column in columns}
    if start not in writable[1:] or not lines or all(cell.strip().casefold() in titles for cell in lines[0]):
        return []
    across = writable[writable.index(start) :][: max(len(line) for line in lines)]
    return across if len(across) == max(len(line) for line in lines) else []
