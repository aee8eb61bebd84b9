"""Swatches as this screen shows them: as sRGB, or through the profile that the user chose for it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QSettings
from PySide6.QtGui import QColor

from chalkreel.core.colour.kinds import Swatch
from chalkreel.core.errors import RefusedError

if TYPE_CHECKING:
    from chalkreel.core.colour.screen_profile import ScreenProfile

KEY: Final = "screen/profile"
MOST_BYTES: Final = 20_000_000


class _Screen:
    """The chosen profile, read when the first swatch is painted."""

    def __init__(self) -> None:
        self.read = False
        self.profile: ScreenProfile | None = None

    def current(self) -> ScreenProfile | None:
        if not self.read:
            self.read = True
            path = str(QSettings().value(KEY, ""))
            try:
                self.profile = _profile(Path(path)) if path else None
            except RefusedError:
                # The file is gone or spoilt: the card says that none is used.
                self.profile = None
        return self.profile


_SCREEN: Final = _Screen()


def on_screen(colour: Swatch) -> QColor:
    """What is painted for a swatch."""
    profile = _SCREEN.current()
    return QColor(*(colour if profile is None else profile.sent(colour)))


def profile_name() -> str:
    """What the chosen profile calls itself; empty where swatches are sent as sRGB."""
    profile = _SCREEN.current()
    return "" if profile is None else profile.name or "a profile without a name"


def use_profile(path: Path | None) -> None:
    """Paint through a profile from now on, here and the next time; None for plain sRGB.

    Raises
    ------
    RefusedError
        It cannot be read, or is no profile of a screen: what was used stays.
    """
    _SCREEN.profile = None if path is None else _profile(path)
    _SCREEN.read = True
    QSettings().setValue(KEY, "" if path is None else str(path))


def _profile(path: Path) -> ScreenProfile:
    from chalkreel.core.colour.screen_profile import ScreenProfile

    try:
        if path.stat().st_size > MOST_BYTES:
            raise RefusedError("This file is larger than any profile.")
        return ScreenProfile(path.read_bytes())
    except OSError as error:
        raise RefusedError("The profile cannot be read. Check that it is there and is yours.") from error
