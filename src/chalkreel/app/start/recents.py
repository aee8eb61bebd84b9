"""Builds that were open lately: where they are, how far they are, and where one was in them (no Qt)."""

from __future__ import annotations

import hashlib
from datetime import datetime
from pathlib import Path

import msgspec
from platformdirs import user_cache_path, user_data_path

from chalkreel.document.atomic import written_over

MOST_KEPT = 12


class Recent(msgspec.Struct, frozen=True):
    """One build as it was left, and when."""

    path: str
    name: str
    chain: str
    stage: str
    still_id: str
    page: str
    next_words: str
    at: datetime

    @property
    def there(self) -> bool:
        """Whether its file is still where it was."""
        return Path(self.path).is_file()


def recents() -> tuple[Recent, ...]:
    """Builds that were open, the last one first; an unreadable list is an empty one."""
    try:
        return msgspec.json.decode(_list_path().read_bytes(), type=tuple[Recent, ...])
    except (OSError, msgspec.DecodeError):
        return ()


def recent_of(path: Path) -> Recent | None:
    """How a build was left, if it was open before."""
    return next((r for r in recents() if r.path == str(path)), None)


def remember(recent: Recent) -> None:
    """Put a build first in the list; where that cannot be written nothing is lost but convenience."""
    kept = (recent, *(r for r in recents() if r.path != recent.path))[:MOST_KEPT]
    try:
        _list_path().parent.mkdir(parents=True, exist_ok=True)
        written_over(_list_path(), lambda part: part.write_bytes(msgspec.json.encode(kept)))
    except OSError:
        return


def picture_path(path: str) -> Path:
    """Where a build's small picture is kept."""
    name = hashlib.sha256(path.encode()).hexdigest()[:24]
    return user_cache_path("chalkreel", appauthor=False) / f"{name}.png"


def _list_path() -> Path:
    return user_data_path("chalkreel", appauthor=False) / "recent.json"
