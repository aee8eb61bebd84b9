"""The three views with a number at the place of each feature that has a job."""

from __future__ import annotations

from dataclasses import replace

from chalkreel.answers.drawing import three_view
from chalkreel.answers.faces import Faces
from chalkreel.answers.sizes import Sizes
from chalkreel.core.draft.sheet import Sheet
from chalkreel.core.draft.three_view import Named3
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Dimension, Feature
from chalkreel.document.snapshot import Build

Place = tuple[float, float, float]


def feature_place(build: Build, sizes: Sizes, feature: Feature) -> Place | None:
    """Where a feature sits, mm of the replica: at its landmark, else in the middle of what it is measured by."""
    solution = sizes.reel.solution
    if solution is None:
        return None
    dimension = build.get(Dimension, feature.dimension_id)
    ids = [feature.landmark_id] if feature.landmark_id else [dimension.a_id, dimension.b_id] if dimension else []
    points = [solution.point(i) for i in ids if i in solution.layout.blocks]
    if not points and dimension is not None and dimension.circle_id in solution.layout.circles:
        points = [solution.unknowns.circles[solution.layout.circles[dimension.circle_id]][:3]]
    if not points:
        return None
    factor = build.chain.convert(1.0, "miniature", "replica")
    x, y, z = (float(sum(p[n] for p in points)) / len(points) * factor for n in range(3))
    return x, y, z


def jobs_drawing(
    build: Build, sizes: Sizes, faces: Faces, feature_ids: tuple[str, ...], chosen: str
) -> tuple[Sheet, tuple[str, ...]]:
    """The drawing, each feature by its number in the list, the chosen one ringed; and those that have no place.

    Raises
    ------
    RefusedError
        Nothing is solved yet, or nothing gives the scale.
    """
    if sizes.reel.solution is None:
        raise RefusedError("Solve the reel in Measure first: jobs are shown on the three views.")
    named: list[Named3] = []
    without: list[str] = []
    for number, feature_id in enumerate(feature_ids, start=1):
        feature = build.get(Feature, feature_id)
        place = feature_place(build, sizes, feature) if feature is not None else None
        if place is None:
            without.append(feature_id)
            continue
        named.append(Named3(place, str(number), feature_id == chosen))
    sheet = three_view(build, sizes, faces, tuple(named))
    return replace(sheet, name="Where the jobs are"), tuple(without)
