"""Work off the window's thread: progress, results as they come, Stop."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal

from chalkreel.core.errors import RefusedError, StoppedError

Progress = Callable[[float], bool]
log = logging.getLogger(__name__)


class Job(QObject):
    """One piece of work.

    Signals
    -------
    arrived(object): a result; work that yields several sends each.
    progressed(float): share done, 0..1.
    refused(str): the work could not use its input; a sentence for the modeller.
    ended(): last of all, whatever happened.
    """

    arrived = Signal(object)
    progressed = Signal(float)
    refused = Signal(str)
    ended = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._stop = threading.Event()

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
            self.progressed.emit(share)
        return not self.stopped

    def work_through(self, results: Callable[[Progress], Iterator[object]]) -> None:
        """Run in a worker thread."""
        try:
            for result in results(self.report):
                if self.stopped:
                    break
                self.arrived.emit(result)
        except StoppedError:
            log.info("work was stopped")
        except RefusedError as refusal:
            log.info("refused: %s", refusal)
            self.refused.emit(str(refusal))
        except Exception:
            log.exception("work failed")
            self.refused.emit("Something went wrong in the program. Your build is safe; the log file says more.")
        finally:
            self.ended.emit()


class Worker:
    """Runs jobs one after the other on its own thread."""

    def __init__(self, name: str) -> None:
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix=name)

    def start(self, job: Job, results: Callable[[Progress], Iterator[object]]) -> Job:
        """Queue the job; connect its signals first."""
        self._pool.submit(job.work_through, results)
        return job

    def close(self) -> None:
        """Wait for what runs and drop what waits."""
        self._pool.shutdown(wait=True, cancel_futures=True)
