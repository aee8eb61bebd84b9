"""Words for paints that colour and sequence share."""

from __future__ import annotations

from typing import Final, Literal

Medium = Literal["water acrylic", "alcohol acrylic", "lacquer", "enamel", "oil"]
Sheen = Literal["matte", "satin", "gloss"]

MEDIA: Final[tuple[Medium, ...]] = ("water acrylic", "alcohol acrylic", "lacquer", "enamel", "oil")
SHEENS: Final[tuple[Sheen, ...]] = ("matte", "satin", "gloss")
