"""How large each zone is on the replica: by its faces, by measured sizes, or as it was typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.core.figures import plural
from chalkreel.document.entities import SkinFace
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    # Named only: the window's tables ask for areas, and need nothing of what computes a skin.
    from chalkreel.answers.faces import Faces
    from chalkreel.answers.sizes import Sizes

MM2_TO_CM2 = 0.01


@dataclass(frozen=True)
class ZoneArea:
    """An area in cm² and where it comes from, in words; empty where it was typed."""

    cm2: float
    basis: str = ""

    def words(self, unit: str = "") -> str:
        """The area, with its unit where no column names it, and what it comes from."""
        return f"{self.cm2:.0f}{unit}" + (f" from {self.basis}" if self.basis else "")


def zone_areas(build: Build, sizes: Sizes | None, faces: Faces | None) -> Mapping[str, ZoneArea]:
    """The area of every zone, by id; as typed where neither sizes nor faces are known."""
    return {zone.id: _area(build, zone, sizes, faces) for zone in build.all(Zone)}


def area_of(zone: Zone, known: Mapping[str, ZoneArea]) -> ZoneArea:
    """The area of a zone where it is among those known, else as typed."""
    return known.get(zone.id) or ZoneArea(zone.area_cm2)


def _area(build: Build, zone: Zone, sizes: Sizes | None, faces: Faces | None) -> ZoneArea:
    painted = [face for face in build.all(SkinFace) if face.zone_id == zone.id]
    if faces is not None and painted:
        return _of_faces(build, painted, faces)
    mm = {row.dimension_id: row.replica.mm for row in sizes.rows if row.replica is not None} if sizes else {}
    if zone.length_id in mm and zone.height_id in mm:
        area = zone.faces * mm[zone.length_id] * mm[zone.height_id] * MM2_TO_CM2
        return ZoneArea(area, f"{zone.faces} × two sizes" if zone.faces > 1 else "two sizes")
    return ZoneArea(zone.area_cm2)


def _of_faces(build: Build, painted: list[SkinFace], faces: Faces) -> ZoneArea:
    """Faces with their twins; those that are not placed are told."""
    to_replica = build.chain.convert(1.0, "miniature", "replica")
    pieces = [faces.sides(face.id) for face in painted]
    area = sum(piece.area_mm2 for sides in pieces for piece in sides) * to_replica**2 * MM2_TO_CM2
    lost = sum(not sides for sides in pieces)
    words = plural(len(painted), "face")
    return ZoneArea(area, f"{words}, {lost} not placed" if lost else words)
