"""Paints put on the shelf: typed, metered, from a drawdown card or a file of readings."""

from __future__ import annotations

import re

import msgspec
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import Constants, Tint, characterise, guessed, white_constants
from chalkreel.core.colour.drawdown import FIELDS, TINTS, CardReading
from chalkreel.core.colour.kinds import COAT, Lab, Source
from chalkreel.core.colour.kubelka_munk import coat_over_black
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.surface_terms import internal
from chalkreel.core.errors import RefusedError
from chalkreel.core.materials import Medium, Sheen
from chalkreel.document.changes import Edits
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build

# How a tint is named in a file of readings: "yellow ochre 1:9", a drop of paint to nine of white.
_TINT = re.compile(r"^(?P<name>.*?)\s+(?P<paint>\d+)\s*:\s*(?P<white>\d+)$")


def guessed_paint(name: str, lab: Lab, medium: Medium, sheen: Sheen) -> ShelfPaint:
    """A paint known by its masstone only."""
    return _shelf_paint(name, guessed(np.array(lab), sheen), medium, sheen, "guess")


def metered_paint(
    name: str, masstone: Array, tints: tuple[Tint, ...], build: Build,
    medium: Medium, sheen: Sheen,
) -> ShelfPaint:  # fmt: skip
    """A paint from metered swatches."""
    white = _white_of(build)
    constants = characterise(masstone, tints, white, sheen) if white else white_constants(masstone, sheen)
    return _shelf_paint(name, constants, medium, sheen, "metered")


def card_paint(name: str, card: CardReading, build: Build, medium: Medium, sheen: Sheen) -> ShelfPaint:
    """A paint from its drawdown card; where the shelf has no white yet, this one is taken for it."""
    masstone = smooth_spectrum(card.colours[FIELDS[0]])
    white = _white_of(build)
    if white is None:
        return _shelf_paint(name, white_constants(masstone, sheen), medium, sheen, "card")
    tints = tuple(
        Tint(share, smooth_spectrum(card.colours[field])) for field, share in zip(FIELDS[2:], TINTS, strict=True)
    )
    constants = characterise(masstone, tints, white, sheen, "card")
    coat = coat_over_black(internal(smooth_spectrum(card.colours[FIELDS[1]]), sheen), *constants.as_pair(), COAT)
    return msgspec.structs.replace(_shelf_paint(name, constants, medium, sheen, "card"), coat=round(coat, 3))


def put_on_shelf(build: Build, paints: tuple[ShelfPaint, ...]) -> Edits:
    """Paints for the shelf; one of a name that is there takes its place, keeping price and stock."""
    known = {p.name: p for p in build.all(ShelfPaint)}
    edits: Edits = {}
    for paint in paints:
        old = known.get(paint.name)
        edits[old.id if old else paint.id] = paint if old is None else _replaced(old, paint)
    return edits


def _replaced(old: ShelfPaint, new: ShelfPaint) -> ShelfPaint:
    return msgspec.structs.replace(
        new, id=old.id, price_per_ml=new.price_per_ml or old.price_per_ml, note=new.note or old.note,
        ml_left=old.ml_left if new.ml_left is None else new.ml_left,
    )  # fmt: skip


def white_name(build: Build) -> str:
    """The shelf's white, the paint whose S is 1 all along; empty where there is none."""
    return next((p.name for p in build.all(ShelfPaint) if np.allclose(p.scattering, 1.0, atol=1e-6)), "")


def _white_of(build: Build) -> Constants | None:
    paint = next((p for p in build.all(ShelfPaint) if p.name == white_name(build)), None)
    return Constants(np.array(paint.absorption), np.array(paint.scattering)) if paint is not None else None


def _shelf_paint(name: str, constants: Constants, medium: Medium, sheen: Sheen, source: Source) -> ShelfPaint:
    if not name.strip():
        raise RefusedError("Name the paint first.")
    return ShelfPaint(
        id=new_id(), name=name.strip(), medium=medium, sheen=sheen, source=source,
        absorption=tuple(round(float(v), 6) for v in constants.absorption),
        scattering=tuple(round(float(v), 6) for v in constants.scattering),
    )  # fmt: skip


def readings_to_paints(readings: tuple[tuple[str, Array], ...], build: Build) -> tuple[ShelfPaint, ...]:
    """Paints from readings: plain names are masstones, 'name 1:9' a tint of one drop with nine of white.

    Raises
    ------
    RefusedError
        A tint without its masstone.
    """
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
    known = {p.name: p for p in build.all(ShelfPaint)}
    found = []
    for name, masstone in plain.items():
        like = known.get(name)
        medium: Medium = like.medium if like else "water acrylic"
        sheen: Sheen = like.sheen if like else "matte"
        found.append(metered_paint(name, masstone, tuple(tints.get(name, ())), build, medium, sheen))
    return tuple(found)
