"""Light in the real window: lamps of a build of one's own wired, diagnosed, cured, measured, printed, undone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from pypdf import PdfReader
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QComboBox, QLineEdit
from pytestqt.qtbot import QtBot

from chalkreel.answers.lighting import Solved
from chalkreel.app.light.diagram import WiringDiagram
from chalkreel.app.parts.fields import Form
from chalkreel.app.window import Window
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.light_entities import BranchReading, Lamp, LightBranch, LightDriver, LightPlan, PowerSupply
from tests.app.conftest import settle, show_stage
from tests.app.test_forms_and_tables import field, retype
from tests.app.test_whole_slice import card_text


def solved(window: Window) -> Solved:
    answers = window.session.answers
    assert answers is not None and answers.lighting is not None and answers.lighting.solved is not None
    return answers.lighting.solved


def lantern(qtbot: QtBot, window: Window) -> Lamp:
    """Four red chips of an invented signal lantern, listed in the table."""
    session, stage = window.session, window.light
    show_stage(window, "Light")
    qtbot.mouseClick(stage.add, Qt.MouseButton.LeftButton)
    lamp = session.build.all(Lamp)[0]
    session.edit(
        "lamp", lamp, name="Lantern", colour="red", count=4, package="0603", forward_volts=1.95, current_ma=5.0
    )
    settle(qtbot, session)
    return session.build.all(Lamp)[0]


def line(form: Form, name: str) -> QLineEdit:
    found = field(form, QLineEdit, name)
    assert isinstance(found, QLineEdit)
    return found


def place_of(diagram: WiringDiagram, branch: int, strand: int = -1, lamp: int = -1) -> QPoint:
    wiring = diagram._wiring
    assert wiring is not None
    p = next(p for p in wiring.places if (p.branch, p.strand, p.place) == (branch, strand, lamp))
    # Near the lower edge of a branch nothing else lies.
    down = p.height - 8 if strand < 0 else p.height / 2
    return QPointF(p.x + p.width / 2, p.y + down).toPoint()


def test_a_circuit_of_ones_own_is_wired_diagnosed_cured_undone_and_reopened(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    path = tmp_path / "lantern.chalkreel"
    window = opened(path)
    session, stage = window.session, window.light
    lamp = lantern(qtbot, window)
    # Planned by the program: reds on three AA each alone, lit, and nothing wrong.
    assert len(solved(window).lit.lamps) == 1 and solved(window).circuit.branches[0].times == 4
    assert "4 lamps light" in card_text(window) and stage.wrong.title.isHidden()
    stage.turn_to("Circuit")
    session.select(lamp.id)
    stage.refresh()
    assert stage.wire.isEnabled()
    stage.wire_as(lamp, "side by side behind one resistor")
    settle(qtbot, session)
    (branch,) = session.build.all(LightBranch)
    assert len(branch.strands) == 4 and not session.answers.lighting.planned
    assert "one resistor for several" in stage.wrong.title.text()
    # The cure is shown first, and changes nothing.
    qtbot.waitUntil(stage.wrong.take.isEnabled)
    before = session.build
    qtbot.mouseClick(stage.wrong.show_cured, Qt.MouseButton.LeftButton)
    assert session.build is before and len(stage.diagram._wiring.frames) == 1
    qtbot.mouseClick(stage.wrong.show_cured, Qt.MouseButton.LeftButton)
    assert not stage.diagram._wiring.frames
    qtbot.mouseClick(stage.wrong.take, Qt.MouseButton.LeftButton)
    settle(qtbot, session)
    (branch,) = session.build.all(LightBranch)
    assert branch.times == 4 and len(branch.strands) == 1 and {f.kind for f in solved(window).findings} <= {"no fuse"}
    for _ in range(2):
        window.actions_by_id["undo"].trigger()
        settle(qtbot, session)
    assert not session.build.all(LightBranch) and solved(window).circuit.branches[0].times == 4
    window.actions_by_id["redo"].trigger()
    settle(qtbot, session)
    again = opened(path)
    assert len(again.session.build.all(LightBranch)[0].strands) == 4


def test_a_lamp_is_turned_by_key_moved_by_drag_and_a_branch_taken_apart(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "lantern.chalkreel")
    session, stage = window.session, window.light
    lamp = lantern(qtbot, window)
    stage.wire_as(lamp, "in a row")
    session.edit("number", lamp, count=6)
    stage.wire_as(session.build.all(Lamp)[0], "each alone")
    settle(qtbot, session)
    stage.turn_to("Circuit")
    row, alone = session.build.all(LightBranch)
    diagram = stage.diagram
    qtbot.mouseClick(diagram, Qt.MouseButton.LeftButton, pos=place_of(diagram, 0, 0, 1))
    assert session.selection == row.id and stage.turn.isEnabled()
    diagram.setFocus()
    qtbot.keyClick(diagram, Qt.Key.Key_R)
    settle(qtbot, session)
    assert [u.turned for u in session.build.get(LightBranch, row.id).strands[0].lamps] == [False, True, False, False]
    assert "a lamp is turned" in stage.wrong.title.text()
    # Drag the fourth lamp of the row to one of the two alike.
    qtbot.mousePress(diagram, Qt.MouseButton.LeftButton, pos=place_of(diagram, 0, 0, 3))
    qtbot.mouseMove(diagram, pos=place_of(diagram, 1))
    qtbot.mouseRelease(diagram, Qt.MouseButton.LeftButton, pos=place_of(diagram, 1))
    settle(qtbot, session)
    assert len(session.build.get(LightBranch, row.id).strands[0].lamps) == 3
    assert len(session.build.get(LightBranch, alone.id).strands[0].lamps) == 2
    qtbot.mouseClick(diagram, Qt.MouseButton.LeftButton, pos=place_of(diagram, 1))
    diagram.setFocus()
    window.actions_by_id["delete"].trigger()
    settle(qtbot, session)
    assert row.id in session.build.entities and alone.id not in session.build.entities
    # A planned row is the program's: it says so instead of turning a lamp.
    stage.turn_round()
    assert "that you have wired" in window.prompt.words.text()


def test_a_planned_row_is_taken_in_hand_by_dragging_a_lamp_out_of_it(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "lantern.chalkreel")
    session, stage = window.session, window.light
    session.edit("in a row", lantern(qtbot, window), series=2)
    settle(qtbot, session)
    stage.turn_to("Circuit")
    diagram = stage.diagram
    free = QPoint(diagram.width() - 3, 3)
    qtbot.mousePress(diagram, Qt.MouseButton.LeftButton, pos=place_of(diagram, 0, 0, 1))
    qtbot.mouseMove(diagram, pos=free)
    qtbot.mouseRelease(diagram, Qt.MouseButton.LeftButton, pos=free)
    settle(qtbot, session)
    # Four in two rows of two: one row stays whole, of the other each lamp has a branch now.
    rows = sorted((len(b.strands[0].lamps), b.times) for b in session.build.all(LightBranch))
    assert rows == [(1, 1), (1, 1), (2, 1)] and not session.answers.lighting.planned
    assert len(solved(window).lit.lamps) == 4 and not solved(window).dark_branches()
    # A lamp that is alone already is not moved beside all.
    before = session.build
    number = next(n for n, b in enumerate(solved(window).circuit.branches) if len(b.strands[0].lamps) == 1)
    stage._move(number, 0, 0, -1)
    assert session.build is before
    window.actions_by_id["undo"].trigger()
    settle(qtbot, session)
    assert not session.build.all(LightBranch)
    # How far the cells are to be used is said on the card, and what cannot is refused beside it.
    retype(qtbot, line(stage.forms["supply"], "Lit until, % used"), "130")
    assert "between" in window.prompt.words.text() or "lies" in window.prompt.words.text()
    retype(qtbot, line(stage.forms["supply"], "Lit until, % used"), "95 %")
    assert session.build.all(LightPlan)[0].used == 0.95


def test_supply_branch_and_stand_are_told_on_the_card_and_bad_figures_are_refused(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "lantern.chalkreel")
    session, stage = window.session, window.light
    stage.wire_as(lantern(qtbot, window), "each alone")
    settle(qtbot, session)
    (branch,) = session.build.all(LightBranch)
    stage.turn_to("Routes")
    session.select(branch.id)
    stage.refresh()
    strands = line(stage.forms["branch"], "In its strands, Ω")
    retype(qtbot, strands, "220; 470")
    assert "1 strand:" in window.prompt.words.text()
    retype(qtbot, strands, "220")
    assert [s.ohm for b in session.build.all(LightBranch) for s in b.strands] == [220.0]
    settle(qtbot, session)
    retype(qtbot, strands, "0")
    assert [s.ohm for b in session.build.all(LightBranch) for s in b.strands] == [0.0]
    settle(qtbot, session)
    retype(qtbot, line(stage.forms["branch"], "Resistor, Ω"), "0")
    settle(qtbot, session)
    assert solved(window).circuit.branches[0].ohm == 0 and "✗" in card_text(window)
    session.edit("resistor", session.build.all(LightBranch)[0], ohm=None)
    retype(qtbot, line(stage.forms["fit"], "Stand inside"), "60 × 60")
    assert "3 sides" in window.prompt.words.text()
    retype(qtbot, line(stage.forms["fit"], "Stand inside"), "70 x 54 x 24")
    retype(qtbot, line(stage.forms["fit"], "Tube inside"), "2")
    settle(qtbot, session)
    assert "It lies in" in card_text(window) and "✓ Through the tube" in stage.routes_words.text()
    for name, words in (("Switched by", "a new pin"), ("Fed by", "a new step-up to 12 V")):
        box = field(stage.forms["branch"], QComboBox, name)
        assert isinstance(box, QComboBox)
        box.setCurrentIndex(box.findText(words))
        box.activated.emit(box.currentIndex())
    settle(qtbot, session)
    assert len(session.build.all(LightDriver)) == 1 and len(session.build.all(PowerSupply)) == 2
    assert solved(window).lit.supplies[-1].ma > 15  # four lamps hang on the module now


def test_other_supplies_and_rows_stand_side_by_side_and_are_taken(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "lantern.chalkreel")
    session, stage = window.session, window.light
    lantern(qtbot, window)
    stage.turn_to("What if")
    qtbot.waitUntil(lambda: len(stage.supplies.rows_model.rows) > 5, timeout=60_000)
    rows = {r.supply.name: r for r in stage.supplies.rows_model.rows}
    assert rows["coin cell"].wrong and not rows["3 × AA cells"].wrong
    # Four AA last about as long per mA, and keep more of the light than three.
    assert rows["4 × AA cells"].option.kept > rows["3 × AA cells"].option.kept
    choices = [r.in_row for r in stage.rows.rows_model.rows]
    assert choices == [1, 2]
    stage.rows.setCurrentIndex(stage.rows.model().index(1, 0))
    stage.rows.setFocus()
    stage._take_option()
    settle(qtbot, session)
    assert session.build.all(Lamp)[0].series == 2 and solved(window).circuit.branches[0].times == 2
    stage.supplies.choose("USB 5 V")
    stage.supplies.setFocus()
    stage._take_option()
    settle(qtbot, session)
    assert session.build.all(PowerSupply)[0].supply_kind == "USB 5 V" and "plugged in" in card_text(window)


def test_readings_are_typed_and_judged_and_the_sheet_is_printed(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    window, session, stage = demo_window, demo_window.session, demo_window.light
    show_stage(window, "Light")
    stage.turn_to("Tests")
    settle(qtbot, session)
    model = stage.readings.rows_model
    beacon = next(n for n, r in enumerate(model.rows) if r.name == "Beacon")
    column = next(n for n, c in enumerate(model.columns) if c.title == "soldered, mA")
    good = f"{model.rows[beacon].ma:.1f}"
    assert model.setData(model.index(beacon, column), good)
    settle(qtbot, session)
    assert "as it should be" in stage.tests_words.text()
    assert model.setData(model.index(beacon, column + 2), "0,4")
    settle(qtbot, session)
    assert "pinched" in stage.tests_words.text() and not model.setData(model.index(beacon, column), "much")
    assert len(session.build.all(BranchReading)) == 3
    assert session.build.all(LogEntry)[-1].words.startswith("Beacon, closed: 0.4 mA read")
    window.exports.write_stage(tmp_path / "light.pdf")
    settle(qtbot, session)
    text = " ".join(page.extract_text() for page in PdfReader(tmp_path / "light.pdf").pages)
    for words in (
        "Wiring",
        "Side lamps",
        "a lamp is turned",
        "Have ready",
        "680 Ω",
        "half the light after",
        "lead-free",
    ):
        assert words in text, words
