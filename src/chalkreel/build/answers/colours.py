"""The colour of every surface with the light taken out, and drops from the shelf that make it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from chalkreel.build.entities import ColourPatch, ShelfPaint, Still, Surface
from chalkreel.build.gallery import Gallery
from chalkreel.build.snapshot import Build
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.consensus import SurfaceColour, consensus
from chalkreel.core.colour.recipe import Paint, Recipe, find_recipes, predict_recipe
from chalkreel.core.colour.sampling import Patch, Sample, sample_patch
from chalkreel.core.colour.still_light import StillLight, Vote, light_from_neutral, vote
from chalkreel.core.errors import RefusedError

Swatch = tuple[int, int, int]


@dataclass(frozen=True)
class VoteRow:
    """One patch on one still; `vote` is None with the reason in `problem` where the still has no known light."""

    patch_id: str
    still_number: int
    sample: Sample | None
    vote: Vote | None
    swatch: Swatch | None
    problem: str


@dataclass(frozen=True)
class SurfaceRow:
    """One surface: its votes, their mean, and recipes, best first; `settled` is the one the user chose."""

    surface_id: str
    name: str
    votes: tuple[VoteRow, ...]
    colour: SurfaceColour | None
    swatch: Swatch | None
    recipes: tuple[tuple[Recipe, Swatch], ...]
    settled: tuple[Recipe, Swatch] | None
    problem: str

    @property
    def best(self) -> tuple[Recipe, Swatch] | None:
        """The recipe to mix."""
        return self.settled or next(iter(self.recipes), None)


@dataclass(frozen=True)
class NeutralRow:
    """A still's neutral patch: the light it shows, or why it cannot be used."""

    patch_id: str
    still_id: str
    sample: Sample | None
    light: StillLight | None
    problem: str


@dataclass(frozen=True)
class Colours:
    """All surfaces and all neutrals."""

    surfaces: tuple[SurfaceRow, ...]
    neutrals: tuple[NeutralRow, ...]


class ColourDesk:
    """Samples stills and searches recipes, remembering both for as long as their inputs stay the same."""

    def __init__(self, gallery: Gallery) -> None:
        self._gallery = gallery
        self._samples: dict[tuple[str, Patch], Sample] = {}
        self._recipes: dict[tuple[object, ...], tuple[Recipe, ...]] = {}

    def colours(self, build: Build, progress: Callable[[float], bool]) -> Colours:
        """Sample, correct, average, and search a recipe for each surface; `progress` may stop the search."""
        neutrals = tuple(self._neutral(build, p) for p in build.all(ColourPatch) if not p.surface_id)
        lights = {row.still_id: row.light for row in neutrals if row.light is not None}
        shelf = tuple(Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in build.all(ShelfPaint))
        surfaces = build.all(Surface)
        rows = []
        for number, surface in enumerate(surfaces):
            rows.append(self._surface(build, surface, lights, shelf, progress))
            progress((number + 1) / len(surfaces))
        return Colours(tuple(rows), neutrals)

    def _sample(self, build: Build, patch: ColourPatch) -> Sample:
        still = build.get(Still, patch.still_id)
        if still is None:
            raise RefusedError("The still of this patch has been taken off the reel.")
        key = (still.blob, Patch(patch.x_px, patch.y_px, patch.width_px, patch.height_px))
        if key not in self._samples:
            self._samples[key] = sample_patch(self._gallery.picture(still.blob), key[1])
        return self._samples[key]

    def _neutral(self, build: Build, patch: ColourPatch) -> NeutralRow:
        try:
            sample = self._sample(build, patch)
            return NeutralRow(patch.id, patch.still_id, sample, light_from_neutral(sample, patch.reflectance), "")
        except RefusedError as refusal:
            return NeutralRow(patch.id, patch.still_id, None, None, str(refusal))

    def _vote(self, build: Build, patch: ColourPatch, lights: dict[str, StillLight]) -> VoteRow:
        still = build.get(Still, patch.still_id)
        number = still.number if still else 0
        try:
            sample = self._sample(build, patch)
        except RefusedError as refusal:
            return VoteRow(patch.id, number, None, None, None, str(refusal))
        if patch.still_id not in lights:
            return VoteRow(patch.id, number, sample, None, None, f"still {number} has no neutral patch: left out")
        found = vote(sample, lights[patch.still_id])
        return VoteRow(patch.id, number, sample, found, rgb8_of_lab(np.array(found.lab)), "")

    def _surface(
        self, build: Build, surface: Surface, lights: dict[str, StillLight], shelf: tuple[Paint, ...],
        progress: Callable[[float], bool],
    ) -> SurfaceRow:  # fmt: skip
        patches = (p for p in build.all(ColourPatch) if p.surface_id == surface.id)
        votes = tuple(self._vote(build, patch, lights) for patch in patches)
        try:
            colour = consensus(tuple(row.vote for row in votes if row.vote is not None))
            recipes = self._search(colour.lab, shelf, progress) if shelf else ()
        except RefusedError as refusal:
            return SurfaceRow(surface.id, surface.name, votes, None, None, (), None, str(refusal))
        settled = predict_recipe(surface.drops, shelf, colour.lab)
        return SurfaceRow(
            surface.id, surface.name, votes, colour, rgb8_of_lab(np.array(colour.lab)),
            tuple(_painted(r) for r in recipes), _painted(settled) if settled else None, "",
        )  # fmt: skip

    def _search(
        self, lab: tuple[float, float, float], shelf: tuple[Paint, ...], progress: Callable[[float], bool]
    ) -> tuple[Recipe, ...]:
        key = (lab, *((p.name, p.absorption.tobytes(), p.scattering.tobytes()) for p in shelf))
        if key not in self._recipes:
            self._recipes[key] = find_recipes(lab, shelf, progress=lambda _: progress(-1.0))
        return self._recipes[key]


def _painted(recipe: Recipe) -> tuple[Recipe, Swatch]:
    return recipe, rgb8_of_lab(np.array(recipe.lab))
