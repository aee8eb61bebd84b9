"""Random use of the demo and the memory meanwhile. Run: python -m benchmarks.random_use [MINUTES]"""

from __future__ import annotations

import os
import random
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from chalkreel.app.application import Application
from chalkreel.app.shots import settle
from chalkreel.app.window import Window
from chalkreel.document.entities import Still

KEYS = "lesrtmpkgbd"
# Dialogs wait for an answer that nobody gives here, and a removal would soon leave nothing to work on.
LEFT_OUT = {"new", "open", "copy", "book", "csv", "json", "calendar", "unpack", "pack", "add", "delete", "moments"}


def megabytes() -> float:
    """What the process holds now."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def act(window: Window, chance: random.Random) -> None:
    """One random thing."""
    session = window.session
    kind = chance.randrange(7)
    if kind == 0:
        commands = [c for c in window.actions_by_id if c not in LEFT_OUT]
        window.actions_by_id[chance.choice(commands)].trigger()
    elif kind == 1:
        session.choose_still(chance.choice(session.build.all(Still)).id)
    elif kind in (2, 3):
        view = window.colour.view if session.stage == "Colour" else window.measure.view
        if view.isVisible():
            at = QPoint(chance.randrange(view.width()), chance.randrange(view.height()))
            QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=at)
    elif kind == 4:
        focus = QApplication.focusWidget()
        if focus is not None:
            QTest.keyClick(focus, chance.choice(KEYS))
    elif kind == 5:
        session.select(chance.choice(list(session.build.entities)))
    else:
        (session.undo if chance.random() < 0.6 else session.redo)()


def main() -> None:
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 20.0
    app, chance = Application(["chalk-reel"]), random.Random(5)
    app.open_demo()
    assert app.session is not None and app.window is not None
    settle(app.session)
    refusals: list[str] = []
    app.session.refused.connect(refusals.append)
    window, begun, count, told = app.window, time.monotonic(), 0, 0
    timer = QTimer(interval=20)

    def tick() -> None:
        nonlocal count, told
        act(window, chance)
        count += 1
        gone = (time.monotonic() - begun) / 60
        if gone >= told:
            print(f"{gone:.0f} min, {count} acts, {megabytes():.0f} MB", flush=True)
            told += 1
        if gone >= minutes:
            app.quit()

    timer.timeout.connect(tick)
    timer.start()
    app.exec()
    wrong = [words for words in refusals if "went wrong" in words]
    print(f"{count} acts, {megabytes():.0f} MB, {len(wrong)} times something went wrong in the program")
    os._exit(0)


if __name__ == "__main__":
    main()
