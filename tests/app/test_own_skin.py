"""Faces on a build of one's own: three stills of boxes that the demo does not know, through to paper and back."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from chalkreel.app.session import Session
from chalkreel.app.window import Window
from chalkreel.core.measure.marks import Mark
from chalkreel.document.changes import Edits
from chalkreel.document.entities import KnownLength, Landmark, LandmarkMark, RoundShape, SkinFace, Spot, Still
from chalkreel.document.light_entities import LIGHT_PLAN_ID, Lamp, LightPlan
from chalkreel.edits.marking import landmark_named, mark_landmark
from tests.app.conftest import click_still, in_front, settle, show_stage
from tests.core.faces.textured import BOXES, camera_from, photographed

SHOTS = {"one": camera_from(55, 22), "two": camera_from(-60, 25), "three": camera_from(125, 18)}
SIDE = ("hull aft top, port", "hull bow top, port", "hull bow foot, port", "hull aft foot, port")


def corners() -> dict[str, np.ndarray]:
    found = {}
    for name, (x0, x1, y0, y1, z0, z1) in zip(("hull", "house"), BOXES, strict=False):
        for along, x in (("aft", x0), ("bow", x1)):
            for side, y in (("starboard", y0), ("port", y1)):
                for end, z in (("foot", z0), ("top", z1)):
                    found[f"{name} {along} {end}, {side}"] = np.array([x, y, z])
    return found


def counted(session: Session, count: int) -> bool:
    return len(session.build.all(Still)) == count


def begun(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    """Three stills with their corners marked, wherever they are in sight, and one known length."""
    session = window.session
    for number, (name, camera) in enumerate(SHOTS.items()):
        Image.fromarray(photographed(name, camera, seed=number).levels()[0]).save(tmp_path / f"{name}.png")
        session.add_stills([tmp_path / f"{name}.png"])
        qtbot.waitUntil(partial(counted, session, number + 1), timeout=20_000)
    rng = np.random.default_rng(8)
    seen = {"one": ("port", "bow"), "two": ("starboard", "bow"), "three": ("port", "aft")}
    with session.gesture("marks"):
        for still in session.build.all(Still):
            for name, place in corners().items():
                if any(side in name for side in seen[still.title]) or "top" in name:
                    x, y = SHOTS[still.title].project(place[None])[0] + rng.normal(0, 0.5, 2)
                    session.commit(
                        "mark", mark_landmark(session.build, still, name, Mark(float(x), float(y), 0.5)).edits
                    )
    a, b = (landmark_named(session.build, name) for name in SIDE[:2])
    assert a is not None and b is not None
    known = KnownLength(id="k", name="hull", a_id=a.id, b_id=b.id, length_mm=600, sigma_mm=0.5, link="miniature")
    session.commit("ruler", {known.id: known})
    for still, side in zip(session.build.all(Still), ("port bow", "starboard bow", "port aft"), strict=True):
        session.edit("side", still, side=side)
    settle(qtbot, session)


def test_a_skin_of_ones_own_from_clicks_to_paper_undone_and_reopened(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "boxes.chalkreel")
    begun(qtbot, window, tmp_path)
    session, stage = window.session, window.measure
    assert session.answers.sizes.reel.solution is not None and not session.answers.sizes.reel.faults
    show_stage(window, "Measure")
    stage.switch.show_page("Drawing")
    assert "No face yet" in stage.drawing.view._hint
    stage.switch.show_page("Stills")
    first = session.build.all(Still)[0]
    session.choose_still(first.id)
    qtbot.waitUntil(lambda: bool(window.images.levels(first)))
    in_front(qtbot, window)
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_W)
    stage.desk.context.face.setEditText("side")
    for name in SIDE:
        landmark = landmark_named(session.build, name)
        mark = next(m for m in session.build.all(LandmarkMark)
                    if m.still_id == first.id and landmark is not None and m.landmark_id == landmark.id)  # fmt: skip
        click_still(qtbot, stage.view, mark.mark.x_px, mark.mark.y_px)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    assert [face.name for face in session.build.all(SkinFace)] == ["side"]
    settle(qtbot, session)
    _lit(qtbot, window)
    stage.switch.show_page("Mark map")
    row = stage.sheet_page.spots.rows_model.rows[0]
    # The replica is half as large. A screen pixel is more than a pixel of the still here.
    assert row.length_mm == pytest.approx(15, abs=1.2)
    assert [gap for _, gap in row.nearest] == pytest.approx([150, 22.5], abs=1.5)
    stage.switch.show_page("Drawing")
    qtbot.waitUntil(lambda: "% seen from" in stage.drawing.words.text(), timeout=60_000)
    # Pairs alone do not say what is level, and the page says so until an edge does.
    assert "which way is level" in stage.drawing.words.text()
    _seen_all_round(qtbot, window)
    _rounded(qtbot, window)
    stage.switch.show_page("Three views")
    assert stage.sheet_page.sheet is not None
    assert any("which way is level" in words.words for words in stage.sheet_page.sheet.words)
    _printed(qtbot, window, tmp_path / "port.pdf")
    _undone_and_done_again(qtbot, window)
    area = session.answers.faces.rows[0].area_mm2
    assert area == pytest.approx(600 * 90, rel=0.01)
    again = opened(tmp_path / "boxes.chalkreel")
    settle(qtbot, again.session)
    assert again.session.answers.faces.rows[0].area_mm2 == pytest.approx(area, rel=1e-6)
    assert len(again.session.build.all(Spot)) == 1
    assert len(again.session.answers.faces.skin.faces) == len(session.answers.faces.skin.faces)
    _without_a_corner(qtbot, again)


def _printed(qtbot: QtBot, window: Window, path: Path) -> None:
    window.measure.switch.show_page("Drawing")
    with qtbot.waitSignal(window.session.prompted, timeout=30_000):
        window.measure.drawing.save(path)
    assert len(PdfReader(path).pages) == 2


def _lit(qtbot: QtBot, window: Window) -> None:
    """A lamp marked on the skin like anything else on it: its wire gets a length."""
    session, stage = window.session, window.measure
    # A lamp 30 mm across on the side's true middle; its wires leave at a corner of that side.
    exit_at = landmark_named(session.build, SIDE[0])
    assert exit_at is not None
    lamp = Lamp(id="bow", name="Bow light", colour="red", count=1, forward_volts=1.95, current_ma=5.0)
    session.commit("lamp", {lamp.id: lamp, LIGHT_PLAN_ID: LightPlan(id=LIGHT_PLAN_ID, exit_id=exit_at.id)})
    settle(qtbot, session)
    ends = SHOTS["one"].project(np.array([[-15.0, 100, 45], [15.0, 100, 45]]))
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_M)
    offered = stage.desk.context.part
    offered.setCurrentIndex(offered.findText("Bow light"))
    for x, y in ends:
        click_still(qtbot, stage.view, float(x), float(y))
    qtbot.keyClick(stage.view, Qt.Key.Key_Escape)
    settle(qtbot, session)
    spot = session.build.all(Spot)[0]
    assert spot.name == "Bow light" and session.build.get(Lamp, "bow").places == (spot.id,)
    # From the corner to the middle 300 and 45 mm on the model, half of that on the replica, and what a wire needs more.
    wire = session.answers.routes.rows[0]
    assert wire.one_way_mm == pytest.approx(1.3 * np.hypot(300, 45) / 2 + 50, abs=2.5)


def _seen_all_round(qtbot: QtBot, window: Window) -> None:
    stage = window.measure
    stage.switch.show_page("All round")
    qtbot.keyClick(stage.all_round.view, Qt.Key.Key_V)
    assert "As on still 1" in stage.all_round.words.text() and len(stage.all_round.view.dots) >= 4
    qtbot.keyClick(stage.all_round.view, Qt.Key.Key_2)
    # Its side has a twin, which is seen from starboard; nobody said what is level, so nobody is told where to stand.
    assert stage.all_round.words.text().startswith("Seen from 90° off the bow to starboard.")
    assert "stand" not in stage.all_round.words.text()


def _rounded(qtbot: QtBot, window: Window) -> None:
    """A painted roundel on the side, clicked round its rim on two stills, becomes a disc."""
    session, stage = window.session, window.measure
    turns = 2 * np.pi * np.arange(8) / 8
    rim = np.stack([40 + 30 * np.cos(turns), np.full(8, 100.0), 45 + 30 * np.sin(turns)], axis=1)
    stage.switch.show_page("Stills")
    in_front(qtbot, window)
    for still in (s for s in session.build.all(Still) if s.title in ("one", "three")):
        session.choose_still(still.id)
        qtbot.waitUntil(lambda still=still: bool(window.images.levels(still)))  # type: ignore[misc]
        stage.view.setFocus()
        qtbot.keyClick(stage.view, Qt.Key.Key_O)
        stage.desk.context.circle.setEditText("roundel")
        for x, y in SHOTS[still.title].project(rim):
            click_still(qtbot, stage.view, float(x), float(y))
        qtbot.keyClick(stage.view, Qt.Key.Key_Return)
        qtbot.keyClick(stage.view, Qt.Key.Key_Escape)
    settle(qtbot, session)
    (circle,) = session.build.all(RoundShape)
    session.select(circle.id)
    stage.refresh()
    box = next(b for b in stage.forms.circle.findChildren(QComboBox) if b.accessibleName() == "Make a face")
    box.setCurrentIndex(1)
    box.activated.emit(1)
    settle(qtbot, session)
    assert session.answers.faces.rows[-1].area_mm2 == pytest.approx(np.pi * 900, rel=0.06)


def _undone_and_done_again(qtbot: QtBot, window: Window) -> None:
    session = window.session
    # Undone to before the marks and done again, all is as it was; so it is once reopened.
    steps = 0
    while session.build.all(Landmark):
        session.undo()
        steps += 1
    settle(qtbot, session)
    assert "No face yet" in window.measure.drawing.view._hint
    # What was painted before is not there to be saved.
    window.measure.drawing.ask_save()
    assert "nothing on this sheet" in window.prompt.words.text()
    for _ in range(steps):
        session.redo()
    settle(qtbot, session)


def _without_a_corner(qtbot: QtBot, window: Window) -> None:
    session = window.session
    # With a corner and its twin unmarked the face says what it lacks, and nothing else breaks.
    corner = session.build.get(Landmark, session.build.all(SkinFace)[0].landmark_ids[0])
    assert corner is not None
    both = (corner.id, corner.mirror_id)
    gone: Edits = {m.id: None for m in session.build.all(LandmarkMark) if m.landmark_id in both}
    session.commit("marks of one corner off", gone)
    settle(qtbot, session)
    assert "Not placed yet: hull aft top, port" in session.answers.faces.rows[0].problem
