"""What to do with the kit's part, given the size it should have."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import LengthUnit, format_length, small_length

if TYPE_CHECKING:
    from chalkreel.core.measure.combine import Size

Action = Literal["leave", "correct", "make new", "unsure"]

VISIBLE_MM = 0.3
CALLIPER_SIGMA_MM = 0.02
# Beyond this share of the part, filing or building up costs more than a new part.
REWORK_SHARE = 0.12


@dataclass(frozen=True)
class Verdict:
    """The advice and its reason; `excess_mm` is kit less wanted, None where the part is missing."""

    action: Action
    excess_mm: float | None
    words: str


def judge_part(wanted: Size, kit_mm: float | None, missing: bool = False, unit: LengthUnit = "mm") -> Verdict:
    """Leave, correct or make new, in words of a unit: a difference under 0.3 mm on the model is not seen."""
    if missing:
        return Verdict("make new", None, "missing: make new")
    if kit_mm is None:
        return Verdict("unsure", None, "calliper the kit part")
    excess = kit_mm - wanted.mm
    kit, out = f"kit {format_length(kit_mm, unit)}", small_length(abs(excess), unit)
    doubt = NORMAL_95 * math.hypot(wanted.sigma_mm, CALLIPER_SIGMA_MM)
    unsure = abs(excess) <= doubt and (doubt > 2 * VISIBLE_MM or abs(excess) > VISIBLE_MM)
    if unsure:
        return Verdict("unsure", excess, f"{kit}: within doubt, leave until surer")
    if abs(excess) <= VISIBLE_MM:
        return Verdict("leave", excess, f"{kit}: leave")
    if abs(excess) > REWORK_SHARE * wanted.mm:
        return Verdict("make new", excess, f"{kit}: {out} out, make new")
    change = "take off" if excess > 0 else "build up"
    return Verdict("correct", excess, f"{kit}: {change} {out}")
