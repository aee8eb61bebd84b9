"""The library: paints outlast their build whole; a strange, newer, busy or damaged file is told of and left alone."""

from __future__ import annotations

import sqlite3
import stat
from pathlib import Path

import pytest
from msgspec.structs import replace
from tests.builds import empty_build

from chalkreel.core.errors import RefusedError
from chalkreel.document.library import forget_paints, keep_paints, library_paints, paint_count
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.store import Store
from chalkreel.edits.shelving import Dries, guessed_paint

RED = guessed_paint("red, “own”", (40.0, 45.0, 30.0), Dries("oil", "gloss"))
GREY = replace(guessed_paint("grey", (60.0, 0.0, 0.0), Dries()), ml_left=3.5, price_per_ml=0.2, note="top drawer")


def without_ids(paints: tuple[ShelfPaint, ...]) -> list[ShelfPaint]:
    return [replace(paint, id="") for paint in paints]


def test_paints_are_kept_whole_replaced_by_name_and_forgotten(tmp_path: Path) -> None:
    path = tmp_path / "new folder" / "library.sqlite"
    assert library_paints(path) == () and paint_count(path) == 0 and not path.parent.exists()
    assert keep_paints(path, (RED, GREY)) == 2
    found = library_paints(path)
    assert without_ids(found) == without_ids((RED, GREY))
    # Ids are a build's own: the same paint brought in twice is never the same entity.
    assert {p.id for p in found} & {RED.id, GREY.id, *(p.id for p in library_paints(path))} == set()
    assert keep_paints(path, (replace(GREY, ml_left=1.0),)) == 2
    assert [p.ml_left for p in library_paints(path)] == [None, 1.0]
    assert forget_paints(path, (GREY.name, "nobody")) == 1
    assert [p.name for p in library_paints(path)] == [RED.name]


def test_any_tool_can_read_it(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    keep_paints(path, (RED,))
    with sqlite3.connect(path) as db:
        ((name, medium),) = db.execute("SELECT name, json_extract(data, '$.medium') FROM paint").fetchall()
    assert (name, medium) == (RED.name, "oil")


def test_what_is_no_library_is_refused_and_left_as_it_is(tmp_path: Path) -> None:
    build, newer, torn, foreign = (tmp_path / name for name in ("a.chalkreel", "newer", "torn", "foreign"))
    Store.create(build, empty_build("A"), {}).close()
    for path in (newer, torn, foreign):
        keep_paints(path, (RED,))
    with sqlite3.connect(newer) as db:
        db.execute("PRAGMA user_version = 9")
    torn.write_bytes(torn.read_bytes()[:2000] + b"\x00" * 3000)
    with sqlite3.connect(foreign) as db:
        db.execute('UPDATE paint SET data = \'{"kind":"paint"}\'')
    for path, words in ((build, "no library"), (newer, "newer"), (torn, "damaged"), (foreign, "damaged")):
        before = path.read_bytes()
        with pytest.raises(RefusedError, match=words):
            library_paints(path)
        assert path.read_bytes() == before
    for path in (build, newer, torn):
        before = path.read_bytes()
        with pytest.raises(RefusedError):
            keep_paints(path, (GREY,))
        assert path.read_bytes() == before and paint_count(path) == 0


def test_a_busy_or_read_only_place_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "library.sqlite"
    keep_paints(path, (RED,))
    monkeypatch.setattr("chalkreel.document.library.WAIT_SECONDS", 0.05)
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    with pytest.raises(RefusedError, match="another program"):
        keep_paints(path, (GREY,))
    other.execute("ROLLBACK")
    other.close()
    assert keep_paints(path, (GREY,)) == 2
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(RefusedError, match="cannot be written"):
        keep_paints(tmp_path / "file" / "library.sqlite", (GREY,))
    assert stat.S_ISREG((tmp_path / "file").stat().st_mode)
