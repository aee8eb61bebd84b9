"""The Colour stage's answers: what the stills say, and drops from the shelf that make it."""

from __future__ import annotations

import math
from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass

import msgspec

from chalkreel.answers.clear_mixes import clear_mixes_of
from chalkreel.answers.evidence import (
    Evidence,
    StillRow,
    SurfaceColour,
    SurfaceEvidence,
    VoteRow,
    gather_evidence,
)
from chalkreel.answers.memo import Memo
from chalkreel.answers.mixes import (
    Mixes,
    Painted,
    Progress,
    RecipeBook,
    book_of,
    finishing_of,
    mixes_of,
    paint_of,
)
from chalkreel.answers.sampler import Sampler
from chalkreel.answers.zone_areas import ZoneArea
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.finishing import USUAL, Finishing
from chalkreel.core.colour.kinds import Swatch
from chalkreel.core.colour.learning import Lessons
from chalkreel.core.colour.published_mix import WITHIN_DELTA_E
from chalkreel.core.interval import NORMAL_95
from chalkreel.document.entities import Still
from chalkreel.document.gallery import Gallery, picture_name
from chalkreel.document.paint_entities import ColourPatch, FinishChip, PaintPot, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build

SMALL_SHELF = 30
DEPTH = 6


@dataclass(frozen=True, eq=False)
class SurfaceRow:
    """One surface: what the stills say of it (unless its colour is `known` to the user), and its paint; its own colour
    may be that of a `published` mix."""

    surface_id: str
    name: str
    evidence: SurfaceEvidence
    mixes: Mixes
    known: bool = False
    published: bool = False

    @property
    def votes(self) -> tuple[VoteRow, ...]:
        """One row a patch."""
        return self.evidence.votes

    @property
    def colour(self) -> SurfaceColour | None:
        """The object's colour, light taken out."""
        return self.evidence.colour

    @property
    def swatch(self) -> Swatch | None:
        """The target for the screen, or the object's colour while there is none."""
        if self.mixes.target is not None:
            return rgb8_of_lab(self.mixes.target.lab)
        return rgb8_of_lab(self.evidence.colour.lab) if self.evidence.colour else None

    @property
    def best(self) -> Painted | None:
        """The recipe to mix."""
        return self.mixes.best

    @property
    def doubts(self) -> tuple[float, float]:
        """95 % radii in ΔE00 of where the mix lands, and of the target where it is of stills or a published mix."""
        worth, target = self.mixes.worth, self.mixes.target
        landing = NORMAL_95 * worth.sigma_delta_e if worth is not None else 0.0
        if target is not None and target.mode == "free" and self.published:
            return landing, WITHIN_DELTA_E
        from_stills = target is not None and target.mode == "object" and not self.known
        return landing, self.colour.delta_e if from_stills and self.colour is not None else 0.0

    @property
    def within(self) -> float:
        """How surely the distance of the recipe is known, 95 %, ΔE00."""
        return math.hypot(*self.doubts)

    @property
    def delta_e_words(self) -> str:
        """'0.2 ± 17': wherever a distance is told, its doubt is; nothing without a recipe."""
        return f"{self.best[0].delta_e:.1f} ± {self.within:.0f}" if self.best else ""

    @property
    def problem(self) -> str:
        """Why there is no colour or no recipe."""
        return self.mixes.problem or self.evidence.problem


@dataclass(frozen=True, eq=False)
class Colours:
    """All surfaces, all stills that show any, and what swatches taught of the shelf; `quick` while a search runs."""

    surfaces: tuple[SurfaceRow, ...]
    stills: tuple[StillRow, ...]
    problems: tuple[str, ...]
    lessons: Lessons
    quick: bool = False
    finishing: Finishing = USUAL


class ColourAnswers:
    """Samples stills and searches recipes, remembering both for as long as their inputs stay the same."""

    def __init__(self, gallery: Gallery) -> None:
        self._sampler = Sampler(gallery)
        self._evidence = Memo[Hashable, Evidence](DEPTH)
        self._finishing = Memo[Hashable, Finishing](DEPTH)
        self._books = Memo[Hashable, RecipeBook](DEPTH)
        self._mixes: dict[str, Memo[Hashable, Mixes]] = {}

    def answer(self, build: Build, progress: Progress, zones: Mapping[str, ZoneArea]) -> Iterator[Colours]:
        """First with quick recipes where new ones are wanted, then complete; `progress` may stop the search."""
        areas = {key: zone.cm2 for key, zone in zones.items()}
        evidence, book = self._evidence_of(build), self._book_of(build)
        surfaces = build.all(Surface)
        known, hand = (evidence, book, areas), self._finishing_of(build, book)
        keys = {s.id: self._key(build, s, *known) for s in surfaces}
        # A small shelf is searched before anyone would read a first answer.
        few = len(build.all(ShelfPaint)) <= SMALL_SHELF
        ready = few or all(self._kept(s, keys) is not None for s in surfaces)
        if not ready:
            rows = [
                self._row(s, evidence, self._kept(s, keys) or self._mix(build, s, *known, hand, progress, True))
                for s in surfaces
            ]
            yield Colours(tuple(rows), evidence.stills, evidence.problems, book.lessons, True, hand)
        complete = []
        for number, surface in enumerate(surfaces):
            mixes = self._kept(surface, keys)
            if mixes is None:
                mixes = self._mix(build, surface, *known, hand, progress, False)
                self._mixes[surface.id].put(keys[surface.id], mixes)
            complete.append(self._row(surface, evidence, mixes))
            progress((number + 1) / len(surfaces))
        yield Colours(tuple(complete), evidence.stills, evidence.problems, book.lessons, finishing=hand)

    def _evidence_of(self, build: Build) -> Evidence:
        anchors = tuple((s.id, s.known_lab, s.join) for s in build.all(Surface))
        stills = tuple((s.id, s.number, picture_name(s), s.side, s.version_id, s.trust) for s in build.all(Still))
        key = (build.info.version_id, build.all(ColourPatch), stills, anchors)
        return self._evidence.get(key, lambda: gather_evidence(build, self._sampler))

    def _book_of(self, build: Build) -> RecipeBook:
        swatches = tuple(p.steps for p in build.all(PaintPot) if p.teaches and any(s.swatch_lab for s in p.steps))
        shelf = build.all(ShelfPaint)
        return self._books.get((shelf, swatches), lambda: book_of(build, tuple(map(paint_of, shelf))))

    def _finishing_of(self, build: Build, book: RecipeBook) -> Finishing:
        chips = build.all(FinishChip)
        washed = any(chip.layer == "wash" for chip in chips)
        key = (chips, book if washed else None)
        return self._finishing.get(key, lambda: finishing_of(chips, book.lessons.shelf))

    def _kept(self, surface: Surface, keys: dict[str, Hashable]) -> Mixes | None:
        return self._mixes.setdefault(surface.id, Memo(DEPTH)).find(keys[surface.id])

    @staticmethod
    def _key(build: Build, surface: Surface, evidence: Evidence, book: RecipeBook, areas: dict[str, float]) -> Hashable:
        found = evidence.surfaces[surface.id]
        info = build.info
        zones = tuple((z, round(areas[z.id], 1)) for z in build.all(Zone) if z.surface_id == surface.id)
        pots = tuple(p for p in build.all(PaintPot) if p.surface_id == surface.id)
        return (
            msgspec.structs.replace(surface, name=""), found.colour,
            tuple(v.sample.rgb for v in found.votes if v.sample and v.counts),
            book, pots, zones, build.all(FinishChip) if zones else (),
            (info.coverage_cm2_per_ml, info.loss_percent, info.thinner_parts, info.touch_up_ml),
        )  # fmt: skip

    @staticmethod
    def _mix(
        build: Build, surface: Surface, evidence: Evidence, book: RecipeBook, areas: dict[str, float],
        hand: Finishing, progress: Progress, quick: bool,
    ) -> Mixes:  # fmt: skip
        mix = clear_mixes_of if surface.clear_over else mixes_of
        return mix(build, surface, evidence.surfaces[surface.id], book, areas, hand, progress, quick)

    @staticmethod
    def _row(surface: Surface, evidence: Evidence, mixes: Mixes) -> SurfaceRow:
        known = surface.known_lab is not None
        return SurfaceRow(
            surface.id, surface.name, evidence.surfaces[surface.id], mixes, known, bool(surface.published)
        )
