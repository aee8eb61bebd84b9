"""The plain words of the conversion, apart from what computes, so that a document loads without it."""

from typing import Final, Literal, get_args

PartState = Literal["present", "missing", "damaged", "warped", "short", "sunk", "brittle"]
Verb = Literal[
    "remove", "shorten", "lengthen", "move", "reshape", "replace", "add", "swap", "tint", "repair", "straighten", "pin",
    "scribe", "wire", "print", "mould", "drill", "check",
]  # fmt: skip
When = Literal["before primer", "before closing", "after base colour", "after decals", "after matte coat"]
# How a part that is not there is come by; "" stands for sheet and strip.
Way = Literal["", "swap", "print", "mould", "wire", "order"]
StockForm = Literal["sheet", "strip", "rod", "tube"]
Corner = Literal["butt", "lap", "mitre"]
# Where a part comes from, in the order in which people look.
SourceKind = Literal["spares box", "mould a copy", "scratch", "print", "order"]

PART_STATES: Final[tuple[PartState, ...]] = get_args(PartState)
WHENS: Final[tuple[When, ...]] = get_args(When)
WAYS: Final[tuple[Way, ...]] = get_args(Way)
FORMS: Final[tuple[StockForm, ...]] = get_args(StockForm)
CORNERS: Final[tuple[Corner, ...]] = get_args(Corner)
SOURCE_KINDS: Final[tuple[SourceKind, ...]] = get_args(SourceKind)
# One key a state.
STATE_KEYS: Final[dict[str, PartState]] = {
    "p": "present", "m": "missing", "d": "damaged", "w": "warped", "s": "short", "k": "sunk", "b": "brittle",
}  # fmt: skip
# What may be added to a job list by hand.
BY_HAND: Final[tuple[Verb, ...]] = ("pin", "scribe", "tint", "wire", "repair", "drill", "reshape", "check")
