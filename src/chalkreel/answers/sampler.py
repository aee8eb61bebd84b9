"""Samples of patches, remembered for as long as still and patch stay the same."""

from __future__ import annotations

from chalkreel.core.colour.sampling import Region, Sample, box, sample_region
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Still
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.snapshot import Build


def region_of(patch: ColourPatch) -> Region:
    """What of its still a patch covers."""
    if patch.outline:
        return Region(patch.outline, patch.brush_px)
    return box(patch.x_px, patch.y_px, patch.width_px, patch.height_px)


class Sampler:
    """Samples stills of one gallery."""

    def __init__(self, gallery: Gallery) -> None:
        self._gallery = gallery
        self._kept: dict[tuple[str, Region], Sample] = {}

    def sample(self, build: Build, patch: ColourPatch) -> Sample:
        """The sample of a patch.

        Raises
        ------
        RefusedError
            Its still is gone, or it covers too little of it.
        """
        still = build.get(Still, patch.still_id)
        if still is None:
            raise RefusedError("The still of this patch has been taken off the reel.")
        key = (picture_name(still), region_of(patch))
        if key not in self._kept:
            self._kept[key] = sample_region(self._gallery.picture(picture_name(still)), key[1])
        return self._kept[key]
