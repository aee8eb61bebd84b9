"""All suspicions: whole stills first, so that marks are judged with what is wrong about their still put right."""

from __future__ import annotations

from collections.abc import Callable

from chalkreel.core.measure.faults.fault import Fault, repaired
from chalkreel.core.measure.faults.lenses import Cure, lens_cure
from chalkreel.core.measure.faults.marks import mark_faults
from chalkreel.core.measure.faults.rulers import ruler_faults
from chalkreel.core.measure.faults.views import view_cure, with_untied
from chalkreel.core.measure.faults.zoom import zoom_cure
from chalkreel.core.measure.scene import Scene
from chalkreel.core.measure.solver.normal import Equations
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.solver.spread import Spread
from chalkreel.core.measure.start.deeper import deeper

MOST_CURES = 6
Progress = Callable[[float], bool]


def find_faults(
    scene: Scene, solution: Solution, spread: Spread, progress: Progress = lambda _: True
) -> tuple[Fault, ...]:
    """All suspicions: whole stills as they were told, then rulers and marks, the strongest first.

    `scene` is whole, with views that could not be tied in.

    Raises
    ------
    StoppedError
        `progress` said to stop.
    """
    found: list[Fault] = []
    mended, at = scene, solution
    for _ in range(MOST_CURES):
        cure = view_cure(mended, at, progress) or _framing_cure(with_untied(mended, at, progress), progress)
        if cure is None:
            break
        found += cure.faults
        for fault in cure.faults:
            mended = repaired(mended, fault)
        at = deeper(cure.solution, progress)
    if found:
        spread = Spread(Equations(at.layout), at)
    marks = sorted([*ruler_faults(at, spread), *mark_faults(at)], key=lambda fault: -fault.strength)
    return (*found, *marks)


def _framing_cure(solution: Solution, progress: Progress) -> Cure | None:
    tried = [cure for cure in (lens_cure(solution, progress), zoom_cure(solution, progress)) if cure]
    return max(tried, key=lambda cure: cure.gain, default=None)
