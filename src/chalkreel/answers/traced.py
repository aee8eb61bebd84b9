"""Outlines traced on squared-up stills, placed in space: what faces are made of where no landmark can be marked."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np

from chalkreel.answers.reel import ReelAnswer
from chalkreel.core.draft.node import Node
from chalkreel.core.draft.template import edges_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.faces.loft import Profile
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.measure.anchored import Anchored, anchored
from chalkreel.core.measure.quantities import Distance, measure
from chalkreel.document.entities import Outline, Still
from chalkreel.document.snapshot import Build


def plane_now(reel: ReelAnswer, still: Still) -> Anchored | None:
    """Where a squared-up still lies in the model as it is solved now."""
    solution = reel.solution
    if still.squared is None or solution is None:
        return None
    known = [(key, (x, y)) for key, x, y in still.squared.anchors if key in solution.layout.blocks]
    try:
        return anchored(
            np.array([solution.point(key) for key, _ in known]).reshape(-1, 3),
            np.array([place for _, place in known]).reshape(-1, 2),
        )
    except RefusedError:
        return None


def traced_within(build: Build, reel: ReelAnswer, outline: Outline) -> float | None:
    """How surely the larger extent of a traced outline is known, mm of the replica (95 %): by its clicks, and by the
    landmarks that its squared-up still lies by, with the rulers. None where that is not known.
    """
    still, solution, spread = build.get(Still, outline.still_id), reel.solution, reel.spread
    if still is None or still.squared is None or solution is None or spread is None or plane_now(reel, still) is None:
        return None
    if not (solution.scene.rulers or solution.scene.gauges):
        return None
    known = [(key, (x, y)) for key, x, y in still.squared.anchors if key in solution.layout.blocks]
    (a, _), (b, _) = max(combinations(known, 2), key=lambda pair: math.dist(pair[0][1], pair[1][1]))
    (across,) = measure(solution, spread, (Distance(a, b),))
    to_replica = build.chain.convert(still.squared.mm_per_px, "miniature", "replica")
    extent_px = float(np.ptp([(m.x_px, m.y_px) for m in outline.points], axis=0).max())
    clicks_px = math.sqrt(2.0) * max(m.sigma_px for m in outline.points)
    return NORMAL_95 * to_replica * math.hypot(across.sigma / across.value * extent_px, clicks_px)


def profile_of(build: Build, reel: ReelAnswer, outline: Outline) -> Profile:
    """A traced outline as a curve in space, mm of the miniature.

    Raises
    ------
    RefusedError
        Its still does not lie in the model, or it cannot be drawn.
    """
    still = build.get(Still, outline.still_id)
    assert still is not None
    plane = plane_now(reel, still)
    if plane is None:
        raise RefusedError(
            f"Where “{still.title}” lies in space is not known: square it up from a flat of three landmarks or more."
        )
    nodes = tuple(Node(m.x_px, m.y_px, bend) for m, bend in zip(outline.points, outline.bends, strict=True))
    edges = [np.array(edge) for edge in edges_of(nodes, outline.closed)]
    cornered = not outline.closed or "corner" in outline.bends
    if not cornered:
        edges = [np.concatenate([edges[0], edges[0][:1]])]
    return Profile(tuple(plane.in_space(edge) for edge in edges), outline.closed, cornered)
