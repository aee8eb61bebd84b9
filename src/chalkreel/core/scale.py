"""The scale chain: in-story size, filmed miniature, replica."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from chalkreel.core.errors import RefusedError
from chalkreel.core.units import parse_length, parse_number

Link = Literal["story", "miniature", "replica"]


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


def edit_link(chain: ScaleChain, link: Link, text: str) -> ScaleChain:
    """Change one link of the chain; a ratio sets a model link from the story, a length sets it outright.

    Raises
    ------
    RefusedError
        The text is neither a ratio nor a length.
    """
    if ":" in text and link != "story":
        value = chain.story_mm / parse_ratio(text)
    else:
        value = parse_length(text, "m" if link == "story" else "mm")
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
        raise RefusedError(f"A space of {space_mm:.0f} mm leaves nothing after {clearance_mm:.0f} mm of clearance.")
    return Fit(usable - chain.replica_mm, chain.story_mm / usable)
