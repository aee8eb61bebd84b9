"""The first entities of a build, and a new still at the end of its reel."""

from __future__ import annotations

from chalkreel.core.media.aspect import likely_shapes
from chalkreel.document.entities import BUILD_ID, SUPPLY_ID, AnyEntity, BuildInfo, Evening, PowerSupply, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build


def new_build(name: str) -> dict[str, AnyEntity]:
    """The first entities of an empty build: a 1:48 replica of something 12 m long, filmed at 1:24, one version."""
    version = Version(id=new_id(), name="First version")
    info = BuildInfo(
        id=BUILD_ID, name=name, story_mm=12_000.0, miniature_mm=500.0, replica_mm=250.0,
        version_id=version.id, kit_version_id=version.id,
    )  # fmt: skip
    evening = Evening(id=new_id(), weekday=5, start="14:00", end="18:00")
    return {e.id: e for e in (info, version, PowerSupply(id=SUPPLY_ID), evening)}


def still_from(build: Build, title: str, blob: str, size_px: tuple[int, int]) -> Still:
    """A new still at the end of the reel; a stored size known from video is taken as shown at 4:3."""
    number = max((s.number for s in build.all(Still)), default=0) + 1
    shapes = likely_shapes(*size_px)
    return Still(
        id=new_id(), title=title, blob=blob, width_px=size_px[0], height_px=size_px[1], number=number,
        version_id=build.info.version_id, pixel_aspect=shapes[0].aspect if shapes else 1.0,
        still_kind="screen frame" if shapes else "other",
    )  # fmt: skip
