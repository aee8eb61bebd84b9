"""A click on a still of a build, moved on to what it was meant for."""

from __future__ import annotations

from chalkreel.core.media.snap import snap
from chalkreel.document.entities import Still
from chalkreel.document.gallery import Gallery, picture_name


def snapped(gallery: Gallery, still: Still, x_px: float, y_px: float) -> tuple[float, float]:
    """The place of the corner, line or edge under a click; the click itself where there is none or the still is not yet
    decoded."""
    picture = gallery.at_hand(picture_name(still))
    found = snap(picture, x_px, y_px) if picture is not None else None
    return (found.x_px, found.y_px) if found is not None else (x_px, y_px)
