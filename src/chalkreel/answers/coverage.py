"""What evidence there is, and what the kit lacks."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.measure.sides import parts_of
from chalkreel.document.entities import KitPart, Still
from chalkreel.document.snapshot import Build

WANTED_SIDES = ("port", "starboard", "bow", "aft", "top")


@dataclass(frozen=True)
class Coverage:
    """How many stills show each side of the version being built, and the parts that need care."""

    stills_by_side: dict[str, int]
    other_versions: int
    missing: tuple[KitPart, ...]
    faulty: tuple[KitPart, ...]

    @property
    def bare_sides(self) -> tuple[str, ...]:
        """Sides without any still."""
        return tuple(side for side, count in self.stills_by_side.items() if count == 0)


def coverage(build: Build) -> Coverage:
    """Count the stills of the version being built by side; stills of other versions do not count."""
    stills = [s for s in build.all(Still) if s.squared is None]
    ours = [s for s in stills if s.version_id == build.info.version_id]
    parts = build.all(KitPart)
    return Coverage(
        {side: sum(side in parts_of(s.side) for s in ours) for side in WANTED_SIDES},
        len(stills) - len(ours),
        tuple(p for p in parts if p.state == "missing"),
        tuple(p for p in parts if p.state not in ("present", "missing")),
    )
