"""Answers about the shelf itself: masstones, their distance from a target, readings turned into paints."""

from __future__ import annotations

import re

import numpy as np
import numpy.typing as npt

from chalkreel.build.answers.mixes import paint_of
from chalkreel.build.paint_entities import ShelfPaint
from chalkreel.build.painting import metered_paint
from chalkreel.build.snapshot import Build
from chalkreel.core.colour.characterise import Tint
from chalkreel.core.colour.cielab import Lab, as_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.mixing import pot_lab, pot_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.materials import Medium, Sheen

Array = npt.NDArray[np.float64]
# How a tint is named in a file of readings: "yellow ochre 1:9", a drop of paint to nine of white.
_TINT = re.compile(r"^(?P<name>.*?)\s+(?P<paint>\d+)\s*:\s*(?P<white>\d+)$")


def masstones(build: Build, target: Lab | None) -> tuple[tuple[ShelfPaint, Lab, float], ...]:
    """Every paint with its masstone and ΔE00 to a target (0 without one)."""
    found = []
    for paint in build.all(ShelfPaint):
        lab = pot_lab(pot_of(((paint.name, 1),), (paint_of(paint),)), paint.sheen)
        apart = 0.0 if target is None else float(delta_e_2000(lab, np.array(target)))
        found.append((paint, as_lab(lab), apart))
    return tuple(found)


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
