"""The file survives kills, links, other programs and whatever is written into it; `--long` as often as asked for."""

import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import pytest
from tests.builds import empty_build

from chalkreel.core.measure.marks import Mark
from chalkreel.document import format as file_format
from chalkreel.document.entities import BUILD_ID, AnyEntity, KitPart, Landmark, LandmarkMark, Outline, Still
from chalkreel.document.format import FORMAT_VERSION, SUFFIX, DocumentRefusedError, build_path
from chalkreel.document.store import Store

MAKER = """
import sys
from pathlib import Path
from chalkreel.document.store import Store
from tests.builds import empty_build
from chalkreel.document.entities import KitPart
what, folder = sys.argv[1], Path(sys.argv[2])
first = empty_build("Kill") | {f"p{n}": KitPart(id=f"p{n}", name="x" * 300) for n in range(2000)}
print("ready", flush=True)
if what == "make":
    Store.create(folder / "new.chalkreel", first, {"a": b"x" * 3_000_000})
elif what == "copy":
    Store.open(folder / "old.chalkreel").copy_to(folder / "new.chalkreel")
else:
    Store.open(folder / "old.chalkreel")
"""


def parts_of(path: Path) -> int:
    store = Store.open(path)
    count = len(store.build.all(KitPart))
    store.close()
    return count


@pytest.mark.timeout(1200)
@pytest.mark.parametrize("what", ["make", "copy", "raise"])
def test_kills_leave_whole_files_and_no_name_blocked(tmp_path: Path, what: str, request: pytest.FixtureRequest) -> None:
    dice = random.Random(what)
    for trial in range(150 if request.config.getoption("--long") else 8):
        folder = tmp_path / f"{trial}"
        folder.mkdir()
        old, new = folder / "old.chalkreel", folder / "new.chalkreel"
        if what != "make":
            first = empty_build("Old") | {f"p{n}": KitPart(id=f"p{n}", name="y" * 300) for n in range(2000)}
            Store.create(old, first, {"a": b"x" * 3_000_000}).close()
            with sqlite3.connect(old) as db:
                db.execute("PRAGMA user_version = 3")
        process = subprocess.Popen([sys.executable, "-c", MAKER, what, str(folder)], stdout=subprocess.PIPE)
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(dice.uniform(0.0, 0.15))
        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        if what != "make":
            assert parts_of(old) == 2000
        for copy in folder.glob(f"*{SUFFIX}"):
            # What has a name is whole; what is not whole has none, and is in nobody's way.
            assert parts_of(copy) == 2000
        if not new.exists():
            Store.create(new, empty_build("Again")).close()


def test_every_name_of_a_file_is_under_one_lock(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "a.chalkreel", empty_build("Lock"))
    os.link(store.path, tmp_path / "hard.chalkreel")
    (tmp_path / "soft.chalkreel").symlink_to(store.path)
    for name in ("hard", "soft"):
        other = Store.open(tmp_path / f"{name}.chalkreel")
        assert other.read_only
        other.close()
    store.commit("part", {"p": KitPart(id="p", name="fin")})
    store.close()


def test_what_another_program_wrote_is_not_written_over(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "a.chalkreel", empty_build("Other"))
    with sqlite3.connect(store.path) as db:
        db.execute("UPDATE head SET revision = 7")
    with pytest.raises(DocumentRefusedError, match="Another program has changed"):
        store.commit("part", {"p": KitPart(id="p", name="fin")})
    store.close()


def test_a_file_that_another_program_holds_is_told_at_once(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "a.chalkreel", empty_build("Held"))
    other = sqlite3.connect(store.path, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    begun = time.monotonic()
    with pytest.raises(DocumentRefusedError, match="just now"):
        store.commit("part", {"p": KitPart(id="p", name="fin")})
    store.close()
    with pytest.raises(DocumentRefusedError, match="just now"):
        Store.open(store.path)
    assert time.monotonic() - begun < 1.0
    other.close()


def test_the_copy_of_an_old_file_takes_no_other_files_name(tmp_path: Path) -> None:
    path, victim = tmp_path / "old.chalkreel", tmp_path / "victim"
    Store.create(path, empty_build("Old")).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 2")
    (tmp_path / "old.format-2.chalkreel").symlink_to(victim)
    (tmp_path / "old.format-2 (2).chalkreel").write_text("mine")
    Store.open(path).close()
    assert not victim.exists() and (tmp_path / "old.format-2 (2).chalkreel").read_text() == "mine"
    assert (tmp_path / "old.format-2 (3).chalkreel").read_bytes()[60:64] == (2).to_bytes(4, "big")


def test_names_with_dots_keep_them(tmp_path: Path) -> None:
    assert build_path("Ninepin v1.2").name == "Ninepin v1.2.chalkreel" == build_path("Ninepin v1.2.chalkreel").name
    odd = tmp_path / os.fsdecode(b"odd \xff name.chalkreel")
    Store.create(odd, empty_build("Odd")).close()
    assert parts_of(odd) == 0
    with pytest.raises(DocumentRefusedError) as refusal:
        Store.create(odd, empty_build("Odd"))
    assert str(refusal.value).encode("utf-8")


def test_edits_are_durable_before_they_are_told(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "a.chalkreel", empty_build("Sync"))
    # EXTRA: the journal's removal is synced too, else a power loss brings the state before the edit back.
    assert store._db.execute("PRAGMA synchronous").fetchone() == (3,)
    assert store._db.execute("PRAGMA journal_mode").fetchone() == ("delete",)
    store.close()


STILL = Still(id="s", title="s", blob="0" * 64, width_px=90, height_px=90, number=1)
MARK = Mark(1.0, 2.0)


@pytest.mark.parametrize(
    ("entity", "says"),
    [
        (LandmarkMark(id="m", still_id="s", landmark_id="nobody", mark=MARK), "not there"),
        (LandmarkMark(id="m", still_id="s", landmark_id="l", mark=Mark(float("nan"), 2.0)), "float"),
        (LandmarkMark(id="m", still_id="s", landmark_id="l", mark=Mark(1e12, 2.0)), "beyond reason"),
        (LandmarkMark(id="m", still_id="s", landmark_id="l", mark=Mark(1.0, 2.0, 0.0)), "above nothing"),
        (Still(id="s", title="s", blob="0" * 64, width_px=90, height_px=90, number=1, pixel_aspect=-1.0), "0.05"),
        (KitPart(id="p", name=3), "str"),  # type: ignore[arg-type]
        (KitPart(id="p", name="fin", state="stolen"), "stolen"),  # type: ignore[arg-type]
        (Outline(id="o", still_id="s", name="o", points=(MARK, MARK), bends=("corner",)), "differ in number"),
    ],
)
def test_what_is_no_build_is_neither_kept_nor_opened(tmp_path: Path, entity: AnyEntity, says: str) -> None:
    first = empty_build("Valid") | {"s": STILL, "l": Landmark(id="l", name="tip")}
    store = Store.create(tmp_path / "a.chalkreel", first)
    with pytest.raises(DocumentRefusedError, match=says):
        store.commit("wrong", {entity.id: entity})
    assert dict(store.build.entities) == first and store.undo_label == ""
    store.close()
    with sqlite3.connect(store.path) as db:
        text = msgspec.json.encode(entity).decode()
        db.execute("INSERT OR REPLACE INTO entity VALUES (?, 99, ?)", (entity.id, text))
    with pytest.raises(DocumentRefusedError, match="damaged"):
        Store.open(store.path)


def test_what_others_speak_of_is_not_taken_away_alone(tmp_path: Path) -> None:
    marks = {"m": LandmarkMark(id="m", still_id="s", landmark_id="l", mark=MARK)}
    first = empty_build("Valid") | {"s": STILL, "l": Landmark(id="l", name="tip")} | marks
    store = Store.create(tmp_path / "a.chalkreel", first)
    for gone in ("s", "l", BUILD_ID):
        with pytest.raises(DocumentRefusedError):
            store.commit("gone", {gone: None})
    store.commit("both", {"l": None, "m": None})
    store.close()


SPOILT = (b"null", b"-1", b"1e400", b"true", b'"x"', b"[]", b"{}", b"99999999999", b'""', b"0.0", b"\xff")


@pytest.mark.timeout(1800)
def test_broken_files_are_refused_or_whole(tmp_path: Path, demo_file: Path, request: pytest.FixtureRequest) -> None:
    """One value, row, type or history entry of the demo is spoilt at a time, and sometimes raw bytes."""
    dice, refused = random.Random(9), 0
    trials = 10_000 if request.config.getoption("--long") else 150
    whole, path = demo_file.read_bytes(), tmp_path / "broken.chalkreel"
    for _ in range(trials):
        path.write_bytes(whole)
        with sqlite3.connect(path) as db:
            _spoil(db, dice)
        begun = time.monotonic()
        try:
            store = Store.open(path)
        except DocumentRefusedError as refusal:
            refused += 1
            assert str(refusal).endswith(".")
        else:
            for _ in range(3):
                try:
                    store.undo()
                except DocumentRefusedError as refusal:
                    assert str(refusal).endswith(".")
            store.close()
        assert time.monotonic() - begun < 10.0
    assert refused > trials // 3


def _spoil(db: sqlite3.Connection, dice: random.Random) -> None:
    rows = db.execute("SELECT id, data FROM entity WHERE data IS NOT NULL").fetchall()
    entity_id, data = dice.choice(rows)
    kind = dice.randrange(6)
    if kind < 3:
        text = data.encode()
        places = [i for i, c in enumerate(text) if c in b":,["]
        at = dice.choice(places) + 1
        end = next((i for i in range(at, len(text)) if text[i] in b",]}"), len(text))
        spoilt = text[:at] + dice.choice(SPOILT) + text[end:]
        db.execute("UPDATE entity SET data = ? WHERE id = ?", (spoilt.decode("utf-8", "replace"), entity_id))
    elif kind == 3:
        db.execute("DELETE FROM entity WHERE id = ?", (entity_id,))
    elif kind == 4:
        value = dice.choice((b"\x00\x01", 5, 2.5, "not JSON", "[" * 5000))
        db.execute("UPDATE entity SET data = ? WHERE id = ?", (value, entity_id))
    else:
        column, value = dice.choice((("seq", "x"), ("revision", 2.5), ("seq", -4), ("revision", b"r")))
        db.execute(f"UPDATE head SET {column} = ?", (value,))


def test_the_format_is_the_one_documented() -> None:
    documented = (Path(__file__).parents[2] / "docs/file-format.md").read_text()
    assert f"format {FORMAT_VERSION}" in documented and file_format.SUFFIX in documented
