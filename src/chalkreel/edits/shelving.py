"""Paints put on the shelf: typed, metered, from a drawdown card or a file of readings.

What was read is the record; K and S are found from it, and anew where the sheen that it dries to or the shelf's white
turns out to be another.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import msgspec
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import Constants, Tint, characterise, guessed_from, white_constants
from chalkreel.core.colour.drawdown import FIELDS, TINTS, CardReading
from chalkreel.core.colour.kinds import COAT, Lab, Source
from chalkreel.core.colour.kubelka_munk import coat_over_black, reflectance_of
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.surface_terms import internal, seen
from chalkreel.core.errors import RefusedError
from chalkreel.core.materials import Medium, Sheen
from chalkreel.document.changes import Edits
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import Drawdown, ShelfPaint
from chalkreel.document.snapshot import Build

# How a tint is named in a file of readings: "yellow ochre 1:9", a drop of paint to nine of white.
_TINT = re.compile(r"^(?P<name>.*?)\s+(?P<paint>\d+)\s*:\s*(?P<white>\d+)$")
# A white reflects so much of every band of the middle of the spectrum.
LEAST_WHITE, WHITE_BANDS = 0.65, slice(7, 33)
NO_WHITE = "Tints are told by the white that they were mixed with, and the shelf has none yet: {way}."


@dataclass(frozen=True)
class Dries:
    """What paints are brought in as: their medium, and the sheen that they dry to."""

    medium: Medium = "water acrylic"
    sheen: Sheen = "matte"


def guessed_paint(name: str, lab: Lab, dries: Dries) -> ShelfPaint:
    """A paint known by its masstone only."""
    return _known_by(name, dries, "guess", (_drawdown(1.0, smooth_spectrum(np.array(lab))),), None)


def card_paint(name: str, card: CardReading, build: Build, dries: Dries) -> tuple[ShelfPaint, tuple[str, ...]]:
    """A paint from its drawdown card, and what the card could not tell; the first must be of a white.

    Raises
    ------
    RefusedError
        The shelf has no white, and this is none.
    """
    masstone = smooth_spectrum(card.colours[FIELDS[0]])
    black = _drawdown(1.0, smooth_spectrum(card.colours[FIELDS[1]]), black=True)
    white = _white_of(build)
    if name == white_name(build) or (white is None and looks_white(masstone)):
        paint = _white(name, dries, "card", (_drawdown(1.0, masstone), black))
    elif white is None:
        raise RefusedError(NO_WHITE.format(way="read the card of your white first"))
    else:
        tints = (_drawdown(share, smooth_spectrum(card.colours[field]))
                 for field, share in zip(FIELDS[2:], TINTS, strict=True))  # fmt: skip
        paint = _known_by(name, dries, "card", (_drawdown(1.0, masstone), *tints, black), white)
    coat = _coat(paint)
    if coat is None:
        return paint, ("the coat over black tells no thickness: a usual coat is taken",)
    return msgspec.structs.replace(paint, coat=round(coat, 3)), ()


def looks_white(masstone: Array) -> bool:
    """Whether a masstone (36,) may be the shelf's white."""
    return bool(masstone[WHITE_BANDS].min() > LEAST_WHITE)


def dried_to(build: Build, paint: ShelfPaint, sheen: Sheen) -> Edits:
    """A paint that dries to another sheen than was thought: what was read stays, K and S are found anew.

    With the shelf's white all that was mixed with it is found anew.
    """
    if paint.clear or paint.metallic:
        return {paint.id: msgspec.structs.replace(paint, sheen=sheen)}
    white = _white_of(build)
    drawdowns = paint.drawdowns or _as_seen(paint, white)
    changed = msgspec.structs.replace(paint, sheen=sheen)
    return put_on_shelf(build, (_found_anew(changed, drawdowns, white, keep=bool(paint.drawdowns)),))


def put_on_shelf(build: Build, paints: tuple[ShelfPaint, ...]) -> Edits:
    """Paints for the shelf; one of a name that is there takes its place, keeping price and stock.

    Where the shelf's white is another now, all that was read in tints of it is found anew.
    """
    known = {p.name: p for p in build.all(ShelfPaint)}
    edits: Edits = {}
    for paint in paints:
        old = known.get(paint.name)
        edits[old.id if old else paint.id] = paint if old is None else _replaced(old, paint)
    white = next((p for p in paints if is_white(p)), None)
    if white is not None:
        for paint in build.all(ShelfPaint):
            if paint.id not in edits and paint.drawdowns and not is_white(paint):
                edits[paint.id] = _found_anew(paint, paint.drawdowns, _constants(white))
    return edits


def is_white(paint: ShelfPaint) -> bool:
    """Whether it is the white that all S are relative to: its own is 1 all along."""
    return bool(np.allclose(paint.scattering, 1.0, atol=1e-6))


def white_name(build: Build) -> str:
    """The shelf's white; empty where there is none."""
    return next((p.name for p in build.all(ShelfPaint) if is_white(p)), "")


def readings_to_paints(
    readings: tuple[tuple[str, Array], ...], build: Build, dries: Dries = Dries()
) -> tuple[ShelfPaint, ...]:
    """Paints from readings: plain names are masstones, 'name 1:9' a tint of one drop with nine of white.

    Where the shelf has no white yet it is looked for among them. What is on the shelf already keeps its medium and
    sheen. One without tints is known by its masstone only: its strength is a guess.

    Raises
    ------
    RefusedError
        A tint without its masstone, or without a white that it was mixed with.
    """
    plain, tints = _sorted_out(readings)
    known = {p.name: p for p in build.all(ShelfPaint)}
    name_of_white = white_name(build) or _white_among(plain)
    if tints and not name_of_white:
        raise RefusedError(NO_WHITE.format(way="put its reading into the file, or bring it in first"))

    def like(name: str) -> Dries:
        return Dries(known[name].medium, known[name].sheen) if name in known else dries

    white = _white_of(build)
    found: dict[str, ShelfPaint] = {}
    if name_of_white in plain:
        first = (_drawdown(1.0, plain[name_of_white]),)
        found[name_of_white] = _white(name_of_white, like(name_of_white), "metered", first)
        white = _constants(found[name_of_white])
    for name in plain.keys() - found.keys():
        drawdowns = (_drawdown(1.0, plain[name]), *(_drawdown(t.share, t.reflectance) for t in tints.get(name, ())))
        found[name] = _known_by(name, like(name), "metered" if name in tints else "guess", drawdowns, white)
    return tuple(found[name] for name in plain)


def _sorted_out(readings: tuple[tuple[str, Array], ...]) -> tuple[dict[str, Array], dict[str, list[Tint]]]:
    """Masstones and tints by name."""
    plain: dict[str, Array] = {}
    tints: dict[str, list[Tint]] = {}
    for name, reflectance in readings:
        match = _TINT.match(name)
        if match is None:
            plain[name] = reflectance
        else:
            paint, white = int(match["paint"]), int(match["white"])
            tints.setdefault(match["name"], []).append(Tint(paint / max(1, paint + white), reflectance))
    lost = [name for name in tints if name not in plain]
    if lost:
        raise RefusedError(f"The file has tints of “{lost[0]}” but not its masstone.")
    return plain, tints


def _white_among(masstones: dict[str, Array]) -> str:
    """The lightest of masstones, if it is a white."""
    lightest = max(masstones, key=lambda name: float(masstones[name][WHITE_BANDS].min()), default="")
    return lightest if lightest and looks_white(masstones[lightest]) else ""


def _found_anew(
    paint: ShelfPaint, drawdowns: tuple[Drawdown, ...], white: Constants | None, keep: bool = True
) -> ShelfPaint:
    """A paint with K and S from its drawdowns; these stay with it if they were read."""
    dries = Dries(paint.medium, paint.sheen)
    if is_white(paint):
        found = _white(paint.name, dries, paint.source, drawdowns)
    else:
        found = _known_by(paint.name, dries, paint.source, drawdowns, white)
    return msgspec.structs.replace(
        paint, absorption=found.absorption, scattering=found.scattering, drawdowns=drawdowns if keep else ()
    )


def _as_seen(paint: ShelfPaint, white: Constants | None) -> tuple[Drawdown, ...]:
    """What a meter would read of a paint known by K and S only."""
    k, s = np.array(paint.absorption), np.array(paint.scattering)
    shares = (1.0, *TINTS) if white is not None and paint.source != "guess" and not is_white(paint) else (1.0,)
    found = []
    for share in shares:
        under = share * s + (1 - share) * (white.scattering if white else 0.0)
        ratio = (share * k + (1 - share) * (white.absorption if white else 0.0)) / under
        found.append(_drawdown(share, seen(reflectance_of(ratio), paint.sheen)))
    return tuple(found)


def _known_by(
    name: str, dries: Dries, source: Source, drawdowns: tuple[Drawdown, ...], white: Constants | None
) -> ShelfPaint:
    masstone = next(np.array(d.reflectance) for d in drawdowns if d.share == 1.0 and not d.black)
    tints = tuple(Tint(d.share, np.array(d.reflectance)) for d in drawdowns if d.share < 1.0)
    if source == "guess" or white is None:
        return _shelf_paint(name, guessed_from(masstone, dries.sheen), dries, source, drawdowns)
    return _shelf_paint(name, characterise(masstone, tints, white, dries.sheen, source), dries, source, drawdowns)


def _white(name: str, dries: Dries, source: Source, drawdowns: tuple[Drawdown, ...]) -> ShelfPaint:
    masstone = np.array(drawdowns[0].reflectance)
    return _shelf_paint(name, white_constants(masstone, dries.sheen), dries, source, drawdowns)


def _coat(paint: ShelfPaint) -> float | None:
    over = next(np.array(d.reflectance) for d in paint.drawdowns if d.black)
    return coat_over_black(internal(over, paint.sheen), *_constants(paint).as_pair())


def _drawdown(share: float, reflectance: Array, black: bool = False) -> Drawdown:
    return Drawdown(share, tuple(round(max(0.0, float(v)), 6) for v in reflectance), black)


def _replaced(old: ShelfPaint, new: ShelfPaint) -> ShelfPaint:
    return msgspec.structs.replace(
        new, id=old.id, price_per_ml=new.price_per_ml or old.price_per_ml, note=new.note or old.note,
        ml_left=old.ml_left if new.ml_left is None else new.ml_left,
    )  # fmt: skip


def _constants(paint: ShelfPaint) -> Constants:
    return Constants(np.array(paint.absorption), np.array(paint.scattering))


def _white_of(build: Build) -> Constants | None:
    paint = next((p for p in build.all(ShelfPaint) if is_white(p)), None)
    return _constants(paint) if paint is not None else None


def _shelf_paint(
    name: str, constants: Constants, dries: Dries, source: Source, drawdowns: tuple[Drawdown, ...]
) -> ShelfPaint:
    if not name.strip():
        raise RefusedError("Name the paint first.")
    return ShelfPaint(
        id=new_id(), name=name.strip(), medium=dries.medium, sheen=dries.sheen, source=source, coat=COAT,
        absorption=tuple(round(float(v), 6) for v in constants.absorption),
        scattering=tuple(round(float(v), 6) for v in constants.scattering), drawdowns=drawdowns,
    )  # fmt: skip
