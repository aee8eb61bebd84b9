"""Faces at the bench: clicked round, hidden landmarks skipped, the sides painted, saved and read back."""

from __future__ import annotations

import io
import re
from pathlib import Path
from xml.etree import ElementTree

import ezdxf.filemanagement
import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.answers.faces import TWIN
from chalkreel.answers.layers import Layer
from chalkreel.app.measure import landmarks
from chalkreel.app.stills.tools import SPOT
from chalkreel.app.window import Window
from chalkreel.core.faces.landing import Landing
from chalkreel.document.entities import SkinFace, Spot
from chalkreel.edits.marking import mark_on
from chalkreel.edits.removing import removal
from tests.app.conftest import click_still, in_front, settle
from tests.app.test_measure_reel import at_the_desk

CORNERS = ("deck edge, forward", "deck edge, forward/s", "bow tip/s", "bow tip")


def corner(window: Window, still: str, landmark: str) -> tuple[float, float]:
    """Where a landmark is marked, or else expected."""
    mark = mark_on(window.session.build, still, landmark)
    shown = window.session.still
    assert shown is not None
    ghost = landmarks.ghost_of(window.session.answers, shown, landmark)
    assert mark is not None or ghost is not None
    return (mark.mark.x_px, mark.mark.y_px) if mark is not None else (ghost.x_px, ghost.y_px)


def click_round(qtbot: QtBot, window: Window, still: str, names: tuple[str, ...]) -> None:
    view = window.measure.view
    in_front(qtbot, window)
    view.setFocus()
    qtbot.keyClick(view, Qt.Key.Key_W)
    for name in names:
        click_still(qtbot, view, *corner(window, still, f"landmark-{name}"))
    qtbot.keyClick(view, Qt.Key.Key_Return)


def test_a_face_is_clicked_round_and_one_whose_sides_cross_is_refused(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    at_the_desk(qtbot, demo_window, "still-2")
    session.commit("foredeck off", removal(session.build, "face-foredeck"))
    settle(qtbot, session)
    count = len(session.build.all(SkinFace))
    a, b, c, d = CORNERS
    click_round(qtbot, demo_window, "still-2", (a, c, b, d))
    assert "sides of this face cross" in demo_window.prompt.words.text()
    assert len(session.build.all(SkinFace)) == count
    demo_window.measure.desk.context.face.setEditText("ramp")
    click_round(qtbot, demo_window, "still-2", CORNERS)
    made = session.build.all(SkinFace)[-1]
    assert made.landmark_ids == tuple(f"landmark-{name}" for name in CORNERS)
    # The tool stays in the hand; a click that meets nothing is refused where it was.
    assert demo_window.measure.view.at_work
    settle(qtbot, session)
    row = next(r for r in session.answers.faces.rows if r.id == made.id)
    assert not row.problem and row.area_mm2 == pytest.approx(146 * 296, rel=0.05)
    qtbot.keyClick(demo_window.measure.view, Qt.Key.Key_Escape)
    session.undo()
    assert len(session.build.all(SkinFace)) == count
    settle(qtbot, session)


def test_ghosts_behind_a_face_are_dots_and_are_not_walked_to(qtbot: QtBot, demo_window: Window) -> None:
    session, view = demo_window.session, demo_window.measure.view
    at_the_desk(qtbot, demo_window, "still-7")
    reel, faces = session.answers.sizes.reel, session.answers.faces
    hidden = faces.hidden_on(reel, "still-7")
    # The still shows the starboard side: all of the port side's band lies behind the hull.
    assert "landmark-band top at second joint" in hidden and "landmark-band top at second joint/s" not in hidden
    walked = set()
    while view.walk_to(lambda handle: handle.ghost) and view.active.entity_id not in walked:
        walked.add(view.active.entity_id)
    assert walked and not walked & hidden
    # Chosen in the list, even a hidden one is shown where it must be.
    session.select("landmark-band top at second joint")
    demo_window.measure.refresh()
    assert any(s.label.startswith("band top at second joint, port?") for s in view._strokes)


def painted(qtbot: QtBot, window: Window, side: str) -> None:
    window.measure.drawing.show_side(side)
    qtbot.waitUntil(lambda: "% seen from" in window.measure.drawing.words.text(), timeout=60_000)


def test_the_sides_are_painted_and_every_file_has_their_true_size(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, drawing = demo_window.session, demo_window.measure.drawing
    at_the_desk(qtbot, demo_window, "still-1")
    demo_window.measure.switch.show_page("Drawing")
    painted(qtbot, demo_window, "port")
    assert "stills 1" in drawing.words.text() and "%" in drawing.sides["port"].text()
    x0, _, x1, _ = drawing._painted["port"][1].sheet.bounds()
    # The replica is 387.5 mm long, and the picture has a margin of 3 % all round.
    assert x1 - x0 == pytest.approx(387.5 * 1.06, rel=0.01)
    for kind in ("png", "pdf", "svg", "dxf"):
        with qtbot.waitSignal(session.prompted, timeout=30_000):
            drawing.save(tmp_path / f"port.{kind}")
    image = Image.open(tmp_path / "port.png")
    dots = image.info["dpi"][0]
    assert image.width / dots * 25.4 == pytest.approx(x1 - x0, rel=0.002) and image.mode == "RGBA"
    svg = ElementTree.parse(tmp_path / "port.svg").getroot()
    plate = next(e for e in svg.iter() if e.tag.endswith("image"))
    assert float(plate.attrib["width"]) == pytest.approx(x1 - x0, abs=0.1)
    page = PdfReader(tmp_path / "port.pdf").pages[0]
    drawn = re.search(rb"([\d.]+) 0 0 ([\d.]+) [-\d.]+ [-\d.]+ cm\s*/FormXob", page.get_contents().get_data())
    assert drawn is not None and float(drawn[1]) == pytest.approx(x1 - x0, abs=0.1)
    assert Image.open(io.BytesIO(page.images[0].data)).width == image.width
    assert "LINE" in (tmp_path / "port.dxf").read_text()
    settle(qtbot, session)
    _layers_are_switched(demo_window)


def _layers_are_switched(window: Window) -> None:
    """Each box adds its own to the sheet, and a size is as long as it says."""
    drawing = window.measure.drawing

    def told() -> set[str]:
        assert drawing.view._sheet is not None
        return {words.words for words in drawing.view._sheet.words}

    lengths = {round(path.points[1][0] - path.points[0][0], 1) for path in drawing.view._sheet.paths
               if path.layer == "dimension"}  # fmt: skip
    overall = max(float(words) for words in told() if re.fullmatch(r"[\d.]+", words))
    assert max(map(abs, lengths)) == pytest.approx(overall, abs=0.2) and overall == pytest.approx(387, abs=2)
    drawing.layers["sizes"].click()
    assert not told()
    over: tuple[tuple[Layer, str], ...] = (
        ("landmarks", "bow tip, port"), ("marks", "chip at the joint"), ("which still", "still 1"),
    )  # fmt: skip
    for layer, words in over:
        assert words not in told()
        drawing.layers[layer].click()
        assert words in told()
    # What lies on the other side, or behind another landmark, is not shown.
    assert not any("starboard" in words for words in told())
    drawing.layers["picture"].click()
    assert drawing.view._sheet.plate is None
    for box in drawing.layers.values():
        box.setChecked(False)
    drawing.refresh()
    assert not drawing.view._sheet.paths and not told()


def test_faces_are_named_chosen_and_removed_in_their_table(qtbot: QtBot, demo_window: Window) -> None:
    session, drawing = demo_window.session, demo_window.measure.drawing
    at_the_desk(qtbot, demo_window, "still-1")
    demo_window.measure.switch.show_page("Drawing")
    painted(qtbot, demo_window, "port")
    row = drawing.table.rows_model.rows[0]
    assert (row.name, row.corners) == ("hull side", "6") and row.area == "165.9 cm²"
    drawing.table.rows_model.setData(drawing.table.rows_model.index(0, 0), "topsides")
    assert session.build.get(SkinFace, "face-hull side").name == "topsides"
    drawing._remove(row)
    settle(qtbot, session)
    assert session.build.get(SkinFace, "face-hull side") is None
    # Another scale is another drawing.
    before = drawing._painted["port"][1].sheet.bounds()[2]
    session.edit("replica", session.build.info, replica_mm=session.build.info.replica_mm / 2)
    settle(qtbot, session)
    qtbot.waitUntil(lambda: drawing._painted["port"][1].sheet.bounds()[2] < 0.6 * before, timeout=60_000)
    session.undo()
    settle(qtbot, session)
    # Without its side the picture shows what lies behind, or a gap; and undo paints it again.
    painted(qtbot, demo_window, "port")
    session.undo()
    settle(qtbot, session)
    painted(qtbot, demo_window, "port")
    for face in session.build.all(SkinFace):
        session.commit("off", removal(session.build, face.id))
    settle(qtbot, session)
    assert "No face yet" in drawing.view._hint


def test_a_tick_makes_a_face_a_template_that_reads_back_to_a_tenth_of_a_millimetre(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, drawing, sheets = demo_window.session, demo_window.measure.drawing, demo_window.measure.sheet_page
    at_the_desk(qtbot, demo_window, "still-1")
    demo_window.measure.switch.show_page("Drawing")
    painted(qtbot, demo_window, "port")
    model = drawing.table.rows_model
    row = next(n for n, r in enumerate(model.rows) if r.name == "wheelhouse side")
    column = next(n for n, c in enumerate(model.columns) if c.title == "template")
    model.setData(model.index(row, column), "yes")
    settle(qtbot, session)
    demo_window.measure.switch.show_page("Templates")
    assert sheets.sheet is not None
    words = [w.words for w in sheets.sheet.words]
    assert "wheelhouse side" in words and any(w.startswith("side 1: ") and "±" in w for w in words)
    with qtbot.waitSignal(session.prompted, timeout=30_000):
        sheets.exports.write_sheet(sheets.sheet, tmp_path / "t.dxf")
    lines = ezdxf.filemanagement.readfile(tmp_path / "t.dxf").modelspace().query("LWPOLYLINE")
    corners_of = [[(x, y) for x, y, *_ in line.get_points()] for line in lines if line.dxf.layer == "cut"]  # type: ignore[attr-defined]
    found = [np.array(points) for points in corners_of if len(points) == 4]
    solution = session.answers.sizes.reel.solution
    names = session.build.get(SkinFace, "face-wheelhouse side").landmark_ids
    corners = np.array([solution.point(name) for name in names]) / 2
    wanted = sorted(np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1))
    # It and its twin: each side as long as between the solved landmarks, at half the miniature's size.
    fitting = [
        p for p in found
        if sorted(np.linalg.norm(np.roll(p, -1, axis=0) - p, axis=1)) == pytest.approx(wanted, abs=0.1)
    ]  # fmt: skip
    assert len(fitting) == 2
    settle(qtbot, session)


def test_a_chip_is_marked_on_an_ordinary_still_and_mapped_on_its_face(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, sheets, view = demo_window.session, demo_window.measure.sheet_page, demo_window.measure.view
    at_the_desk(qtbot, demo_window, "still-2")
    in_front(qtbot, demo_window)
    # Between two joints of the hull's side, and one that begins on the ground beside it.
    (x0, y0), (x1, y1) = (
        corner(demo_window, "still-2", f"landmark-band foot at {n} joint") for n in ("second", "third")
    )
    view.setFocus()
    demo_window.measure.use(SPOT)
    demo_window.measure.desk.context.part.setEditText("chip")
    click_still(qtbot, view, (x0 + x1) / 2, (y0 + y1) / 2)
    click_still(qtbot, view, (x0 + x1) / 2 + 6, (y0 + y1) / 2)
    click_still(qtbot, view, 20, 20)
    click_still(qtbot, view, 60, 20)
    assert "no face behind this" in demo_window.prompt.words.text()
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    made = [spot for spot in session.build.all(Spot) if spot.still_id == "still-2"]
    assert [spot.name for spot in made] == ["chip"]
    settle(qtbot, session)
    demo_window.measure.switch.show_page("Mark map")
    row = next(r for r in sheets.spots.rows_model.rows if r.spot_id == made[0].id)
    # Half way between the joints at -120 and 20 mm: 337.5 mm from the stern on the miniature; 40 above the hull's foot.
    (across, from_stern), (down, up) = row.nearest
    assert (across, down) == ("the aft edge", "the foot edge")
    assert from_stern == pytest.approx(337.5 / 2, abs=2) and up == pytest.approx(40 / 2, abs=1.5)
    assert 0.1 < row.within_mm < 1.5
    texts = [w.words for w in sheets.sheet.words]
    assert "hull side" in texts and any("chip:" in words and "from the aft edge" in words for words in texts)
    session.undo()
    settle(qtbot, session)
    assert "No mark yet" in sheets.view._hint


def test_a_flat_becomes_a_face_of_its_outermost_landmarks(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    at_the_desk(qtbot, demo_window, "still-1")
    session.select("flat-side")
    demo_window.measure.forms.show()
    button = next(b for b in demo_window.measure.forms.flat.findChildren(QPushButton) if b.text() == "Make it a face")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    made = session.build.all(SkinFace)[-1]
    # The fin's aft corner and top, and three of the band's: the others lie within them.
    names = {i.removeprefix("landmark-") for i in made.landmark_ids}
    assert made.name == "port side" and {"fin root, aft", "fin top, aft", "fin top, forward"} <= names
    assert {"band foot at aft joint", "band foot at forward joint"} <= names
    assert "band top at second joint" not in names
    settle(qtbot, session)
    row = next(r for r in session.answers.faces.rows if r.id == made.id)
    assert not row.problem and session.selection == made.id
    settle(qtbot, session)


def test_circles_become_discs_and_walls_that_are_drawn_unrolled(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-3")
    session.commit("duct off", removal(session.build, "face-fan duct"))
    settle(qtbot, session)
    session.select("circle-fan flange")
    stage.refresh()
    box = next(b for b in stage.forms.circle.findChildren(QComboBox) if b.accessibleName() == "Make a face")
    assert [box.itemText(n) for n in range(3)] == ["no", "the disc within its rim", "the wall to fan ring"]
    box.setCurrentIndex(2)
    box.activated.emit(2)
    settle(qtbot, session)
    made = session.build.entities[session.selection]
    row = next(r for r in session.answers.faces.rows if r.id == made.id)
    # The flange is 104 mm across, the ring 92 mm and 13 mm above it.
    assert row.area_mm2 == pytest.approx(np.pi * 98 * np.hypot(13, 6), rel=0.03)
    # The same twice is refused.
    session.select("circle-fan flange")
    stage.refresh()
    box.setCurrentIndex(2)
    box.activated.emit(2)
    assert "is that face already" in demo_window.prompt.words.text()
    session.edit("template", made, template=True)
    settle(qtbot, session)
    stage.switch.show_page("Templates")
    assert stage.sheet_page.sheet is not None
    assert any(made.name in words.words for words in stage.sheet_page.sheet.words)
    # Without its circle there is no wall, and undo brings both.
    session.commit("circle off", removal(session.build, "circle-fan flange"))
    assert session.build.get(SkinFace, made.id) is None
    settle(qtbot, session)
    session.undo()
    settle(qtbot, session)
    assert session.build.get(SkinFace, made.id) is not None


def test_marks_round_a_wall_lie_on_its_unrolled_map(qtbot: QtBot, demo_window: Window) -> None:
    """The demo's fan duct stands between a flange of 104 mm and a ring of 92 mm, 13 mm above it."""
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-4")
    settle(qtbot, session)
    faces, key = session.answers.faces, f"face-fan duct{TWIN}"
    camera = session.answers.sizes.reel.solution.camera("still-4")
    wall = faces.pieces(key)
    facing = max(range(3, len(wall) - 3), key=lambda n: wall[n].normal @ (camera.position - wall[n].corners[0]))
    ends = np.array([wall[n].corners.mean(axis=0) for n in (facing - 1, facing + 2)])
    stage.use(SPOT)
    for x, y in camera.project(ends):
        click_still(qtbot, stage.desk.view, float(x), float(y))
    settle(qtbot, session)
    stage.switch.show_page("Mark map")
    (streak,) = (r for r in stage.sheet_page.spots.rows_model.rows if r.face_key == key)
    # Three of 32 pieces, half way between 104 and 92 mm across; the replica is half as large.
    assert streak.length_mm == pytest.approx(np.pi * 98 * 3 / 32 / 2, rel=0.05)
    (gap, edge), (_, other) = ((mm, name) for name, mm in streak.nearest)
    assert edge in ("the foot edge", "the top edge") and other == "the bow cut"
    assert gap == pytest.approx(np.hypot(13, 6) / 2 / 2, abs=0.6)
    # Over the line where it was cut open for the map there is no going.
    ends = np.array([wall[n].corners.mean(axis=0) for n in (0, len(wall) - 1, 12)])
    first = next(n for n, face in enumerate(faces.skin.faces) if face.key == key)
    around = [Landing(first + n, end, np.eye(3)) for n, end in zip((0, len(wall) - 1, 12), ends, strict=True)]
    assert faces.is_across_cut(around[0], around[1]) and not faces.is_across_cut(around[0], around[2])
