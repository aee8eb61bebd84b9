"""Answers about the shelf itself: masstones and their distance from a target."""

from __future__ import annotations

import numpy as np

from chalkreel.answers.mixes import paint_of
from chalkreel.core.colour.cielab import as_lab
from chalkreel.core.colour.clear_coats import one_coat
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.mixing import pot_lab, pot_of
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build


def masstones(build: Build, target: Lab | None) -> tuple[tuple[ShelfPaint, Lab, float], ...]:
    """Every paint with its masstone (of a clear, one coat over white) and ΔE00 to a target (0 without one)."""
    found = []
    for paint in build.all(ShelfPaint):
        lab = masstone(paint)
        apart = 0.0 if target is None else float(delta_e_2000(np.array(lab), np.array(target)))
        found.append((paint, lab, apart))
    return tuple(found)


def masstone(shelved: ShelfPaint) -> Lab:
    """The colour that a paint is shown by."""
    paint = paint_of(shelved)
    return one_coat(paint) if paint.clear else as_lab(pot_lab(pot_of(((paint.name, 1),), (paint,))))
