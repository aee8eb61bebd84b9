"""Files that are there whole or not at all: written under a temporary name, synced, then given their own."""

from __future__ import annotations

import errno
import os
import secrets
from collections.abc import Callable
from pathlib import Path


def written_anew(path: Path, write: Callable[[Path], object]) -> None:
    """Let `write` fill a temporary file, then give it its name, which nothing may have yet.

    Raises
    ------
    FileExistsError
        Something (a file, a link) has the name already; it is left as it is.
    OSError
        The folder cannot be written, or the disk is full; nothing is left behind.
    """
    _written(path, write, _named)


def written_over(path: Path, write: Callable[[Path], object]) -> None:
    """The same, in place of whatever has the name: for names that the user was asked about.

    Raises
    ------
    OSError
        The folder cannot be written, or the disk is full; what was there stays, and nothing else is left behind.
    """
    _written(path, write, os.replace)


def shown(path: Path) -> str:
    """A file's name for people, even where its bytes are no text."""
    return os.fsencode(path.name).decode("utf-8", "replace")


def _written(path: Path, write: Callable[[Path], object], name: Callable[[Path, Path], object]) -> None:
    part = path.with_name(f".{secrets.token_hex(6)}.part")
    try:
        write(part)
        _sync(part)
        name(part, path)
        _sync(path.parent)
    finally:
        part.unlink(missing_ok=True)


def _named(part: Path, path: Path) -> None:
    """Give a file its name without taking it from another."""
    try:
        os.link(part, path)
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.EOPNOTSUPP):
            raise
        # File systems without hard links (many memory cards) leave a moment between looking and naming.
        if os.path.lexists(path):
            raise FileExistsError(path) from None
        part.rename(path)


def _sync(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
