"""Decoded stills of a build, kept for a while."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from chalkreel.core.arrays import Array
    from chalkreel.core.media.picture import Picture
    from chalkreel.document.entities import Still

MOST_PIXELS = 65_000_000
TURNED = "⇋"


def picture_name(still: Still) -> str:
    """What a gallery calls the picture of a still: its digest, and whether it is turned left to right."""
    return still.blob + TURNED if still.flopped else still.blob


class Gallery:
    """Decodes stills on demand from any thread; the pictures used last stay up to 65 million pixels in all."""

    def __init__(self, blob: Callable[[str], bytes]) -> None:
        self._blob = blob
        self._lock = threading.Lock()
        self._kept: OrderedDict[str, Picture] = OrderedDict()
        self._signatures: dict[str, Array] = {}

    def picture(self, name: str) -> Picture:
        """The picture stored under a digest, turned where `picture_name` says so."""
        with self._lock:
            if name in self._kept:
                self._kept.move_to_end(name)
                return self._kept[name]
        from chalkreel.core.media.decode import decode  # noqa: PLC0415 - decoders load in whoever decodes first

        picture = decode(self._blob(name.removesuffix(TURNED)))
        if name.endswith(TURNED):
            picture = picture.turned()
        self.put(name, picture)
        return picture

    def signature(self, name: str) -> Array:
        """What a picture is told from others by; small, and kept for good."""
        if name not in self._signatures:
            from chalkreel.core.media.likeness import signature  # noqa: PLC0415 - as the decoders

            self._signatures[name] = signature(self.picture(name))
        return self._signatures[name]

    def at_hand(self, sha: str) -> Picture | None:
        """The picture, where it is decoded already: for whoever cannot wait."""
        with self._lock:
            return self._kept.get(sha)

    def put(self, sha: str, picture: Picture) -> None:
        """Keep a picture that was decoded before it was stored."""
        with self._lock:
            self._kept[sha] = picture
            while len(self._kept) > 1 and sum(p.width * p.height for p in self._kept.values()) > MOST_PIXELS:
                self._kept.popitem(last=False)
