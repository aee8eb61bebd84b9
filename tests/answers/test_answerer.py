"""Answers belong to their build whatever was stopped, undone, renamed or impossible on the way."""

from collections.abc import Callable, Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest

from chalkreel.answers import answers as module
from chalkreel.answers import photographs
from chalkreel.answers.answers import Answerer, Answers
from chalkreel.answers.assemblies import assembly_of
from chalkreel.answers.memo import Memo
from chalkreel.answers.reel import reel_inputs, solved_reel
from chalkreel.core.arrays import Array
from chalkreel.core.bench import deviations
from chalkreel.core.errors import StoppedError
from chalkreel.core.measure.solver.solve import Solution
from chalkreel.core.measure.start.cold import Start
from chalkreel.document.entities import Dimension, KnownLength, Landmark, LandmarkMark, RoundShape, Still, Tie
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store

NOW = datetime(2026, 11, 23, 12)


@pytest.fixture
def store(demo_file: Path) -> Iterator[Store]:
    opened = Store.open(demo_file)
    yield opened
    opened.close()


def edited(build: Build, *entities: Any) -> Build:
    places = {i: n for n, i in enumerate(dict.fromkeys((*build.entities, *(e.id for e in entities))))}
    return build.edited({e.id: e for e in entities}, build.revision + 1, places)


def last(answerer: Answerer, build: Build) -> Answers:
    *_, found = answerer.answer(build, now=NOW)
    return found


def figures(answers: Answers) -> dict[str, float]:
    assert answers.sizes is not None
    return {r.dimension_id: r.replica.mm for r in answers.sizes.rows if r.replica is not None}


def exchanged(build: Build, still_id: str) -> Build:
    """Port and starboard exchanged on one still."""
    twin = {m.id: m.mirror_id or m.id for m in build.all(Landmark)}
    marks = [m for m in build.all(LandmarkMark) if m.still_id == still_id]
    return edited(build, *(msgspec.structs.replace(m, landmark_id=twin[m.landmark_id]) for m in marks))


def test_a_stopped_solve_is_no_answer(store: Store) -> None:
    answerer = Answerer(Gallery(store.blob))
    calls = 0

    def stop_soon(_: float) -> bool:
        nonlocal calls
        calls += 1
        return calls < 8

    with pytest.raises(StoppedError):
        list(answerer.answer(store.build, stop_soon, NOW))
    assert len(figures(last(answerer, store.build))) == 35


def test_undone_faults_leave_no_trace_even_when_nothing_was_kept(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "DEPTH", 1)
    answerer = Answerer(Gallery(store.blob))
    first = last(answerer, store.build)
    wrong = last(answerer, exchanged(store.build, "still-3"))
    assert wrong.sizes is not None and [f.view for f in wrong.sizes.reel.faults] == ["still-3"]
    again = last(answerer, store.build)
    assert again.sizes is not None and again.sizes.reel is not first.sizes.reel  # type: ignore[union-attr]
    assert again.sizes.reel.faults == ()
    for key, mm in figures(first).items():
        assert figures(again)[key] == pytest.approx(mm, rel=1e-4)


def test_a_still_no_longer_cropped_loses_the_offset_it_was_given(store: Store) -> None:
    answerer = Answerer(Gallery(store.blob))
    still = store.build.get(Still, "still-1")
    assert still is not None and not still.cropped
    last(answerer, edited(store.build, msgspec.structs.replace(still, cropped=True)))
    whole = last(answerer, store.build)
    assert whole.sizes is not None and whole.sizes.reel.solution is not None
    assert whole.sizes.reel.solution.camera("still-1").offset_px == pytest.approx((0.0, 0.0))


def test_names_and_notes_solve_nothing(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    answerer = Answerer(Gallery(store.blob))
    first = last(answerer, store.build)

    def refuse(*_: object) -> None:
        raise AssertionError("solved again")

    monkeypatch.setattr(module, "solved_reel", refuse)
    monkeypatch.setattr(module, "solved_faces", refuse)
    monkeypatch.setattr(photographs, "resected", refuse)
    monkeypatch.setattr(deviations, "resected", refuse)
    still, landmark = store.build.all(Still)[0], store.build.all(Landmark)[0]
    renamed = edited(
        store.build, msgspec.structs.replace(still, note="seen at noon", title="another"),
        msgspec.structs.replace(landmark, name=f"quite another {landmark.name}", assembly=assembly_of(landmark)),
    )  # fmt: skip
    # What a landmark moves with is read off its name: the other words of the name say nothing new.
    again = last(answerer, renamed)
    assert figures(again) == figures(first)
    assert again.comparing.last.findings == first.comparing.last.findings


def test_an_impossible_size_fails_alone(store: Store) -> None:
    port = next(m for m in store.build.all(Landmark) if m.mirror_id)
    lost = Dimension(id="lost", name="no length", a_id=port.id, b_id=port.mirror_id, along="length")
    found = last(Answerer(Gallery(store.blob)), edited(store.build, lost))
    assert len(figures(found)) == 35
    assert found.sizes is not None
    row = next(r for r in found.sizes.rows if r.dimension_id == "lost")
    assert row.replica is None and row.lack is not None and row.lack.kind == "one place"


def test_a_poor_start_never_stands_for_a_better_solution(store: Store, demo_answers: Answers) -> None:
    """However bad the solution that a session ended on, the marks decide."""
    inputs = reel_inputs(store.build)
    assert demo_answers.sizes is not None and demo_answers.sizes.reel.start is not None
    wrong = reel_inputs(exchanged(store.build, "still-3"))
    poor = solved_reel(wrong, (demo_answers.sizes.reel.start,), lambda _: True).start
    assert poor is not None
    found = solved_reel(inputs, (Start(poor.estimate, 50.0, fits=False, left_out=frozenset()),), lambda _: True)
    assert found.solution is not None and demo_answers.sizes.reel.solution is not None
    assert found.solution.cost == pytest.approx(demo_answers.sizes.reel.solution.cost, rel=1e-4)


EDITS: dict[str, Callable[[Build], Any]] = {
    "a circle's axis": lambda b: msgspec.structs.replace(next(c for c in b.all(RoundShape) if c.across), across=None),
    "a ruler": lambda b: msgspec.structs.replace(
        b.all(KnownLength)[0], length_mm=1.02 * b.all(KnownLength)[0].length_mm
    ),
    "an edge's direction": lambda b: msgspec.structs.replace(next(t for t in b.all(Tie) if t.direction), direction=""),
}


@pytest.mark.parametrize("kind", EDITS)
def test_the_same_document_has_one_answer_whatever_was_edited_before(
    kind: str, store: Store, demo_answers: Answers
) -> None:
    """What a solution found while it was told otherwise must not stand once the document says what it says."""
    before = solved_reel(reel_inputs(edited(store.build, EDITS[kind](store.build))), (), lambda _: True)
    assert before.start is not None and demo_answers.sizes is not None
    warm = solved_reel(reel_inputs(store.build), (before.start,), lambda _: True).solution
    fresh = demo_answers.sizes.reel.solution
    assert fresh is not None and warm is not None
    assert warm.cost == pytest.approx(fresh.cost, rel=1e-3)
    # Where the whole stands is nobody's; how circles are turned and how large they are, is.
    (axes, other), (sizes, others) = ((part(warm), part(fresh)) for part in (_axes, _sizes))
    assert np.sum(axes * other, axis=1) == pytest.approx(1.0, abs=1e-6) and sizes == pytest.approx(others, abs=1e-3)


def _axes(solution: Solution) -> Array:
    found = solution.unknowns.circles[:, 3:6]
    return np.asarray(found * np.where(found[np.arange(len(found)), np.abs(found).argmax(axis=1)] < 0, -1, 1)[:, None])


def _sizes(solution: Solution) -> Array:
    return np.asarray(solution.unknowns.circles[:, 6])


def test_a_memo_keeps_the_last_few_and_nothing_that_failed() -> None:
    memo, made = Memo[int, int](2), []

    def get(key: int) -> int:
        return memo.get(key, lambda: made.append(key) or key * 10)  # type: ignore[func-returns-value]

    assert [get(k) for k in (1, 2, 1, 3, 1, 2)] == [10, 20, 10, 30, 10, 20]
    assert made == [1, 2, 3, 2]

    def fail() -> int:
        raise StoppedError

    with pytest.raises(StoppedError):
        memo.get(9, fail)
    assert memo.find(9) is None
