"""The first entities of a build, and a new still at the end of its reel."""

from __future__ import annotations

from dataclasses import dataclass

from chalkreel.core.lengths import LengthUnit
from chalkreel.core.media.aspect import likely_shapes
from chalkreel.core.scale import ScaleChain
from chalkreel.document.entities import BUILD_ID, AnyEntity, BuildInfo, Source, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.finish_entities import Evening
from chalkreel.document.light_entities import SUPPLY_ID, PowerSupply
from chalkreel.document.snapshot import Build


@dataclass(frozen=True)
class Beginning:
    """What is told of a build before it is begun; the lengths of the chain are overall."""

    name: str
    chain: ScaleChain
    version: str = "First version"
    unit: LengthUnit = "mm"
    sources: tuple[Source, ...] = ("kit",)
    dark: bool = False


def new_build(told: Beginning) -> dict[str, AnyEntity]:
    """The first entities of a build: what was told, one version, one bench evening."""
    version = Version(id=new_id(), name=told.version)
    chain = told.chain
    info = BuildInfo(
        id=BUILD_ID, name=told.name, story_mm=chain.story_mm, miniature_mm=chain.miniature_mm,
        replica_mm=chain.replica_mm, version_id=version.id, kit_version_id=version.id, unit=told.unit,
        sources=told.sources, dark=told.dark,
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
