"""With what a mark of wear is made, by its kind and its size on the model.

Ordinary workshop practice: the smaller the mark on the model, the finer the tool. A mark's kind is the first word of
its name, as its user calls it.
"""

from __future__ import annotations

from typing import Final

# Length on the model in mm up to which a tool serves, and the tool; the last for all that is larger.
CHIPS: Final = (
    (0.3, "pencil or fine brush"), (1.0, "fine sponge"), (4.0, "liquid mask"),
    (float("inf"), "chipping medium"),
)  # fmt: skip
# Below this nobody sees it at arm's length.
UNSEEN_MM: Final = 0.15
STREAK: Final = "drawn down or aft"
BY_KIND: Final = {
    "chip": CHIPS, "hit": CHIPS, "scratch": CHIPS, "rust": CHIPS,
    "streak": ((float("inf"), STREAK),), "stain": ((float("inf"), STREAK),),
    "soot": ((float("inf"), "airbrush, outwards"),),
    "dust": ((float("inf"), "pigment, last"),),
}  # fmt: skip


def made_with(name: str, length_mm: float) -> str:
    """The tool for a mark by its name and length on the model in mm; empty where its name tells no kind of wear."""
    kind = name.strip().split(" ")[0].casefold().rstrip("s")
    sizes = BY_KIND.get(kind)
    if sizes is None:
        return ""
    if sizes is CHIPS and length_mm < UNSEEN_MM:
        return "too small: leave it"
    return next(tool for most, tool in sizes if length_mm <= most)
