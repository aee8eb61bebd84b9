"""The document: durable, undoable, refusing what it should."""

import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from types import MappingProxyType

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.builds import empty_build

from chalkreel.core.errors import RefusedError
from chalkreel.document import format as file_format
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import BUILD_ID, BuildInfo, KitPart, Reading, Still
from chalkreel.document.finish_entities import PlannedTime, WrongStep
from chalkreel.document.format import DocumentRefusedError
from chalkreel.document.paint_entities import ShelfPaint, Surface, Zone
from chalkreel.document.store import ReadOnlyError, Store, digest
from chalkreel.edits.ordering import moved_step
from chalkreel.edits.removing import removal
from chalkreel.edits.shelving import Dries, guessed_paint


def fresh(path: Path) -> Store:
    return Store.create(path, empty_build("Test"))


def part(number: int, name: str = "") -> KitPart:
    return KitPart(id=f"part-{number}", name=name or f"A{number}")


def plain(store: Store) -> dict[str, object]:
    return dict(store.build.entities)


def test_every_edit_is_there_after_reopening_and_undo_still_works(tmp_path: Path) -> None:
    path = tmp_path / "a.chalkreel"
    store = fresh(path)
    store.commit("part", {"part-1": part(1)})
    store.commit("name", {"part-1": part(1, "fin")})
    store.close()
    store = Store.open(path)
    assert store.build.get(KitPart, "part-1") == part(1, "fin")
    assert store.undo_label == "name"
    store.undo()
    assert store.build.get(KitPart, "part-1") == part(1)
    store.close()
    store = Store.open(path)
    assert (store.undo_label, store.redo_label) == ("part", "name")
    store.redo()
    assert store.build.get(KitPart, "part-1") == part(1, "fin")
    store.close()


Edit = tuple[str, int]


@settings(max_examples=25)
@given(st.lists(st.tuples(st.sampled_from(["put", "drop", "undo", "redo"]), st.integers(0, 4)), max_size=25))
def test_undo_all_is_the_start_and_redo_all_is_the_end(
    tmp_path_factory: pytest.TempPathFactory, edits: list[Edit]
) -> None:
    store = fresh(tmp_path_factory.mktemp("u") / "u.chalkreel")
    start = plain(store)
    for turn, (kind, number) in enumerate(edits):
        if kind == "put":
            store.commit("put", {f"part-{number}": part(number, f"name {turn}")})
        elif kind == "drop":
            store.commit("drop", {f"part-{number}": None})
        else:
            store.undo() if kind == "undo" else store.redo()
    while store.redo_label:
        store.redo()
    end = list(plain(store).items())
    while store.undo_label:
        store.undo()
    assert plain(store) == start
    while store.redo_label:
        store.redo()
    assert list(plain(store).items()) == end
    store.close()
    again = Store.open(store.path)
    assert list(plain(again).items()) == end
    again.close()


def test_a_removed_entity_comes_back_to_its_place(tmp_path: Path) -> None:
    store = fresh(tmp_path / "p.chalkreel")
    store.commit("parts", {f"part-{n}": part(n) for n in range(3)})
    store.commit("gone", {"part-1": None})
    store.undo()
    assert [p.id for p in store.build.all(KitPart)] == ["part-0", "part-1", "part-2"]
    store.close()
    again = Store.open(store.path)
    assert [p.id for p in again.build.all(KitPart)] == ["part-0", "part-1", "part-2"]
    again.close()


def test_a_failing_change_leaves_no_trace(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    store = fresh(tmp_path / "f.chalkreel")
    before = plain(store)
    monkeypatch.setattr(store, "_move_head", lambda *_: (_ for _ in ()).throw(sqlite3.OperationalError("disk full")))
    with pytest.raises(DocumentRefusedError, match="disk full"):
        store.commit("part", {"part-1": part(1)})
    monkeypatch.undo()
    assert plain(store) == before and store.undo_label == ""
    store.commit("part", {"part-2": part(2)})
    store.close()
    again = Store.open(store.path)
    assert [p.id for p in again.build.all(KitPart)] == ["part-2"]
    again.close()


WRITER = """
import sys
from pathlib import Path
from chalkreel.document.entities import KitPart
from tests.builds import empty_build
from chalkreel.document.store import Store
path = Path(sys.argv[1])
store = Store.open(path) if path.exists() else Store.create(path, empty_build("Kill"))
number = len(store.build.all(KitPart))
while True:
    store.keep(b"x" * 20_000 + str(number).encode())
    store.commit(f"part {number}", {f"part-{number}": KitPart(id=f"part-{number}", name="x" * 300)})
    number += 1
    print(number, flush=True)
"""


@pytest.mark.timeout(300)
def test_fifty_kills_lose_nothing_that_was_committed(tmp_path: Path) -> None:
    path, dice, committed = tmp_path / "kill.chalkreel", random.Random(11), 0
    for _ in range(50):
        writer = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True)
        assert writer.stdout is not None
        committed = int(writer.stdout.readline())
        time.sleep(dice.uniform(0.0, 0.06))
        os.kill(writer.pid, signal.SIGKILL)
        rest = writer.stdout.read().split()
        writer.wait()
        committed = max([committed, *map(int, rest[:-1]), *(int(n) for n in rest[-1:] if n)])
        store = Store.open(path)
        parts = [p.id for p in store.build.all(KitPart)]
        assert parts == [f"part-{n}" for n in range(len(parts))]
        # One more may be durable than was told, never one fewer.
        assert committed <= len(parts) <= committed + 1
        assert store.undo_label == f"part {len(parts) - 1}"
        store.close()
    assert committed >= 50


def test_a_second_window_only_reads(tmp_path: Path) -> None:
    first = fresh(tmp_path / "l.chalkreel")
    first.commit("part", {"part-1": part(1)})
    second = Store.open(first.path)
    assert second.read_only and second.build.get(KitPart, "part-1") == part(1)
    for edit in (lambda: second.commit("x", {"part-2": part(2)}), second.undo, lambda: second.keep(b"x")):
        with pytest.raises(ReadOnlyError, match="Another window"):
            edit()
    second.close()
    first.close()
    third = Store.open(first.path)
    assert not third.read_only
    third.close()


def bytes_of(path: Path) -> bytes:
    return path.read_bytes()


def test_foreign_damaged_and_newer_files_are_refused_unharmed(tmp_path: Path, demo_file: Path) -> None:
    newer, foreign, tables = (tmp_path / f"{n}.chalkreel" for n in ("newer", "foreign", "tables"))
    shutil.copy(demo_file, newer)
    with sqlite3.connect(newer) as db:
        db.execute("PRAGMA user_version = 99")
    with sqlite3.connect(foreign) as db:
        db.execute("CREATE TABLE recipes (x)")
    fresh(tables).close()
    with sqlite3.connect(tables) as db:
        db.execute("CREATE TRIGGER evil AFTER INSERT ON entity BEGIN DELETE FROM change; END")
    text, cut, holed = (tmp_path / f"{n}.chalkreel" for n in ("text", "cut", "holed"))
    text.write_text("dear diary")
    cut.write_bytes(demo_file.read_bytes()[:40_000])
    whole = bytearray(demo_file.read_bytes())
    whole[4096:12_288] = os.urandom(8192)
    holed.write_bytes(whole)
    for path, says in ((newer, "newer"), (foreign, "not a Chalk Reel"), (text, "not a Chalk Reel"),
                       (cut, "damaged"), (holed, "damaged"), (tables, "damaged")):  # fmt: skip
        kept = bytes_of(path)
        with pytest.raises(DocumentRefusedError, match=says):
            Store.open(path)
        assert bytes_of(path) == kept
    with pytest.raises(DocumentRefusedError, match="cannot be read"):
        Store.open(tmp_path / "nowhere.chalkreel")
    with pytest.raises(DocumentRefusedError, match="could not be written"):
        fresh(tmp_path / "no folder" / "x.chalkreel")


def test_an_entity_of_unknown_shape_is_damage_not_a_crash(tmp_path: Path) -> None:
    store = fresh(tmp_path / "e.chalkreel")
    store.close()
    for data in ('{"kind":"spaceship","id":"x"}', '{"kind":"part"', '{"kind":"kit part","id":"x","name":3}'):
        with sqlite3.connect(store.path) as db:
            db.execute("INSERT OR REPLACE INTO entity VALUES ('x', 99, ?)", (data,))
        with pytest.raises(DocumentRefusedError, match="damaged"):
            Store.open(store.path)


def test_copies_are_whole_and_never_overwrite(tmp_path: Path) -> None:
    store = fresh(tmp_path / "c.chalkreel")
    store.commit("part", {"part-1": part(1)})
    sha = store.keep(b"still")
    store.copy_to(tmp_path / "d.chalkreel")
    with pytest.raises(DocumentRefusedError, match="already there"):
        store.copy_to(tmp_path / "d.chalkreel")
    store.close()
    copy = Store.open(tmp_path / "d.chalkreel")
    assert copy.build.get(KitPart, "part-1") == part(1) and copy.blob(sha) == b"still"
    assert copy.undo_label == "part"
    copy.close()


def test_blobs_are_named_by_their_content_and_missing_ones_are_told(tmp_path: Path) -> None:
    store = fresh(tmp_path / "b.chalkreel")
    assert store.keep(b"abc") == store.keep(b"abc") == digest(b"abc")
    with pytest.raises(DocumentRefusedError, match="missing"):
        store.blob("0" * 64)
    store.close()


def test_removing_a_still_takes_its_marks_and_nothing_else(demo_file: Path) -> None:
    store = Store.open(demo_file)
    edits = removal(store.build, "still-3")
    after = store.build.edited(edits, 0, {e: n for n, e in enumerate(store.build.entities)})
    assert not [r for r in after.all(Reading) if r.still_id == "still-3"]
    assert len(after.all(Still)) == 9 and len(after.all(KitPart)) == len(store.build.all(KitPart))
    assert "still-3" not in str(after.entities)
    forgotten = removal(store.build, "surface-hull")
    assert all(e is None or not isinstance(e, (Surface, Zone)) or e.surface_id == "" for e in forgotten.values())
    store.close()


def test_steps_move_within_bounds() -> None:
    assert moved_step(("a", "b", "c"), "c", -1) == ("a", "c", "b")
    assert moved_step(("a", "b", "c"), "a", -5) == ("a", "b", "c")
    assert moved_step(("a", "b", "c"), "a", 9) == ("b", "c", "a")


def test_snapshots_cannot_be_changed(tmp_path: Path) -> None:
    store = fresh(tmp_path / "s.chalkreel")
    assert isinstance(store.build.entities, MappingProxyType)
    with pytest.raises(AttributeError):
        store.build.info.name = "other"  # type: ignore[misc]
    assert isinstance(store.build.entities[BUILD_ID], BuildInfo)
    store.close()


def test_the_file_says_what_it_is(tmp_path: Path) -> None:
    store = fresh(tmp_path / "h.chalkreel")
    store.close()
    head = store.path.read_bytes()[:100]
    assert int.from_bytes(head[68:72], "big") == file_format.APPLICATION_ID
    assert int.from_bytes(head[60:64], "big") == file_format.FORMAT_VERSION
    documented = (Path(__file__).parents[2] / "docs/file-format.md").read_text()
    for line in file_format.schema().splitlines():
        assert line in documented


@pytest.mark.parametrize("old", [1, 2, 14, 18])
def test_a_file_of_an_older_format_opens_and_leaves_a_copy_of_itself(tmp_path: Path, old: int) -> None:
    path = tmp_path / "old.chalkreel"
    Store.create(path, empty_build("Old")).close()
    with sqlite3.connect(path) as db:
        db.execute(f"PRAGMA user_version = {old}")
    before = path.read_bytes()
    store = Store.open(path)
    assert store.build.info.name == "Old"
    store.close()
    assert int.from_bytes(path.read_bytes()[60:64], "big") == file_format.FORMAT_VERSION
    copy = tmp_path / f"old.format-{old}.chalkreel"
    assert copy.read_bytes() == before
    again = Store.open(path)
    again.close()
    assert len(list(tmp_path.glob("*.chalkreel"))) == 2


@pytest.mark.parametrize(("medium", "at"), [("porridge", "2026-11-20T20:00"), ("enamel", "yesterday")])
def test_a_wrong_layer_of_no_known_stuff_or_hour_is_not_kept(tmp_path: Path, medium: str, at: str) -> None:
    store = Store.create(tmp_path / "sledge.chalkreel", empty_build("Sledge"))
    wrong = WrongStep(step_id="Hull/side/base", medium=medium, at=at)
    before = store.build
    with pytest.raises(RefusedError):
        store.commit("wrong", {BUILD_ID: msgspec.structs.replace(before.info, wrong=(wrong,))})
    assert store.build is before
    store.close()


def test_a_plan_of_no_known_hour_is_not_kept(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "sledge.chalkreel", empty_build("Sledge"))
    before, late = store.build, PlannedTime(step_id="Hull/side/base", start="2026-11-20T20:00", end="late")
    with pytest.raises(RefusedError):
        store.commit("plan", {BUILD_ID: msgspec.structs.replace(before.info, plan=(late,))})
    assert store.build is before
    store.close()


def test_guesses_of_older_files_are_as_strong_as_those_made_now_and_look_as_they_did(tmp_path: Path) -> None:
    path = tmp_path / "old.chalkreel"
    guess = guessed_paint("rust “own”", (40.0, 25.0, 30.0), Dries())
    weak = msgspec.structs.replace(
        guess, absorption=tuple(k / 1.4 for k in guess.absorption), scattering=tuple(s / 1.4 for s in guess.scattering)
    )
    metered = msgspec.structs.replace(weak, id="metered", name="metered", source="metered")
    Store.create(path, {**empty_build("Old"), weak.id: weak, metered.id: metered}).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 16")
    for _ in range(2):
        # Opened again it is not made stronger again.
        store = Store.open(path)
        kept, other = store.build.all(ShelfPaint)
        assert kept.absorption == pytest.approx(guess.absorption, rel=1e-4)
        assert kept.scattering == pytest.approx(guess.scattering, rel=1e-4)
        assert other == metered and kept.drawdowns == guess.drawdowns
        store.close()


def test_ticks_of_jobs_are_found_again_after_their_steps_lost_their_number(tmp_path: Path) -> None:
    path = tmp_path / "old.chalkreel"
    done = ("Hull/tail fin/add/12", "Hull/skirt/move/0/make", "Hull//prime", "Hull/sides/base/2")
    first = empty_build("Old")
    info = msgspec.structs.replace(first[BUILD_ID], done=done, done_at=((done[0], "2026-11-20T20:00"),))
    entry = LogEntry(id="log", at="2026-11-20T20:00", words="glued “a/b/add/1”", step_id=done[0])
    Store.create(path, {**first, BUILD_ID: info, entry.id: entry}).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 11")
    store = Store.open(path)
    kept = store.build.info
    assert kept.done == ("Hull/tail fin/add", "Hull/skirt/move/make", "Hull//prime", "Hull/sides/base/2")
    assert kept.done_at == (("Hull/tail fin/add", "2026-11-20T20:00"),)
    told = store.build.get(LogEntry, "log")
    assert told is not None and told.step_id == "Hull/tail fin/add" and told.words == entry.words
    store.close()
