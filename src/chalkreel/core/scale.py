"""The scale chain: in-story size, filmed miniature, replica."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final, Literal

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.lengths import LengthUnit, parse_length

Link = Literal["story", "miniature", "replica"]
STUDIO_SCALE: Final = "same as the miniature"
_SAME: Final = ("same", STUDIO_SCALE, "studio", "studio scale", "1:1", "1/1")


@dataclass(frozen=True)
class ScaleChain:
    """The same overall length on the three links, in mm."""

    story_mm: float
    miniature_mm: float
    replica_mm: float

    def length_mm(self, link: Link) -> float:
        """The overall length on one link."""
        return {"story": self.story_mm, "miniature": self.miniature_mm, "replica": self.replica_mm}[link]

    def convert(self, length_mm: float, source: Link, target: Link) -> float:
        """Carry a length from one link to another."""
        return length_mm * self.length_mm(target) / self.length_mm(source)

    @property
    def studio_scale(self) -> bool:
        """Whether the replica is as long as the filmed miniature."""
        return abs(self.replica_mm / self.miniature_mm - 1) < 1e-4

    @property
    def replica_ratio(self) -> float:
        """48.0 for 1:48."""
        return self.story_mm / self.replica_mm


def parse_ratio(text: str) -> float:
    """Read '1:48', '1/48' or '48' as 48.0.

    Raises
    ------
    RefusedError
        Not a ratio, or outside 1:1 to 1:100 000.
    """
    match = re.fullmatch(r"\s*(?:1\s*[:/]\s*)?(\d+(?:[.,]\d+)?)\s*", text)
    if match is None or not 1.0 <= parse_number(match[1]) <= 1e5:
        raise RefusedError(f"“{text}” is not a scale. Type it like 1:48.")
    return parse_number(match[1])


def bare_unit(link: Link, unit: LengthUnit) -> LengthUnit | None:
    """What a number without a unit means on a link; in the story it could be metres, feet or anything."""
    return None if link == "story" else unit


def edit_link(chain: ScaleChain, link: Link, text: str, unit: LengthUnit = "mm") -> ScaleChain:
    """Change one link of the chain; a ratio sets a model link from the story, a length sets it outright.

    The replica can be "same as the miniature" (or 1:1): studio scale.

    Raises
    ------
    RefusedError
        The text is neither a ratio nor a length.
    """
    words = " ".join(text.lower().replace(" :", ":").replace(": ", ":").split())
    if link == "replica" and words in _SAME:
        value = chain.miniature_mm
    elif ":" in text and link != "story":
        value = chain.story_mm / parse_ratio(text)
    else:
        value = parse_length(text, bare_unit(link, unit))
    lengths = {"story": chain.story_mm, "miniature": chain.miniature_mm, "replica": chain.replica_mm}
    lengths[link] = value
    return ScaleChain(lengths["story"], lengths["miniature"], lengths["replica"])


@dataclass(frozen=True)
class Fit:
    """How a length sits in a space: positive room is spare, negative is missing."""

    room_mm: float
    largest_ratio: float

    @property
    def fits(self) -> bool:
        """Whether the model goes in with the clearance asked for."""
        return self.room_mm >= 0


def fit_in_space(chain: ScaleChain, space_mm: float, clearance_mm: float = 10.0) -> Fit:
    """Does the replica's overall length fit, and which scale would just do so?

    `largest_ratio` is the ratio (as in 1:ratio) at which the length fills the space less clearance.

    Raises
    ------
    RefusedError
        The space is no longer than the clearance.
    """
    usable = space_mm - clearance_mm
    if usable <= 0:
        raise RefusedError(f"The space is too small: {clearance_mm:.0f} mm of it (3/8 in) are kept clear.")
    return Fit(usable - chain.replica_mm, chain.story_mm / usable)
