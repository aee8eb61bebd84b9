"""Landmarks one by one: twin, where they are marked, how far the worst mark lies off."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from chalkreel.answers.reel import ReelAnswer
from chalkreel.document.entities import Landmark, LandmarkMark
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class LandmarkRow:
    """`mirror_id` as the landmark has it; `still_ids` where it is marked; the worst mark's distance in pixels and σ."""

    id: str
    mirror_id: str
    still_ids: tuple[str, ...]
    placed: bool
    worst_still_id: str = ""
    worst_px: float = 0.0
    worst_sigma: float = 0.0


def landmark_rows(build: Build, reel: ReelAnswer | None) -> tuple[LandmarkRow, ...]:
    """All landmarks, in the order in which they were made."""
    marks: dict[str, list[LandmarkMark]] = {}
    for mark in build.all(LandmarkMark):
        marks.setdefault(mark.landmark_id, []).append(mark)
    return tuple(_row(m, marks.get(m.id, []), reel) for m in build.all(Landmark))


def _row(landmark: Landmark, marks: list[LandmarkMark], reel: ReelAnswer | None) -> LandmarkRow:
    placed = reel is not None and reel.solution is not None and landmark.id in reel.solution.layout.blocks
    row = LandmarkRow(landmark.id, landmark.mirror_id, tuple(m.still_id for m in marks), placed)
    off = []
    for mark in marks:
        gap = reel.residuals.get((mark.still_id, landmark.id)) if reel is not None else None
        if gap is not None:
            off.append((math.hypot(*gap) / mark.mark.sigma_px, math.hypot(*gap), mark.still_id))
    if not off:
        return row
    sigma, px, still_id = max(off)
    return replace(row, worst_still_id=still_id, worst_px=px, worst_sigma=sigma)
