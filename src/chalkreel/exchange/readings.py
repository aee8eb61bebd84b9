"""Metered reflectances from files: the text format of ISO 28178 (CGATS) and plain CSV."""

from __future__ import annotations

import csv
import io
import re
import shlex
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.spectra import WAVELENGTHS_NM
from chalkreel.core.errors import RefusedError

MOST_BYTES = 20_000_000
MOST_READINGS = 5_000
# What a colour cannot do without, and what a white tile may read over 1.
MUST_BEGIN_NM, MUST_END_NM, MOST = 420, 680, 1.02
# A name says more than a number.
NAME_COLUMNS = ("SAMPLE_NAME", "NAME", "PAINT", "SAMPLE", "SAMPLE_ID", "SAMPLEID")
_BAND = re.compile(r"^(?:SPECTRAL_)?(?:NM_?|R_?)?(\d{3})(?:[._]0+)?(?:NM)?$")


class NotReadingsError(RefusedError):
    """A file that holds no metered reflectances at all."""


@dataclass(frozen=True, eq=False)
class MeterReading:
    """A name and its reflectance (36,) at the program's bands; `percent` says that the file has it so."""

    name: str
    reflectance: Array
    percent: bool = False


def parse_readings(data: bytes) -> tuple[MeterReading, ...]:
    """Read CGATS text or a CSV table with one column a band and one row a reading.

    Values in percent are known by a table that goes above 2. Bands are interpolated to 10 nm; what a
    meter does not reach at either end keeps its last value.

    Raises
    ------
    NotReadingsError
        Neither of the two, or no spectral columns.
    RefusedError
        Too large, too little of the spectrum, values that are no reflectances, that may be shares as well as percents,
        or of paint that gives off light of its own.
    """
    if len(data) > MOST_BYTES:
        raise RefusedError("This file is larger than 20 MB: no list of readings.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if "BEGIN_DATA_FORMAT" in text:
        columns, rows = _cgats(text)
    else:
        columns, rows = _csv(text)
    bands = [(n, int(m.group(1))) for n, name in enumerate(columns) if (m := _BAND.match(name.strip().upper()))]
    bands = [(n, nm) for n, nm in bands if 300 <= nm <= 900]
    if len(bands) < 10:
        raise NotReadingsError(
            "This file has no columns of reflectance by wavelength (at least ten between 380 and 730 nm)."
        )
    if not rows or len(rows) > MOST_READINGS:
        raise RefusedError(f"This file holds {len(rows)} readings; 1 to {MOST_READINGS} can be read.")
    return tuple(_readings(columns, rows, bands))


def _readings(columns: list[str], rows: list[list[str]], bands: list[tuple[int, int]]) -> Iterable[MeterReading]:
    order = sorted(bands, key=lambda pair: pair[1])
    places, nm = [n for n, _ in order], np.array([float(v) for _, v in order])
    if len(set(nm)) < len(nm):
        raise RefusedError("This file names a wavelength twice.")
    if nm[0] > MUST_BEGIN_NM or nm[-1] < MUST_END_NM:
        raise RefusedError(
            f"This file covers {nm[0]:.0f} to {nm[-1]:.0f} nm only: a colour needs {MUST_BEGIN_NM} to {MUST_END_NM} nm."
        )
    titles = [name.strip().upper() for name in columns]
    named = next((titles.index(name) for name in NAME_COLUMNS if name in titles), None)
    try:
        values = np.array([[float(row[n].replace(",", ".")) for n in places] for row in rows])
    except (ValueError, IndexError) as error:
        raise RefusedError("A reading in this file is cut short or is no number.") from error
    scale = 0.01 if np.nanmax(values) > 2.0 else 1.0
    values = values * scale
    if not np.isfinite(values).all() or values.min() < -0.05 or values.max() > 2.5:
        raise RefusedError("These are no reflectances: they must lie between 0 and 1, or 0 and 100 %.")
    for number, row in enumerate(rows):
        name = (row[named].strip() if named is not None else "") or f"reading {number + 1}"
        most = int(values[number].argmax())
        if values[number][most] > MOST:
            raise RefusedError(_too_bright(name, float(values[number][most]), float(nm[most]), scale))
        yield MeterReading(name, np.clip(np.interp(WAVELENGTHS_NM, nm, values[number]), 0, 1), scale < 1.0)


def _too_bright(name: str, most: float, at_nm: float, scale: float) -> str:
    if scale < 1.0:
        return (
            f"“{name}” sends back {100 * most:.0f} % at {at_nm:.0f} nm, more than falls on it: fluorescent paint "
            "cannot be computed. Leave it out of the file."
        )
    return (
        f"“{name}” goes up to {most:.2f}: as a share that is more than falls on it, as a percentage nearly black. "
        "Put a reading of white paper into the file, so that shares and percents can be told apart."
    )


def _cgats(text: str) -> tuple[list[str], list[list[str]]]:
    columns: list[str] = []
    rows: list[list[str]] = []
    place = ""
    for line in text.splitlines():
        words = line.strip()
        if words in ("BEGIN_DATA_FORMAT", "BEGIN_DATA"):
            place = words
        elif words in ("END_DATA_FORMAT", "END_DATA"):
            place = ""
        elif place and words and not words.startswith("#"):
            try:
                fields = shlex.split(words)
            except ValueError as error:
                raise RefusedError("A line of this file has a quotation mark without its twin.") from error
            if place == "BEGIN_DATA_FORMAT":
                columns += fields
            else:
                rows.append(fields)
    if not columns:
        raise NotReadingsError("This file says BEGIN_DATA_FORMAT but names no columns.")
    return columns, rows


def _csv(text: str) -> tuple[list[str], list[list[str]]]:
    if "\x00" in text:
        raise NotReadingsError("This is no list of readings: neither CGATS text nor a CSV table.")
    try:
        separator = ";" if text.partition("\n")[0].count(";") > text.partition("\n")[0].count(",") else ","
        rows = [row for row in csv.reader(io.StringIO(text), delimiter=separator) if any(row)]
    except csv.Error as error:
        raise RefusedError("This is no list of readings: neither CGATS text nor a CSV table.") from error
    if len(rows) < 2:
        raise NotReadingsError("This table has no readings below its heading.")
    return rows[0], rows[1:]
