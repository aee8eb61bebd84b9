"""The replica of a subject that the demo does not know: photographed, clicked on, judged, printed, undone, reopened."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.core.measure.camera import Camera
from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto
from chalkreel.document.entities import Feature, Landmark, Still
from chalkreel.edits.marking import mark_face
from tests.app.conftest import in_front, settle, show_stage
from tests.app.test_own_skin import begun, corners
from tests.core.faces.textured import BOXES, camera_from, photographed

# The house of this replica stands 16 mm (of the miniature) too far to the bow.
MOVED = 16.0
TAKEN = camera_from(40, 30, distance=1250.0, focal=1900.0)


def wrong_boxes() -> tuple[tuple[float, ...], ...]:
    x0, x1, *rest = BOXES[1]
    return (BOXES[0], (x0 + MOVED, x1 + MOVED, *rest), BOXES[2])


def in_sight(camera: Camera) -> dict[str, np.ndarray]:
    """Corners that this photograph shows, by name."""
    found = {}
    for name, place in corners().items():
        on_house = name.startswith("house")
        if ("top" in name or "port" in name) and "aft foot" not in name:
            moved = place + np.array([MOVED if on_house else 0.0, 0, 0])
            found[name] = camera.project(moved[None])[0]
    return found


def add_photograph(qtbot: QtBot, window: Window, path: Path) -> None:
    Image.fromarray(photographed("replica", TAKEN, seed=9, boxes=wrong_boxes()).levels()[0]).save(path)
    window.bench.compare.put_photo(path)
    qtbot.waitUntil(lambda: len(window.session.build.all(ReplicaPhoto)) == 1, timeout=20_000)
    settle(qtbot, window.session)


def click_all(qtbot: QtBot, window: Window) -> None:
    """What the program asks for, one after the other; what is not in sight is skipped."""
    session, desk = window.session, window.bench.compare.desk
    photo = session.build.all(ReplicaPhoto)[0]
    shown = desk.photo.shown
    assert shown is not None
    qtbot.waitUntil(lambda: bool(window.images.levels(shown)), timeout=20_000)
    places = in_sight(TAKEN)
    for _ in range(40):
        settle(qtbot, session)
        landmark = session.build.get(Landmark, desk.photo.wanted)
        if landmark is None:
            break
        if landmark.name not in places:
            qtbot.keyClick(desk.photo, Qt.Key.Key_S)
            continue
        at = desk.photo.to_screen(*places[landmark.name]).toPoint()
        qtbot.mouseClick(desk.photo, Qt.MouseButton.LeftButton, pos=at)
    assert {m.photo_id for m in session.build.all(ReplicaMark)} == {photo.id}


def test_a_replica_of_ones_own_is_judged_and_its_finding_goes_its_way(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "boxes.chalkreel")
    begun(qtbot, window, tmp_path)
    session, stage = window.session, window.bench
    show_stage(window, "Bench")
    settle(qtbot, session)
    assert stage.switch.page == "Compare" and "add the picture here" in stage.compare.look.words
    session.choose_still(session.build.all(Still)[0].id)
    add_photograph(qtbot, window, tmp_path / "replica.png")
    assert stage.compare.clicking and "4 to go" in stage.compare.desk.asks.text()
    in_front(qtbot, window)
    click_all(qtbot, window)
    settle(qtbot, session)
    assert len(session.build.all(ReplicaMark)) >= 9
    last = session.answers.comparing.last
    assert [f.group.name for f in last.open] == ["house"]
    amount = last.open[0].amounts[0]
    # The replica is half as large as the miniature. A screen pixel is more than two of the photograph's here.
    assert abs(amount.mm) == pytest.approx(MOVED / 2, abs=max(amount.half_mm, 1.0))
    _looked_at(qtbot, window)
    _decided(qtbot, window, tmp_path)
    count = len(session.build.all(ReplicaMark))
    again = opened(tmp_path / "boxes.chalkreel")
    settle(qtbot, again.session)
    assert len(again.session.build.all(ReplicaMark)) == count
    assert [f.group.name for f in again.session.answers.comparing.last.open] == ["house"]
    _without_its_still(qtbot, again)


def _looked_at(qtbot: QtBot, window: Window) -> None:
    """Without faces it says what is lacking; with one both are shown from one camera, by keys."""
    session, compare = window.session, window.bench.compare
    compare.start_clicking(False)
    settle(qtbot, session)
    assert "Make faces" in window.prompt.words.text() or "Make faces" in compare.look.words
    sides = ("hull aft top, port", "hull bow top, port", "hull bow foot, port", "hull aft foot, port")
    ids = {m.name: m.id for m in session.build.all(Landmark)}
    session.commit("face", mark_face(session.build, "side", tuple(ids[n] for n in sides)).edits)
    settle(qtbot, session)
    qtbot.waitUntil(lambda: compare.look._pictures is not None, timeout=30_000)
    look = compare.look
    look.setFocus()
    before = look.edge
    qtbot.keyClick(look, Qt.Key.Key_Right)
    assert look.edge > before
    for key, mode in (
        (Qt.Key.Key_D, "Difference"),
        (Qt.Key.Key_O, "Both"),
        (Qt.Key.Key_B, "Blink"),
        (Qt.Key.Key_W, "Wipe"),
    ):
        qtbot.keyClick(look, key)
        assert look.mode == mode
    qtbot.keyClick(look, Qt.Key.Key_Space)
    assert look.mode == "Blink" and not look.shows_photo
    # Where the hull was not moved, both pictures show the same there.
    pictures = look._pictures
    assert pictures is not None and pictures.still.size() == pictures.photo.size()


def _decided(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    session, stage = window.session, window.bench
    look = stage.compare.look
    look.setFocus()
    qtbot.keyClick(look, Qt.Key.Key_A)
    assert "Choose a finding first" in window.prompt.words.text()
    stage.choose_finding("house|")
    qtbot.keyClick(look, Qt.Key.Key_A)
    settle(qtbot, session)
    assert session.answers.comparing.last.open == () and len(session.build.all(FindingDecision)) == 1
    session.undo()
    settle(qtbot, session)
    assert len(session.answers.comparing.last.open) == 1
    # Without a kit's version there is nothing between which a job could stand.
    stage.make_job()
    assert "which version the kit is" in window.prompt.words.text() and not session.build.all(Feature)
    stage.write_finding()
    assert "House" in session.build.all(LogEntry)[-1].words
    settle(qtbot, session)
    path = tmp_path / "bench.pdf"
    with qtbot.waitSignal(session.prompted, timeout=30_000):
        window.exports.write_stage(path)
    qtbot.waitUntil(path.exists, timeout=30_000)
    text = "".join(page.extract_text() for page in PdfReader(path).pages)
    assert "Is the replica right?" in text and "House" in text


def _without_its_still(qtbot: QtBot, window: Window) -> None:
    """The still goes: the photograph stays, and says what it lacks."""
    session = window.session
    photo = session.build.all(ReplicaPhoto)[0]
    session.edit("still", photo, still_id="")
    show_stage(window, "Bench")
    settle(qtbot, session)
    window.bench.compare.start_clicking(False)
    settle(qtbot, session)
    assert len(session.build.all(ReplicaPhoto)) == 1
    window.bench.compare.remove_shown()
    assert not session.build.all(ReplicaPhoto) and not session.build.all(ReplicaMark)
    session.undo()
    assert len(session.build.all(ReplicaMark)) >= 9
