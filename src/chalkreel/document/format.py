"""The file itself: its marks, its schema, and the refusal of anything else."""

from __future__ import annotations

import shutil
import sqlite3
from importlib.resources import files
from pathlib import Path

from chalkreel.core.errors import RefusedError

APPLICATION_ID = 0x43484B52
FORMAT_VERSION = 3
SUFFIX = ".chalkreel"
_MAGIC = b"SQLite format 3\x00"


class DocumentRefusedError(RefusedError):
    """A file that cannot be opened or written as a build."""


def schema() -> str:
    """The tables; later formats have the same, with more kinds of entities and fields."""
    return files("chalkreel.document").joinpath("schema.sql").read_text("ascii")


def create(path: Path) -> sqlite3.Connection:
    """A new, empty file.

    Raises
    ------
    DocumentRefusedError
        The folder cannot be written.
    """
    try:
        connection = _connect(path, "rwc")
        connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        connection.execute(f"PRAGMA user_version = {FORMAT_VERSION}")
        connection.executescript(f"BEGIN; {schema()} INSERT INTO head VALUES (1, 0, 0); COMMIT;")
    except sqlite3.Error as error:
        raise DocumentRefusedError(f"“{path}” cannot be written. Choose a folder that is yours.") from error
    return connection


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
        raise DocumentRefusedError(f"“{path}” cannot be read. Check that it is there and is yours.") from error
    application = int.from_bytes(head[68:72], "big")
    if len(head) < 100 or not head.startswith(_MAGIC) or application != APPLICATION_ID:
        raise DocumentRefusedError(f"“{path.name}” is not a Chalk Reel build. Nothing was changed in it.")
    version = int.from_bytes(head[60:64], "big")
    if version > FORMAT_VERSION:
        raise DocumentRefusedError(
            f"“{path.name}” was made by a newer Chalk Reel (format {version}, this one reads {FORMAT_VERSION}). "
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


def raise_version(connection: sqlite3.Connection, path: Path) -> None:
    """Mark an older file as of the present format, after a copy of it was put beside it as it was."""
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    if version < FORMAT_VERSION:
        shutil.copyfile(path, path.with_name(f"{path.stem}.format-{version}{SUFFIX}"))
        connection.execute(f"PRAGMA user_version = {FORMAT_VERSION}")


def _connect(path: Path, mode: str) -> sqlite3.Connection:
    # Transactions are begun and ended by hand: one for each change, durable when it returns.
    uri = f"{path.absolute().as_uri()}?mode={mode}"
    connection = sqlite3.connect(uri, uri=True, isolation_level=None, check_same_thread=False)
    connection.execute("PRAGMA trusted_schema = OFF")
    if mode != "ro":
        connection.execute("PRAGMA journal_mode = DELETE")
        connection.execute("PRAGMA synchronous = FULL")
    return connection
