"""The user's library: what outlasts one build, in one SQLite file in the user's data folder (docs/library.md)."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

import msgspec

from chalkreel.core.errors import RefusedError
from chalkreel.document.atomic import shown
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.validated import InvalidBuildError, decoded

APPLICATION_ID: Final = 0x43484B4C
LIBRARY_VERSION: Final = 1
# Another program at it is told of at once; the window does not stand and wait for it.
WAIT_SECONDS = 0.1
_PAINTS: Final = "CREATE TABLE paint (name TEXT PRIMARY KEY, changed TEXT NOT NULL, data TEXT NOT NULL)"


def library_paints(path: Path) -> tuple[ShelfPaint, ...]:
    """All paints of a library in the order in which they came, with ids of their own; none where there is no file.

    Raises
    ------
    RefusedError
        The file is no library, is damaged, or is of a newer program.
    """
    if not path.exists():
        return ()
    try:
        with closing(_opened(path)) as connection:
            rows = connection.execute("SELECT data FROM paint ORDER BY rowid").fetchall()
        found = [decoded(data) for (data,) in rows]
    except (sqlite3.Error, OSError, InvalidBuildError, TypeError) as error:
        raise _damaged(path) from error
    if not all(isinstance(paint, ShelfPaint) for paint in found):
        raise _damaged(path)
    return tuple(msgspec.structs.replace(paint, id=new_id()) for paint in found if isinstance(paint, ShelfPaint))


def paint_count(path: Path) -> int:
    """How many paints a library holds; 0 where it cannot be read."""
    if not path.exists():
        return 0
    try:
        with closing(_opened(path)) as connection:
            return int(connection.execute("SELECT count(*) FROM paint").fetchone()[0])
    except (sqlite3.Error, OSError, RefusedError):
        return 0


def keep_paints(path: Path, paints: Iterable[ShelfPaint]) -> int:
    """Put paints into a library, in the place of those of their names; how many it holds then. All or none.

    Raises
    ------
    RefusedError
        The file cannot be written, or is no library.
    """
    now = datetime.now(UTC).isoformat(timespec="seconds")
    rows = [(p.name, now, msgspec.json.encode(p).decode()) for p in paints]
    put = (
        "INSERT INTO paint VALUES (?, ?, ?) "
        "ON CONFLICT (name) DO UPDATE SET changed = excluded.changed, data = excluded.data WHERE data <> excluded.data"
    )
    with _writing(path) as connection:
        connection.executemany(put, rows)
    return paint_count(path)


def forget_paints(path: Path, names: Iterable[str]) -> int:
    """Take paints out of a library; how many were there.

    Raises
    ------
    RefusedError
        The file cannot be written, or is no library.
    """
    with _writing(path) as connection:
        return connection.executemany("DELETE FROM paint WHERE name = ?", [(name,) for name in names]).rowcount


@contextmanager
def _writing(path: Path) -> Iterator[sqlite3.Connection]:
    """A library in one transaction, made where there is none."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with closing(_opened(path)) as connection, connection:
            yield connection
    except sqlite3.OperationalError as error:
        raise RefusedError(f"Your library “{shown(path)}” cannot be written, or another program is at it.") from error
    except sqlite3.Error as error:
        raise _damaged(path) from error
    except OSError as error:
        raise RefusedError(f"The folder of your library “{shown(path)}” cannot be written.") from error


def _opened(path: Path) -> sqlite3.Connection:
    """A library, made where there is none.

    Raises
    ------
    RefusedError
        It is of a newer program, or another program's file.
    """
    connection = sqlite3.connect(path, timeout=WAIT_SECONDS)
    connection.execute("PRAGMA trusted_schema = OFF")
    connection.execute("PRAGMA synchronous = EXTRA")
    version, kind = (connection.execute(f"PRAGMA {name}").fetchone()[0] for name in ("user_version", "application_id"))
    if (version, kind) == (0, 0) and not connection.execute("SELECT 1 FROM sqlite_master").fetchone():
        with connection:
            connection.execute(_PAINTS)
            connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            connection.execute(f"PRAGMA user_version = {LIBRARY_VERSION}")
    elif kind != APPLICATION_ID:
        connection.close()
        raise sqlite3.DatabaseError("no library")
    elif version > LIBRARY_VERSION:
        connection.close()
        raise RefusedError("Your library was written by a newer Chalk Reel. Open it with that one.")
    return connection


def _damaged(path: Path) -> RefusedError:
    return RefusedError(f"Your library “{shown(path)}” is damaged or no library of ours. It is left as it is.")
