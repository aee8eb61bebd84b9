"""Words for the sides of a subject, alone and together: "port bow"."""

from __future__ import annotations

# Words of one line exclude each other. In this order they are said together.
OPPOSITES = (("port", "starboard"), ("bow", "aft"), ("top", "bottom"))
SIDES = tuple(word for pair in OPPOSITES for word in pair)
# What is said where no side is.
SEVERAL = "several"


def parts_of(side: str) -> tuple[str, ...]:
    """The single words of a side; none of "several"."""
    return () if side == SEVERAL else tuple(side.split())


def spoken(side: str) -> str:
    """A side as it is said of a still."""
    return "no side said" if side == SEVERAL else side


def opposed(side: str, other: str) -> bool:
    """Whether one of two sides has a word that the other has the opposite of."""
    words, others = parts_of(side), parts_of(other)
    return any((a in words and b in others) or (b in words and a in others) for a, b in OPPOSITES)


def joined(parts: tuple[str, ...]) -> str:
    """Several words as one side, in the order in which they are said; of two that exclude each other, the later."""
    kept: list[str] = []
    for pair in OPPOSITES:
        kept += [word for word in parts if word in pair][-1:]
    return " ".join(kept) or SEVERAL
