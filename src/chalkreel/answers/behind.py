"""Where an outline was traced on a squared-up still, but something stands before that edge on the still it shows."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from chalkreel.answers.faces import Faces, face_name
from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.templates import outline_points
from chalkreel.answers.traced import plane_now
from chalkreel.answers.wording import still_list
from chalkreel.core.faces.loft import evenly_along
from chalkreel.document.entities import Outline, Still
from chalkreel.document.snapshot import Build

# So many places along an outline are looked at; fewer hidden ones than this share are not worth a word.
LOOKS, LEAST_SHARE = 160, 0.02


@dataclass(frozen=True)
class Behind:
    """Stretches of an outline, in stored pixels, that a face hides; their share of its length, and the face's key."""

    stretches: tuple[tuple[tuple[float, float], ...], ...] = ()
    share: float = 0.0
    face_key: str = ""


def behind(build: Build, faces: Faces, reel: ReelAnswer, outline: Outline) -> Behind:
    """What of an outline is hidden on all stills that its squared-up still was made from; nothing where that is not
    known.
    """
    still = build.get(Still, outline.still_id)
    assert still is not None
    plane, solution = plane_now(reel, still), reel.solution
    sources = still.squared.source_ids if still.squared is not None else ()
    if plane is None or solution is None or not sources or any(i not in solution.layout.views for i in sources):
        return Behind()
    drawn = np.array(outline_points(outline))
    places = evenly_along(np.concatenate([drawn, drawn[:1]]) if outline.closed else drawn, LOOKS)
    points = plane.in_space(places)
    hiding = np.stack([faces.skin.hiding(solution.camera(source), points) for source in sources])
    hidden = np.all(hiding >= 0, axis=0)
    if hidden.mean() < LEAST_SHARE:
        return Behind()
    counts = np.bincount(hiding[:, hidden].ravel())
    runs = [list(run) for is_hidden, run in itertools.groupby(range(len(places)), lambda n: bool(hidden[n]))
            if is_hidden]  # fmt: skip
    stretches = tuple(tuple((float(x), float(y)) for x, y in places[run]) for run in runs)
    return Behind(stretches, float(hidden.mean()), faces.skin.faces[int(np.argmax(counts))].key)


def behind_words(build: Build, outline: Outline, found: Behind) -> str:
    """What to mind where a part of an outline is hidden; empty where none is."""
    still = build.get(Still, outline.still_id)
    if not found.stretches or still is None or still.squared is None:
        return ""
    sources = (build.get(Still, i) for i in still.squared.source_ids)
    numbers = tuple(source.number for source in sources if source is not None)
    return (
        f"{outline.name}: {100 * found.share:.0f} % of it lies behind “{face_name(build, found.face_key)}” on "
        f"{still_list(numbers)}. What is traced there is the edge of what hides it: take a template from landmarks (W)"
    )
