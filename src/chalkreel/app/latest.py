"""Background work of which only what was asked for last counts."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from chalkreel.app.jobs import Job, Progress
from chalkreel.app.session import Session


class Latest:
    """Runs one piece of work at a time; whatever is asked for next stops it."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._job: Job | None = None
        # What it is for, while it runs: Stop leaves it to be asked for again.
        self.asked: object = None

    def ask(
        self,
        asked: object,
        work: Callable[[Progress], Iterator[object]],
        take: Callable[[object], object],
        refuse: Callable[[str], object],
    ) -> None:
        """Run work in the background; `take` gets each result, `refuse` the sentence if there is none."""
        if self._job is not None:
            self._job.stop()
        job = self._session.run(work, take, self._session.background)
        self._job, self.asked = job, asked
        job.refused.connect(refuse)
        job.ended.connect(lambda: self._end(job))

    def _end(self, job: Job) -> None:
        if self._job is job:
            self._job, self.asked = None, None
