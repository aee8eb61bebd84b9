"""The demo's photographs of the replica: dry fitted from two sides, then primed with the wheelhouse moved."""

from __future__ import annotations

import json
from typing import Any, Final

from chalkreel.core.measure.marks import Mark
from chalkreel.demo.evidence import DATA
from chalkreel.demo.reel import landmark_id
from chalkreel.document.bench_entities import FindingDecision, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.entities import AnyEntity
from chalkreel.document.store import digest

SIZE_PX: Final = (1280, 960)
# Name of the picture, title, when, stage, the still it answers.
_TAKEN: Final = (
    ("replica-dry-fit", "dry fit, port bow", "2026-11-14T16:10", "dry fit", "still-2"),
    ("replica-dry-fit-aft", "dry fit, port quarter", "2026-11-14T16:12", "dry fit", "still-6"),
    ("replica-primed", "primed, port bow", "2026-11-21T17:30", "primed", "still-2"),
)
_CLICK_SIGMA_PX: Final = 0.7


def photograph_bytes() -> dict[str, bytes]:
    """The pictures by name."""
    return {name: DATA.joinpath(f"{name}.jpg").read_bytes() for name, *_ in _TAKEN}


def photographs() -> list[AnyEntity]:
    """Photographs, their clicks, and a size of the replica by calliper."""
    clicks: list[dict[str, Any]] = json.loads(DATA.joinpath("replica.json").read_text())
    by_name = {one["name"]: one["clicks"] for one in clicks}
    found: list[AnyEntity] = []
    for number, (name, title, at, stage, still_id) in enumerate(_TAKEN, start=1):
        dry = stage == "dry fit"
        photo = ReplicaPhoto(
            id=f"photo-{number}", title=title, blob=digest(photograph_bytes()[name]), width_px=SIZE_PX[0],
            height_px=SIZE_PX[1], number=number, taken_at=at, stage=stage, still_id=still_id,
            missing=("tail fin, port",) if dry else (),
        )  # fmt: skip
        found.append(photo)
        found += [
            ReplicaMark(id=f"{photo.id}-{key}", photo_id=photo.id, landmark_id=landmark_id(key),
                        mark=Mark(x, y, _CLICK_SIGMA_PX))
            for key, (x, y) in by_name[name].items()
        ]  # fmt: skip
    # The missing fin is a job in Convert already.
    found.append(FindingDecision(id="finding-1", assembly="tail fin", side="port", decision="job",
                                 feature_id="feature-5"))  # fmt: skip
    found.append(ReplicaReading(id="replica-reading-1", dimension_id="dim-Hull width at band", length_mm=150.1))
    return found
