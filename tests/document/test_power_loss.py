"""A power loss at any moment: what was not yet synced may be there, half there, or gone.

The system calls of a writer are recorded; after each, states that a disk could be found in are built and opened. An
edit counts as told once its line was written.
"""

from __future__ import annotations

import random
import re
import shutil
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import pytest

from chalkreel.document.entities import KitPart
from chalkreel.document.store import Store

WRITER = """
import os, sys
from pathlib import Path
from chalkreel.document.store import Store
from chalkreel.document.entities import KitPart
from tests.builds import empty_build
store = Store.create(Path(sys.argv[1]), empty_build("Power"))
os.write(2, b"TOLD 0\\n")
for n in range(20):
    store.commit(f"p{n}", {f"p{n}": KitPart(id=f"p{n}", name="x" * (50 + 37 * n % 300))})
    os.write(2, b"TOLD %d\\n" % (n + 1))
store.close()
"""
CALLS = "openat,pwrite64,write,fsync,fdatasync,unlink,ftruncate,close,link"
Disk = dict[str, bytes]


@dataclass
class File:
    """What a file holds now, what of it is surely on the disk, and what was done since it was synced."""

    now: bytearray = field(default_factory=bytearray)
    synced: bytes = b""
    since: list[tuple[int, bytes | None]] = field(default_factory=list)

    def do(self, place: int, data: bytes | None) -> None:
        """Write data at a place, or (None) cut the file there."""
        _apply(self.now, place, data)
        self.since.append((place, data))

    def sync(self) -> None:
        self.synced, self.since = bytes(self.now), []

    def found(self, dice: random.Random) -> bytes:
        """What a power loss may leave: all, nothing or some of what was not synced."""
        body, share = bytearray(self.synced), dice.choice((0.0, 0.5, 1.0))
        for place, data in self.since:
            if dice.random() < share:
                _apply(body, place, data)
        return bytes(body)


def _apply(body: bytearray, place: int, data: bytes | None) -> None:
    if data is None:
        del body[place:]
        data = b""
    body.extend(bytes(max(0, place + len(data) - len(body))))
    body[place : place + len(data)] = data


class Replay:
    """The calls of a trace done again on a made-up disk of one folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = str(folder)
        self._files: dict[str, File] = {}
        self._synced: dict[str, File] = {}
        self._handles: dict[int, File | None] = {}
        self.told = -1

    def call(self, name: str, words: str, result: int) -> bool:
        """Do one call; whether it could matter."""
        strings = [bytes.fromhex(s.replace("\\x", "")).decode("latin-1") for s in re.findall(r'"((?:\\x..)*)"', words)]
        handle = re.match(r"\d+", words)
        file = self._handles.get(int(handle[0])) if handle else None
        known = handle is not None and int(handle[0]) in self._handles
        if name == "write" and strings and strings[0].startswith("TOLD"):
            self.told = int(strings[0].split()[1])
        elif name == "openat" and strings and strings[0].startswith(self._folder):
            if strings[0] != self._folder and "O_CREAT" in words:
                self._files.setdefault(strings[0], File())
            self._handles[result] = self._files.get(strings[0])
        elif name == "close" and known and handle is not None:
            del self._handles[int(handle[0])]
        elif name == "pwrite64" and file is not None:
            file.do(int(words.rsplit(", ", 1)[1]), strings[0].encode("latin-1"))
        elif name == "ftruncate" and file is not None:
            file.do(int(words.rsplit(", ", 1)[1]), None)
        elif name in ("fsync", "fdatasync") and known:
            self._sync(file)
        elif name == "unlink" and strings[0].startswith(self._folder):
            self._files.pop(strings[0], None)
        elif name == "link" and strings[0].startswith(self._folder):
            self._files[strings[1]] = self._files[strings[0]]
        else:
            return False
        return True

    def _sync(self, file: File | None) -> None:
        """A file, or the folder's names."""
        if file is not None:
            file.sync()
        else:
            self._synced = dict(self._files)

    def found(self, dice: random.Random) -> Disk:
        """A state in which the disk may be found; names, too, last only once their folder was synced."""
        disk: Disk = {}
        for name in sorted({*self._files, *self._synced}):
            file = dice.choice((self._files, self._synced)).get(name)
            if file is not None:
                disk[Path(name).name] = file.found(dice)
        return disk


def states(trace: Path, folder: Path, each: int) -> Iterator[tuple[int, Disk]]:
    replay, dice = Replay(folder), random.Random(4)
    for line in trace.read_text("ascii").splitlines():
        match = re.match(r"(\w+)\((.*)\)\s+= (\d+)", line)
        if match and replay.call(match[1], match[2], int(match[3])):
            for _ in range(each):
                yield replay.told, replay.found(dice)


@pytest.mark.skipif(shutil.which("strace") is None, reason="recording system calls needs strace")
@pytest.mark.timeout(600)
def test_no_power_loss_loses_what_was_told_as_kept(tmp_path: Path, request: pytest.FixtureRequest) -> None:
    folder, trace, disk = tmp_path / "written", tmp_path / "trace", tmp_path / "found"
    folder.mkdir()
    record = ["strace", "-o", str(trace), "-e", f"trace={CALLS}", "-xx", "-s", "2000000"]
    done = subprocess.run(
        [*record, sys.executable, "-c", WRITER, str(folder / "a.chalkreel")], capture_output=True, check=False
    )
    if b"ptrace" in done.stderr:
        pytest.skip("system calls may not be recorded here")
    assert done.returncode == 0, done.stderr
    opened = 0
    for told, found in states(trace, folder, 10 if request.config.getoption("--long") else 1):
        shutil.rmtree(disk, ignore_errors=True)
        disk.mkdir()
        for name, body in found.items():
            (disk / name).write_bytes(body)
        path = disk / "a.chalkreel"
        if told < 0 and not path.exists():
            continue
        store = Store.open(path)
        assert len(store.build.all(KitPart)) >= told
        store.close()
        opened += 1
    assert opened > 150
