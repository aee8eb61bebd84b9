"""Lamps on stills: their colour from the halo, and lamps of known colour that others are read against."""

from __future__ import annotations

from collections.abc import Iterator

from chalkreel.app.stills.tools import Points
from chalkreel.core.colour.glow import LED_XY, Frame, Glow, KnownLamp, glow_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.light.kinds import USUAL_VOLTS, LedColour
from chalkreel.document.entities import Still
from chalkreel.document.entity import new_id
from chalkreel.document.gallery import Gallery
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.snapshot import Build
from chalkreel.edits import painting


def read_glow(gallery: Gallery, blob: str, points: Points, known: KnownLamp | None) -> Iterator[object]:
    """The lamp in a dragged frame, against a known one where there is one; for a worker."""
    yield glow_of(gallery.picture(blob), _frame(points), known)


def _frame(points: Points) -> Frame:
    (x0, y0), (x1, y1) = points
    return int(min(x0, x1)), int(min(y0, y1)), int(max(x0, x1)), int(max(y0, y1))


def led_from(text: str) -> LedColour | None:
    """The colour of a lamp that somebody knows; None where nothing is said of one.

    Raises
    ------
    RefusedError
        It is no colour that a lamp has.
    """
    words = text.strip().casefold()
    found = next((led for led in LED_XY if led == words), None)
    if found is None and words and not any(sign.isdigit() for sign in words):
        raise RefusedError(f"A known lamp is {', '.join(LED_XY)}. Leave the field empty where its colour is wanted.")
    return found


def known_lamp(build: Build, still: Still) -> KnownLamp | None:
    """The lamp of known colour that was framed last on a still."""
    framed = [p for p in build.all(ColourPatch) if p.still_id == still.id and p.lamp is not None and not p.left_out]
    if not framed or framed[-1].lamp is None:
        return None
    return KnownLamp(_frame(painting.region_box(framed[-1])[::2]), framed[-1].lamp)


def known_lamp_words(glow: Glow, led: LedColour) -> str:
    """What a lamp of known colour says of its still."""
    if glow.turning:
        return f"This {led} lamp's halo changes its colour outwards, as film does: lamps here are told with more doubt."
    return f"Kept: other lamps on this still are read against this {led} one, which shows as {glow.led}."


def lamp_from(glow: Glow, still: Still) -> Lamp:
    """A lamp for Light with the colour found."""
    return Lamp(
        id=new_id(), name=f"Lamp on still {still.number}", colour=glow.led, count=1,
        forward_volts=USUAL_VOLTS[glow.led], current_ma=10.0,
    )  # fmt: skip


def glow_words(glow: Glow) -> str:
    """A glow's chromaticity, its nearest LED and what would bring that nearer."""
    sure = f"± {NORMAL_95 * glow.sigma:.3f} in u′v′"
    words = f"The glow is at x {glow.x:.3f}, y {glow.y:.3f} ({sure}): nearest LED {glow.led}"
    if glow.turning:
        words += "; but the halo changes its colour outwards, as film does round bright spots: not sure"
    if glow.moved:
        words += f"; read against the known lamp, which moved it by {glow.moved:.3f}"
    return f"{words}; {glow.tint}" if glow.tint else words
