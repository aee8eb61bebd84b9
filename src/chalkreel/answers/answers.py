"""All answers to a build, computed section by section."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Hashable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from functools import partial
from typing import Any

import msgspec

from chalkreel.answers import matters
from chalkreel.answers.alike import alike_stills
from chalkreel.answers.apart import apart
from chalkreel.answers.behind import Behind, behind
from chalkreel.answers.colours import ColourAnswers, Colours
from chalkreel.answers.comparing import Comparing, comparing
from chalkreel.answers.conversion import Conversion, conversion
from chalkreel.answers.coverage import Coverage, coverage
from chalkreel.answers.cut_pieces import asked_pieces
from chalkreel.answers.cuts import CutGroup, Cuts, cuts
from chalkreel.answers.drawing import prepare_lines
from chalkreel.answers.enclosed import Ring, enclosed
from chalkreel.answers.faces import Faces, solved_faces
from chalkreel.answers.light_options import LightOptions, light_options
from chalkreel.answers.lighting import LIGHT_INPUTS, Lighting, lighting
from chalkreel.answers.memo import Memo
from chalkreel.answers.photographs import Photographs
from chalkreel.answers.reel import ReelAnswer, ReelInputs, next_starts, reel_inputs, solved_reel
from chalkreel.answers.routes import Routes, routes
from chalkreel.answers.sequence import Sequence, SequenceInputs, searched, sequence, to_search
from chalkreel.answers.sequence_inputs import sequence_inputs
from chalkreel.answers.sides import guessed_sides
from chalkreel.answers.sizes import INPUTS, Sizes, sizes
from chalkreel.answers.stages import StageName
from chalkreel.answers.stock import nearest_stocks
from chalkreel.answers.tonight import Tonight, tonight
from chalkreel.answers.zone_areas import ZoneArea, zone_areas
from chalkreel.core.convert.stock import CutLength, StockChoice
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.schedule import Schedule
from chalkreel.core.measure.start.cold import Start
from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.convert_entities import Cutting, StockPiece
from chalkreel.document.entities import Landmark, Outline, RoundShape, SkinFace, Still, Tie
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build

log = logging.getLogger(__name__)
Progress = Callable[[float], bool]
# So many edits can be undone and find their answers again; one reel solved is a few hundred kilobytes.
DEPTH = 12
# Sheets of some thickness that are laid out are kept for the last few edits.
CUT_GROUPS = 40
# What the comparison takes from the build itself.
COMPARE_INPUTS = (
    ReplicaPhoto, ReplicaMark, ReplicaReading, FindingDecision, Landmark, RoundShape, Tie,
)  # fmt: skip


@dataclass(frozen=True)
class Spent:
    """Time and money so far, from the log."""

    minutes: int
    cost: float
    entries: int


@dataclass(frozen=True, eq=False)
class Answers:
    """A build with the answers that belong to it; a section is None until it was first computed.

    `alike` are stills, by id, that show nearly the same picture; `sides` what those that are not described show.

    `stale` says that the build has changed since: these still answer `build`, as it was.
    """

    build: Build
    coverage: Coverage
    spent: Spent
    sizes: Sizes | None = None
    conversion: Conversion | None = None
    lighting: Lighting | None = None
    colours: Colours | None = None
    sequence: Sequence | None = None
    tonight: Tonight | None = None
    light_options: LightOptions = field(default_factory=LightOptions)
    routes: Routes | None = None
    cuts: Cuts | None = None
    comparing: Comparing = field(default_factory=Comparing)
    alike: tuple[tuple[str, ...], ...] = ()
    sides: Mapping[str, str] = field(default_factory=dict)
    faces: Faces = field(default_factory=Faces)
    behind: Mapping[str, Behind] = field(default_factory=dict)
    offered: tuple[Ring, ...] = ()
    areas: Mapping[str, ZoneArea] = field(default_factory=dict)
    stocks: Mapping[str, StockChoice | CutLength] = field(default_factory=dict)
    stale: bool = False

    @property
    def complete(self) -> bool:
        """Whether every section is there."""
        return self.sequence is not None

    @property
    def awaits(self) -> str:
        """What is computed next, in words."""
        if self.sequence is None:
            return "colours and plan"
        return "replica and cut list" if self.cuts is None else "supplies and stills"

    def matters(self, stage: StageName) -> tuple[str, ...]:
        """The open matters of a stage, in words."""
        speakers: dict[str, tuple[Callable[[Any], tuple[str, ...]], object]] = {
            "Gather": (matters.gather_matters, self.coverage),
            "Measure": (lambda found: matters.measure_matters(self.build, found, self.behind), self.sizes),
            "Convert": (lambda found: matters.convert_matters(found, self.cuts), self.conversion),
            "Light": (lambda found: matters.light_matters(self.build, found), self.lighting),
            "Colour": (matters.colour_matters, self.colours),
            "Finish": (matters.finish_matters, self.sequence),
            "Bench": (lambda found: matters.bench_matters(self.build, found), self.comparing),
        }
        speak, section = speakers.get(stage, (tuple, None))
        return () if section is None else speak(section)


class Answerer:
    """Answers builds one after the other. Every section is a pure function of its inputs; the last few are kept.

    What the reel is solved from is the one thing carried over: it changes how long the solving takes, and is kept
    only where it explains the marks as well as a search from nothing did.
    """

    def __init__(self, gallery: Gallery) -> None:
        self._gallery = gallery
        self._colours = ColourAnswers(gallery)
        self._starts: tuple[Start, ...] = ()
        self._reels = Memo[ReelInputs, ReelAnswer](DEPTH)
        self._sizes = Memo[Hashable, Sizes](DEPTH)
        self._faces = Memo[Hashable, Faces](DEPTH)
        self._behind = Memo[Hashable, Mapping[str, Behind]](DEPTH)
        self._offered = Memo[Hashable, tuple[Ring, ...]](DEPTH)
        self._circuits = Memo[Hashable, Lighting](DEPTH)
        self._light_options = Memo[Hashable, LightOptions](DEPTH)
        self._photographs = Photographs(gallery)
        self._compared = Memo[Hashable, Comparing](DEPTH)
        self._cuts = Memo[Hashable, Cuts](DEPTH)
        self._cut_groups = Memo[Hashable, CutGroup](CUT_GROUPS)
        self._sequences = Memo[SequenceInputs, Sequence](DEPTH)
        # The plan that stands, and the one that was taken and kept with the build when it was made.
        self._plan: Schedule | None = None
        self._taken: Schedule | None = None

    def answer(
        self, build: Build, progress: Progress = lambda _: True, now: datetime | None = None
    ) -> Iterator[Answers]:
        """Yield ever more complete answers; the last is complete.

        Raises
        ------
        StoppedError
            `progress` said to stop. What was complete by then is kept.
        """
        entries = build.all(LogEntry)
        spent = Spent(sum(e.minutes for e in entries), sum(e.cost for e in entries), len(entries))
        reel = self._reel(build, progress)
        found_sizes = self._sizes.get((reel, _size_inputs(build)), lambda: sizes(build, reel))
        lights = tuple(build.all(kind) for kind in LIGHT_INPUTS)
        found_light = self._circuits.get(lights, lambda: lighting(build))
        converted = conversion(build, found_sizes)
        skin = self._faces.get(_face_inputs(build, reel), lambda: solved_faces(build, reel))
        answers = Answers(
            build,
            coverage(build),
            spent,
            found_sizes,
            converted,
            found_light,
            routes=routes(build, found_light.solved, found_sizes, skin) if found_light.solved is not None else None,
            stocks=nearest_stocks(build, found_sizes),
            sides=guessed_sides(build, reel),
            faces=skin,
            behind=self._behind.get(
                (skin, build.all(Outline), _squared(build)),
                lambda: {outline.id: behind(build, skin, reel, outline) for outline in build.all(Outline)},
            ),
            offered=self._offered.get((skin, build.all(Tie)), lambda: enclosed(build, reel, skin.skin)),
            areas=zone_areas(build, found_sizes, skin),
        )
        yield answers
        for colours in self._colours.answer(build, progress, answers.areas):
            answers = replace(answers, colours=colours)
            yield answers
        clock = now or datetime.now(UTC).astimezone().replace(tzinfo=None)
        # In steps of ten minutes, so that an undone edit finds its plan again.
        moment = clock.replace(minute=clock.minute // 10 * 10, second=0, microsecond=0)
        inputs = sequence_inputs(build, converted, answers.colours, moment)
        for found in self._sequence(inputs, progress):
            answers = replace(answers, sequence=found, tonight=tonight(found, build, answers.colours, found_light))
            yield answers
        prepare_lines(build, found_sizes, answers.faces, progress)
        photographs = (_plain_stills(build), *(build.all(kind) for kind in COMPARE_INPUTS))
        answers = replace(answers, comparing=self._compared.get(
            (found_sizes, answers.faces, build.chain, photographs),
            lambda: comparing(build, found_sizes, answers.faces, self._photographs),
        ))  # fmt: skip
        yield answers
        # By the pieces themselves: another solve of the reel cuts nothing anew as long as they stay what they are.
        asked = asked_pieces(build, found_sizes, answers.faces)
        owned = tuple(build.all(kind) for kind in (StockPiece, Cutting))
        answers = replace(answers, cuts=self._cuts.get(
            (asked, owned, build.chain, build.info.unit), lambda: cuts(build, asked, progress, self._cut_groups.get)
        ))  # fmt: skip
        yield answers
        options = self._light_options.get(
            (lights, build.info.dark), lambda: light_options(build, found_light, progress)
        )
        answers = replace(answers, light_options=options)
        yield answers
        # Last of all: it may have to decode every still.
        yield replace(answers, alike=alike_stills(build, self._gallery, progress))

    def forget_plan(self) -> None:
        """The next plan keeps nothing of this one."""
        self._sequences, self._plan, self._taken = Memo[SequenceInputs, Sequence](DEPTH), None, None

    def _sequence(self, inputs: SequenceInputs, progress: Progress) -> Iterator[Sequence]:
        """The plan for some inputs, first as near as can be to the last one, then with a better one beside it."""
        found = self._sequences.find(inputs)
        if found is None:
            kept = self._plan if inputs.taken == self._taken else inputs.taken
            found = apart(partial(sequence, inputs, kept=kept), progress)
            if to_search(found, kept is None):
                yield found
                found = apart(partial(searched, found, kept is None), progress)
            self._sequences.put(inputs, found)
        self._plan, self._taken = found.timetable, inputs.taken
        yield found

    def _reel(self, build: Build, progress: Progress) -> ReelAnswer:
        try:
            inputs = reel_inputs(build)
        except RefusedError as refusal:
            return ReelAnswer(problem=str(refusal))
        found = self._reels.get(inputs, lambda: self._solved(inputs, progress))
        self._starts = next_starts(self._starts, found)
        return found

    def _solved(self, inputs: ReelInputs, progress: Progress) -> ReelAnswer:
        begun = time.perf_counter()
        found = solved_reel(inputs, self._starts, progress)
        took, marks = time.perf_counter() - begun, len(inputs.scene.sightings)
        log.info("solved %d marks in %.2f s: %s", marks, took, found.problem or f"{len(found.faults)} faults")
        return found


def _plain_stills(build: Build) -> tuple[Still, ...]:
    """The stills without their title, note and worth, which change no size and no comparison."""
    plain = {"title": "", "note": "", "trust": "fair", "version_id": ""}
    return tuple(msgspec.structs.replace(s, **plain) for s in build.all(Still))


def _squared(build: Build) -> Hashable:
    """What squared-up stills show, by id; their titles are told where one lies nowhere."""
    return tuple((s.id, s.title, s.squared) for s in build.all(Still) if s.squared is not None)


def _size_inputs(build: Build) -> Hashable:
    """What the sizes take from the build itself."""
    info = build.info
    return (build.chain, info.space_mm, info.unit, _plain_stills(build), *(build.all(kind) for kind in INPUTS))


def _face_inputs(build: Build, reel: ReelAnswer) -> Hashable:
    """What the faces depend on: a landmark's twin, and its name only while it is not placed; of outlines, those that
    they are made of.
    """
    placed = reel.solution.layout.blocks if reel.solution is not None else {}
    landmarks = tuple((m.id, m.mirror_id, "" if m.id in placed else m.name) for m in build.all(Landmark))
    skin = tuple(msgspec.structs.replace(f, zone_id="", template=False) for f in build.all(SkinFace))
    of = {outline_id for face in skin for outline_id in face.outline_ids}
    traced = tuple((o.id, o.still_id, o.points, o.bends, o.closed) for o in build.all(Outline) if o.id in of)
    return (reel, skin, build.all(RoundShape), landmarks, traced, _squared(build) if traced else ())
