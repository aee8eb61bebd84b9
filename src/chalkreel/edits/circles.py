"""Circles of the subject as rulers and as sizes: a wheel is often the best ruler that a vehicle has."""

from __future__ import annotations

from msgspec.structs import replace

from chalkreel.document.changes import Edits
from chalkreel.document.entities import Dimension, KnownLength, RoundShape
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made


def known_diameter(build: Build, circle: RoundShape) -> KnownLength | None:
    """The ruler that a circle's diameter is, where it is one."""
    return next((k for k in build.all(KnownLength) if k.circle_id == circle.id), None)


def diameter_known(build: Build, circle: RoundShape, mm: float, sigma_mm: float) -> Edits:
    """The circle's diameter as a ruler of so many mm; of the miniature until told otherwise."""
    known = known_diameter(build, circle)
    if known is None:
        known = KnownLength(
            id=new_id(), name=circle.name, length_mm=mm, sigma_mm=sigma_mm, link="miniature", circle_id=circle.id
        )
    return {known.id: replace(known, length_mm=mm, sigma_mm=sigma_mm)}


def diameter_unknown(build: Build, circle: RoundShape) -> Edits:
    """The circle's diameter as no ruler any more."""
    known = known_diameter(build, circle)
    return {} if known is None else {known.id: None}


def diameter_wanted(build: Build, circle: RoundShape) -> Made:
    """The circle's diameter as a size, the one there is or a new one."""
    present = next((d for d in build.all(Dimension) if d.circle_id == circle.id), None)
    made = present or Dimension(id=new_id(), name=f"{circle.name} diameter", circle_id=circle.id)
    return Made({made.id: made}, made.id)
