"""What files of older formats hold otherwise, brought up to the present one."""

from __future__ import annotations

import json
import re
import sqlite3
from typing import Final

_COUNTED_STEP: Final = re.compile(
    r'("[^"/]+/[^"/]+/(?:remove|shorten|add|replace|move|reshape|check))/\d+((?:/make)?")'
)
# Up to format 16 paints of which only a colour is known were taken to be so much weaker than the shelf's white is.
GUESSES_GREW: Final = 1.4


def bring_up(connection: sqlite3.Connection, version: int) -> bool:
    """Bring the entities of an older format up, within a transaction; whether any was changed."""
    renamed = version < 12 and _rename_job_steps(connection)
    grew = version < 17 and _strengthen_guesses(connection)
    return renamed or grew


def _rename_job_steps(connection: sqlite3.Connection) -> bool:
    """Steps of jobs were counted within their assembly: a new job moved what was ticked off to another."""
    changed = False
    for key, data in _entities(connection):
        found = _COUNTED_STEP.sub(r"\1\2", data) if key == "build" or '"kind":"log"' in data else data
        changed |= _put(connection, key, data, found)
    return changed


def _strengthen_guesses(connection: sqlite3.Connection) -> bool:
    """K and S of guesses, which keep their colour."""
    changed = False
    for key, data in _entities(connection):
        if '"kind":"paint"' not in data:
            continue
        paint = json.loads(data)
        if paint.get("source") == "guess":
            for name in ("absorption", "scattering"):
                paint[name] = [round(GUESSES_GREW * value, 6) for value in paint[name]]
            changed |= _put(connection, key, data, json.dumps(paint, ensure_ascii=False, separators=(",", ":")))
    return changed


def _entities(connection: sqlite3.Connection) -> list[tuple[str, str]]:
    return connection.execute("SELECT id, data FROM entity WHERE data IS NOT NULL").fetchall()


def _put(connection: sqlite3.Connection, key: str, before: str, after: str) -> bool:
    if after != before:
        connection.execute("UPDATE entity SET data = ? WHERE id = ?", (after, key))
    return after != before
