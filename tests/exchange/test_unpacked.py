"""A build unpacked into a folder and packed again is the same build; what is wrong in a folder is said."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import msgspec
import pytest

from chalkreel.document.format import FORMAT_VERSION, DocumentRefusedError
from chalkreel.document.store import Store
from chalkreel.exchange.unpacked import pack, unpack


@pytest.fixture
def folder(demo_file: Path, tmp_path: Path) -> Path:
    store = Store.open(demo_file)
    unpack(store.build, store.blob, tmp_path / "unpacked")
    store.close()
    return tmp_path / "unpacked"


def test_nothing_is_lost_on_the_way_there_and_back(demo_file: Path, folder: Path, tmp_path: Path) -> None:
    first, again = Store.open(demo_file), pack(folder, tmp_path / "again.chalkreel")
    assert list(again.build.entities.items()) == list(first.build.entities.items())
    shas = {e.blob for e in first.build.entities.values() if getattr(e, "blob", "")}  # type: ignore[union-attr]
    assert shas and all(again.blob(sha) == first.blob(sha) for sha in shas)
    unpack(again.build, again.blob, tmp_path / "twice")
    for path in sorted(p for p in folder.rglob("*") if p.is_file()):
        assert (tmp_path / "twice" / path.relative_to(folder)).read_bytes() == path.read_bytes()
    first.close()
    again.close()


def test_a_change_is_a_changed_line(demo_file: Path, folder: Path, tmp_path: Path) -> None:
    store = pack(folder, tmp_path / "b.chalkreel")
    store.commit("name", {"build": msgspec.structs.replace(store.build.info, name="Other")})
    unpack(store.build, store.blob, tmp_path / "changed")
    store.close()
    old, new = ((f / "build.json").read_text().splitlines() for f in (folder, tmp_path / "changed"))
    assert len(old) == len(new) and sum(a != b for a, b in zip(old, new, strict=True)) == 1


def test_tables_lie_beside_it_for_people(folder: Path) -> None:
    with (folder / "tables/kit-part.csv").open(newline="", encoding="utf-8") as stream:
        rows = list(csv.DictReader(stream))
    assert {"C2 port tail fin", "D1 skirt"} <= {row["name"] for row in rows}
    assert {row["state"] for row in rows} >= {"missing", "warped"}


def test_nothing_is_written_over(demo_file: Path, folder: Path) -> None:
    store = Store.open(demo_file)
    with pytest.raises(DocumentRefusedError, match="not empty"):
        unpack(store.build, store.blob, folder)
    store.close()
    assert not [p for p in folder.parent.iterdir() if p.name.endswith(".part")]


def spoil(folder: Path, kind: str) -> None:
    path = folder / "build.json"
    found = json.loads(path.read_text())
    if kind == "newer":
        found["format"] = FORMAT_VERSION + 1
    elif kind == "foreign":
        found = {"entities": []}
    elif kind == "wrong value":
        next(e for e in found["entities"] if e["kind"] == "still")["width_px"] = -4
    elif kind == "dangling":
        found["entities"] = [e for e in found["entities"] if e["kind"] != "landmark"]
    elif kind == "twice":
        found["entities"].append(found["entities"][-1])
    path.write_text("{" if kind == "cut short" else json.dumps(found))
    if kind == "no still":
        next((folder / "stills").iterdir()).unlink()
    elif kind == "changed still":
        next((folder / "stills").iterdir()).write_bytes(b"\x89PNG")
    elif kind == "nothing":
        path.unlink()


@pytest.mark.parametrize(
    ("kind", "says"),
    [("newer", "newer"), ("foreign", "damaged"), ("wrong value", "wrong inside"), ("dangling", "wrong inside"),
     ("twice", "same id"), ("cut short", "damaged"), ("no still", "1 of its stills"),
     ("changed still", "1 of its stills"), ("nothing", "no unpacked build")],
)  # fmt: skip
def test_a_spoilt_folder_is_refused_with_a_sentence(folder: Path, tmp_path: Path, kind: str, says: str) -> None:
    spoil(folder, kind)
    with pytest.raises(DocumentRefusedError, match=says):
        pack(folder, tmp_path / "b.chalkreel")
    assert not (tmp_path / "b.chalkreel").exists()
