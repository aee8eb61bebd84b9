"""Time to the first window of the demo, against an empty window of the toolkit. Run: python -m benchmarks.start_up"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time

EMPTY = """
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
"""
DEMO = """
import os
from chalkreel.app.application import Application
app = Application(["chalk-reel"])
app.open_demo()
app.processEvents()
os._exit(0)
"""


def seconds(script: str) -> float:
    started = time.perf_counter()
    subprocess.run([sys.executable, "-c", script], check=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"})
    return time.perf_counter() - started


def main() -> None:
    for script in (EMPTY, DEMO):
        seconds(script)
    empty, demo = (statistics.median(seconds(script) for _ in range(7)) for script in (EMPTY, DEMO))
    print(f"empty window {empty:.2f} s, demo's first window {demo:.2f} s")
    print(f"  {demo - empty:.2f} s more, {demo / empty:.1f} times as long")


if __name__ == "__main__":
    main()
