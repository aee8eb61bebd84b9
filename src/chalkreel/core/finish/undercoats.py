"""What a colour wants beneath it, besides primer."""

from __future__ import annotations

from dataclasses import replace
from math import atan2, degrees, hypot
from typing import Final

from chalkreel.core.finish.steps import Step

# Yellow, orange and red pigments hide badly: the hues (degrees in CIELAB) and the least chroma that are meant here.
_VIVID_HUES: Final = (15.0, 105.0)
_VIVID_CHROMA: Final = 45.0


def hides_badly(lab: tuple[float, float, float]) -> bool:
    """Whether a colour is so vivid a yellow, orange or red that it wants white beneath."""
    _, a, b = lab
    return hypot(a, b) >= _VIVID_CHROMA and _VIVID_HUES[0] <= degrees(atan2(b, a)) % 360 <= _VIVID_HUES[1]


def under_clear(white: Step, ground: str) -> Step:
    """The undercoat as clear coats want it: white, silver or a metallic paint instead of the white under a colour."""
    return replace(
        white, title=f"{ground.capitalize()} under the clear coats: {white.zone}", colour=ground, materials=(ground,)
    )
