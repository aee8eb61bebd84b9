"""From an edit, an undo and a rename to complete answers, and the window's longest gap meanwhile.

Run: python -m benchmarks.edits
"""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable
from dataclasses import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from PySide6.QtCore import QEventLoop, QTimer

from chalkreel.app.application import Application
from chalkreel.app.session import Session
from chalkreel.app.shots import settle
from chalkreel.document.entities import Landmark, LandmarkMark, Still


class Gaps:
    """How long the window's thread was away, tick by tick."""

    def __init__(self) -> None:
        self.longest, self._last = 0.0, time.perf_counter()
        self._timer = QTimer(interval=5)
        self._timer.timeout.connect(self._tick)
        self._timer.start()

    def _tick(self) -> None:
        now = time.perf_counter()
        self.longest, self._last = max(self.longest, now - self._last), now


def seconds(session: Session, act: Callable[[], object]) -> float:
    """Until the answers are fresh again."""
    loop = QEventLoop()
    session.answers_changed.connect(lambda: None if session.stale else loop.quit())
    begun = time.perf_counter()
    act()
    if session.stale:
        loop.exec()
    return time.perf_counter() - begun


def main() -> None:
    app = Application(["chalk-reel"])
    app.open_demo()
    session = app.session
    assert session is not None
    settle(session)
    session.choose_stage("Measure")
    settle(session)
    marks, still, landmark = (
        session.build.all(LandmarkMark),
        session.build.all(Still)[0],
        session.build.all(Landmark)[0],
    )
    gaps, times = Gaps(), {"a mark moved": [], "undone": [], "a note": [], "a new name": []}
    for number in range(8):
        mark = marks[11 * number]
        moved = replace(mark.mark, x_px=mark.mark.x_px + 0.7)
        times["a mark moved"].append(seconds(session, lambda m=mark, p=moved: session.edit("mark", m, mark=p)))
        times["undone"].append(seconds(session, session.undo))
        note = f"seen {number}"
        times["a note"].append(seconds(session, lambda n=note: session.edit("note", still, note=n)))
        name = f"tip {number}"
        times["a new name"].append(seconds(session, lambda n=name: session.edit("name", landmark, name=n)))
    for words, found in times.items():
        print(f"{words}: {1000 * statistics.median(found):.0f} ms to complete answers, longest {1000 * max(found):.0f}")
    print(f"longest gap of the window meanwhile {1000 * gaps.longest:.0f} ms")
    os._exit(0)


if __name__ == "__main__":
    main()
