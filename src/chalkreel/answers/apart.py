"""Work in a process of its own, which leaves the interpreter of the window's to the window.

A helper process is begun with the first work, waits for more, and ends with the program: it reads that nobody is there
any more.
"""

from __future__ import annotations

import logging
import os
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from time import monotonic
from typing import Final, TypeVar

from chalkreel.core.errors import RefusedError, StoppedError

T = TypeVar("T")
Progress = Callable[[float], bool]
# How often it is asked whether to go on, and how long a helper that is told to stop may take to do so, in seconds.
ASKED_EVERY: Final = 0.05
STOPS_WITHIN: Final = 1.0
# Beside the window and what it draws, not before them.
_NICE: Final = 5
log = logging.getLogger(__name__)
_idle: list[_Helper] = []


def apart(work: Callable[[Progress], T], progress: Progress) -> T:
    """What `work` returns; it and its result are pickled, and the refusals that it raises are raised here.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    try:
        helper = _idle.pop()
    except IndexError:
        helper = _Helper()
    try:
        found = helper.do(work, progress)
    except (EOFError, OSError):
        # The system has ended it, for want of memory for one; or the work has failed, and is seen to fail here.
        log.warning("the helper process is gone; the work is done here", exc_info=True)
        helper.end()
        return work(progress)
    if not helper.link.closed:
        _idle.append(helper)
    if isinstance(found, Exception):
        raise found
    return found  # type: ignore[return-value]


class _Helper:
    """One process and the way to it."""

    def __init__(self) -> None:
        self.link, theirs = Pipe()
        with theirs:
            number = theirs.fileno()
            self._process = subprocess.Popen(
                [sys.executable, "-m", __name__, str(number)], pass_fds=[number], stdin=subprocess.DEVNULL
            )

    def do(self, work: Callable[[Progress], object], progress: Progress) -> object:
        """What work returns, or the exception that it raises; one that does not stop when told to is ended."""
        self.link.send(work)
        while True:
            while self.link.poll(ASKED_EVERY):
                done, found = self.link.recv()
                if done:
                    return found
                progress(found)
            if not progress(-1.0):
                return self._stop()

    def _stop(self) -> StoppedError:
        self.link.send(None)
        until = monotonic() + STOPS_WITHIN
        while self.link.poll(max(until - monotonic(), 0.0)) and monotonic() < until:
            if self.link.recv()[0]:
                return StoppedError()
        self.end()
        return StoppedError()

    def end(self) -> None:
        """End the process, whatever it does."""
        self.link.close()
        self._process.kill()
        self._process.wait()


def _serve(link: Connection) -> None:
    """Do what is asked, one after the other, until nobody is there any more."""
    while True:
        work = link.recv()
        if work is not None:
            link.send((True, _done(work, link)))


def _done(work: Callable[[Progress], object], link: Connection) -> object:
    stopped = False

    def progress(share: float) -> bool:
        nonlocal stopped
        try:
            if share >= 0:
                link.send((False, share))
            # Whatever is said meanwhile says to stop.
            stopped = stopped or (link.poll() and link.recv() is None)
        except (EOFError, OSError):
            stopped = True
        return not stopped

    try:
        return work(progress)
    except (RefusedError, StoppedError) as error:
        return error


if __name__ == "__main__":
    os.nice(_NICE)
    with suppress(EOFError, OSError):
        _serve(Connection(int(sys.argv[1])))
