"""What photographs of painted sheets tell of a paint: a drawdown card's fields, or a stripe over paper and black."""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.camera_fit import CameraField, coat_of, fit_fields, misfits, tells_coat
from chalkreel.core.colour.characterise import Constants, guessed_from
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.drawdown import FIELDS, TINTS, CardReading
from chalkreel.core.colour.kubelka_munk import PRINTED_BLACK
from chalkreel.core.colour.marked_sheet import PAPER
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import xyz_of_reflectance
from chalkreel.core.colour.stripes import StripeReading
from chalkreel.core.errors import RefusedError
from chalkreel.document.paint_entities import Drawdown

# How unlike in thickness two stripes of one hand and one sheet are (1 σ of the logarithm).
HAND: Final = 0.15
# A field this far (ΔE00) from what the others foretell was mixed, painted or photographed otherwise.
UNLIKE: Final = 3.5
# A reading more vivid than any paint is the camera's doing: it is drawn towards grey in such steps, down to this.
GREYING, GREYEST = 0.95, 0.7
Drawdowns = tuple[Drawdown, ...]


def drawdown(share: float, reflectance: Array, black: bool = False, paper: bool = False) -> Drawdown:
    """A reading (36,) as the document keeps it."""
    return Drawdown(share, tuple(round(max(0.0, float(v)), 6) for v in reflectance), black, paper)


def card_drawdowns(card: CardReading, white: bool) -> Drawdowns:
    """What a card shows; that of the white has no tints."""
    shown = {name: _spectrum(lab) for name, lab in card.colours.items()}
    tints = () if white else tuple(drawdown(s, shown[f]) for f, s in zip(FIELDS[2:], TINTS, strict=True))
    return drawdown(1.0, shown[FIELDS[0]]), *tints, drawdown(1.0, shown[FIELDS[1]], black=True)


def stripe_drawdowns(paint: StripeReading, white: StripeReading | None) -> Drawdowns:
    """What a stripe shows, and that of the white on its sheet (none for the white itself)."""
    found: Drawdowns = (drawdown(1.0, _spectrum(paint.hiding)),) if paint.hides else ()
    for stripe, share in ((paint, 1.0), (white, 0.0)):
        if stripe is not None:
            found += (drawdown(share, _spectrum(stripe.over_paper), paper=True),
                      drawdown(share, _spectrum(stripe.over_black), black=True))  # fmt: skip
    return found


def by_camera(drawdowns: Drawdowns) -> bool:
    """Whether they were photographed."""
    return any(d.black or d.paper for d in drawdowns)


def found_by_camera(drawdowns: Drawdowns, surface: float, white: Constants | None) -> tuple[Constants, float | None]:
    """K and S of a photographed paint, and how thick a coat is where its card tells; without a `white` it is that."""
    own, beside = _fields(drawdowns, 1.0), _fields(drawdowns, 0.0)
    if any(d.paper for d in drawdowns):
        if white is None and beside:
            # The white is gone since: nothing tells how thick the stripes are.
            return guessed_from(np.array(drawdowns[0].reflectance), surface), None
        near = coat_of(beside, white) if white is not None and beside else None
        thick = {} if near is None else {"coat": near[0], "coat_sigma": float(np.hypot(near[1], HAND))}
        return fit_fields(own, white, surface, **thick)[0], None
    constants, coat = fit_fields(_fields(drawdowns), white, surface)
    return constants, coat if tells_coat(own, constants, coat) else None


def card_doubts(drawdowns: Drawdowns, paint: Constants, white: Constants | None, coat: float) -> tuple[str, ...]:
    """Which fields of a card do not go with the others, and whether the coat over black tells its thickness."""
    fields = _fields(drawdowns)
    found = []
    names = {1.0: FIELDS[0], **dict(zip(TINTS, FIELDS[2:], strict=True))}
    for field, apart in zip(fields, misfits(fields, paint, white, coat), strict=True):
        if field.ground is None and apart > UNLIKE:
            found.append(f"“{names[field.share]}” does not go with the other fields (ΔE00 {apart:.0f}): were its drops "
                         "counted right, and does it hide?")  # fmt: skip
    if not tells_coat(fields, paint, coat):
        found.append("the coat over black tells no thickness: a usual coat is taken")
    return tuple(found)


def _fields(drawdowns: Drawdowns, share: float | None = None) -> tuple[CameraField, ...]:
    """Readings as a camera gave them, all or those of a share."""
    return tuple(
        CameraField(
            lab_of_xyz(xyz_of_reflectance(np.array(d.reflectance))), d.share or 1.0,
            PAPER if d.paper else PRINTED_BLACK if d.black else None,
        )
        for d in drawdowns if share is None or d.share == share
    )  # fmt: skip


def _spectrum(lab: Array) -> Array:
    """A reflectance (36,) with a colour that a camera told.

    Raises
    ------
    RefusedError
        No paint comes near it.
    """
    grey = np.array([float(np.clip(lab[0], 4.0, 97.0)), 0.0, 0.0])
    share = 1.0
    while True:
        try:
            return smooth_spectrum(grey + share * np.array([0.0, lab[1], lab[2]]))
        except RefusedError:
            share *= GREYING
            if share < GREYEST:
                raise
