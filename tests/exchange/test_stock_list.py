import csv
import io

import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.document.convert_entities import KitRecord, StockPiece
from chalkreel.exchange.stock_list import parse_stock_csv, stock_csv, with_kit

CORNERS = ((0.0, 0.0), (150.0, 0.0), (150.0, 38.5), (0.0, 72.0))
OFFCUT = StockPiece(id="a", name="=clear, end", material="clear", thick_mm=0.4, wide_mm=72.0, long_mm=150.0, count=0,
                    offcut=True, one_face=True, corners=CORNERS)  # fmt: skip
ROD = StockPiece(id="b", name="rod", form="rod", thick_mm=0.8, wide_mm=0.8, long_mm=305.0, count=7, price=0.9)


def test_stock_comes_back_as_it_was() -> None:
    text = stock_csv((OFFCUT, ROD))
    assert text.splitlines()[1].startswith('"\'=clear, end"'), "no spreadsheet runs it"
    found = parse_stock_csv(text.encode())
    fields = [f for f in OFFCUT.__struct_fields__ if f != "id"]
    assert [[getattr(s, f) for f in fields] for s in found] == [[getattr(s, f) for f in fields] for s in (OFFCUT, ROD)]


def test_a_list_by_hand_needs_only_what_matters() -> None:
    (found,) = parse_stock_csv(b"name,form,thick_mm,long_mm\nwire,rod,0.5,1000\n")
    assert (found.wide_mm, found.count, found.material) == (0.5, 1, "styrene")


@pytest.mark.parametrize(
    "text",
    ["", "a,b\n1,2\n", "name,form,thick_mm,long_mm\nx,plank,1,2\n", "name,form,thick_mm,long_mm\nx,rod,-1,2\n",
     "name,form,thick_mm,long_mm\nx,rod,nan,2\n", "name,form,thick_mm,long_mm\n,rod,1,2\n",
     "name,form,thick_mm,long_mm,corners\nx,sheet,1,2,1 2 3\n"],
)  # fmt: skip
def test_another_table_is_refused(text: str) -> None:
    with pytest.raises(RefusedError):
        parse_stock_csv(text.encode())


def test_a_kit_is_listed_once_by_its_latest_score() -> None:
    kits = with_kit("", "Gondola", KitRecord(id="k", price=12.5, value=6), 9.0)
    kits = with_kit(kits, "Tender", KitRecord(id="k", accuracy=0), 3.25)
    kits = with_kit(kits, "Gondola", KitRecord(id="k", price=12.5, value=7), 11.0)
    rows = {row["kit"]: row for row in csv.DictReader(io.StringIO(kits))}
    assert list(rows) == ["Tender", "Gondola"] and rows["Gondola"]["value"] == "7" and rows["Tender"]["accuracy"] == "0"
    assert rows["Tender"]["value"] == "" and rows["Gondola"]["hours"] == "11.0"
