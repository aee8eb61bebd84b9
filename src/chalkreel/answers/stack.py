"""From a zone's finish to the layers that make it, and what they do to its colour."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.clear_coats import SILVER_LAB, WHITE_LAB
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.finishing import Finishing
from chalkreel.core.colour.kinds import Lab, Swatch
from chalkreel.core.colour.layers import (
    Layer,
    LayerKind,
    coats_to_hide,
    looks,
    shown_through,
)
from chalkreel.core.colour.mixing import Correction, Pot, pot_of
from chalkreel.core.colour.paint import Paint, opaque_of
from chalkreel.core.errors import RefusedError
from chalkreel.document.paint_entities import Drops, Primer, Zone

PRIMER_LAB: Final[dict[Primer, Lab]] = {
    "white": WHITE_LAB, "grey": (63.0, 0.0, 0.0), "black": (20.0, 0.0, 0.0), "silver": SILVER_LAB,
}  # fmt: skip
VARNISH_COATS: Final = 2
HIDDEN: Final = 1.0


@dataclass(frozen=True)
class LookRow:
    """How the zone looks after a layer, and its ΔE00 to the target."""

    name: str
    lab: Lab
    swatch: Swatch
    to_target: float


@dataclass(frozen=True)
class StackRow:
    """A zone's layers. `moved` is what the layers over the base do to it in ΔE00; `coats` hide the primer, so many are
    `planned`; so much of the pre-shade shows. `clear` coats hide nothing; `primed` is false where what they lie on is
    not what the zone is primed with.
    """

    zone: str
    looks: tuple[LookRow, ...]
    moved: float
    coats: int | None
    pre_shade: float
    planned: int = 0
    problem: str = ""
    clear: bool = False
    primed: bool = True


def darkest(shelf: tuple[Paint, ...]) -> Drops:
    """What a wash or pre-shade is made of when nobody said: the shelf's darkest paint."""
    opaque = opaque_of(shelf)
    if not opaque:
        return ()
    return ((min(opaque, key=lambda p: float((p.scattering / p.absorption).mean())).name, 1),)


def over_base(zone: Zone, shelf: tuple[Paint, ...], hand: Finishing) -> tuple[Layer, ...]:
    """The layers planned over a zone's colour, as this hand lays them: gloss, wash as wiped, filter, last varnish."""
    found: list[Layer] = []
    sealed = zone.decals or "wash" in zone.wear or bool(zone.filter_drops)
    if sealed:
        found.append(hand.varnish("gloss", "gloss", VARNISH_COATS))
    if "wash" in zone.wear:
        wash = pot_of(zone.wash or darkest(shelf), shelf)
        found.append(Layer("wash, wet on", "wash", wash))
        found.append(hand.wiped_wash("wash, dry", wash))
    if zone.filter_drops:
        found.append(Layer("filter", "filter", pot_of(zone.filter_drops, shelf)))
    # Laid even where the paint dries so by itself: two coats of it still move the colour.
    found.append(hand.varnish(f"{zone.sheen} varnish", zone.sheen, 1 if sealed else VARNISH_COATS))
    return tuple(found)


def stack_of(
    zone: Zone, drops: Drops, shelf: tuple[Paint, ...], target: Lab, hand: Finishing,
    corrections: tuple[Correction, ...] = (), clear_over: Layer | None = None,
) -> StackRow:  # fmt: skip
    """Every look of a zone from primer, or the ground that clear coats lie on, to the last varnish."""
    base = pot_of(drops, shelf, corrections)
    primer = Layer(
        f"{zone.primer} primer", "metal" if zone.primer == "silver" else "primer", lab=PRIMER_LAB[zone.primer],
        sheen="gloss" if zone.primer == "silver" else "matte",
    )  # fmt: skip
    kind: LayerKind = "coat" if clear_over is None else "clear tint"
    under: list[Layer] = [clear_over or primer]
    shade = pot_of(darkest(shelf), shelf)
    if "pre-shade" in zone.wear and shade.drops and clear_over is None:
        under.append(Layer("pre-shade", "pre-shade", shade))
    coats = [Layer(f"coat {n}", kind, base) for n in range(1, zone.coats + 1)]
    try:
        every = (*under, *coats, *over_base(zone, shelf, hand))
        seen = looks(every, target)
    except RefusedError as refusal:
        return StackRow(zone.name, (), 0.0, None, 0.0, zone.coats, str(refusal))
    rows = tuple(LookRow(look.name, look.lab, rgb8_of_lab(look.lab), look.delta_e or 0.0) for look in seen)
    laid = seen[len(under) + len(coats) - 1]
    moved = float(delta_e_2000(np.array(seen[-1].lab), np.array(laid.lab)))
    if clear_over is not None:
        primed = zone.primer == ("silver" if clear_over.kind == "metal" else "white")
        return StackRow(zone.name, rows, moved, None, 0.0, zone.coats, clear=True, primed=primed)
    return StackRow(zone.name, rows, moved, *_hiding(zone, base, shade), zone.coats)


def _hiding(zone: Zone, base: Pot, shade: Pot) -> tuple[int | None, float]:
    """Coats that hide the primer, and what the planned ones leave to be seen of a pre-shade in ΔE00."""
    primer = PRIMER_LAB[zone.primer]
    hide = coats_to_hide(base, (primer,), HIDDEN)
    shaded = "pre-shade" in zone.wear and shade.drops > 0
    return hide, shown_through(base, primer, shade, zone.coats) if shaded else 0.0
