"""Stock as a CSV table, and the list of kits with their scores: what outlasts one build."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable
from typing import Final

from chalkreel.core.convert.kinds import FORMS
from chalkreel.core.errors import RefusedError
from chalkreel.document.convert_entities import KitRecord, StockPiece
from chalkreel.document.entity import new_id
from chalkreel.exchange.plain_text import cell, from_cell

_COLUMNS: Final = ("name", "form", "material", "thick_mm", "wide_mm", "long_mm", "count", "offcut", "grained",
                   "one_face", "price", "where", "corners")  # fmt: skip
_KIT_COLUMNS: Final = ("kit", "price", "bought_at", "value", "assembly", "accuracy", "quality", "appeal", "hours")
MOST_ROWS, MOST_BYTES, LARGEST_MM = 2_000, 5_000_000, 1e4


def stock_csv(stock: Iterable[StockPiece]) -> str:
    """Everything that is owned, one row each; corners of an odd offcut as `x y` parted by semicolons."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(_COLUMNS)
    for s in stock:
        corners = "; ".join(f"{x:g} {y:g}" for x, y in s.corners)
        sizes = (f"{mm:g}" for mm in (s.thick_mm, s.wide_mm, s.long_mm))
        ticks = (int(on) for on in (s.offcut, s.grained, s.one_face))
        plain = (cell(s.name), s.form, cell(s.material), *sizes, s.count, *ticks)
        writer.writerow((*plain, f"{s.price:g}", cell(s.where), corners))
    return out.getvalue()


def parse_stock_csv(data: bytes) -> tuple[StockPiece, ...]:
    """Stock from such a table.

    Raises
    ------
    RefusedError
        Another table, too large, or with sizes that no stock has.
    """
    if len(data) > MOST_BYTES:
        raise RefusedError("This file is too large to be a list of stock.")
    rows = list(csv.DictReader(io.StringIO(data.decode("utf-8-sig", "replace"))))
    if len(rows) > MOST_ROWS:
        raise RefusedError(f"This list holds more than {MOST_ROWS} kinds of stock.")
    if not rows or any(name not in rows[0] for name in ("name", "form", "thick_mm", "long_mm")):
        raise RefusedError("This table is no stock: it needs the columns name, form, thick_mm and long_mm.")
    return tuple(_piece(row) for row in rows)


def _piece(row: dict[str, str]) -> StockPiece:
    name = from_cell(row.get("name") or "").strip()
    try:
        thick, long = float(row["thick_mm"]), float(row["long_mm"])
        wide, price = float(row.get("wide_mm") or thick), float(row.get("price") or 0)
        count = int(row.get("count") or 1)
        corners = tuple(_corner(pair) for pair in (row.get("corners") or "").split(";") if pair.strip())
        form = next(f for f in FORMS if f == row["form"])
    except (KeyError, ValueError, TypeError, StopIteration) as error:
        raise RefusedError(f"“{name or 'Something'}” lacks a size, or has one that cannot be read.") from error
    sizes = (thick, wide, long, *(v for corner in corners for v in corner))
    if not all(math.isfinite(v) and 0 <= v <= LARGEST_MM for v in (*sizes, price)) or min(thick, wide, long) <= 0:
        raise RefusedError(f"“{name or 'Something'}” has a size that no stock has.")
    if not name or not 0 <= count <= 10_000:
        raise RefusedError("Every kind of stock needs a name, and a number that is left.")
    ticks = {field: row.get(field) in ("1", "yes", "true") for field in ("offcut", "grained", "one_face")}
    return StockPiece(
        id=new_id(), name=name, form=form, material=from_cell(row.get("material") or "styrene"), thick_mm=thick,
        wide_mm=wide, long_mm=long, count=count, price=price, where=from_cell(row.get("where") or ""), corners=corners,
        **ticks,
    )  # fmt: skip


def _corner(pair: str) -> tuple[float, float]:
    x, y = pair.split()
    return float(x), float(y)


def with_kit(kits: str, name: str, record: KitRecord, hours: float) -> str:
    """The list of kits with one more row, or with that of the same name replaced."""
    rows = [row for row in csv.reader(io.StringIO(kits)) if row and row[0] not in (_KIT_COLUMNS[0], cell(name))]
    scores = (record.value, record.assembly, record.accuracy, record.quality, record.appeal)
    rows.append([cell(name), f"{record.price:g}", cell(record.bought_at),
                 *("" if score is None else str(score) for score in scores), f"{hours:.1f}"])  # fmt: skip
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows([_KIT_COLUMNS, *rows])
    return out.getvalue()
