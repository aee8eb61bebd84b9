"""Flats squared up, parts traced, marks mapped and sheets saved, in the real window."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pytest
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.document.entities import (
    Collar,
    Dimension,
    FlatSet,
    Landmark,
    LandmarkMark,
    Outline,
    RepeatedParts,
    Spot,
    Still,
)
from chalkreel.edits.flopping import flop
from chalkreel.edits.marking import landmark_named
from tests.app.conftest import click_still, settle
from tests.app.test_measure_reel import at_the_desk, place_of


def test_a_flat_is_clicked_squared_up_and_measures_true(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-3")
    stage.view.zoom_by(1.6)
    demo_window.actions_by_id["tool-f"].trigger()
    stage.desk.context.flat.setEditText("plate")
    corners = [f"landmark-deck plate, {where}{side}" for where in ("aft", "forward") for side in ("", "/s")]
    for corner in corners:
        click_still(qtbot, stage.view, *place_of(demo_window, "still-3", corner))
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    flat = session.build.all(FlatSet)[-1]
    assert (flat.name, set(flat.landmark_ids)) == ("plate", set(corners))
    settle(qtbot, session)
    qtbot.waitUntil(stage.forms.flat.isVisible)
    button = next(b for b in stage.forms.flat.findChildren(QPushButton) if b.text() == "Square it up")
    with qtbot.waitSignal(session.still_changed, timeout=20_000):
        button.click()
    still = session.still
    assert still is not None and still.squared is not None and still.title.startswith("plate, squared up")
    settle(qtbot, session)
    # The plate is 240 mm on the miniature; its corners lie where the margin of 6 % has them.
    across = 240.0 / still.squared.mm_per_px
    left = (still.width_px - across) / 2
    middle = still.height_px / 2
    demo_window.measure.desk.snap.setChecked(False)
    demo_window.measure.desk._set_snap()
    qtbot.waitUntil(lambda: bool(demo_window.images.levels(still)))
    demo_window.actions_by_id["tool-s"].trigger()
    click_still(qtbot, stage.view, left, middle)
    click_still(qtbot, stage.view, left + across, middle)
    settle(qtbot, session)
    assert session.answers is not None and session.answers.sizes is not None
    row = next(r for r in session.answers.sizes.rows if r.dimension_id == session.build.all(Dimension)[-1].id)
    assert row.miniature is not None
    assert row.miniature.mm == pytest.approx(240.0, abs=3.0)
    assert row.lack is None


def test_a_part_is_traced_bent_and_saved_in_three_formats(qtbot: QtBot, demo_window: Window, tmp_path: Path) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-10")
    demo_window.actions_by_id["tool-t"].trigger()
    stage.desk.context.part.setEditText("window")
    for x, y in ((200, 300), (400, 300), (400, 400), (200, 400)):
        click_still(qtbot, stage.view, x, y)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    outline = session.build.all(Outline)[-1]
    assert (outline.name, len(outline.points)) == ("window", 4)
    settle(qtbot, session)
    stage.view.walk_to(lambda handle: handle.entity_id == outline.id)
    demo_window.actions_by_id["bend"].trigger()
    assert session.build.all(Outline)[-1].bends == ("arc", "corner", "corner", "corner")
    session.undo()
    settle(qtbot, session)
    stage.switch.show_page("Templates")
    sheet = stage.sheet_page.sheet
    assert sheet is not None
    still = session.build.get(Still, "still-10")
    assert still is not None and still.squared is not None
    paths = {path.suffix: path for path in (tmp_path / f"t{s}" for s in (".pdf", ".svg", ".dxf"))}
    for path in paths.values():
        stage.sheet_page.exports.write_sheet(sheet, path)
    qtbot.waitUntil(lambda: all(p.exists() for p in paths.values()) and not session.busy, timeout=20_000)
    # 200 × 100 px of the still, on a replica of half the miniature's size.
    width, height = (px * still.squared.mm_per_px / 2 for px in (200, 100))
    lines = ezdxf.filemanagement.readfile(paths[".dxf"]).modelspace().query("LWPOLYLINE")
    shapes = [np.ptp(np.array(line.get_points("xy")), axis=0) for line in lines]  # type: ignore[attr-defined]
    one_px = 3 * still.squared.mm_per_px / 2
    assert any(np.allclose(shape, (width, height), atol=one_px) for shape in shapes)
    root = ElementTree.parse(paths[".svg"]).getroot()
    polygons = [
        np.array([p.split(",") for p in e.attrib["points"].split()], float) for e in root.iter() if "polygon" in e.tag
    ]
    assert any(np.allclose(np.ptp(p, axis=0), (width, height), atol=one_px) for p in polygons)
    assert "window" in PdfReader(paths[".pdf"]).pages[0].extract_text()


def test_a_click_near_a_solved_corner_of_a_squared_up_still_means_it(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-10")
    fin = session.build.get(Outline, "outline-fin")
    assert fin is not None
    if not stage.desk.snap.isChecked():
        stage.desk.snap.click()
    true, reach = fin.points[1], 5.0 / stage.view.zoom
    demo_window.actions_by_id["tool-t"].trigger()
    for x, y in ((true.x_px + reach, true.y_px - reach), (800.0, 60.0), (1000.0, 60.0)):
        click_still(qtbot, stage.view, x, y)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    placed = session.build.all(Outline)[-1].points[0]
    # The solved corner, not the edge of the picture that lies nearer to the click.
    assert (placed.x_px, placed.y_px) == pytest.approx((true.x_px, true.y_px), abs=2.0)


def test_the_prompt_says_what_this_page_and_this_still_are_for(qtbot: QtBot, demo_window: Window) -> None:
    words, stage, session = demo_window.prompt.words, demo_window.measure, demo_window.session
    at_the_desk(qtbot, demo_window, "still-1")
    assert words.text().startswith("L: landmark")
    session.choose_still("still-10")
    qtbot.waitUntil(lambda: words.text().startswith("T: outline"))
    # A tool in the hand goes on asking.
    demo_window.actions_by_id["tool-t"].trigger()
    asked = words.text()
    session.choose_still("still-1")
    session.choose_still("still-10")
    QApplication.processEvents()
    assert words.text() == asked
    stage.view.drop_tool()
    assert words.text().startswith("T: outline")
    stage.switch.show_page("Sizes")
    assert "landmark" not in words.text() and "F1" in words.text()


def test_template_cells_are_edited_and_nonsense_is_refused(qtbot: QtBot, demo_window: Window) -> None:
    session, page = demo_window.session, demo_window.measure.sheet_page
    at_the_desk(qtbot, demo_window, "still-10")
    demo_window.measure.switch.show_page("Templates")
    model = page.outlines.rows_model
    titles = [c.title for c in model.columns]
    before = session.build.get(Outline, "outline-fin")
    for title, text in (("mirror", "no"), ("allowance", "0.5 mm"), ("edges", "1, 3"), ("line", "mask")):
        assert model.setData(model.index(0, titles.index(title)), text)
    fin = session.build.get(Outline, "outline-fin")
    assert fin is not None and before is not None
    assert (fin.mirror, fin.allowance_mm, fin.edges, fin.layer) == (False, 0.5, (1, 3), "mask")
    assert not model.setData(model.index(0, titles.index("edges")), "first")
    assert "by their numbers" in demo_window.prompt.words.text()
    assert not model.setData(model.index(1, titles.index("mirror")), "yes")
    settle(qtbot, session)
    assert model.setData(model.index(0, titles.index("edges")), "9")
    settle(qtbot, session)
    # What can be drawn is, and what is not says why.
    qtbot.waitUntil(lambda: "edges 1 to 4" in page.view.accessibleDescription())
    assert page.sheet is not None and page.sheet.paths
    behind = titles.index("corners")
    assert model.setData(model.index(0, titles.index("edges")), "2, 4")
    assert model.setData(model.index(0, behind), "behind")
    settle(qtbot, session)
    qtbot.waitUntil(lambda: "how thick" in page.view.accessibleDescription())
    assert model.setData(model.index(0, titles.index("sheet")), "1 mm")
    settle(qtbot, session)
    qtbot.waitUntil(lambda: "Not drawn" not in page.view.accessibleDescription())
    assert any("behind a sheet of 1.00 mm" in words.words for words in page.sheet.words)


def test_marks_are_carried_to_the_model_in_millimetres(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-10")
    still = session.still
    assert still is not None and still.squared is not None
    demo_window.actions_by_id["tool-m"].trigger()
    stage.desk.context.part.setEditText("hit")
    click_still(qtbot, stage.view, 600, 400)
    click_still(qtbot, stage.view, 600, 440)
    assert session.build.all(Spot)[-1].name == "hit"
    settle(qtbot, session)
    stage.switch.show_page("Mark map")
    row = stage.sheet_page.spots.rows_model.rows[-1]
    assert row.length_mm == pytest.approx(40 * still.squared.mm_per_px / 2, abs=0.4)
    assert abs(row.angle_deg) == pytest.approx(90, abs=4)
    assert len(row.nearest) == 2 and all("port" in name for name, _ in row.nearest)
    assert stage.sheet_page.sheet is not None and any("hit" in w.words for w in stage.sheet_page.sheet.words)
    session.choose_still("still-1")
    qtbot.waitUntil(lambda: stage.sheet_page.sheet is None)
    assert "No mark yet" in stage.sheet_page.view.accessibleDescription()


def test_the_three_views_show_the_sizes_chosen_for_them(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-1")
    stage.switch.show_page("Three views")
    sheet = stage.sheet_page.sheet
    assert sheet is not None
    words = {w.words for w in sheet.words}
    assert {"side", "top", "front"} <= words
    assert any(abs(float(w) - 387.2) < 2 for w in words if w.replace(".", "").isdigit())
    before = len(words)
    session.edit("drawn", session.build.entities["dim-Length overall"], drawn=False)
    settle(qtbot, session)
    qtbot.waitUntil(lambda: len({w.words for w in stage.sheet_page.sheet.words}) == before - 1)  # type: ignore[union-attr]


def test_tracing_needs_a_squared_up_still(qtbot: QtBot, demo_window: Window) -> None:
    at_the_desk(qtbot, demo_window, "still-1")
    stage = demo_window.measure
    assert not any(b.isVisible() and b.text().startswith("Outline") for b in stage.desk.tools.values())
    demo_window.actions_by_id["tool-t"].trigger()
    for x, y in ((200, 300), (400, 300), (400, 400)):
        click_still(qtbot, stage.view, x, y)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    assert "Square a plane up first" in demo_window.prompt.words.text()


def test_parts_round_a_rim_are_counted_and_drawn(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    at_the_desk(qtbot, demo_window, "still-3")
    stage.switch.show_page("Templates")
    model = stage.sheet_page.outlines.rows_model
    titles = [c.title for c in model.columns]
    row = next(n for n, r in enumerate(model.rows) if r.name == "fan blades")
    words = model.columns[titles.index("size")].get(model.rows[row])
    # Eight blades of which six were clicked, 38 mm out on the miniature, a little below the ring's plane.
    assert words.startswith("8 parts, every 45°")
    across = float(words.split("Ø ")[1].split(" ")[0])
    assert across == pytest.approx(38.0, abs=0.5)
    assert model.setData(model.index(row, titles.index("alternate")), "yes")
    settle(qtbot, session)
    demo_window.actions_by_id["tool-n"].trigger()
    stage.desk.context.circle.setEditText("no such circle")
    for x, y in ((300, 300), (340, 300), (320, 340)):
        click_still(qtbot, stage.view, x, y)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    assert "Choose the circle" in demo_window.prompt.words.text()
    stage.desk.context.circle.setEditText("fan ring")
    demo_window.actions_by_id["tool-n"].trigger()
    before = len(session.build.all(RepeatedParts))
    for mark in session.build.all(RepeatedParts)[0].marks:
        click_still(qtbot, stage.view, mark.x_px, mark.y_px)
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    assert len(session.build.all(RepeatedParts)) == before + 1
    settle(qtbot, session)


def test_a_collar_is_typed_unrolled_and_refused_where_it_makes_no_solid(qtbot: QtBot, demo_window: Window) -> None:
    session, page = demo_window.session, demo_window.measure.sheet_page
    at_the_desk(qtbot, demo_window, "still-1")
    demo_window.measure.switch.show_page("Templates")
    row = page.collar
    for field, text in ((row.name, "funnel"), (row.wide, "30"), (row.narrow, "20 mm"), (row.high, "nothing")):
        qtbot.keyClicks(field, text)
    before = len(session.build.all(Collar))
    qtbot.mouseClick(row.add, Qt.MouseButton.LeftButton)
    assert "not a length" in demo_window.prompt.words.text() and len(session.build.all(Collar)) == before
    row.high.clear()
    qtbot.keyClicks(row.high, "15")
    qtbot.keyClick(row.high, Qt.Key.Key_Return)
    made = session.build.all(Collar)[-1]
    assert (made.name, made.lower_mm, made.upper_mm, made.height_mm) == ("funnel", 30.0, 20.0, 15.0)
    assert row.wide.text() == ""
    settle(qtbot, session)
    assert page.sheet is not None and any(w.words == "funnel" for w in page.sheet.words)
    page.outlines.setCurrentIndex(page.outlines.rows_model.index(2, 0))
    page.outlines.remove_current()
    assert len(session.build.all(Collar)) == before
    settle(qtbot, session)


def test_the_scales_page_marks_the_chosen_one_and_what_fits(qtbot: QtBot, demo_window: Window) -> None:
    session, page = demo_window.session, demo_window.measure.sheet_page
    at_the_desk(qtbot, demo_window, "still-1")
    demo_window.measure.switch.show_page("Scales")
    model = page.scales.rows_model
    words = [[column.get(row) for column in model.columns] for row in model.rows]
    chosen = next(line for line in words if "chosen" in line[0])
    assert chosen[0].startswith("1:48") and chosen[1] == "388 mm" and chosen[-1] == "22 mm to spare"
    assert next(line for line in words if line[0] == "1:24")[-1] == "365 mm too long"
    session.edit("space", session.build.info, space_mm=None)
    settle(qtbot, session)
    qtbot.waitUntil(lambda: model.columns[-1].get(model.rows[0]) == "name a space on the card")
    assert not page.view.isVisible() and not demo_window.measure.save.isVisible()


def test_sheets_refuse_other_formats_and_folders_that_are_not_there(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    stage = demo_window.measure
    at_the_desk(qtbot, demo_window, "still-10")
    stage.switch.show_page("Templates")
    sheet = stage.sheet_page.sheet
    assert sheet is not None
    stage.sheet_page.exports.write_sheet(sheet, tmp_path / "fin.docx")
    qtbot.waitUntil(lambda: "Name the file" in demo_window.prompt.words.text())
    stage.sheet_page.exports.write_sheet(sheet, tmp_path / "nowhere" / "fin.svg")
    qtbot.waitUntil(lambda: "cannot be written" in demo_window.prompt.words.text())
    assert list(tmp_path.glob("fin*")) == []


def test_landmarks_have_a_home_where_they_are_renamed_merged_and_removed(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    session.choose_stage("Measure")
    session.choose_still("still-4")
    settle(qtbot, session)
    stage.switch.show_page("Landmarks")
    table = stage.landmarks.table
    assert table.isVisible() and table.rows_model.rowCount() == len(session.build.all(Landmark))
    bow = landmark_named(session.build, "bow tip, port")
    assert bow is not None
    table.choose(bow.id)
    row = table.currentIndex().row()
    words = [str(table.rows_model.index(row, n).data()) for n in range(5)]
    assert words[:3] == ["bow tip, port", "bow tip, starboard", "hull"] and words[3].startswith("stills 1")
    assert " px on still " in words[4]
    table.rows_model.setData(table.rows_model.index(row, 0), "stem head, port")
    assert session.build.get(Landmark, bow.id).name == "stem head, port"  # type: ignore[union-attr]
    # Another one's name would make the two one, but both are marked on the same still: refused, and nothing is lost.
    table.rows_model.setData(table.rows_model.index(row, 0), "bow tip, starboard")
    assert session.build.get(Landmark, bow.id).name == "stem head, port"  # type: ignore[union-attr]
    count, marks = len(session.build.all(Dimension)), len(session.build.all(LandmarkMark))
    table.setFocus()
    table.choose(bow.id)
    table.remove_current()
    assert session.build.get(Landmark, bow.id) is None and len(session.build.all(LandmarkMark)) < marks
    assert "with" in session.store.undo_label and "hung on it" in session.store.undo_label
    session.undo()
    assert len(session.build.all(Dimension)) == count and len(session.build.all(LandmarkMark)) == marks


def test_a_flopped_print_is_told_and_turned_with_all_its_marks(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.measure
    still = session.build.get(Still, "still-4")
    assert still is not None
    session.choose_stage("Measure")
    session.choose_still(still.id)
    settle(qtbot, session)
    qtbot.waitUntil(lambda: bool(demo_window.images.levels(still)))
    straight = demo_window.images.levels(still)[0]
    # As somebody marks a print that was made the wrong way round, but knows which side it shows.
    marks = {i: made for i, made in flop(session.build, still).items() if i != still.id}
    session.commit("marked on a flopped print", marks)
    settle(qtbot, session)
    reel = session.answers.sizes.reel  # type: ignore[union-attr]
    assert [(f.view, f.kind == "flopped" or f.or_flopped) for f in reel.faults] == [("still-4", True)]
    button = next(b for b in stage.card.findChildren(QPushButton) if b.text() == "The print is flopped: turn it")
    button.click()
    settle(qtbot, session)
    turned = session.build.get(Still, still.id)
    assert turned is not None and turned.flopped and session.answers.sizes.reel.faults == ()  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: bool(demo_window.images.levels(turned)))
    shown = demo_window.images.levels(turned)[0]
    assert shown.pixelColor(5, 40) == straight.pixelColor(shown.width() - 6, 40)
