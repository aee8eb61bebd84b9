"""The one next thing to do: there from an empty build on, and gone when it is done."""

from __future__ import annotations

from types import MappingProxyType

import msgspec
import pytest
from tests.builds import empty_build

from chalkreel.answers.answers import Answers
from chalkreel.answers.next_step import FEWEST_MARKS, next_step
from chalkreel.answers.stages import STAGES, StageName
from chalkreel.answers.wording import unplaced_words
from chalkreel.core.measure.marks import Mark
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import (
    AnyEntity,
    BuildInfo,
    Dimension,
    Feature,
    KitPart,
    KnownLength,
    Landmark,
    LandmarkMark,
    SkinFace,
    Still,
)
from chalkreel.document.finish_entities import Evening
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import ColourPatch, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build


def build(*more: AnyEntity, without: type[AnyEntity] | None = None, **info: object) -> Build:
    found = {i: e for i, e in empty_build("Own").items() if without is None or not isinstance(e, without)}
    for entity_id, entity in found.items():
        if isinstance(entity, BuildInfo):
            found[entity_id] = msgspec.structs.replace(entity, **info)
    return Build(0, MappingProxyType({**found, **{e.id: e for e in more}}))


def doing(stage: StageName, of: Build, answers: Answers | None = None) -> str | None:
    step = next_step(of, answers, stage)
    return step.doing if step is not None else None


def still(number: int, kind: str = "plan") -> Still:
    return Still(id=f"s{number}", title="own", blob="b", width_px=100, height_px=80, number=number, still_kind=kind)  # type: ignore[arg-type]


def marks(on: str, count: int) -> tuple[AnyEntity, ...]:
    return tuple(
        LandmarkMark(id=f"{on}-{n}", still_id=on, landmark_id=f"l{n}", mark=Mark(n, n, 1.0)) for n in range(count)
    )


LANDMARKS = tuple(Landmark(id=f"l{n}", name=f"corner {n}") for n in range(FEWEST_MARKS))
RULER = KnownLength(id="k", name="ruler", a_id="l0", b_id="l1", length_mm=10, sigma_mm=1, link="replica")
LAMP = Lamp(id="a", name="bow", colour="white", count=1, forward_volts=3, current_ma=5, assembly="Hull")
SIZE = Dimension(id="d", name="size", a_id="l0", b_id="l1")
TWO = (still(1), still(2), *LANDMARKS, *marks("s1", FEWEST_MARKS))


@pytest.mark.parametrize(
    ("stage", "of", "wanted"),
    [
        ("Gather", build(), "add stills"), ("Gather", build(still(1, "other")), "describe"),
        ("Gather", build(still(1)), "add part"), ("Gather", build(still(1), sources=("sheet and rod",)), None),
        ("Gather", build(still(1), KitPart(id="p", name="keel")), None),
        ("Measure", build(), "add stills"), ("Measure", build(still(1)), "landmark"),
        ("Measure", build(*TWO), "landmark"),
        ("Measure", build(*TWO, *marks("s2", FEWEST_MARKS)), "ruler"),
        ("Measure", build(*TWO, *marks("s2", FEWEST_MARKS), RULER), "size"),
        ("Measure", build(*TWO, *marks("s2", FEWEST_MARKS), RULER, SIZE), None),
        ("Convert", build(), "list parts"), ("Convert", build(KitPart(id="p", name="A1")), "add feature"),
        ("Convert", build(sources=("sheet and rod",)), "add feature"),
        ("Convert", build(KitPart(id="p", name="A1"), Feature(id="f", name="mast", assembly="Hull")), None),
        ("Light", build(), "add lamp"), ("Light", build(dark=True), None),
        ("Light", build(LAMP), None),
        ("Colour", build(), "patch"),
        ("Finish", build(), "add zone"),
        ("Finish", build(Zone(id="z", name="hull", assembly="Hull", surface_id=""), without=Evening), "add evening"),
        ("Bench", build(), "write"), ("Bench", build(LogEntry(id="e", at="2026-11-25T20:00", words="glued")), None),
    ],
)  # fmt: skip
def test_the_next_step_follows_from_what_there_is(stage: StageName, of: Build, wanted: str | None) -> None:
    assert doing(stage, of) == wanted


def test_colour_asks_for_a_patch_then_a_grey_then_paints() -> None:
    surface = Surface(id="u", name="hull")
    patch = ColourPatch(id="c", still_id="s1", surface_id="u", x_px=1, y_px=1, width_px=9, height_px=9)
    grey = msgspec.structs.replace(patch, id="n", surface_id="", reflectance=0.18)
    paint = ShelfPaint(id="w", name="white", medium="water acrylic", absorption=(0.01,) * 36, scattering=(1.0,) * 36)
    so_far: list[AnyEntity] = [still(1)]
    told = []
    for entity in (surface, patch, grey, paint):
        so_far.append(entity)
        told.append(doing("Colour", build(*so_far)))
    assert told == ["neutral", "neutral", "shelf", None]


def test_the_second_still_is_asked_for_a_landmark_that_it_lacks() -> None:
    step = next_step(build(*TWO, *marks("s2", 1)), None, "Measure")
    assert step is not None and (step.still_id, step.entity_id) == ("s2", "l1") and "corner 1" in step.words


def test_the_finished_demo_is_not_told_to_begin(demo_answers: Answers) -> None:
    for stage in STAGES:
        found = next_step(demo_answers.build, demo_answers, stage)
        assert found is None or not found.button or found.doing == "put right", (stage, found)


def test_a_solved_reel_without_faces_is_asked_for_one(demo_answers: Answers) -> None:
    build = demo_answers.build
    places = {i: n for n, i in enumerate(build.entities)}
    without = build.edited({face.id: None for face in build.all(SkinFace)}, build.revision + 1, places)
    step = next_step(without, demo_answers, "Measure")
    assert step is not None and (step.doing, step.button) == ("face", "Make a face")
    assert next_step(build, demo_answers, "Measure") is None


def test_why_a_landmark_has_no_place_is_said_as_it_is() -> None:
    """On no still, on one, or on two that are not tied in: three reasons, three things to do."""
    marks: list[AnyEntity] = [LandmarkMark(id=f"m{n}", landmark_id=key, still_id=still, mark=Mark(5.0, 5.0, 0.5))
             for n, (key, still) in enumerate((("b", "s1"), ("c", "s1"), ("c", "s2")))]  # fmt: skip
    named: list[AnyEntity] = [Landmark(id=key, name=name) for key, name in (("a", "bow"), ("b", "fin"), ("c", "mast"))]
    build = Build(0, MappingProxyType({**empty_build("Sledge"), **{e.id: e for e in (*named, *marks)}}))
    told = unplaced_words(build, ("a", "b", "c"), 9)
    assert [("bow" in words, "fin" in words, "mast" in words) for words in told] == [
        (True, False, False), (False, True, False), (False, False, True),
    ]  # fmt: skip
    assert "no still" in told[0] and "one still only" in told[1] and "tied in" in told[2]
