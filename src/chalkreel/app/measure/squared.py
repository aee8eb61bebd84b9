"""What the solver knows of a squared-up still: its landmarks, at their own places, for the eye and for clicks."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from chalkreel.answers.templates import landmarks_on
from chalkreel.answers.wording import name_of
from chalkreel.app.session import Session
from chalkreel.app.stills.strokes import Stroke
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build
from chalkreel.edits.snapping import snapped

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers

# A click this near on the screen to a solved landmark means it.
SNAP_PX = 10.0


def solved_strokes(build: Build, still: Still, answers: Answers | None, chosen: set[str]) -> list[Stroke]:
    """Crosses where solved landmarks lie in the still's plane, named where there is room."""
    return [
        Stroke((point,), "mint", name_of(build, key), strong=key in chosen, spare=key not in chosen)
        for key, point in _places(build, still, answers).items()
    ]


def meant(session: Session, zoom: float, x: float, y: float) -> tuple[float, float]:
    """The place that a click in stored pixels means: a solved landmark's on a squared-up still, else what is seen."""
    still, at = session.still, (x, y)
    if still is None:
        return at
    places = _places(session.build, still, session.answers).values()
    gap, place = min(((math.dist(at, place), place) for place in places), default=(math.inf, at))
    return place if gap * zoom <= SNAP_PX else snapped(session.gallery, still, x, y)


def _places(build: Build, still: Still, answers: Answers | None) -> dict[str, tuple[float, float]]:
    sizes = answers.sizes if answers is not None else None
    return landmarks_on(build, sizes, still) if sizes is not None and still.squared is not None else {}
