"""How large text and controls are, beyond what the screen asks for: as the system's own text, times a setting."""

from __future__ import annotations

import os
import sys
from typing import Final

from PySide6.QtCore import QSettings

STEPS: Final = (1.0, 1.15, 1.3, 1.5, 1.75, 2.0)
# Desktops come with text of 9 to 11 points; only whoever wants it larger has changed that.
LARGEST_USUAL_PT: Final = 11.0
_KEY: Final = "window/magnified"
_SYSTEM_KEY: Final = "window/system-text"
_SCALE: Final = "QT_SCALE_FACTOR"


def magnified() -> float:
    """The setting: 1 for as the system asks."""
    return min(STEPS, key=lambda step: abs(step - _kept(_KEY)))


def magnify(by: int) -> str:
    """A step larger or smaller from the next start on; says so."""
    at = min(max(0, STEPS.index(magnified()) + by), len(STEPS) - 1)
    QSettings("chalkreel", "chalkreel").setValue(_KEY, STEPS[at])
    return f"Text and controls at {100 * STEPS[at]:.0f} % when Chalk Reel is started again."


def put_in_force() -> bool:
    """Tell the toolkit, before it starts; False where somebody has set its scale by hand, who is not overruled."""
    if _SCALE in os.environ:
        return False
    factor = magnified() * _kept(_SYSTEM_KEY)
    if factor != 1.0:
        os.environ[_SCALE] = f"{factor:g}"
    return True


def follow_system(points: float) -> None:
    """Start again where the system's text, in points, has another size than at the last start.

    The toolkit tells that size only once it runs, and takes its scale only before.
    """
    factor = min(STEPS[-1], max(1.0, round(points / LARGEST_USUAL_PT, 2)))
    if factor != _kept(_SYSTEM_KEY):
        settings = QSettings("chalkreel", "chalkreel")
        settings.setValue(_SYSTEM_KEY, factor)
        settings.sync()
        os.environ.pop(_SCALE, None)
        # Kept, or it would start again for ever.
        if _kept(_SYSTEM_KEY) == factor:
            os.execv(sys.executable, [sys.executable, *sys.orig_argv[1:]])


def _kept(key: str) -> float:
    kept = QSettings("chalkreel", "chalkreel").value(key, 1.0)
    try:
        return float(str(kept))
    except ValueError:
        return 1.0
