"""All answers to a build, computed section by section."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from chalkreel.answers import matters
from chalkreel.answers.colours import ColourDesk, Colours
from chalkreel.answers.conversion import Conversion, conversion
from chalkreel.answers.coverage import Coverage, coverage
from chalkreel.answers.lighting import Lighting, lighting
from chalkreel.answers.reel import ReelSolver
from chalkreel.answers.scene_of import INPUTS as REEL_INPUTS
from chalkreel.answers.sequence import Sequence, sequence
from chalkreel.answers.sizes import INPUTS, Sizes, sizes
from chalkreel.document.entities import Dimension, Lamp, LogEntry, PowerSupply
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build

T = TypeVar("T")


@dataclass(frozen=True)
class Spent:
    """Time and money so far, from the log."""

    minutes: int
    cost: float
    entries: int


@dataclass(frozen=True, eq=False)
class Answers:
    """Every stage's answers for one revision; a section is None until it was first computed."""

    build: Build
    coverage: Coverage
    spent: Spent
    sizes: Sizes | None = None
    conversion: Conversion | None = None
    lighting: Lighting | None = None
    colours: Colours | None = None
    sequence: Sequence | None = None

    def matters(self, stage: matters.StageName) -> tuple[str, ...]:
        """The open matters of a stage, in words."""
        speakers: dict[str, tuple[Callable[[Any], tuple[str, ...]], object]] = {
            "Gather": (matters.gather_matters, self.coverage),
            "Measure": (matters.measure_matters, self.sizes),
            "Convert": (matters.convert_matters, self.conversion),
            "Light": (matters.light_matters, self.lighting),
            "Colour": (matters.colour_matters, self.colours),
            "Finish": (matters.finish_matters, self.sequence),
        }
        speak, section = speakers.get(stage, (tuple, None))
        return () if section is None else speak(section)


class Answerer:
    """Answers builds one after the other, redoing only the sections whose inputs changed."""

    def __init__(self, gallery: Gallery) -> None:
        self._desk = ColourDesk(gallery)
        self._reel = ReelSolver()
        self._kept: dict[str, tuple[Hashable, object]] = {}

    def answer(self, build: Build, progress: Callable[[float], bool] = lambda _: True) -> Iterator[Answers]:
        """Yield ever more complete answers; the last is complete. `progress` returns False to stop a long search."""
        entries = build.all(LogEntry)
        spent = Spent(sum(e.minutes for e in entries), sum(e.cost for e in entries), len(entries))
        chain = build.chain
        marked = (chain, *(build.all(kind) for kind in (*REEL_INPUTS, Dimension)))
        reel = self._once("reel", marked, lambda: self._reel.solve(build, progress))
        inputs = (build.info, *marked, *(build.all(kind) for kind in INPUTS))
        found_sizes = self._once("sizes", inputs, lambda: sizes(build, reel))
        found_light = self._once("lighting", (build.all(PowerSupply), build.all(Lamp)), lambda: lighting(build))
        converted = conversion(build, found_sizes)
        answers = Answers(build, coverage(build), spent, found_sizes, converted, found_light)
        yield answers
        for colours in self._desk.colours(build, progress, found_sizes):
            answers = replace(answers, colours=colours)
            yield answers
        yield replace(answers, sequence=sequence(build, converted, answers.colours))

    def _once(self, name: str, inputs: Hashable, compute: Callable[[], T]) -> T:
        kept = self._kept.get(name)
        if kept is not None and kept[0] == inputs:
            return kept[1]  # type: ignore[return-value]
        value = compute()
        self._kept[name] = (inputs, value)
        return value
