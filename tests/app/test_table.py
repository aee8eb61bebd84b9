"""The one table, by keys: rows added, pasted, filled, sorted, removed; refused words stay."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.cell_editors import CellLine
from chalkreel.app.parts.columns import sort_key
from chalkreel.app.parts.table import Table
from chalkreel.app.parts.widths import NARROWEST_PX, shared_widths
from chalkreel.app.window import Window
from chalkreel.document.entities import KitPart
from chalkreel.document.light_entities import Lamp
from chalkreel.document.store import Store
from tests.app.conftest import show_stage
from tests.builds import empty_build


@pytest.fixture
def own(opened: Callable[[Path], Window], tmp_path: Path) -> Window:
    window = opened(tmp_path / "own.chalkreel")
    show_stage(window, "Gather")
    return window


@pytest.fixture
def table(own: Window) -> Table:
    own.gather.parts.setFocus()
    return own.gather.parts


def editor(table: Table) -> QWidget:
    focus = QApplication.focusWidget()
    assert focus is not None and table.isAncestorOf(focus) and focus is not table
    return focus


def parts(window: Window) -> list[tuple[str, str, float | None]]:
    return [(p.name, p.state, p.calliper_mm) for p in window.session.build.all(KitPart)]


def press(qtbot: QtBot, table: Table, key: Qt.Key) -> None:
    """A key in the open cell; the toolkit closes cells through its event loop."""
    qtbot.keyClick(editor(table), key)
    QApplication.processEvents()


def test_parts_are_listed_without_a_click(qtbot: QtBot, own: Window, table: Table) -> None:
    """Enter begins, then the text and one key a cell, Enter for the next row."""
    qtbot.keyClick(table, Qt.Key.Key_Return)
    qtbot.keyClicks(editor(table), "A1 hull")
    press(qtbot, table, Qt.Key.Key_Return)
    qtbot.keyClicks(editor(table), "A2 keel")
    press(qtbot, table, Qt.Key.Key_Tab)
    press(qtbot, table, Qt.Key.Key_Tab)
    qtbot.keyClicks(editor(table), "12,5")
    press(qtbot, table, Qt.Key.Key_Return)
    press(qtbot, table, Qt.Key.Key_Escape)
    assert parts(own) == [("A1 hull", "present", None), ("A2 keel", "present", 12.5)]


def test_one_key_sets_the_state_of_every_chosen_row(qtbot: QtBot, own: Window, table: Table) -> None:
    session = own.session
    session.commit("parts", {f"p{n}": KitPart(id=f"p{n}", name=f"p{n}") for n in range(4)})
    own.gather.refresh()
    table.setCurrentIndex(table.rows_model.index(1, 0))
    qtbot.keyClick(table, Qt.Key.Key_M)
    assert [s for _, s, _ in parts(own)] == ["present", "missing", "present", "present"]
    own.gather.refresh()
    qtbot.keyClick(table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(table, Qt.Key.Key_W)
    assert [s for _, s, _ in parts(own)] == ["present", "warped", "warped", "present"]
    session.undo()
    assert [s for _, s, _ in parts(own)] == ["present", "missing", "present", "present"]


def test_rows_are_pasted_from_a_spreadsheet_as_one_change(own: Window, table: Table) -> None:
    QApplication.clipboard().setText("State\tPart\nmissing\tA1 hull\nWarped\tA2 keel\n")
    own.actions_by_id["paste"].trigger()
    assert parts(own) == [("A1 hull", "missing", None), ("A2 keel", "warped", None)]
    assert own.session.store.undo_label == "2 rows pasted"
    QApplication.clipboard().setText("B1 fin\tpresent\t22.4 mm\nB2 fin\tpresent\n")
    own.actions_by_id["paste"].trigger()
    assert parts(own)[2:] == [("B1 fin", "present", 22.4), ("B2 fin", "present", None)]
    own.session.undo()
    assert len(parts(own)) == 2


def test_a_column_is_pasted_over_the_rows_from_the_chosen_cell_down(own: Window, table: Table) -> None:
    session = own.session
    session.commit("parts", {f"p{n}": KitPart(id=f"p{n}", name=f"p{n}") for n in range(4)})
    own.gather.refresh()
    table.setCurrentIndex(table.rows_model.index(1, 1))
    QApplication.clipboard().setText("missing\t12 mm\nWarped\t9,5\n")
    own.actions_by_id["paste"].trigger()
    own.gather.refresh()
    filled = [("p0", "present", None), ("p1", "missing", 12.0), ("p2", "warped", 9.5), ("p3", "present", None)]
    assert parts(own) == filled
    for text, why in (("present\ngone", "Row 2, state"), ("present\n" * 4, "4 rows were copied")):
        QApplication.clipboard().setText(text)
        own.actions_by_id["paste"].trigger()
        assert parts(own) == filled and why in own.prompt.words.text()
    session.undo()
    assert {state for _, state, _ in parts(own)} == {"present"}


def test_a_bad_cell_pastes_nothing_and_says_where(own: Window, table: Table) -> None:
    QApplication.clipboard().setText("A1\tpresent\t12\nA2\tgone\t13\n")
    own.actions_by_id["paste"].trigger()
    assert parts(own) == []
    words = own.prompt.words.text()
    assert "Row 2, state" in words and "gone" in words and "Nothing was pasted" in words


def test_chosen_rows_are_copied_with_titles(own: Window, table: Table) -> None:
    own.session.commit("part", {"p": KitPart(id="p", name="A1", calliper_mm=12.5)})
    own.gather.refresh()
    table.selectAll()
    own.actions_by_id["copy-rows"].trigger()
    copied = QApplication.clipboard().text().splitlines()
    assert copied[0].split("\t")[:3] == ["part", "state", "calliper"]
    assert copied[1].split("\t")[:3] == ["A1", "present", "12.5 mm"]


def test_refused_words_stay_in_the_cell_with_the_reason(qtbot: QtBot, own: Window, table: Table) -> None:
    own.session.commit("part", {"p": KitPart(id="p", name="A1")})
    own.gather.refresh()
    table.setCurrentIndex(table.rows_model.index(0, 2))
    qtbot.keyClick(table, Qt.Key.Key_Return)
    line = editor(table)
    assert isinstance(line, CellLine)
    qtbot.keyClicks(line, "wide")
    press(qtbot, table, Qt.Key.Key_Return)
    assert editor(table) is line and line.text() == "wide" and line.echo.words.startswith("✗")
    line.selectAll()
    qtbot.keyClicks(line, "14 mm")
    assert "14" in line.echo.words and "in)" in line.echo.words
    press(qtbot, table, Qt.Key.Key_Return)
    assert parts(own) == [("A1", "present", 14.0)]


def test_any_column_sorts_both_ways_and_back(qtbot: QtBot, own: Window, table: Table) -> None:
    made = [("Part 10", None), ("Part 9", 4.0), ("Part 1", 30.0)]
    own.session.commit("parts", {n: KitPart(id=n, name=n, calliper_mm=mm) for n, mm in made})
    own.gather.refresh()

    def names() -> list[str]:
        return [r.name for r in table.rows_model.rows]

    header = table.horizontalHeader()

    def click(column: int) -> None:
        at = QPoint(header.sectionViewportPosition(column) + 8, header.height() // 2)
        qtbot.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, pos=at)

    click(0)
    assert names() == ["Part 1", "Part 9", "Part 10"]
    click(0)
    assert names() == ["Part 10", "Part 9", "Part 1"]
    click(0)
    assert names() == [n for n, _ in made]
    click(2)
    assert names() == ["Part 9", "Part 1", "Part 10"]


def test_del_removes_what_is_highlighted_and_the_keys_stay(qtbot: QtBot, own: Window, table: Table) -> None:
    own.session.commit("parts", {f"p{n}": KitPart(id=f"p{n}", name=f"p{n}") for n in range(5)})
    own.gather.refresh()
    table.setCurrentIndex(table.rows_model.index(1, 0))
    own.actions_by_id["delete"].trigger()
    assert [n for n, *_ in parts(own)] == ["p0", "p2", "p3", "p4"] and table.current.name == "p2"
    qtbot.keyClick(table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    own.actions_by_id["delete"].trigger()
    assert [n for n, *_ in parts(own)] == ["p0", "p4"] and own.session.store.undo_label.startswith("2 rows")


def test_a_box_is_ticked_with_space(qtbot: QtBot, own: Window) -> None:
    show_stage(own, "Light")
    lamps = own.light.lamps
    lamps.setFocus()
    qtbot.keyClick(lamps, Qt.Key.Key_Insert)
    qtbot.keyClicks(editor(lamps), "bow")
    press(qtbot, lamps, Qt.Key.Key_Tab)
    number = next(n for n, c in enumerate(lamps.rows_model.columns) if c.tick)
    lamps.setCurrentIndex(lamps.rows_model.index(0, number))
    own.actions_by_id["next"].trigger()
    assert [lamp.flashing for lamp in own.session.build.all(Lamp)] == [True]


@pytest.mark.parametrize(
    ("wanted", "stretch", "room"),
    [([100, 60, 300], [True, False, True], 800), ([100, 60, 300], [False] * 3, 300), ([300, 60, 300], [True] * 3, 150)],
)
def test_columns_share_the_room_there_is(wanted: list[int], stretch: list[bool], room: int) -> None:
    widths = shared_widths(wanted, stretch, room)
    assert min(widths) >= NARROWEST_PX
    if room >= sum(wanted):
        assert sum(widths) == room and all(w >= want for w, want in zip(widths, wanted, strict=True))
    elif room >= NARROWEST_PX * len(wanted):
        # The widest give way, down to one width; none goes further than it must.
        assert room - len(widths) < sum(widths) <= room and widths[0] == min(wanted[0], max(widths))


def test_cells_sort_as_people_order_them() -> None:
    words = ["", "10 mm", "9.5 mm", "Part 10", "part 9"]
    assert sorted(words, key=sort_key) == ["part 9", "Part 10", "9.5 mm", "10 mm", ""]


def test_a_build_held_by_another_window_gets_no_row_and_says_so(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    path = tmp_path / "held.chalkreel"
    holder = Store.create(path, empty_build("Held"))
    window = opened(path)
    show_stage(window, "Gather")
    window.gather.parts.add_row()
    assert not window.session.build.all(KitPart) and "Another window" in window.prompt.words.text()
    holder.close()


def test_a_row_that_is_chosen_elsewhere_is_brought_into_view(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Finish")
    session.select("Hull/Hazard band/stripe")
    steps = demo_window.finish.steps
    qtbot.waitUntil(lambda: steps.viewport().rect().contains(steps.visualRect(steps.currentIndex()).center()))
    assert steps.current is not None and steps.current.step.id == "Hull/Hazard band/stripe"
