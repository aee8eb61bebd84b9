"""Work off the window's thread: progress, results as they come, Stop."""

from __future__ import annotations

import logging
import math
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from chalkreel.core.errors import RefusedError, StoppedError

Progress = Callable[[float], bool]
# What is being done, in words: nothing arrived yet, or the last result.
Doing = Callable[[object], str]
# A guess from less would jump about.
LEAST_SECONDS, LEAST_SHARE = 2.0, 0.05
STEP_SECONDS, LONG_SECONDS = 5, 90
log = logging.getLogger(__name__)


class Job(QObject):
    """One piece of work.

    Signals
    -------
    arrived(object): a result; work that yields several sends each.
    progressed(float, str): share done, 0..1, of what is being done, with the time left where it can be told.
    refused(str): the work could not use its input; a sentence for the modeller. Sent from the window's thread.
    ended(): last of all, whatever happened. Sent from the window's thread.
    """

    arrived = Signal(object)
    progressed = Signal(float, str)
    refused = Signal(str)
    ended = Signal()

    def __init__(self, doing: Doing) -> None:
        super().__init__()
        self._stop = threading.Event()
        self._doing, self._words = doing, doing(None)
        self._begun, self._share = time.monotonic(), 0.0
        self._refusal = ""

    @property
    def stopped(self) -> bool:
        """Whether Stop was asked for."""
        return self._stop.is_set()

    def stop(self) -> None:
        """Ask the work to stop at its next chance; nothing arrives any more."""
        self._stop.set()

    def report(self, share: float) -> bool:
        """Called by the work: pass a share on, return False to stop. A negative share only asks."""
        if share >= 0 and not self.stopped:
            if share < self._share:
                self._begun = time.monotonic()
            self._share = share
            self.tell()
        return not self.stopped

    def tell(self) -> None:
        """Say what is being done, and for how long about."""
        left = left_words(self._share, time.monotonic() - self._begun)
        self.progressed.emit(self._share, f"{self._words}, {left}" if left else f"{self._words}…")

    def _turn_to_next(self, result: object) -> None:
        """Say what is done now that there is a result; the next part's share and time count from nothing."""
        words = self._doing(result)
        if words != self._words:
            self._words, self._share, self._begun = words, 0.0, time.monotonic()
            self.report(0.0)

    def work_through(self, results: Callable[[Progress], Iterator[object]]) -> None:
        """Run in a worker thread, which says when it is done with it."""
        self._begun = time.monotonic()
        try:
            for result in results(self.report):
                if self.stopped:
                    break
                self.arrived.emit(result)
                self._turn_to_next(result)
        except StoppedError:
            log.info("work was stopped")
        except RefusedError as refusal:
            log.info("refused: %s", refusal)
            self._refusal = str(refusal)
        except Exception:
            log.exception("work failed")
            self._refusal = "Something went wrong in the program. Your build is safe; the log file says more."

    def end(self) -> None:
        """Say how it ended; called in the window's thread, once the worker has let go of it."""
        if self._refusal:
            self.refused.emit(self._refusal)
        self.ended.emit()


def left_words(share: float, seconds: float) -> str:
    """The time left when a share took some seconds, if the rest is like it; nothing while too little is done."""
    if seconds < LEAST_SECONDS or not LEAST_SHARE <= share < 1.0:
        return ""
    left = seconds * (1.0 - share) / share
    if left > LONG_SECONDS:
        return f"about {math.ceil(left / 60)} min left"
    return f"about {STEP_SECONDS * math.ceil(left / STEP_SECONDS)} s left"


class Worker(QObject):
    """Runs jobs one after the other on its own thread."""

    # A job that told of its own end from here could be deleted by the first who hears of it, before the others do.
    _done = Signal(object)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix=name)
        self._closed = False
        self._done.connect(self._end)

    def start(self, job: Job, results: Callable[[Progress], Iterator[object]]) -> Job:
        """Queue the job; whoever is to get its results connects first."""
        self._pool.submit(self._work, job, results)
        return job

    def _work(self, job: Job, results: Callable[[Progress], Iterator[object]]) -> None:
        job.work_through(results)
        self._done.emit(job)

    def _end(self, job: Job) -> None:
        if not self._closed:
            job.end()

    def close(self) -> None:
        """Wait for what runs and drop what waits; nobody is told of their ends any more."""
        self._closed = True
        self._pool.shutdown(wait=True, cancel_futures=True)
