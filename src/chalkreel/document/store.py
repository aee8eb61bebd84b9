"""One build in one SQLite file: every change is a durable transaction, so there is no unsaved work."""

from __future__ import annotations

import hashlib
import sqlite3
import threading
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from types import MappingProxyType

import msgspec
from filelock import FileLock, Timeout

from chalkreel.document import format as file_format
from chalkreel.document.changes import Change, change_from
from chalkreel.document.entities import AnyEntity
from chalkreel.document.format import DocumentRefusedError
from chalkreel.document.snapshot import Build

_ENTITY = msgspec.json.Decoder(AnyEntity)
_CHANGE = msgspec.json.Decoder(Change)


class ReadOnlyError(DocumentRefusedError):
    """An edit was tried on a build that another window holds."""


class Store:
    """An open build file. `build` is the present snapshot; `read_only` says another window may edit, this may not."""

    def __init__(self, path: Path, connection: sqlite3.Connection, lock: FileLock | None) -> None:
        self.path, self._db, self._lock = path, connection, lock
        self._guard = threading.RLock()
        self._places: dict[str, int] = {}
        self._head, self._undo_label, self._redo_label = 0, "", ""
        self.build = self._load()

    @classmethod
    def create(cls, path: Path, first: Mapping[str, AnyEntity], blobs: Mapping[str, bytes] | None = None) -> Store:
        """Make a new file with its first entities and stills (not undoable).

        Raises
        ------
        DocumentRefusedError
            A file of that name is already there, or the folder cannot be written.
        """
        if path.exists():
            raise DocumentRefusedError(f"“{path.name}” is already there. Choose another name.")
        connection = file_format.create(path)
        lock = _lock(path)
        with _Transaction(connection):
            rows = [(entity_id, place, _text(entity)) for place, (entity_id, entity) in enumerate(first.items())]
            connection.executemany("INSERT INTO entity VALUES (?, ?, ?)", rows)
            connection.executemany("INSERT INTO blob VALUES (?, ?)", (blobs or {}).items())
        return cls(path, connection, lock)

    @classmethod
    def open(cls, path: Path) -> Store:
        """Open a file; when another window holds it, read-only.

        Raises
        ------
        DocumentRefusedError
            The file is missing, foreign, damaged or from a newer program.
        """
        file_format.check_header(path)
        lock = _lock(path)
        try:
            connection = file_format.connect(path, read_only=lock is None)
            store = cls(path, connection, lock)
            if lock is not None:
                file_format.raise_version(connection, path)
            return store
        except (sqlite3.DatabaseError, msgspec.DecodeError, KeyError) as error:
            _release(lock)
            raise DocumentRefusedError(
                f"“{path.name}” is damaged and was left untouched. Open a copy saved earlier, "
                "or ask whoever gave it to you for another."
            ) from error
        except DocumentRefusedError:
            _release(lock)
            raise

    @property
    def read_only(self) -> bool:
        """Whether edits are refused."""
        return self._lock is None

    @property
    def undo_label(self) -> str:
        """What undo would take back; empty when nothing."""
        return self._undo_label

    @property
    def redo_label(self) -> str:
        """What redo would do again; empty when nothing."""
        return self._redo_label

    def commit(self, label: str, edits: Mapping[str, AnyEntity | None]) -> Build:
        """Apply edits as one durable change. Nothing is written if any part fails.

        Raises
        ------
        ReadOnlyError
            Another window holds the file.
        DocumentRefusedError
            The disk refused the write; the build is as before.
        """
        change = change_from(self.build, label, edits)
        if not change.edits:
            return self.build
        with self._guard, self._writing() as db:
            db.execute("DELETE FROM change WHERE seq > ?", (self._head,))
            self._write(db, change.forward())
            stamp = datetime.now(UTC).isoformat(timespec="seconds")
            db.execute("INSERT INTO change VALUES (?, ?, ?, ?)", (self._head + 1, stamp, label, _text(change)))
            self._move_head(db, self._head + 1)
        return self._advance(change.forward(), self._head + 1)

    def undo(self) -> Build:
        """Take the last change back, if there is one."""
        return self._travel(self._head, self._head - 1, backward=True)

    def redo(self) -> Build:
        """Do the change undone last again, if there is one."""
        return self._travel(self._head + 1, self._head + 1, backward=False)

    def keep(self, data: bytes) -> str:
        """Store bytes durably under their digest, from any thread, for a change to speak of."""
        sha = digest(data)
        with self._guard, self._writing() as db:
            db.execute("INSERT OR IGNORE INTO blob VALUES (?, ?)", (sha, data))
        return sha

    def blob(self, sha: str) -> bytes:
        """The bytes stored under a digest.

        Raises
        ------
        DocumentRefusedError
            The file does not hold them.
        """
        with self._guard:
            row = self._db.execute("SELECT bytes FROM blob WHERE sha256 = ?", (sha,)).fetchone()
        if row is None:
            raise DocumentRefusedError("A still that this build speaks of is missing from its file.")
        return bytes(row[0])

    def copy_to(self, path: Path) -> None:
        """Save a complete copy under another name.

        Raises
        ------
        DocumentRefusedError
            The name is taken or cannot be written.
        """
        if path.exists():
            raise DocumentRefusedError(f"“{path.name}” is already there. Choose another name.")
        try:
            with self._guard:
                self._db.execute("VACUUM INTO ?", (str(path),))
        except sqlite3.Error as error:
            raise DocumentRefusedError(f"No copy could be written to “{path}”.") from error

    def close(self) -> None:
        """Release file and lock. Nothing is lost: everything was written when it was done."""
        with self._guard:
            self._db.close()
        _release(self._lock)

    def _load(self) -> Build:
        rows = self._db.execute("SELECT id, place, data FROM entity ORDER BY place").fetchall()
        self._places = {row[0]: row[1] for row in rows}
        self._head, revision = self._db.execute("SELECT seq, revision FROM head").fetchone()
        self._read_labels()
        build = Build(revision, MappingProxyType({row[0]: _ENTITY.decode(row[2]) for row in rows if row[2]}))
        _ = build.info
        return build

    def _read_labels(self) -> None:
        labels = dict(
            self._db.execute(
                "SELECT seq, label FROM change WHERE seq IN (?, ?)", (self._head, self._head + 1)
            ).fetchall()
        )
        self._undo_label, self._redo_label = labels.get(self._head, ""), labels.get(self._head + 1, "")

    def _travel(self, seq: int, head: int, backward: bool) -> Build:
        row = self._db.execute("SELECT data FROM change WHERE seq = ?", (seq,)).fetchone()
        if row is None:
            return self.build
        change = _CHANGE.decode(row[0])
        edits = change.backward() if backward else change.forward()
        with self._guard, self._writing() as db:
            self._write(db, edits)
            self._move_head(db, head)
        return self._advance(edits, head)

    def _writing(self) -> _Transaction:
        if self.read_only:
            raise ReadOnlyError("Another window has this build open, so this one only reads it.")
        return _Transaction(self._db)

    def _write(self, db: sqlite3.Connection, edits: Mapping[str, AnyEntity | None]) -> None:
        for entity_id, entity in edits.items():
            # A removed entity keeps its row, so that undo puts it back in its old place.
            place = self._places.setdefault(entity_id, len(self._places))
            db.execute(
                "INSERT INTO entity VALUES (?, ?, ?) ON CONFLICT (id) DO UPDATE SET data = excluded.data",
                (entity_id, place, None if entity is None else _text(entity)),
            )

    def _move_head(self, db: sqlite3.Connection, head: int) -> None:
        db.execute("UPDATE head SET seq = ?, revision = ?", (head, self.build.revision + 1))

    def _advance(self, edits: Mapping[str, AnyEntity | None], head: int) -> Build:
        self.build = self.build.edited(edits, self.build.revision + 1, self._places)
        self._head = head
        self._read_labels()
        return self.build


class _Transaction:
    """All or nothing; a write that the disk refuses becomes a sentence."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def __enter__(self) -> sqlite3.Connection:
        self._db.execute("BEGIN IMMEDIATE")
        return self._db

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: object) -> None:
        if kind is None:
            try:
                self._db.execute("COMMIT")
                return
            except sqlite3.Error as failed:
                error = failed
        if self._db.in_transaction:
            self._db.execute("ROLLBACK")
        if isinstance(error, sqlite3.Error):
            raise DocumentRefusedError(
                f"The disk did not take the change ({error}). The build is as before."
            ) from error


def digest(data: bytes) -> str:
    """The name under which bytes are stored."""
    return hashlib.sha256(data).hexdigest()


def _text(value: object) -> str:
    return msgspec.json.encode(value).decode()


def _lock(path: Path) -> FileLock | None:
    lock = FileLock(path.with_name(f".{path.name}.lock"))
    try:
        lock.acquire(timeout=0)
    except (Timeout, OSError):
        return None
    return lock


def _release(lock: FileLock | None) -> None:
    if lock is not None:
        lock.release()
