"""Minutes that the airbrush takes besides spraying, and where to begin with needle, pressure and thinning."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.finish.steps import FREEHAND, Step

SET_UP, STRIP_DOWN, DEEP_CLEAN = 10, 10, 15
# Paint is left in the airbrush for this long while something else is done by hand.
LEFT_IN_CUP = 20
_SOLVENT: Final = frozenset({"lacquer", "enamel", "primer"})
METALLIC: Final = frozenset({"chrome", "metal"})


@dataclass(frozen=True)
class Setting:
    """Where to begin; the flow of skimmed milk is the check, and the label on the bottle goes first."""

    needle_mm: str
    bar: str
    thinner: str
    distance_cm: tuple[float, float]


_PRIMER = Setting("0.4", "1.4–2.0", "as the label says", (12, 15))
_SHADE = Setting("0.2–0.25", "0.7–1.1", "thinner 2 : paint 1", (2, 4))
_MIST = Setting("0.2–0.3", "0.8–1.1", "thinner 4 : paint 1, or thinner still", (5, 10))
_METAL = Setting("0.2–0.3", "0.7–1.0", "not thinned", (5, 8))
_VARNISH = Setting("0.3–0.4", "1.2–1.6", "as the label says; two mist coats, then a wet one", (10, 15))
_FIX = Setting("0.3–0.4", "0.8–1.2", "as the label says; a dry mist, no wet coat", (20, 30))
_PANEL = Setting("0.2–0.3", "1.0–1.3", "thinner 1 : paint 1", (5, 8))
_BASE: Final = {
    "alcohol acrylic": Setting("0.3–0.4", "1.2–1.7", "thinner 1 : paint 1", (8, 12)),
    "lacquer": Setting("0.3–0.4", "1.2–1.7", "as the label says", (8, 12)),
}
_USUAL_BASE: Final = Setting("0.3–0.4", "1.2–1.7", "thinner 1 : paint 2", (8, 12))
_BY_KIND: Final = {
    "prime": _PRIMER, "pre-shade": _SHADE, "post-shade": _MIST, "chrome": _METAL, "metal": _METAL, "stripe": _PANEL,
    "edge seal": _PANEL, "white stripe": _PANEL, "gloss": _VARNISH, "seal": _VARNISH, "matte": _VARNISH,
    "seal coat": _VARNISH, "chipping medium": _VARNISH, "fix": _FIX,
}  # fmt: skip


def setting(step: Step) -> Setting | None:
    """Where to begin for a step that is sprayed."""
    if not step.spray:
        return None
    if FREEHAND in step.facts:
        return _SHADE
    return _BY_KIND.get(step.kind) or _BASE.get(step.medium, _USUAL_BASE)


def cup(step: Step) -> tuple[str, str]:
    """What has to be in the cup: steps with the same are sprayed without cleaning between."""
    return (step.colour, step.medium)


def flush_minutes(step: Step) -> int:
    """How long the airbrush is cleaned after a step: metal and chrome ask for a deep clean."""
    if step.kind in METALLIC:
        return DEEP_CLEAN
    return 10 if step.medium in _SOLVENT else 5
