"""Faces of traced outlines on a build of one's own: walls, their templates, what is hidden, undone and reopened."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import combinations
from pathlib import Path

import ezdxf.filemanagement
import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLabel
from pytestqt.qtbot import QtBot

from chalkreel.app.finish.stage import FinishStage
from chalkreel.app.session import Session
from chalkreel.app.window import Window
from chalkreel.document.entities import FlatSet, Landmark, LandmarkMark, Outline, SkinFace, Still, Tie
from chalkreel.document.paint_entities import Zone
from chalkreel.edits.marking import landmark_named, mark_face, mark_flat
from chalkreel.edits.removing import removal
from tests.app.conftest import click_still, in_front, settle, show_stage
from tests.app.test_own_skin import SHOTS, begun

ENDS = {"bow": ("bow foot, starboard", "bow foot, port", "bow top, port", "bow top, starboard"),
        "aft": ("aft foot, port", "aft foot, starboard", "aft top, starboard", "aft top, port")}  # fmt: skip
DECK = ("aft top, port", "bow top, port", "bow top, starboard", "aft top, starboard")


def boxes(qtbot: QtBot, opened: Callable[[Path], Window], path: Path) -> Window:
    """A build of stills of boxes, their corners marked, with Measure in front."""
    window = opened(path)
    begun(qtbot, window, path.parent)
    show_stage(window, "Measure")
    return in_front(qtbot, window)


def ids(session: Session, box: str, names: tuple[str, ...]) -> tuple[str, ...]:
    found = (landmark_named(session.build, f"{box} {name}") for name in names)
    return tuple(landmark.id for landmark in found if landmark is not None)


def squared_up(qtbot: QtBot, window: Window, name: str, corners: tuple[str, ...]) -> Still:
    """A flat of the hull's corners squared up by the button on the card."""
    session = window.session
    made = mark_flat(session.build, name, ids(session, "hull", corners), None)
    session.commit("flat", made.edits)
    settle(qtbot, session)
    window.measure.desk.square_up(made.entity_id, False)
    qtbot.waitUntil(lambda: any(s.squared and s.squared.plane_id == made.entity_id for s in session.build.all(Still)),
                    timeout=30_000)  # fmt: skip
    settle(qtbot, session)
    return next(s for s in session.build.all(Still) if s.squared and s.squared.plane_id == made.entity_id)


def traced(qtbot: QtBot, window: Window, still: Still, name: str, points: np.ndarray) -> Outline:
    """An outline clicked round on a squared-up still."""
    session, stage = window.session, window.measure
    session.choose_still(still.id)
    qtbot.waitUntil(lambda: bool(window.images.levels(still)))
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_T)
    stage.desk.context.part.setEditText(name)
    for x, y in points:
        click_still(qtbot, stage.view, float(x), float(y))
    qtbot.keyClick(stage.view, Qt.Key.Key_Return)
    settle(qtbot, session)
    return next(o for o in session.build.all(Outline) if o.name == name)


def made_face(qtbot: QtBot, window: Window, outline: Outline, words: str) -> SkinFace:
    """A face by the choice on the outline's own form."""
    session, stage = window.session, window.measure
    session.select(outline.id)
    stage.refresh()
    box = next(b for b in stage.forms.outline.findChildren(QComboBox) if b.accessibleName() == "Make a face")
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())
    settle(qtbot, session)
    face = session.build.entities[session.selection]
    assert isinstance(face, SkinFace), window.prompt.words.text()
    return face


def area(session: Session, face: SkinFace) -> float:
    row = next(r for r in session.answers.faces.rows if r.id == face.id)
    assert not row.problem
    return row.area_mm2


def test_sections_become_a_wall_that_is_cut_out_undone_and_reopened(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = boxes(qtbot, opened, tmp_path / "boxes.chalkreel")
    session = window.session
    sections = {}
    for name, corners in ENDS.items():
        still = squared_up(qtbot, window, name, corners)
        assert still.squared is not None
        place = {key: (x, y) for key, x, y in still.squared.anchors}
        points = np.array([place[key] for key in ids(session, "hull", corners)])
        sections[name] = traced(qtbot, window, still, f"section {name}", points)
    wall = made_face(qtbot, window, sections["bow"], "the wall to section aft")
    # The hull is 600 × 200 × 90 mm.
    assert area(session, wall) == pytest.approx(600 * 2 * (200 + 90), rel=0.015)
    within = made_face(qtbot, window, sections["bow"], "what lies within it")
    assert area(session, within) == pytest.approx(200 * 90, rel=0.02)
    # The same again is refused, and so is one of another kind: an open one encloses nothing.
    session.edit("open", sections["bow"], closed=False)
    settle(qtbot, session)
    told = {r.id: r.problem for r in session.answers.faces.rows}
    assert "closed and the other open" in told[wall.id] and "encloses nothing" in told[within.id]
    session.undo()
    settle(qtbot, session)
    session.edit("template", wall, template=True)
    settle(qtbot, session)
    _painted_as_a_zone(qtbot, window, wall)
    _marked_and_drawn(qtbot, window, wall)
    _cut_out(qtbot, window, wall, tmp_path / "wall.dxf")
    before = area(session, wall)
    steps = 0
    while session.build.all(FlatSet):
        session.undo()
        steps += 1
    assert not session.build.all(SkinFace) and not session.build.all(Outline)
    for _ in range(steps):
        session.redo()
    settle(qtbot, session)
    again = opened(tmp_path / "boxes.chalkreel")
    settle(qtbot, again.session)
    assert area(again.session, wall) == pytest.approx(before, rel=1e-6)
    _with_something_missing(qtbot, again, wall, within, sections["aft"])


def _painted_as_a_zone(qtbot: QtBot, window: Window, wall: SkinFace) -> None:
    """The zone has the area of its face at the replica's scale; until it is taken off, none is typed."""
    session = window.session
    zone = Zone(id="z", name="skin", assembly="Hull", surface_id="", area_cm2=5.0)
    session.commit("zone", {zone.id: zone})
    settle(qtbot, session)
    table = window.measure.drawing.table
    window.measure.switch.show_page("Drawing")
    titles = [column.title for column in table.rows_model.columns]
    row = next(n for n, one in enumerate(table.rows_model.rows) if one.id == wall.id)
    table.rows_model.setData(table.rows_model.index(row, titles.index("painted as")), "skin")
    settle(qtbot, session)
    # 2 × (200 + 90) × 600 mm² on the model, a quarter of that on the replica.
    assert session.answers.areas["z"].cm2 == pytest.approx(3480 / 4, rel=0.015)
    show_stage(window, "Finish")
    finish = window.stages["Finish"]
    assert isinstance(finish, FinishStage)
    zones = finish.zones
    column = [column.title for column in zones.rows_model.columns].index("area, cm²")
    assert re.fullmatch(r"8[678]\d from 1 face", str(zones.rows_model.index(0, column).data()))
    zones.rows_model.setData(zones.rows_model.index(0, column), "12")
    assert "follows from its faces" in window.prompt.words.text()
    assert session.build.get(Zone, "z").area_cm2 == 5.0
    # Without the zone the face is painted as nothing, and undo brings it back.
    session.commit("zone off", removal(session.build, "z"))
    assert session.build.get(SkinFace, wall.id).zone_id == ""
    session.undo()
    assert session.build.get(SkinFace, wall.id).zone_id == "z"
    settle(qtbot, session)
    show_stage(window, "Measure")


def _marked_and_drawn(qtbot: QtBot, window: Window, wall: SkinFace) -> None:
    """A streak clicked on the wall is on its map, and over the picture of its side when that layer is ticked."""
    session, stage = window.session, window.measure
    stage.switch.show_page("Stills")
    in_front(qtbot, window)
    still = next(s for s in session.build.all(Still) if s.title == "one")
    session.choose_still(still.id)
    qtbot.waitUntil(lambda: bool(window.images.levels(still)))
    stage.view.setFocus()
    qtbot.keyClick(stage.view, Qt.Key.Key_M)
    stage.desk.context.part.setEditText("rust streak")
    for x, y in SHOTS["one"].project(np.array([[0.0, 100, 45], [40.0, 100, 45]])):
        click_still(qtbot, stage.view, float(x), float(y))
    qtbot.keyClick(stage.view, Qt.Key.Key_Escape)
    settle(qtbot, session)
    stage.switch.show_page("Mark map")
    (row,) = stage.sheet_page.spots.rows_model.rows
    # Half as large; its middle is 280 mm from the bow, 320 from the stern.
    assert row.face_key == wall.id and row.length_mm == pytest.approx(20, abs=1.2)
    assert row.nearest[0] == ("the bow edge", pytest.approx(140, abs=1.5)) and row.nearest[1][0].endswith("cut")
    stage.switch.show_page("Drawing")
    drawing = stage.drawing
    qtbot.waitUntil(lambda: "% seen from" in drawing.words.text(), timeout=60_000)
    for box, words in ((drawing.layers["marks"], "rust streak"), (drawing.layers["landmarks"], "hull bow top, port")):
        assert not any(label.words == words for label in drawing.view._sheet.words)
        qtbot.mouseClick(box, Qt.MouseButton.LeftButton)
        assert any(label.words == words for label in drawing.view._sheet.words)
    # A part that is only traced is no face: nothing is painted anew for it.
    faces, section = session.answers.faces, session.build.all(Outline)[0]
    session.commit("part", {"part": replace(section, id="part", name="a part")})
    settle(qtbot, session)
    assert session.answers.faces is faces and "part" in session.answers.behind
    session.undo()
    settle(qtbot, session)


def _cut_out(qtbot: QtBot, window: Window, wall: SkinFace, path: Path) -> None:
    """Its template is the wall laid flat at half the size, with a fold at each corner."""
    stage = window.measure
    stage.switch.show_page("Templates")
    assert stage.sheet_page.sheet is not None
    assert any(words.words == wall.name for words in stage.sheet_page.sheet.words)
    with qtbot.waitSignal(window.session.prompted, timeout=30_000):
        stage.sheet_page.exports.write_sheet(stage.sheet_page.sheet, path)
    lines = ezdxf.filemanagement.readfile(path).modelspace()
    cut = [np.array([p[:2] for p in line.get_points()])  # type: ignore[attr-defined]
           for line in lines.query("LWPOLYLINE[layer=='cut']")]  # fmt: skip
    spans = [tuple(sorted(np.ptp(points, axis=0))) for points in cut]
    assert any(span == pytest.approx((290, 300), abs=3) for span in spans), spans
    assert len(lines.query("*[layer=='score']")) == 3


def _with_something_missing(
    qtbot: QtBot, window: Window, wall: SkinFace, within: SkinFace, section: Outline
) -> None:  # fmt: skip
    session = window.session
    # Without the still that a section was traced on, the wall goes with it; undo brings both.
    session.commit("still off", removal(session.build, section.still_id))
    settle(qtbot, session)
    assert session.build.get(SkinFace, wall.id) is None and session.build.get(SkinFace, within.id) is not None
    session.undo()
    settle(qtbot, session)
    # With the bow's corners unmarked nobody knows where its section lies, and it is said.
    gone = set(ids(session, "hull", ENDS["bow"]))
    session.commit("bow unmarked", {m.id: None for m in session.build.all(LandmarkMark) if m.landmark_id in gone})
    settle(qtbot, session)
    told = {r.id: r.problem for r in session.answers.faces.rows}
    assert "squared up from" in told[wall.id] and "square it up" in told[wall.id]


def test_what_the_house_hides_of_a_hatch_is_told_where_it_is_traced(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = boxes(qtbot, opened, tmp_path / "boxes.chalkreel")
    session, stage = window.session, window.measure
    # Its twin stands on the other side.
    names = tuple(f"{end}, port" for end in ("aft foot", "aft top", "bow top", "bow foot"))
    session.commit("face", mark_face(session.build, "house side", ids(session, "house", names)).edits)
    still = squared_up(qtbot, window, "deck", DECK)
    assert still.squared is not None
    (source,) = (session.build.get(Still, i) for i in still.squared.source_ids)
    assert source is not None
    # A hatch along the far side of the house, and one well before its near side. The house is 140 mm wide.
    place = dict(zip(DECK, (next((x, y) for key, x, y in still.squared.anchors if key == i)
                            for i in ids(session, "hull", DECK)), strict=True))  # fmt: skip
    origin, along, across = (np.array(place[key]) for key in (DECK[0], DECK[1], DECK[3]))

    def on_still(x: float, y: float) -> np.ndarray:
        return np.asarray(origin + (x + 300) / 600 * (along - origin) + (100 - y) / 200 * (across - origin))

    near = 1.0 if SHOTS[source.title].position[1] > 0 else -1.0
    ring = ((0.0, 74.0), (60.0, 74.0), (60.0, 92.0), (0.0, 92.0))
    hidden = traced(qtbot, window, still, "hatch", np.array([on_still(x, -near * y) for x, y in ring]))
    seen = traced(qtbot, window, still, "vent", np.array([on_still(x, near * y) for x, y in ring]))
    words = [w for w in session.answers.matters("Measure") if "lies behind" in w]
    assert len(words) == 1 and words[0].startswith("hatch: ") and f"on still {source.number}" in words[0]
    labels = [stroke.label for stroke in stage.view._strokes if stroke.dashed and stroke.label.startswith("behind")]
    assert labels and all("house" in label for label in labels)
    session.select(hidden.id)
    qtbot.waitUntil(lambda: any("lies behind" in w for w in _card(window)))
    session.select(seen.id)
    qtbot.waitUntil(lambda: not any("lies behind" in w for w in _card(window)))
    # Without the faces nobody knows, and nothing is claimed.
    session.commit("faces off", {face.id: None for face in session.build.all(SkinFace)})
    settle(qtbot, session)
    assert not any("lies behind" in w for w in session.answers.matters("Measure"))


def test_joined_landmarks_become_faces_at_one_click_and_not_what_lies_within(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = boxes(qtbot, opened, tmp_path / "boxes.chalkreel")
    session, drawing = window.session, window.measure.drawing
    window.measure.switch.show_page("Drawing")
    assert not drawing.offer.isVisible()
    with session.gesture("edges"):
        for box in ("hull", "house"):
            known = {m.name: m.id for m in session.build.all(Landmark) if m.name.startswith(box)}
            for a, b in combinations(known, 2):
                # Corners of a box are joined where their names differ in one word.
                if sum(one != other for one, other in zip(a.split(), b.split(), strict=True)) == 1:
                    tie = Tie(id=f"{a} {b}", a_id=known[a], b_id=known[b], direction="")
                    session.commit("edge", {tie.id: tie})
    settle(qtbot, session)
    # Of both boxes side, top, bow and aft: the foot of one is seen by no still, the other's lies on the deck.
    assert drawing.offer.isVisible() and drawing.offer.text() == "Make 8 faces of joined landmarks"
    assert "with the button above" in drawing.view._hint
    drawing.offer.click()
    settle(qtbot, session)
    assert {face.name for face in session.build.all(SkinFace)} == {
        f"{box}{end}" for box in ("hull", "house") for end in ("", " top", " bow", " aft")
    }  # fmt: skip
    areas = sorted(round(row.area_mm2 / 100) for row in session.answers.faces.rows)
    # In cm²: 600 × 200 × 90 mm, and 180 × 140 × 60 mm.
    assert areas == pytest.approx(sorted([540, 1200, 180, 180, 108, 252, 84, 84]), rel=0.02)
    # Their areas came after their names, and are not cut off.
    column = [column.title for column in drawing.table.rows_model.columns].index("area")
    assert drawing.table.columnWidth(column) >= drawing.table.sizeHintForColumn(column)
    assert not drawing.offer.isVisible()
    session.undo()
    settle(qtbot, session)
    assert not session.build.all(SkinFace) and drawing.offer.isVisible()


def _card(window: Window) -> list[str]:
    return [label.text() for label in window.measure.card.findChildren(QLabel)]
