"""Fields that take a length, in builds of both units, with everything people write: right, or refused in place."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QInputMethodEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QLineEdit, QTableView, QWidget
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.document.entities import Collar, KitPart
from tests.app.conftest import settle, show_stage
from tests.app.layout_check import pages, show
from tests.core.test_lengths import SPELLINGS


def typed(qtbot: QtBot, field: QLineEdit, text: str) -> None:
    field.setFocus()
    field.selectAll()
    if text:
        # As an input method types: the test toolkit's keys know no ¾ and no ″.
        event = QInputMethodEvent()
        event.setCommitString(text)
        QApplication.sendEvent(field, event)
    else:
        qtbot.keyClick(field, Qt.Key.Key_Delete)
    qtbot.keyClick(field, Qt.Key.Key_Return)


@pytest.fixture(params=["mm", "inch"])
def build(request: pytest.FixtureRequest, opened: Callable[[Path], Window], tmp_path: Path) -> Iterator[Window]:
    window = opened(tmp_path / "own.chalkreel")
    window.session.edit("units", window.session.build.info, unit=request.param)
    # Thousands of edits in a row: nobody waits for their answers here.
    window.session.think = lambda afresh=False: None  # type: ignore[method-assign]
    yield window


def wanted(window: Window, text: str) -> float | None:
    found = SPELLINGS[text]
    return None if found is None else found[window.session.build.info.unit == "inch"]


@pytest.mark.parametrize("link", ["miniature", "replica"])
def test_the_slate(qtbot: QtBot, build: Window, link: str) -> None:
    field, session = build.slate.links[link], build.session  # type: ignore[index]
    for text in SPELLINGS:
        before, mm = session.build.chain.length_mm(link), wanted(build, text)  # type: ignore[arg-type]
        typed(qtbot, field, text)
        stands = session.build.chain.length_mm(link)  # type: ignore[arg-type]
        if mm is None:
            assert stands == before and field.text() == text and field.echo.words.startswith("✗"), text
            qtbot.keyClick(field, Qt.Key.Key_Escape)
        else:
            assert stands == pytest.approx(mm) and not field.echo.words, text


def test_what_is_understood_is_said_while_it_is_typed(qtbot: QtBot, build: Window) -> None:
    field = build.slate.links["replica"]
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "22 in")
    assert "558.8 mm (22 in)" in field.echo.words
    field.selectAll()
    qtbot.keyClicks(field, "1,250 mm")
    assert "1250" in field.echo.words and "1.250" in field.echo.words


def test_the_story_wants_a_unit(qtbot: QtBot, build: Window) -> None:
    field = build.slate.links["story"]
    typed(qtbot, field, "21")
    assert "unit" in field.echo.words and field.text() == "21"
    typed(qtbot, field, "21 m")
    assert build.session.build.chain.story_mm == 21_000


def test_a_kit_parts_calliper(build: Window) -> None:
    show_stage(build, "Gather")
    session = build.session
    session.commit("part", {"p": KitPart(id="p", name="keel")})
    model = build.gather.parts.rows_model
    number = next(n for n, column in enumerate(model.columns) if column.title == "calliper")
    for text in SPELLINGS:
        build.gather.refresh()
        mm, before = wanted(build, text), session.build.get(KitPart, "p")
        assert before is not None
        model.setData(model.index(0, number), text)
        part = session.build.get(KitPart, "p")
        assert part is not None
        if not text:
            assert part.calliper_mm is None
        elif mm is None:
            assert part == before, text
        else:
            assert part.calliper_mm == pytest.approx(mm), text


def test_a_collar(qtbot: QtBot, build: Window) -> None:
    show_stage(build, "Measure")
    row, session = build.measure.sheet_page.collar, build.session
    for text in SPELLINGS:
        before, mm = len(session.build.all(Collar)), wanted(build, text)
        row.narrow.setText("10 mm")
        row.high.setText("20 mm")
        typed(qtbot, row.wide, text)
        if mm is None:
            assert len(session.build.all(Collar)) == before and row.wide.text() == text, text
        elif mm > 1 and mm < 10_000:
            assert session.build.all(Collar)[-1].lower_mm == pytest.approx(mm), text


def test_the_space_for_the_model(qtbot: QtBot, build: Window) -> None:
    show_stage(build, "Measure")
    session = build.session
    field = next(f for f in build.measure.card.findChildren(QLineEdit) if f.accessibleName() == "its length")
    for text in SPELLINGS:
        before, mm = session.build.info.space_mm, wanted(build, text)
        typed(qtbot, field, text)
        stands = session.build.info.space_mm
        if not text:
            assert stands is None
        elif mm is None:
            assert stands == before and field.text() == text, text
            qtbot.keyClick(field, Qt.Key.Key_Escape)
        else:
            assert stands == pytest.approx(mm), text


def shown_words(window: Window) -> set[str]:
    """Every word that can be read in the window now: labels, buttons, fields, examples in them, cells."""
    found = set()
    for widget in window.findChildren(QWidget):
        if not widget.isVisible():
            continue
        if isinstance(widget, (QLabel, QAbstractButton, QLineEdit)):
            found.add(widget.text())
        if isinstance(widget, QLineEdit):
            found.add(widget.placeholderText())
        if isinstance(widget, QTableView):
            model = widget.model()
            found |= {
                str(model.index(r, c).data()) for r in range(model.rowCount()) for c in range(model.columnCount())
            }
            found |= {str(model.headerData(c, Qt.Orientation.Horizontal)) for c in range(model.columnCount())}
    return found


def test_in_an_inch_build_no_millimetre_is_left_but_in_the_users_own_words(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    session.edit("units", session.build.info, unit="inch")
    session.select("dim-Fan flange diameter")
    settle(qtbot, session)
    own = str(list(session.build.entities.values()))
    for stage, page in pages(demo_window):
        show(demo_window, stage, page)
        for words in shown_words(demo_window):
            for match in re.finditer(r"[\d.]+ ?mm\b", words):
                assert match[0] in own, (stage, page, words)
