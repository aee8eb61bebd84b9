"""Who may edit: one lock for each file, whatever names or links lead to it."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path


class FileLock:
    """Held from `taken` to `release`; it goes by itself when the process ends, however it ends.

    The lock is on the file itself (flock), so it must be released after every connection to the file is closed.
    """

    def __init__(self, handle: int) -> None:
        self._handle: int | None = handle

    @classmethod
    def taken(cls, path: Path) -> FileLock | None:
        """The lock, or None while somebody else has it."""
        try:
            handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
        except OSError:
            return None
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return None
        return cls(handle)

    def release(self) -> None:
        """Let others edit."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
