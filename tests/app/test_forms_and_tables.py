"""Every field and every editable cell does what it says, once, and can be undone."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.card import AnswerColumn
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.table import Table
from chalkreel.app.window import Window
from chalkreel.document.entities import Feature, KitPart, Still, Version
from chalkreel.document.finish_entities import Evening
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import Surface, Zone
from tests.app.conftest import settle, show_stage
from tests.app.test_whole_slice import card_text

# Table, column, what is typed, and the field it must set (None: any entity may change).
CELLS = [
    ("gather.parts", "part", "A9 keel", ("name", "A9 keel")),
    ("gather.parts", "state", "warped", ("state", "warped")),
    ("gather.parts", "calliper", "12.5", ("calliper_mm", 12.5)),
    ("gather.parts", "fit notes", "tight", ("fit_note", "tight")),
    ("light.lamps", "lamp", "Stern light", ("name", "Stern light")),
    ("light.lamps", "colour", "blue", ("colour", "blue")),
    ("light.lamps", "number", "3", ("count", 3)),
    ("light.lamps", "sheet: V at mA", "2,9 V at 15 mA; 2.7 at 1 read", ("sheet_ma", 15.0)),
    ("light.lamps", "wanted, mA", "7,5", ("current_ma", 7.5)),
    ("light.lamps", "in a row", "2", ("series", 2)),
    ("light.lamps", "flashes", "yes", ("flashing", True)),
    ("light.lamps", "size", "0402", ("package", "0402")),
    ("convert.versions", "feature", "derrick", ("name", "derrick")),
    ("convert.versions", "assembly", "Mast", ("assembly", "Mast")),
    ("convert.versions", "Special (the kit)", "short boom at aft", None),
    ("convert.versions", "Series (being built)", "not there", None),
    ("convert.versions", "Special: seen on", "still 3", None),
    ("convert.versions", "Series: seen on", "still 3", None),
    ("convert.jobs", "material", "brass rod", None),
    ("convert.jobs", "hours", "2.5", None),
    ("convert.jobs", "when", "after decals", None),
    ("convert.cuts", "piece", "fin, left", ("name", "fin, left")),
    ("convert.cuts", "×", "3", ("count", 3)),
    ("convert.cuts", "thick", "0.5 mm", ("thick_mm", 0.5)),
    ("convert.stock", "stock", "grey sheet", ("name", "grey sheet")),
    ("convert.stock", "form", "strip", ("form", "strip")),
    ("convert.stock", "material", "ABS", ("material", "ABS")),
    ("convert.stock", "thick", "1/2 in", ("thick_mm", 12.7)),
    ("convert.stock", "long", "10 in", ("long_mm", 254.0)),
    ("convert.stock", "wide", "100", ("wide_mm", 100.0)),
    ("convert.stock", "left", "0", ("count", 0)),
    ("convert.stock", "offcut", "yes", ("offcut", True)),
    ("convert.orders", "order", "lenses", ("name", "lenses")),
    ("convert.orders", "for", "skirt", ("feature_id", "feature-7")),
    ("convert.orders", "source", "scratch", ("source", "scratch")),
    ("convert.orders", "days", "4", ("worst_days", 12)),
    ("convert.orders", "ordered", "2026-11-20", ("ordered_on", "2026-11-20")),
    ("convert.orders", "came", "2026-12-01", ("came_on", "2026-12-01")),
    ("finish.zones", "zone", "Flanks", ("name", "Flanks")),
    ("finish.zones", "assembly", "Shell", ("assembly", "Shell")),
    ("finish.zones", "surface", "Deck", ("surface_id", "surface-deck")),
    ("finish.zones", "finish", "masked panel or stripe", ("role", "stripe")),
    ("finish.zones", "finish", "working deck", ("wear", ("chipping", "wash", "dry-brush"))),
    ("finish.zones", "medium", "enamel", ("medium", "enamel")),
    ("finish.zones", "decals", "no", ("decals", False)),
    ("finish.zones", "coats", "5", ("coats", 5)),
    ("finish.zones", "area, cm²", "77", ("area_cm2", 77.0)),
    ("finish.evenings", "weekday", "Friday", ("weekday", 4)),
    ("finish.evenings", "from", "18:15", ("start", "18:15")),
    ("finish.evenings", "to", "00:45", ("end", "00:45")),
    ("finish.evenings", "or on one day only", "2026-12-30", ("day", "2026-12-30")),
    ("measure.table", "size", "Hull length", None),
    ("measure.table", "for part", "A3 deck", None),
    ("measure.table", "drawn", "no", None),
]
NONSENSE = [
    ("gather.parts", "part", "  "),
    ("gather.parts", "calliper", "-4"),
    ("light.lamps", "number", "2.5"),
    ("light.lamps", "sheet: V at mA", "1.2 V at 20 mA"),
    ("light.lamps", "in a row", "many"),
    ("convert.versions", "Series: seen on", "still 99"),
    ("convert.jobs", "hours", "0"),
    ("convert.cuts", "thick", "-1"),
    ("convert.cuts", "×", "2001"),
    ("convert.stock", "left", "many"),
    ("convert.stock", "long", "0"),
    ("convert.orders", "days", "soon"),
    ("convert.orders", "ordered", "31 November"),
    ("finish.zones", "coats", "0"),
    ("finish.zones", "area, cm²", "-3"),
    ("finish.zones", "finish", "rust"),
    ("finish.evenings", "from", "half past"),
    ("finish.evenings", "to", "19:30"),
    ("finish.evenings", "or on one day only", "soon"),
]


def table_at(window: Window, where: str) -> Table:
    stage, name = where.split(".")
    show_stage(window, stage.capitalize())
    found = getattr(getattr(window, stage), name)
    if stage == "convert":
        window.convert.turn_to(name.capitalize())
        found = found.table
    assert isinstance(found, Table)
    return found


def cell(table: Table, title: str) -> tuple[int, Column]:
    columns = table.rows_model.columns
    number = next(n for n, column in enumerate(columns) if column.title == title)
    return number, columns[number]


def type_into(table: Table, number: int, text: str) -> bool:
    return table.rows_model.setData(table.rows_model.index(0, number), text)


def test_every_editable_cell_commits_once_and_is_undone(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    walked = set()
    for where, title, text, expected in CELLS:
        table = table_at(demo_window, where)
        number, column = cell(table, title)
        row, before = table.rows_model.rows[0], session.build
        assert type_into(table, number, text), (where, title)
        assert session.build.revision == before.revision + 1, (where, title)
        if expected is not None:
            assert getattr(session.build.entities[row.id], expected[0]) == expected[1], (where, title)
        session.undo()
        assert dict(session.build.entities) == dict(before.entities), (where, title)
        settle(qtbot, session)
        walked.add((where, column.title))
    for where in {w for w, *_ in CELLS}:
        editable = {(where, c.title) for c in table_at(demo_window, where).rows_model.columns if c.put is not None}
        assert editable <= walked, editable - walked


@pytest.mark.parametrize(("where", "title", "text"), NONSENSE)
def test_nonsense_in_a_cell_is_refused_and_changes_nothing(
    demo_window: Window, where: str, title: str, text: str
) -> None:
    table = table_at(demo_window, where)
    number, _ = cell(table, title)
    before = demo_window.session.build
    assert not type_into(table, number, text)
    assert demo_window.session.build is before
    assert demo_window.prompt.words.text().startswith("✗ ")


def test_a_cell_is_edited_by_keys(qtbot: QtBot, demo_window: Window) -> None:
    table = table_at(demo_window, "gather.parts")
    table.setFocus()
    table.setCurrentIndex(table.rows_model.index(1, 3))
    qtbot.keyClick(table, Qt.Key.Key_Return)
    editor = table.findChild(QLineEdit)
    assert editor is not None
    editor.selectAll()
    qtbot.keyClicks(editor, "snug, no filler")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: demo_window.session.build.all(KitPart)[1].fit_note == "snug, no filler")


def choose(box: QComboBox, words: str) -> None:
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())


def field(form: Form, kind: type, name: str) -> QLineEdit | QComboBox:
    found = next(w for w in form.findChildren(kind) if w.accessibleName() == name)
    assert isinstance(found, (QLineEdit, QComboBox))
    return found


def retype(qtbot: QtBot, edit: QLineEdit, text: str) -> None:
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, text)
    qtbot.keyClick(edit, Qt.Key.Key_Return)


def test_what_is_known_of_a_still_is_kept(qtbot: QtBot, demo_window: Window) -> None:
    session, form = demo_window.session, demo_window.gather.form
    session.choose_still("still-6")

    def still() -> Still:
        found = session.still
        assert found is not None
        return found

    for name, words, get in (
        ("Kind", "plan", lambda: still().still_kind),
        ("Trust", "low", lambda: still().trust), ("Version", "Special", lambda: still().version_id),
    ):  # fmt: skip
        choose(field(form, QComboBox, name), words)  # type: ignore[arg-type]
        assert get() == {"Special": "version-special"}.get(words, words)
    choose(field(form, QComboBox, "Pixels"), "720 × 480 shown at 16:9")  # type: ignore[arg-type]
    assert still().pixel_aspect == pytest.approx(32 / 27)
    retype(qtbot, field(form, QLineEdit, "  width : 1"), "1.3")  # type: ignore[arg-type]
    assert still().pixel_aspect == 1.3
    retype(qtbot, field(form, QLineEdit, "  width : 1"), "99")  # type: ignore[arg-type]
    assert still().pixel_aspect == 1.3 and "quarter and four times" in demo_window.prompt.words.text()
    retype(qtbot, field(form, QLineEdit, "Note"), "cream paper")  # type: ignore[arg-type]
    assert still().note == "cream paper"
    choose(field(form, QComboBox, "Version"), "new version…")  # type: ignore[arg-type]
    assert len(session.build.all(Version)) == 3 and still().version_id == session.build.all(Version)[-1].id


def test_escape_gives_the_old_value_back(qtbot: QtBot, demo_window: Window) -> None:
    name, before = demo_window.slate.name, demo_window.session.build
    name.setFocus()
    name.selectAll()
    qtbot.keyClicks(name, "something else")
    qtbot.keyClick(name, Qt.Key.Key_Escape)
    assert name.text() == "Ninepin, Series version"
    qtbot.keyClick(name, Qt.Key.Key_Return)
    assert demo_window.session.build is before


def test_slate_choices(qtbot: QtBot, demo_window: Window) -> None:
    session, slate = demo_window.session, demo_window.slate
    choose(slate.unit, "inch")
    assert session.build.info.unit == "inch"
    choose(slate.version, "Special")
    settle(qtbot, session)
    assert session.build.info.version_id == "version-special"
    assert session.answers is not None and len(session.answers.coverage.bare_sides) == 4
    qtbot.mouseClick(slate.undo, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(slate.undo, Qt.MouseButton.LeftButton)
    assert session.build.info.unit == "mm" and session.build.info.version_id == "version-series"
    assert "version being built" not in slate.undo.toolTip() and not slate.undo.isEnabled() and slate.redo.isEnabled()


def test_the_chosen_ruler_is_edited_on_the_card(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Measure")
    session.select("ruler-road wheel")
    form = demo_window.measure.forms.mark
    qtbot.waitUntil(form.isVisible)
    retype(qtbot, field(form, QLineEdit, "Length ±"), "22 mm ± 0.3 mm")  # type: ignore[arg-type]
    ruler = session.build.entities["ruler-road wheel"]
    assert (ruler.length_mm, ruler.sigma_mm) == (22.0, pytest.approx(0.3))  # type: ignore[union-attr]
    retype(qtbot, field(demo_window.measure.still_form, QLineEdit, "Square on within ± °"), "5")  # type: ignore[arg-type]
    assert session.still is not None and session.still.tilt_sigma_deg == 2.5
    retype(qtbot, field(demo_window.measure.still_form, QLineEdit, "its length"), "300 mm")  # type: ignore[arg-type]
    settle(qtbot, session)
    assert "too short for it" in card_text(demo_window)
    demo_window.measure.remove_selected()
    assert "ruler-road wheel" not in session.build.entities


def test_features_get_their_part_and_size_on_the_card(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.convert
    show_stage(demo_window, "Convert")
    stage.turn_to("Versions")
    table = stage.versions.table
    table.setCurrentIndex(table.rows_model.index(0, 0))
    choose(field(stage.versions.form, QComboBox, "Kit part"), "C9 louvres")  # type: ignore[arg-type]
    choose(field(stage.versions.form, QComboBox, "Size from"), "Louvre width")  # type: ignore[arg-type]
    mast = session.build.get(Feature, "feature-0")
    assert mast is not None and (mast.part_id, mast.dimension_id) == ("part-louvre", "dim-Louvre width")
    retype(qtbot, field(stage.forms["Versions"], QLineEdit, "Its name"), "First serial")  # type: ignore[arg-type]
    settle(qtbot, session)
    assert table.rows_model.columns[4].title == "First serial (being built)"


def test_an_edit_of_an_older_row_keeps_what_was_edited_meanwhile(demo_window: Window) -> None:
    session = demo_window.session
    old = session.build.get(KitPart, "part-deck")
    assert old is not None
    session.edit("calliper", old, calliper_mm=111.0)
    session.edit("fit note", old, fit_note="tight")
    part = session.build.get(KitPart, "part-deck")
    assert part is not None and (part.calliper_mm, part.fit_note) == (111.0, "tight")


def test_new_rows_and_removed_rows(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Light")
    count = len(session.build.all(Lamp))
    demo_window.light._add()
    assert len(session.build.all(Lamp)) == count + 1
    settle(qtbot, session)
    demo_window.light.lamps.setCurrentIndex(demo_window.light.lamps.rows_model.index(count, 0))
    demo_window.light.lamps.remove_current()
    assert len(session.build.all(Lamp)) == count
    show_stage(demo_window, "Finish")
    for page, kind in (("Zones", Zone), ("Evenings", Evening)):
        before = len(session.build.all(kind))
        demo_window.finish.turn_to(page)
        qtbot.mouseClick(demo_window.finish.add, Qt.MouseButton.LeftButton)
        assert len(session.build.all(kind)) == before + 1
    retype(qtbot, field(demo_window.finish.forms["Evenings"], QLineEdit, "From day"), "2027-03-01")  # type: ignore[arg-type]
    settle(qtbot, session)
    assert session.answers is not None and session.answers.sequence is not None
    assert session.answers.sequence.timetable is not None
    assert session.answers.sequence.timetable.slots[0].start.isoformat() >= "2027-03-01"
    retype(qtbot, field(demo_window.finish.forms["Evenings"], QLineEdit, "From day"), "soon")  # type: ignore[arg-type]
    assert "not a day" in demo_window.prompt.words.text()


def test_surfaces_come_and_go(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Colour")
    row = demo_window.session.answers.colours.surfaces[1]  # type: ignore[union-attr]
    demo_window.colour.report._remove_surface(row)
    settle(qtbot, session)
    assert row.surface_id not in session.build.entities and len(session.build.all(Surface)) == 4
    assert demo_window.colour.desk.surface.count() == 4
    demo_window.colour.desk._clear_still()
    settle(qtbot, session)
    assert not any(s.label for s in demo_window.colour.view._strokes)


def test_an_empty_clipboard_says_so(demo_window: Window) -> None:
    demo_window.gather.add_image(QImage())
    assert "no picture" in demo_window.prompt.words.text()


def test_stale_answers_are_grey_on_the_card(qtbot: QtBot) -> None:
    answers = AnswerColumn()
    qtbot.addWidget(answers)
    answers.clear(stale=False)
    answers.figure("size", "12.3", "± 0.1 mm", "leave", "good")
    fresh = answers.grab().toImage()
    answers.clear(stale=True)
    QApplication.processEvents()
    answers.figure("size", "12.3", "± 0.1 mm", "leave", "good")
    stale = answers.grab().toImage()
    brightest = [
        max(i.pixelColor(x, y).lightness() for x in range(i.width()) for y in range(i.height())) for i in (fresh, stale)
    ]
    assert brightest[1] < brightest[0]
