"""A toolkit that loses references aborts after thousands of emits: an upgrade must not bring it back unseen."""

import subprocess
import sys

STRESS = """
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QApplication, QCheckBox
class Source(QObject):
    told = Signal(object)
    flagged = Signal(bool)
app = QApplication([])
source, box = Source(), QCheckBox()
for number in range(5_000):
    source.told.emit(None)
    source.flagged.emit(True)
for number in range(20_000):
    box.setEnabled(True)
    box.setChecked(bool(number % 2))
print("alive")
"""


def test_thousands_of_emits_and_setter_calls_leave_the_process_alive() -> None:
    done = subprocess.run([sys.executable, "-c", STRESS], capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 0 and done.stdout.strip() == "alive", done.stderr
