"""Qt images of stills, made in the worker and kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSize, QTimer, Signal
from PySide6.QtGui import QImage

from chalkreel.app.jobs import Progress
from chalkreel.app.session import Session
from chalkreel.document.entities import Still
from chalkreel.document.gallery import picture_name

if TYPE_CHECKING:
    from chalkreel.core.media.pyramid import Level

THUMB = QSize(232, 150)
# Pyramids are kept up to so many pixels in all: a third of a gigabyte.
MOST_PIXELS = 65_000_000


class Images(QObject):
    """Thumbnails and pyramids of stills.

    Signals
    -------
    thumbnail_ready(): a thumbnail asked for has been made.
    levels_ready(str): the pyramid of a still (by its gallery name) has been made.
    """

    thumbnail_ready = Signal()
    levels_ready = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._thumbs: dict[tuple[str, float], QImage | None] = {}
        self._levels: OrderedDict[str, _Levels] = OrderedDict()
        self._asked: set[str] = set()

    def thumbnail(self, blob: str, pixel_aspect: float = 1.0) -> QImage | None:
        """A small picture in corrected shape, or None while it is being made."""
        key = (blob, pixel_aspect)
        if key not in self._thumbs:
            self._thumbs[key] = None
            self._later(lambda _: self._make_thumbnail(key), self._take_thumbnail)
        return self._thumbs[key]

    def levels(self, still: Still) -> tuple[QImage, ...]:
        """The still and its successive halves, or nothing while they are being made."""
        name = picture_name(still)
        if name in self._levels:
            self._levels.move_to_end(name)
            return self._levels[name].images
        if name not in self._asked:
            self._asked.add(name)
            self._later(lambda _: self._make_levels(name), self._take_levels)
        return ()

    def _later(self, work: Callable[[Progress], Iterator[object]], take: Callable[[object], object]) -> None:
        # Widgets ask while they paint; starting work shows its progress, which must not happen inside a paint.
        QTimer.singleShot(0, self, lambda: self._session.run("decoding stills", work, take))

    def _make_thumbnail(self, key: tuple[str, float]) -> Iterator[object]:
        from chalkreel.core.media.pyramid import thumbnail

        blob, aspect = key
        pixels = self._session.gallery.picture(blob).display()
        yield key, owned(thumbnail(pixels, THUMB.width(), THUMB.height(), aspect))

    def _make_levels(self, blob: str) -> Iterator[object]:
        from chalkreel.core.media.pyramid import halvings

        yield blob, _Levels(halvings(self._session.gallery.picture(blob).display()))

    def _take_thumbnail(self, made: object) -> None:
        assert isinstance(made, tuple)
        self._thumbs[made[0]] = made[1]
        self.thumbnail_ready.emit()

    def _take_levels(self, made: object) -> None:
        assert isinstance(made, tuple)
        blob, levels = made
        self._asked.discard(blob)
        self._levels[blob] = levels
        while len(self._levels) > 1 and sum(kept.pixels for kept in self._levels.values()) > MOST_PIXELS:
            self._levels.popitem(last=False)
        self.levels_ready.emit(blob)


class _Levels:
    """The whole still as it lies in memory, since a copy would be its size again, and halves that draw faster."""

    def __init__(self, arrays: tuple[Level, ...]) -> None:
        self.images = (_shown(arrays[0]), *(owned(array) for array in arrays[1:]))
        self.pixels = sum(image.width() * image.height() for image in self.images)
        # The first image only points at it.
        self._pixels = arrays[0]


def _shown(pixels: Level) -> QImage:
    height, width = pixels.shape[:2]
    return QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888)


def owned(pixels: Level) -> QImage:
    """Pixels (H, W, 3) as an image of its own."""
    return _shown(pixels).convertToFormat(QImage.Format.Format_RGB32)
