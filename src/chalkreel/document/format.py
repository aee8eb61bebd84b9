"""The file itself: its marks, its schema, and the refusal of anything else."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

from chalkreel.core.errors import RefusedError
from chalkreel.document.atomic import shown, written_anew
from chalkreel.document.older_formats import bring_up

APPLICATION_ID = 0x43484B52
FORMAT_VERSION = 19
SUFFIX = ".chalkreel"
# Another program at the file is told of at once; the window does not stand and wait for it.
WAIT_SECONDS = 0.02
MOST_COPIES = 100
_MAGIC = b"SQLite format 3\x00"


class DocumentRefusedError(RefusedError):
    """A file that cannot be opened or written as a build."""


def schema() -> str:
    """The tables; later formats have the same, with more kinds of entities and fields."""
    return files("chalkreel.document").joinpath("schema.sql").read_text("ascii")


def fresh(path: Path) -> sqlite3.Connection:
    """An empty file of the present format, to be filled and closed before it is given its name."""
    connection = _connect(path, "rwc")
    # Nobody sees it before it is whole and synced, so it needs no journal of its own.
    connection.execute("PRAGMA journal_mode = OFF")
    connection.execute("PRAGMA synchronous = OFF")
    connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    connection.execute(f"PRAGMA user_version = {FORMAT_VERSION}")
    connection.executescript(f"BEGIN; {schema()} INSERT INTO head VALUES (1, 0, 0); COMMIT;")
    return connection


def placed_anew(path: Path, write: Callable[[Path], object]) -> None:
    """Write a file of a name that nothing has yet.

    Raises
    ------
    DocumentRefusedError
        The name is taken, or the folder cannot be written.
    """
    try:
        written_anew(path, write)
    except FileExistsError as error:
        raise DocumentRefusedError(f"“{shown(path)}” is already there. Choose another name.") from error
    except (OSError, sqlite3.Error) as error:
        raise DocumentRefusedError(
            f"“{shown(path)}” could not be written. Choose a folder that is yours, on a disk with room."
        ) from error


def check_header(path: Path) -> None:
    """Refuse what is not a build of a known format, from its first hundred bytes, without opening it as one.

    Raises
    ------
    DocumentRefusedError
        Missing, foreign or newer.
    """
    try:
        with path.open("rb") as stream:
            head = stream.read(100)
    except OSError as error:
        raise DocumentRefusedError(f"“{shown(path)}” cannot be read. Check that it is there and is yours.") from error
    application = int.from_bytes(head[68:72], "big")
    if len(head) < 100 or not head.startswith(_MAGIC) or application != APPLICATION_ID:
        raise DocumentRefusedError(f"“{shown(path)}” is not a Chalk Reel build. Nothing was changed in it.")
    version = int.from_bytes(head[60:64], "big")
    if version > FORMAT_VERSION:
        raise DocumentRefusedError(
            f"“{shown(path)}” was made by a newer Chalk Reel (format {version}, this one reads {FORMAT_VERSION}). "
            "Open it with that one."
        )


def connect(path: Path, read_only: bool) -> sqlite3.Connection:
    """Open a file whose header was found right, and check that it is whole.

    Raises
    ------
    sqlite3.DatabaseError
        The file is damaged or holds other tables than ours.
    """
    connection = _connect(path, "ro" if read_only else "rw")
    problems = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
    tables = {row[0] for row in connection.execute("SELECT sql FROM sqlite_master WHERE sql IS NOT NULL")}
    wanted = {line.rstrip(";") for line in schema().splitlines() if line}
    if problems != "ok" or tables != wanted:
        connection.close()
        raise sqlite3.DatabaseError("damaged")
    return connection


def raise_version(connection: sqlite3.Connection, path: Path) -> bool:
    """Mark an older file as of the present format, after a copy of it was put beside it as it was.

    Returns whether entities were changed on the way: then they must be read again.
    """
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    if version < FORMAT_VERSION:
        _copy_aside(path, f"{path.stem}.format-{version}")
        connection.execute("BEGIN IMMEDIATE")
        changed = bring_up(connection, version)
        connection.execute(f"PRAGMA user_version = {FORMAT_VERSION}")
        connection.execute("COMMIT")
        return changed
    return False


def build_path(name: str) -> Path:
    """A name as a build's file: the suffix is added where it is not there, and nothing is taken off."""
    return Path(name if name.endswith(SUFFIX) else name + SUFFIX)


def _copy_aside(path: Path, stem: str) -> None:
    """A copy under the first free name; what has a name already is never touched."""
    for number in range(1, MOST_COPIES):
        extra = f" ({number})" if number > 1 else ""
        try:
            written_anew(path.with_name(f"{stem}{extra}{SUFFIX}"), lambda part: shutil.copyfile(path, part))
        except FileExistsError:
            continue
        except OSError as error:
            raise DocumentRefusedError(
                f"“{shown(path)}” is of an older format, and no copy of it could be put beside it first. "
                "Move it into a folder that is yours, on a disk with room."
            ) from error
        return
    raise DocumentRefusedError(f"There are too many copies of “{shown(path)}” beside it. Move some away.")


def _connect(path: Path, mode: str) -> sqlite3.Connection:
    # Transactions are begun and ended by hand: one for each change, durable when it returns.
    uri = f"{path.absolute().as_uri()}?mode={mode}"
    connection = sqlite3.connect(uri, timeout=WAIT_SECONDS, uri=True, isolation_level=None, check_same_thread=False)
    connection.execute("PRAGMA trusted_schema = OFF")
    if mode != "ro":
        connection.execute("PRAGMA journal_mode = DELETE")
        # EXTRA also syncs the folder once the journal is gone: without it a power loss may bring the journal back,
        # and with it the state before an edit that was told as kept.
        connection.execute("PRAGMA synchronous = EXTRA")
    return connection
