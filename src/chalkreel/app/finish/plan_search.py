"""A search for a better plan, asked for, while the plan that stands is looked at; what it finds is offered."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Final

from PySide6.QtCore import QObject, Signal

from chalkreel.answers.apart import apart
from chalkreel.answers.sequence import Sequence, searched_on
from chalkreel.app.finish.model import better_words
from chalkreel.app.jobs import Progress
from chalkreel.app.latest import Latest
from chalkreel.app.session import Session
from chalkreel.core.finish.schedule import Effort

# The search begins anew from the best that is known, and shows that, so often and for so many seconds each.
ROUNDS: Final = 6
SECONDS: Final = 10.0
NOTHING: Final = "A minute's search found no plan worth changing to."


class PlanSearch(QObject):
    """What was found for the plan that stood when it was asked.

    Signals
    -------
    changed(): it found something, or ended.
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._work = Latest(session, "searching for a better plan", session.background)
        self._plan: Sequence | None = None
        self._found: Sequence | None = None
        self._over = False

    @property
    def running(self) -> bool:
        """Whether it goes on."""
        return self._work.running and not self._over

    def show_plan(self, plan: Sequence | None) -> None:
        """Another plan: the search for the last one is over."""
        if plan is not self._plan:
            self._work.stop()
            self._plan, self._found, self._over = plan, None, False

    def offered(self, plan: Sequence) -> Sequence:
        """The plan with the best that is known beside it."""
        return self._found if plan is self._plan and self._found is not None else plan

    def nothing_found(self, plan: Sequence) -> bool:
        """Whether it has searched this plan to the end, and has nothing to offer."""
        return plan is self._plan and self._over and not better_words(self.offered(plan))

    def ask(self, plan: Sequence) -> None:
        """Search for a minute, or until stopped."""
        self._plan, self._over = plan, False

        def work(progress: Progress) -> Iterator[object]:
            best = plan
            for number in range(ROUNDS):
                effort = Effort(SECONDS, number)
                best = apart(partial(searched_on, best, effort), partial(_share, progress, number))
                yield best
            yield None

        self._work.ask(plan, work, partial(self._take, plan), lambda _: self.changed.emit())
        self.changed.emit()

    def _take(self, plan: Sequence, found: object) -> None:
        if plan is not self._plan:
            return
        if isinstance(found, Sequence):
            self._found = found
        else:
            self._over = True
        self.changed.emit()


def _share(progress: Progress, number: int, share: float) -> bool:
    return progress((number + share) / ROUNDS if share >= 0 else share)
