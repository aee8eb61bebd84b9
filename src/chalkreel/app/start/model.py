"""What the page for a new build makes of the words typed on it (no Qt)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.lengths import LengthUnit, format_length, parse_length
from chalkreel.core.scale import STUDIO_SCALE, ScaleChain, edit_link
from chalkreel.document.entities import Source

RATIOS: Final = (24, 32, 48, 72, 96, 144)
SOURCE_WORDS: Final[dict[Source, str]] = {
    "kit": "a kit", "printed parts": "printed parts", "sheet and rod": "sheet and rod", "soft vinyl": "soft vinyl",
}  # fmt: skip
STANDING_MM: Final = 1750.0


@dataclass(frozen=True)
class Chain:
    """The chain as it would begin, what was assumed for it, and how it compares with a person."""

    lengths: ScaleChain
    assumed: str
    person: str


def chain_from(story: str, miniature: str, replica: str, unit: LengthUnit) -> Chain:
    """Any two of the three lengths; a model's may be a scale like 1:24, the replica's "same as the miniature".

    Raises
    ------
    RefusedError
        Fewer than two are told, or one cannot be read.
    """
    told = [bool(words.strip()) for words in (story, miniature, replica)]
    if sum(told) < 2:
        raise RefusedError("Tell two of the three: in the story, the filmed miniature, your replica. Rough will do.")
    assumed = ""
    if told[0]:
        whole = parse_length(story, None)
        chain = ScaleChain(whole, whole, whole)
        if told[1]:
            chain = edit_link(chain, "miniature", miniature, unit)
        else:
            assumed = "No miniature: the thing itself was filmed."
        if not told[2]:
            raise RefusedError("Choose the replica's scale, or type its length.")
    else:
        if ":" in miniature:
            raise RefusedError("A scale of the miniature needs the size in the story.")
        whole = parse_length(miniature, unit)
        chain, assumed = ScaleChain(whole, whole, whole), "Size in the story not told: taken as the miniature's."
    chain = edit_link(chain, "replica", replica, unit)
    person = format_length(chain.replica_mm / chain.story_mm * STANDING_MM, unit)
    return Chain(chain, assumed, f"A person of 1.75 m stands {person} tall beside it.")


def ratio_words(ratio: int) -> str:
    """What a button of a common scale writes."""
    return f"1:{ratio}"


def same_words() -> str:
    """What the button for studio scale writes."""
    return STUDIO_SCALE


def laid_out(sources: tuple[Source, ...], dark: bool, stills: int) -> str:
    """What is there when the build is begun."""
    words = ["A kit list to tick off"] if "kit" in sources else ["No kit list"]
    words.append("no questions about lamps" if dark else "a list of lamps to fill")
    # Finish takes every part to be so, until something else is told of it.
    words += ["layer lines to smooth"] * (sources == ("printed parts",))
    words += ["acrylics only"] * (sources == ("soft vinyl",))
    words.append("Saturday afternoons at the bench until you say otherwise in Finish")
    words.append(f"{plural(stills, 'still')} on the reel" if stills else "no still yet")
    return ", ".join(words) + "."
