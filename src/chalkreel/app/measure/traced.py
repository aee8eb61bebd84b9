"""View-model of what is traced on a still (no Qt): outlines, parts round a rim, marks on panels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from chalkreel.answers.faces import face_name
from chalkreel.answers.templates import outline_points
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.document.entities import Outline, RepeatedParts, Spot, Still
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers


def traced_strokes(
    build: Build, still: Still, answers: Answers | None, selection: str
) -> tuple[list[Stroke], list[Handle]]:
    """Traced outlines, what of them lies behind something, parts round a rim, and marks on panels."""
    strokes, handles = [], []
    for outline in build.all(Outline):
        if outline.still_id == still.id:
            strong = outline.id == selection
            drawn = outline_points(outline)
            strokes.append(Stroke(drawn, "sky", outline.name, closed=outline.closed, crosses=False, strong=strong))
            handles += [Handle(outline.id, i, m.x_px, m.y_px) for i, m in enumerate(outline.points)]
            if strong:
                strokes += [Stroke(((m.x_px, m.y_px),), "sky") for m in outline.points]
            hidden = answers.behind.get(outline.id) if answers is not None else None
            if hidden is not None:
                words = f"behind {face_name(build, hidden.face_key)}"
                strokes += [Stroke(run, "coral", words, dashed=True, crosses=False) for run in hidden.stretches]
    for parts in build.all(RepeatedParts):
        if parts.still_id == still.id:
            places = tuple((m.x_px, m.y_px) for m in parts.marks)
            strong = parts.id == selection
            strokes.append(Stroke(places, "sky", parts.name if strong else "", closed=True, dashed=True, strong=strong))
            handles += [Handle(parts.id, i, *place) for i, place in enumerate(places)]
    for spot in build.all(Spot):
        if spot.still_id == still.id:
            ends = ((spot.a.x_px, spot.a.y_px), (spot.b.x_px, spot.b.y_px))
            strokes.append(Stroke(ends, "coral", spot.name, strong=spot.id == selection))
            handles += [Handle(spot.id, i, *end) for i, end in enumerate(ends)]
    return strokes, handles
