"""Which side a still shows, from where its solved camera stands."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.measure.axis import AXES
from chalkreel.core.measure.facing import seen_from
from chalkreel.core.measure.sides import SEVERAL, opposed
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.document.entities import Still
from chalkreel.document.snapshot import Build

# For each still that is told wrongly, so many must be told as their cameras stand.
FEWEST_AGREEING = 2


def guessed_sides(build: Build, reel: ReelAnswer | None) -> Mapping[str, str]:
    """A side by id, for stills of which none is told, and for the odd one that is told the wrong way round.

    Only where another still's side is told and something says how the axes lie: else bow could be aft.
    """
    solution = reel.solution if reel is not None else None
    if solution is None or not _turned(solution):
        return {}
    solved = [s for s in build.all(Still) if s.id in solution.layout.views]
    told = [s for s in solved if s.side != SEVERAL]
    if not told:
        return {}
    middle = np.median([solution.point(key) for key in solution.layout.blocks], axis=0)
    seen = {s.id: seen_from(solution.camera(s.id).position - middle) for s in solved}
    wrong = {s.id for s in told if opposed(s.side, seen[s.id])}
    # The axes themselves rest on what is told: a few cannot outvote each other.
    doubted = wrong if len(wrong) * FEWEST_AGREEING <= len(told) - len(wrong) else set()
    return {s.id: seen[s.id] for s in solved if (s.side == SEVERAL or s.id in doubted) and seen[s.id] != SEVERAL}


def _turned(solution: Solution) -> bool:
    scene = solution.scene
    pairs = any(m.mirror and m.mirror != m.key for m in scene.landmarks)
    return pairs or bool(({e.direction for e in scene.edges} | {p.direction for p in scene.parallels}) & set(AXES))
