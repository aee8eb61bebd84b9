"""Paints put on the shelf: typed, metered, from a drawdown card or a file of readings.

What was read is the record; K and S are found from it, and anew where the sheen that it dries to or the shelf's white
turns out to be another.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

import msgspec
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.characterise import Constants, Tint, characterise, guessed_from, white_constants
from chalkreel.core.colour.drawdown import TINTS, CardReading
from chalkreel.core.colour.dry_surface import fitted_surface
from chalkreel.core.colour.kinds import COAT, Lab, Source
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.stripes import SheetReading
from chalkreel.core.colour.surface_terms import SURFACE, seen
from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.materials import SHEENS, Medium, Sheen
from chalkreel.document.changes import Edits
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import Drawdown, ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.camera_readings import (
    by_camera,
    card_doubts,
    card_drawdowns,
    drawdown,
    found_by_camera,
    stripe_drawdowns,
)

Progress = Callable[[float], bool]
# How a tint is named in a file of readings: "yellow ochre 1:9", a drop of paint to nine of white.
_TINT = re.compile(r"^(?P<name>.*?)\s+(?P<paint>\d+)\s*:\s*(?P<white>\d+)$")
# A white reflects so much of every band of the middle of the spectrum.
LEAST_WHITE, WHITE_BANDS = 0.65, slice(7, 33)
# K and S that differ by no more than rounding in a file are the same paint's.
SAME = 1e-3
# Sources, the surest first.
BEST: tuple[Source, ...] = ("metered", "card", "stripe", "guess")
# A bar below the white that is as light as this (L*) is hidden.
HIDDEN_BAR = 85.0
# What a white is called that a stripes sheet tells first.
NEW_WHITE = "white"
NO_WHITE = "Tints are told by the white that they were mixed with, and the shelf has none yet: {way}."


@dataclass(frozen=True)
class Dries:
    """What paints are brought in as: their medium, and the sheen that they dry to."""

    medium: Medium = "water acrylic"
    sheen: Sheen = "matte"


def guessed_paint(name: str, lab: Lab, dries: Dries) -> ShelfPaint:
    """A paint known by its masstone only."""
    return _read(name, dries, "guess", (drawdown(1.0, smooth_spectrum(np.array(lab))),))


def card_paint(name: str, card: CardReading, build: Build, dries: Dries) -> ShelfPaint:
    """A paint from its drawdown card; the first must be of a white.

    Raises
    ------
    RefusedError
        The shelf has no white, and this is none.
    """
    drawdowns = card_drawdowns(card, white=False)
    white = white_name(build) or (name if looks_white(np.array(drawdowns[0].reflectance)) else "")
    if not white:
        raise RefusedError(NO_WHITE.format(way="read the card of your white first"))
    if name == white:
        return _read(name, dries, "card", card_drawdowns(card, white=True), white=True)
    return _read(name, dries, "card", drawdowns)


def stripe_paints(
    sheet: SheetReading, names: Mapping[int, tuple[str, Dries]], build: Build
) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """Paints from the stripes of a sheet by row, the shelf's white with them if it has none, and what was left out.

    Raises
    ------
    RefusedError
        The white's own stripe is bare, or no white; or no other stripe tells a paint.
    """
    known = {p.name: p for p in build.all(ShelfPaint)}
    white, found, told = sheet.stripes[0], list[ShelfPaint](), list(sheet.problems)
    if white.over_black[0] > HIDDEN_BAR:
        told.append("the white’s thin coat hides the bar: how thick the coats are is hardly told; draw it thinner")
    if white.bare:
        raise RefusedError("The first stripe is bare: it is the white’s own, and tells how thick the stripes are.")
    if not white_name(build):
        drawdowns = stripe_drawdowns(white, None)
        if not looks_white(np.array(drawdowns[0].reflectance)):
            raise RefusedError("The first stripe is no white: draw your white there, which the others are told by.")
        found.append(_read(NEW_WHITE, next(iter(names.values()))[1], "stripe", drawdowns, white=True))
    for row, (name, dries) in sorted(names.items()):
        old = known.get(name)
        if sheet.stripes[row].bare:
            told.append(f"“{name}” shows nothing: bare, or a clear")
        elif old is not None and (BEST.index(old.source) < BEST.index("stripe") or is_white(old)):
            told.append(f"“{name}” is known better already")
        else:
            like = dries if old is None else Dries(old.medium, old.sheen)
            try:
                found.append(_read(name, like, "stripe", stripe_drawdowns(sheet.stripes[row], white)))
            except RefusedError:
                told.append(f"“{name}” looks as no paint can: a glare, or a fluorescent one")
                continue
            if not sheet.stripes[row].hides:
                told.append(f"the end of “{name}”, which is to hide, is bare: its colour is less sure")
    if not any(not is_white(paint) for paint in found):
        raise RefusedError(f"No stripe of sheet {sheet.sheet} tells a paint: {'; '.join(told) or 'it has no names'}.")
    return tuple(found), tuple(told)


def looks_white(masstone: Array) -> bool:
    """Whether a masstone (36,) may be the shelf's white."""
    return bool(masstone[WHITE_BANDS].min() > LEAST_WHITE)


def dried_to(build: Build, paint: ShelfPaint, sheen: Sheen) -> Edits:
    """A paint that dries to another sheen than was thought: what was read stays, K and S are found anew.

    With the shelf's white all that was mixed with it is found anew.
    """
    changed = msgspec.structs.replace(paint, sheen=sheen, surface=None)
    if paint.metallic or (paint.clear and paint.source != "guess"):
        return {paint.id: changed}
    if paint.drawdowns:
        return put_on_shelf(build, (changed,))
    white = next((p for p in build.all(ShelfPaint) if is_white(p)), None)
    read = msgspec.structs.replace(changed, drawdowns=_as_seen(paint, white))
    found = _found(read, _surface(read), white if white is None or white.id != paint.id else None)
    return {paint.id: msgspec.structs.replace(found, drawdowns=(), surface=None)}


def called_clear(build: Build, paint: ShelfPaint) -> Edits:
    """A paint that hides nothing. It is bought and laid glossy: a matte one is a varnish with a colour."""
    hiding = msgspec.structs.replace(paint, clear=False, metallic=False)
    glossy = dried_to(build, hiding, "gloss")
    found = glossy.get(paint.id)
    return {**glossy, paint.id: msgspec.structs.replace(found if isinstance(found, ShelfPaint) else hiding, clear=True)}


def put_on_shelf(build: Build, paints: tuple[ShelfPaint, ...], progress: Progress = lambda _: True) -> Edits:
    """Paints for the shelf; one of a name that is there takes its place, keeping price and stock.

    The surfaces of each sheen are fitted to the darkest readings of it; where a surface or the shelf's white is another
    now, all that was read against it is found anew.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    shelf = {p.name: p for p in build.all(ShelfPaint)}
    before = dict(shelf)
    for paint in paints:
        old = shelf.get(paint.name)
        shelf[paint.name] = paint if old is None else _replaced(old, paint)
    fresh = {p.name for p in paints}
    surfaces = _surfaces(shelf.values())
    old_white = next((p for p in before.values() if is_white(p)), None)
    white = next((shelf[p.name] for p in paints if is_white(p)), None) or (old_white and shelf[old_white.name])
    if white is not None and white.drawdowns:
        white = _found(white, surfaces[white.sheen], None)
        shelf[white.name] = white
    anew = white is not None and (old_white is None or _body(white) != _body(old_white))
    for number, (name, paint) in enumerate(shelf.items()):
        if not progress(number / len(shelf)):
            raise StoppedError
        surface = surfaces[paint.sheen]
        moved = paint.surface is None or abs(paint.surface - surface) > 1e-9
        if paint.drawdowns and not is_white(paint) and (name in fresh or moved or (anew and _has_tints(paint))):
            shelf[name] = _found(paint, surface, white)
    return {p.id: p for name, p in shelf.items() if before.get(name) != p}


def shelved(
    build: Build, paints: tuple[ShelfPaint, ...], progress: Progress = lambda _: True
) -> tuple[Edits, tuple[str, ...]]:
    """The same, and what is to be doubted of a card that one of them was read from."""
    edits = put_on_shelf(build, paints, progress)
    after = {p.name: p for p in build.all(ShelfPaint)} | {
        p.name: p for p in edits.values() if isinstance(p, ShelfPaint)
    }
    white = next((p for p in after.values() if is_white(p)), None)
    doubts: tuple[str, ...] = ()
    for paint in (after[p.name] for p in paints if p.source == "card" and by_camera(p.drawdowns)):
        beside = None if white is None or white is paint else _constants(white)
        doubts += card_doubts(paint.drawdowns, _constants(paint), beside, paint.coat)
    return edits, doubts


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

    found = []
    for name, masstone in plain.items():
        like = Dries(known[name].medium, known[name].sheen) if name in known else dries
        drawdowns = (drawdown(1.0, masstone), *(drawdown(t.share, t.reflectance) for t in tints.get(name, ())))
        source: Source = "metered" if name in tints or name == name_of_white else "guess"
        found.append(_read(name, like, source, drawdowns, white=name == name_of_white))
    return tuple(found)


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


def _read(name: str, dries: Dries, source: Source, drawdowns: tuple[Drawdown, ...], white: bool = False) -> ShelfPaint:
    """A paint as it was read; its K and S are a first guess, since only the shelf tells surface and white."""
    if not name.strip():
        raise RefusedError("Name the paint first.")
    surface, masstone = SURFACE[dries.sheen], np.array(drawdowns[0].reflectance)
    constants = white_constants(masstone, surface) if white else guessed_from(masstone, surface)
    k, s = (tuple(round(float(v), 6) for v in values) for values in constants.as_pair())
    return ShelfPaint(
        id=new_id(), name=name.strip(), medium=dries.medium, sheen=dries.sheen, source=source, coat=COAT,
        absorption=k, scattering=s, drawdowns=drawdowns,
    )  # fmt: skip


def _found(paint: ShelfPaint, surface: float, white: ShelfPaint | None) -> ShelfPaint:
    """A paint with K, S and coat as its drawdowns tell them, given what its surface is and the white of its tints."""
    coat = None
    if by_camera(paint.drawdowns):
        beside = None if is_white(paint) or white is None else _constants(white)
        constants, coat = found_by_camera(paint.drawdowns, surface, beside)
    else:
        constants = _metered(paint, surface, white)
    k, s = (tuple(round(float(v), 6) for v in values) for values in constants.as_pair())
    found = msgspec.structs.replace(paint, absorption=k, scattering=s, surface=round(surface, 6))
    return found if coat is None else msgspec.structs.replace(found, coat=round(coat, 3))


def _metered(paint: ShelfPaint, surface: float, white: ShelfPaint | None) -> Constants:
    """K and S from a meter's readings, or from a plain colour."""
    masstone = next(np.array(d.reflectance) for d in paint.drawdowns if d.share == 1.0)
    tints = tuple(Tint(d.share, np.array(d.reflectance)) for d in paint.drawdowns if d.share < 1.0)
    if is_white(paint):
        return white_constants(masstone, surface)
    if paint.source == "guess" or white is None or not tints:
        return guessed_from(masstone, surface)
    return characterise(masstone, tints, _constants(white), surface)


def _surfaces(paints: Iterable[ShelfPaint]) -> dict[Sheen, float]:
    """What surfaces of each sheen scatter into the eye, by the shelf's own readings."""
    found = {}
    for sheen in SHEENS:
        read = [p.drawdowns[0].reflectance for p in paints if p.sheen == sheen and p.drawdowns and p.source != "guess"]
        found[sheen] = fitted_surface(np.array(read), SURFACE[sheen]) if read else SURFACE[sheen]
    return found


def _surface(paint: ShelfPaint) -> float:
    return SURFACE[paint.sheen] if paint.surface is None else paint.surface


def _body(paint: ShelfPaint) -> tuple[object, ...]:
    """All that tints are told by, of a white."""
    return paint.absorption, paint.scattering, paint.surface


def _has_tints(paint: ShelfPaint) -> bool:
    return any(d.share < 1.0 for d in paint.drawdowns)


def _as_seen(paint: ShelfPaint, white: ShelfPaint | None) -> tuple[Drawdown, ...]:
    """What a meter would read of a paint known by K and S only."""
    k, s = np.array(paint.absorption), np.array(paint.scattering)
    found = [drawdown(1.0, seen(reflectance_of(k / s), _surface(paint)))]
    if white is None or paint.source == "guess" or is_white(paint):
        return tuple(found)
    for share in TINTS:
        under = share * s + (1 - share) * np.array(white.scattering)
        ratio = (share * k + (1 - share) * np.array(white.absorption)) / under
        between = share * _surface(paint) + (1 - share) * _surface(white)
        found.append(drawdown(share, seen(reflectance_of(ratio), between)))
    return tuple(found)


def _replaced(old: ShelfPaint, new: ShelfPaint) -> ShelfPaint:
    """A paint in the place of one of its name; of the same paint without its readings the readings stay."""
    before, after = ((*paint.absorption, *paint.scattering) for paint in (old, new))
    same = np.allclose(after, before, rtol=SAME)
    return msgspec.structs.replace(
        new, id=old.id, price_per_ml=new.price_per_ml or old.price_per_ml, note=new.note or old.note,
        ml_left=old.ml_left if new.ml_left is None else new.ml_left,
        drawdowns=new.drawdowns or (old.drawdowns if same else ()),
    )  # fmt: skip


def _constants(paint: ShelfPaint) -> Constants:
    return Constants(np.array(paint.absorption), np.array(paint.scattering), _surface(paint))
