"""How large text and controls are, beyond what the screen asks for: a setting that the next start follows."""

from __future__ import annotations

import os
from typing import Final

from PySide6.QtCore import QSettings

STEPS: Final = (1.0, 1.15, 1.3, 1.5, 1.75, 2.0)
_KEY: Final = "window/magnified"


def magnified() -> float:
    """The setting: 1 for as the screen asks."""
    kept = QSettings("chalkreel", "chalkreel").value(_KEY, 1.0)
    try:
        return min(STEPS, key=lambda step: abs(step - float(str(kept))))
    except ValueError:
        return 1.0


def magnify(by: int) -> str:
    """A step larger or smaller from the next start on; says so."""
    at = min(max(0, STEPS.index(magnified()) + by), len(STEPS) - 1)
    QSettings("chalkreel", "chalkreel").setValue(_KEY, STEPS[at])
    return f"Text and controls at {100 * STEPS[at]:.0f} % when Chalk Reel is started again."


def put_in_force() -> None:
    """Tell the toolkit, before it starts; whoever has set its scale by hand is not overruled."""
    if magnified() != 1.0:
        os.environ.setdefault("QT_SCALE_FACTOR", f"{magnified():g}")
