"""The reel's palette: every surface with its colour, how surely it is known, and what is to be mixed for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.core.colour.cielab import in_srgb, rgb8_of_lab
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.published_mix import WITHIN_DELTA_E
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural

if TYPE_CHECKING:
    from chalkreel.answers.colours import Colours, SurfaceRow


@dataclass(frozen=True)
class PaletteColour:
    """One surface: the object's L*a*b* (D65/2°) with its 95 % radius in ΔE00 (None where the user gave the colour), the
    nearest sRGB, whether that shows it (`shown`), the paint's target, and where both come from."""

    name: str
    lab: Lab
    rgb: tuple[int, int, int]
    shown: bool
    within: float | None
    target: Lab
    source: str
    recipe: str


def palette(colours: Colours | None) -> tuple[PaletteColour, ...]:
    """All surfaces of which the colour is known.

    Raises
    ------
    RefusedError
        There is none.
    """
    found = tuple(one for row in (colours.surfaces if colours else ()) if (one := _colour(row)) is not None)
    if not found:
        raise RefusedError("No surface has a colour yet. Patch one on a still in Colour, with a neutral beside it.")
    return found


def _colour(row: SurfaceRow) -> PaletteColour | None:
    target = row.mixes.target
    by_mode = {one.mode: one.lab for one in row.mixes.targets}
    # What a picture looked like is no colour of the object.
    lab = by_mode.get("object") or by_mode.get("free")
    if lab is None:
        return None
    within, source = _doubt(row)
    recipe = ", ".join(f"{count} {name}" for name, count in row.best[0].drops) if row.best is not None else ""
    return PaletteColour(
        row.name, lab, rgb8_of_lab(lab), in_srgb(lab), within, target.lab if target is not None else lab, source, recipe
    )


def _doubt(row: SurfaceRow) -> tuple[float | None, str]:
    """The 95 % radius of a colour and where it comes from."""
    if row.known:
        return None, "given, not measured"
    if row.colour is not None:
        return row.colour.delta_e, plural(row.colour.stills, "still")
    return (WITHIN_DELTA_E, "from a published mix") if row.published else (None, "your own, not measured")
