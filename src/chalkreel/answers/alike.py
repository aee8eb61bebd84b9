"""Stills that show nearly the same picture: marking all of them tells nothing more."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from chalkreel.core.errors import StoppedError
from chalkreel.core.media.likeness import alike
from chalkreel.document.entities import Still
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.snapshot import Build


def alike_stills(build: Build, gallery: Gallery, progress: Callable[[float], bool]) -> tuple[tuple[str, ...], ...]:
    """Groups of ids, each in the order of the reel.

    Raises
    ------
    StoppedError
        `progress` said to stop. Pictures looked at by then are not looked at again.
    """
    stills = sorted((s for s in build.all(Still) if s.squared is None), key=lambda s: s.number)
    signatures = []
    for still in stills:
        if not progress(-1.0):
            raise StoppedError
        signatures.append(gallery.signature(picture_name(still)))
    return tuple(tuple(stills[n].id for n in group) for group in alike(np.array(signatures)))
