"""Work off the window's thread of which only what was asked for last counts."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from chalkreel.app.jobs import Job, Progress, Worker
from chalkreel.app.session import Session

STOPPED = "Stopped. Turn to another page and back to go on."


class Latest:
    """Runs one piece of work at a time in a worker; whatever is asked for next stops it."""

    def __init__(self, session: Session, doing: str, worker: Worker | None = None) -> None:
        self._session, self._doing, self._worker = session, doing, worker
        self._job: Job | None = None
        # What it is for while it runs, and after it was refused: the same again would be refused again.
        self.asked: object = None

    @property
    def running(self) -> bool:
        """Whether anything was asked for that has not ended."""
        return self._job is not None

    def stop(self) -> None:
        """Give up what runs; nobody waits for it any more."""
        if self._job is not None:
            self._job.stop()
            self._job, self.asked = None, None

    def ask(
        self,
        asked: object,
        work: Callable[[Progress], Iterator[object]],
        take: Callable[[object], object],
        refuse: Callable[[str], object],
    ) -> None:
        """Run work; `take` gets each result, `refuse` the sentence if there is none or Stop was asked for."""
        self.stop()
        job = self._session.run(self._doing, work, take, self._worker)
        self._job, self.asked = job, asked
        refused: list[str] = []
        job.refused.connect(refused.append)
        job.refused.connect(refuse)
        job.ended.connect(lambda: self._end(job, bool(refused), refuse))

    def _end(self, job: Job, refused: bool, refuse: Callable[[str], object]) -> None:
        if self._job is not job:
            return
        self._job = None
        if not refused:
            self.asked = None
        if job.stopped:
            refuse(STOPPED)
