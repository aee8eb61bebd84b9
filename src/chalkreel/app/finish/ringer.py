"""Calls at the times of the evening while the program is open, in whichever stage one is."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from chalkreel.answers.rings import Ring

# A clock that was put forward, or a machine that slept, is noticed within so long.
LONGEST_MS = 60_000


class Ringer(QObject):
    """Holds the rings that are still to come.

    Signals
    -------
    rang(str): what it is time for; several that a sleeping machine missed come at once.
    """

    rang = Signal(str)

    def __init__(self, parent: QObject, now: Callable[[], datetime] = datetime.now) -> None:
        super().__init__(parent)
        self._now, self._coming = now, tuple[Ring, ...]()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._ring)

    @property
    def coming(self) -> tuple[Ring, ...]:
        """The rings that are still to come."""
        return self._coming

    def wait_for(self, rings: tuple[Ring, ...]) -> None:
        """Ring at these times, and at no others; what is past does not ring."""
        now = self._now()
        self._coming = tuple(ring for ring in rings if ring.at > now)
        self._wait()

    def _wait(self) -> None:
        self._timer.stop()
        if self._coming:
            away = (self._coming[0].at - self._now()).total_seconds()
            self._timer.start(round(min(max(0.0, 1000 * away), LONGEST_MS)))

    def _ring(self) -> None:
        now = self._now()
        due = [ring for ring in self._coming if ring.at <= now]
        self._coming = self._coming[len(due) :]
        self._wait()
        if due:
            self.rang.emit(". ".join(f"{ring.at:%H:%M}, {ring.words}" for ring in due) + ".")
