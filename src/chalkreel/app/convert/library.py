"""What outlasts one build, in the user's data folder: stock and kits (no Qt)."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_path

from chalkreel.core.errors import RefusedError
from chalkreel.document.atomic import written_over
from chalkreel.document.changes import Edits
from chalkreel.document.convert_entities import KIT_ID, KitRecord, StockPiece
from chalkreel.document.snapshot import Build


def _folder() -> Path:
    return user_data_path("chalkreel", appauthor=False)


def put_out(build: Build, hours: float) -> str:
    """Write this build's stock, and its kit with its score, to the library; what was done, in words.

    Raises
    ------
    RefusedError
        There is nothing to write, or the folder cannot be written.
    """
    from chalkreel.exchange.stock_list import stock_csv, with_kit

    stock, record = build.all(StockPiece), build.get(KitRecord, KIT_ID)
    if not stock and record is None:
        raise RefusedError("There is no stock yet: enter some first.")
    if stock:
        _write("stock.csv", stock_csv(stock))
    if record is not None:
        path = _folder() / "kits.csv"
        kits = path.read_text("utf-8", "replace") if path.exists() else ""
        _write("kits.csv", with_kit(kits, build.info.name, record, hours))
    return f"Kept in {_folder()}: stock.csv" + (" and kits.csv." if record is not None else ".")


def taken_in(build: Build) -> Edits:
    """The library's stock put into this build: what has the same name, form and size is counted anew.

    Raises
    ------
    RefusedError
        There is none, or it cannot be read.
    """
    from chalkreel.exchange.stock_list import parse_stock_csv

    path = _folder() / "stock.csv"
    if not path.exists():
        raise RefusedError("No stock is kept so far: “My stock out” keeps this build's for all others.")
    there = {_same(piece): piece.id for piece in build.all(StockPiece)}
    edits: Edits = {}
    for piece in parse_stock_csv(path.read_bytes()):
        known = there.get(_same(piece), piece.id)
        edits[known] = StockPiece(**{**{f: getattr(piece, f) for f in piece.__struct_fields__}, "id": known})
    return edits


def _same(piece: StockPiece) -> tuple[object, ...]:
    return piece.name, piece.form, piece.material, piece.thick_mm, piece.wide_mm, piece.long_mm, piece.offcut


def _write(name: str, text: str) -> None:
    path = _folder() / name
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        written_over(path, lambda part: part.write_text(text, encoding="utf-8"))
    except OSError as error:
        raise RefusedError(f"“{path}” cannot be written.") from error
