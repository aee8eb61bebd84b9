"""One build in one SQLite file: every change is a durable transaction, so there is no unsaved work."""

from __future__ import annotations

import hashlib
import logging
import os
import sqlite3
import threading
from collections.abc import Callable, Mapping
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from types import MappingProxyType

import msgspec

from chalkreel.document import format as file_format
from chalkreel.document.atomic import shown
from chalkreel.document.changes import Change, change_from
from chalkreel.document.entities import AnyEntity
from chalkreel.document.format import DocumentRefusedError
from chalkreel.document.lock import FileLock
from chalkreel.document.snapshot import Build
from chalkreel.document.validated import InvalidBuildError, check_references, decoded, kept_as_is

_ROWS = list[tuple[str, int, str | None]]
# Whatever reading a file that is not as we wrote it may raise.
_DAMAGE = (sqlite3.Error, msgspec.DecodeError, InvalidBuildError, TypeError, ValueError, MemoryError)
log = logging.getLogger(__name__)
_CHANGE = msgspec.json.Decoder(Change)


class ReadOnlyError(DocumentRefusedError):
    """An edit was tried on a build that another window holds."""


@dataclass(frozen=True)
class Moment:
    """A change of the history: its place in it, when it was made (ISO, UTC), and what it is called."""

    seq: int
    at: str
    label: str


class Store:
    """An open build file. `build` is the present snapshot; `read_only` says another window may edit, this may not."""

    def __init__(self, path: Path, connection: sqlite3.Connection, lock: FileLock | None) -> None:
        self.path, self._db, self._lock = path, connection, lock
        self._guard = threading.RLock()
        self._places: dict[str, int] = {}
        self._version = 0
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
        rows = [(entity_id, place, kept_as_is(entity)) for place, (entity_id, entity) in enumerate(first.items())]
        check_references(first)

        def write(part: Path) -> None:
            with closing(file_format.fresh(part)) as connection:
                connection.execute("BEGIN")
                connection.executemany("INSERT INTO entity VALUES (?, ?, ?)", rows)
                connection.executemany("INSERT INTO blob VALUES (?, ?)", (blobs or {}).items())
                connection.execute("COMMIT")

        file_format.placed_anew(path, write)
        log.info("made %s", path)
        return cls.open(path)

    @classmethod
    def open(cls, path: Path) -> Store:
        """Open a file; when another window holds it, read-only.

        Raises
        ------
        DocumentRefusedError
            The file is missing, foreign, damaged or from a newer program.
        """
        file_format.check_header(path)
        lock = FileLock.taken(path) if os.access(path, os.W_OK) and os.access(path.parent, os.W_OK) else None
        connection = None
        try:
            connection = file_format.connect(path, read_only=lock is None)
            store = cls(path, connection, lock)
            if lock is not None and file_format.raise_version(connection, path):
                store = cls(path, connection, lock)
        except (*_DAMAGE, DocumentRefusedError) as error:
            if connection is not None:
                connection.close()
            if lock is not None:
                lock.release()
            log.warning("refused %s: %s", path, error)
            raise _refusal(path, error) from error
        log.info("opened %s, %s entities, read only %s", path, len(store.build.entities), store.read_only)
        return store

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
        texts = self._checked(change.forward())
        with self._guard, self._writing() as db:
            db.execute("DELETE FROM change WHERE seq > ?", (self._head,))
            self._write(db, texts)
            stamp = datetime.now(UTC).isoformat(timespec="seconds")
            text = msgspec.json.encode(change).decode()
            db.execute("INSERT INTO change VALUES (?, ?, ?, ?)", (self._head + 1, stamp, label, text))
            self._move_head(db, self._head + 1)
        return self._advance(change.forward(), self._head + 1)

    def undo(self) -> Build:
        """Take the last change back, if there is one."""
        return self._travel(self._head, self._head - 1, backward=True)

    def redo(self) -> Build:
        """Do the change undone last again, if there is one."""
        return self._travel(self._head + 1, self._head + 1, backward=False)

    def moments(self, most: int = 200) -> tuple[Moment, ...]:
        """The last changes that can be taken back, the latest first."""
        rows = self._db.execute(
            "SELECT seq, at, label FROM change WHERE seq <= ? ORDER BY seq DESC LIMIT ?", (self._head, most)
        ).fetchall()
        return tuple(Moment(seq, at, label) for seq, at, label in rows)

    def go_back_before(self, moment: Moment) -> Build:
        """Take back a change and all after it; each can be done again."""
        while self._head >= moment.seq:
            before = self._head
            self.undo()
            if self._head == before:
                break
        return self.build

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
        if row is None or not isinstance(row[0], bytes):
            raise DocumentRefusedError("A still that this build speaks of is missing from its file.")
        return row[0]

    def copy_to(self, path: Path) -> None:
        """Save a complete copy under another name.

        Raises
        ------
        DocumentRefusedError
            The name is taken or cannot be written.
        """

        def write(part: Path) -> None:
            with self._guard, closing(file_format.fresh(part)) as copy:
                self._db.backup(copy)

        file_format.placed_anew(path, write)

    def close(self) -> None:
        """Release file and lock. Nothing is lost: everything was written when it was done."""
        with self._guard:
            self._db.close()
        # Only now: closing another handle on the file would drop the database's own locks.
        if self._lock is not None:
            self._lock.release()

    def _load(self) -> Build:
        rows = msgspec.convert(self._db.execute("SELECT id, place, data FROM entity ORDER BY place").fetchall(), _ROWS)
        self._places = {row[0]: row[1] for row in rows}
        head = self._db.execute("SELECT seq, revision FROM head").fetchone()
        self._head, revision = msgspec.convert(head, tuple[int, int])
        self._read_labels()
        entities = {entity_id: decoded(data) for entity_id, _, data in rows if data is not None}
        check_references(entities)
        self._version = self._data_version()
        return Build(revision, MappingProxyType(entities))

    def _checked(self, edits: Mapping[str, AnyEntity | None]) -> dict[str, str | None]:
        """Edits as they will be written; those that would leave no build are refused."""
        try:
            entities = {**self.build.entities, **edits}
            present = {i: e for i, e in entities.items() if e is not None}
            texts = {i: None if e is None else kept_as_is(e) for i, e in edits.items()}
            # What is taken away may be spoken of anywhere; what is put in speaks only for itself.
            check_references(present, None if None in edits.values() else edits)
            return texts
        except (InvalidBuildError, TypeError) as error:
            log.error("an edit was refused: %s", error)
            raise DocumentRefusedError(f"This cannot be kept, so nothing was changed: {error}.") from error

    def _data_version(self) -> int:
        """Changes whenever another connection writes to the file."""
        version: int = self._db.execute("PRAGMA data_version").fetchone()[0]
        return version

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
        try:
            change = _CHANGE.decode(row[0])
        except (msgspec.DecodeError, TypeError, RecursionError) as error:
            raise DocumentRefusedError("This step of the history cannot be read. The build is as before.") from error
        edits = change.backward() if backward else change.forward()
        texts = self._checked(edits)
        with self._guard, self._writing() as db:
            self._write(db, texts)
            self._move_head(db, head)
        return self._advance(edits, head)

    def _writing(self) -> _Transaction:
        if self.read_only:
            raise ReadOnlyError(
                "Another window has this build open, or its folder is not yours to write in, so this one only reads it."
            )
        return _Transaction(self._db, self._data_version, self._version)

    def _write(self, db: sqlite3.Connection, texts: Mapping[str, str | None]) -> None:
        for entity_id, text in texts.items():
            # A removed entity keeps its row, so that undo puts it back in its old place.
            place = self._places.setdefault(entity_id, len(self._places))
            db.execute(
                "INSERT INTO entity VALUES (?, ?, ?) ON CONFLICT (id) DO UPDATE SET data = excluded.data",
                (entity_id, place, text),
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

    def __init__(self, db: sqlite3.Connection, version: Callable[[], int], expected: int) -> None:
        self._db, self._version, self._expected = db, version, expected

    def __enter__(self) -> sqlite3.Connection:
        try:
            self._db.execute("BEGIN IMMEDIATE")
        except sqlite3.Error as error:
            raise _not_written(error) from error
        if self._version() != self._expected:
            self._db.execute("ROLLBACK")
            raise DocumentRefusedError(
                "Another program has changed this file meanwhile, so nothing was written. Open it again."
            )
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
            raise _not_written(error) from error


def digest(data: bytes) -> str:
    """The name under which bytes are stored."""
    return hashlib.sha256(data).hexdigest()


def _not_written(error: sqlite3.Error) -> DocumentRefusedError:
    log.error("not written: %s", error)
    if getattr(error, "sqlite_errorname", "").startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return DocumentRefusedError("Another program is at this file just now. Nothing was written; try again.")
    return DocumentRefusedError(f"The disk did not take the change ({error}). The build is as before.")


def _refusal(path: Path, error: Exception) -> DocumentRefusedError:
    if isinstance(error, DocumentRefusedError):
        return error
    if getattr(error, "sqlite_errorname", "").startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return DocumentRefusedError(f"Another program is at “{shown(path)}” just now. Try again when it is done.")
    inside = f" ({error})" if isinstance(error, InvalidBuildError) else ""
    return DocumentRefusedError(
        f"“{shown(path)}” is damaged{inside} and was left untouched. Open a copy saved earlier, "
        "or ask whoever gave it to you for another."
    )
