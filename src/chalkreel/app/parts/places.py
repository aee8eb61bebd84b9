"""Where the go-to box can take one (no Qt)."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.document.entities import Dimension, Reading, Still
from chalkreel.document.paint_entities import Surface
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class Place:
    """A stage, perhaps with a still and something on it; no stage means the present one."""

    words: str
    stage: StageName | None
    still_id: str = ""
    entity_id: str = ""


def places(build: Build) -> tuple[Place, ...]:
    """Stages, stills, sizes and surfaces."""
    found = [Place(stage, stage) for stage in STAGES]
    found += [Place(f"still {s.number}: {s.title}", None, s.id) for s in build.all(Still)]
    for dimension in build.all(Dimension):
        reading = next((r for r in build.all(Reading) if r.dimension_id == dimension.id), None)
        found.append(Place(dimension.name, "Measure", reading.still_id if reading else "", dimension.id))
    return (*found, *(Place(s.name, "Colour", "", s.id) for s in build.all(Surface)))
