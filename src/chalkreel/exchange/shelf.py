"""A shelf of paints as a CSV table with everything, or as a GPL palette of masstones."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from typing import TypeVar, get_args

import numpy as np

from chalkreel.core.colour.characterise import guessed_again
from chalkreel.core.colour.kinds import COAT, DROP_ML, Source
from chalkreel.core.colour.spectra import BANDS, WAVELENGTHS_NM
from chalkreel.core.colour.typed_colour import lab_of_code
from chalkreel.core.errors import RefusedError
from chalkreel.core.materials import MEDIA, SHEENS
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.exchange.plain_text import cell, from_cell

T = TypeVar("T")
MOST_PAINTS = 2_000
# The first line that the format asks for.
GPL_HEAD = "GIMP Palette"
MOST_BYTES = 20_000_000
_PLAIN = (
    "name",
    "medium",
    "sheen",
    "source",
    "clear",
    "metallic",
    "drop_ml",
    "price_per_ml",
    "ml_left",
    "coat",
    "surface",
    "note",
)
_K = tuple(f"K{nm:.0f}" for nm in WAVELENGTHS_NM)
_S = tuple(f"S{nm:.0f}" for nm in WAVELENGTHS_NM)
_SOURCES: tuple[Source, ...] = get_args(Source)
_GPL_LINE = re.compile(r"^\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?$")


def shelf_csv(paints: Iterable[ShelfPaint]) -> str:
    """Every paint with K and S per band, one row each."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow((*_PLAIN, *_K, *_S))
    for p in paints:
        left = "" if p.ml_left is None else f"{p.ml_left:g}"
        plain = (cell(p.name), p.medium, p.sheen, p.source, int(p.clear), int(p.metallic), f"{p.drop_ml:g}",
                 f"{p.price_per_ml:g}", left, f"{p.coat:g}",
                 "" if p.surface is None else f"{p.surface:g}", cell(p.note))  # fmt: skip
        writer.writerow((*plain, *(f"{v:.6g}" for v in (*p.absorption, *p.scattering))))
    return out.getvalue()


def parse_shelf_csv(data: bytes) -> tuple[ShelfPaint, ...]:
    """Paints from such a table.

    Raises
    ------
    RefusedError
        Another table, too large, or with numbers that no paint has.
    """
    rows = _rows(data)
    if not rows or any(name not in rows[0] for name in ("name", *_K, *_S)):
        raise RefusedError("This table is no shelf: it needs a name and the columns K380 to K730 and S380 to S730.")
    if len(rows) - 1 > MOST_PAINTS:
        raise RefusedError(f"This shelf holds more than {MOST_PAINTS} paints.")
    at = {name: n for n, name in enumerate(rows[0])}
    return tuple(_paint({name: row[n] for name, n in at.items() if n < len(row)}) for row in rows[1:] if any(row))


def palette_gpl(name: str, colours: Iterable[tuple[str, tuple[int, int, int]]]) -> str:
    """A GPL palette of named colours."""
    lines = [GPL_HEAD, f"Name: {_one_line(name)}", "Columns: 4", "#"]
    lines += [f"{r:3d} {g:3d} {b:3d}\t{_one_line(words)}" for words, (r, g, b) in colours]
    return "\n".join(lines) + "\n"


def parse_gpl(data: bytes) -> tuple[tuple[str, tuple[float, float, float]], ...]:
    """Names and L*a*b* of a GPL palette.

    Raises
    ------
    RefusedError
        Not such a palette, or none of its lines is a colour.
    """
    text = _text(data)
    if not text.lstrip("\ufeff").startswith(GPL_HEAD):
        raise RefusedError("This is no GPL palette: its first line must say so.")
    found: list[tuple[str, tuple[float, float, float]]] = []
    for line in text.splitlines()[1:]:
        match = _GPL_LINE.match(line)
        if match is None:
            continue
        red, green, blue = (int(v) for v in match.groups()[:3])
        if max(red, green, blue) > 255:
            raise RefusedError("This palette has a colour above 255.")
        words = (match.group(4) or "").strip() or f"colour {len(found) + 1}"
        found.append((words, lab_of_code(f"#{red:02x}{green:02x}{blue:02x}")))
    if not found or len(found) > MOST_PAINTS:
        raise RefusedError(f"This palette holds {len(found)} colours; 1 to {MOST_PAINTS} can be read.")
    return tuple(found)


def _paint(row: dict[str, str]) -> ShelfPaint:
    name = from_cell(row.get("name", "")).strip()
    try:
        k, s = (tuple(float(row[c]) for c in columns) for columns in (_K, _S))
        drop, price = float(row.get("drop_ml") or DROP_ML), float(row.get("price_per_ml") or 0.0)
        left = float(row["ml_left"]) if row.get("ml_left") else None
        coat = float(row.get("coat") or COAT)
        surface = float(row["surface"]) if row.get("surface") else None
    except (KeyError, ValueError) as error:
        raise RefusedError(f"“{name or 'A paint'}” lacks a number, or has one that cannot be read.") from error
    numbers = np.array([*k, *s, drop, price, left or 0.0, coat, surface or 0.0])
    if not np.isfinite(numbers).all() or numbers.min() < 0 or min(s) <= 0 or numbers[: 2 * BANDS].max() > 1e4:
        raise RefusedError(f"“{name or 'A paint'}” has a K or S that no paint has.")
    source = _one_of(row.get("source"), _SOURCES)
    if source == "guess" and row.get("clear") != "1" and row.get("metallic") != "1":
        # How strong a guess is taken to be may be better known now than when it was written.
        k, s = (tuple(round(float(v), 6) for v in values) for values in guessed_again(np.array(k) / np.array(s)))
    if not name or not 0.005 <= drop <= 1.0:
        raise RefusedError("Every paint needs a name, and drops of 0.005 to 1 ml.")
    return ShelfPaint(
        id=new_id(), name=name, medium=_one_of(row.get("medium"), MEDIA), absorption=k, scattering=s,
        sheen=_one_of(row.get("sheen"), SHEENS), source=source,
        clear=row.get("clear") == "1", metallic=row.get("metallic") == "1", drop_ml=drop, price_per_ml=price,
        ml_left=left, coat=coat, surface=surface, note=from_cell(row.get("note", "")),
    )  # fmt: skip


def _one_of(word: str | None, allowed: tuple[T, ...]) -> T:
    if not word:
        return allowed[0]
    for one in allowed:
        if one == word:
            return one
    raise RefusedError(f"“{word}” is none of: {', '.join(map(str, allowed))}.")


def _rows(data: bytes) -> list[list[str]]:
    try:
        return list(csv.reader(io.StringIO(_text(data))))
    except csv.Error as error:
        raise RefusedError("This is no CSV table.") from error


def _text(data: bytes) -> str:
    if len(data) > MOST_BYTES or b"\x00" in data:
        raise RefusedError("This is no list of paints: too large, or no text.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _one_line(words: str) -> str:
    return " ".join(words.split())
