"""Every page at every size: nothing clipped, covered or outside; every pair of colours can be read."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from dataclasses import fields, replace
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QApplication, QComboBox, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from chalkreel.answers.stages import StageName
from chalkreel.app import theme
from chalkreel.app.parts.room import room_of
from chalkreel.app.stills.tools import LANDMARK
from chalkreel.app.window import Window
from chalkreel.document.entities import LandmarkMark
from tests.app.conftest import settle, show_stage
from tests.app.layout_check import pages, show, walk
from tests.app.test_finish import sledge

SIZES = ((900, 500), (1024, 600), (1100, 700), (1280, 800), (1920, 1080))


def test_nothing_is_clipped_or_covered_on_any_page_at_any_size(demo_window: Window) -> None:
    assert walk(demo_window, SIZES) == []


def test_nor_on_builds_that_have_hardly_begun(qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path) -> None:
    """They say what the demo never has to: what is missing, and what to do about it."""
    window = opened(tmp_path / "sledge.chalkreel")
    assert walk(window, ((1100, 700), (1280, 800))) == []
    sledge(qtbot, window)
    assert walk(window, ((1100, 700),)) == []


@pytest.mark.parametrize(("factor", "name"), [("1.25", "slate"), ("2", "daylight")])
def test_nor_at_other_scale_factors_and_in_daylight(factor: str, name: str, tmp_path: Path) -> None:
    settings = tmp_path / "chalkreel/chalkreel.conf"
    settings.parent.mkdir()
    settings.write_text(f"[window]\ntheme={name}\n")
    env = {**os.environ, "QT_SCALE_FACTOR": factor, "XDG_CONFIG_HOME": str(tmp_path), "QT_QPA_PLATFORM": "offscreen"}
    script = [sys.executable, "-m", "tests.app.layout_check"]
    done = subprocess.run(script, check=False, env=env, capture_output=True, text=True)
    assert (done.returncode, done.stdout) == (0, ""), done.stderr


def test_where_there_is_little_room_the_picture_still_has_most_of_it(demo_window: Window) -> None:
    demo_window.resize(900, 500)
    show(demo_window, "Measure", "Stills")
    view = demo_window.measure.view
    assert view.width() > 0.85 * 900 and view.height() > 0.6 * 500
    assert not demo_window.cards.isVisible() and demo_window.folded.isVisible() and len(demo_window.folded.text()) > 5


def test_the_picture_comes_first_in_measure_and_has_more_room_than_all_else(demo_window: Window) -> None:
    demo_window.resize(1280, 800)
    show(demo_window, "Measure", "Stills")
    demo_window.measure.use(LANDMARK)
    QApplication.processEvents()
    view, measure = demo_window.measure.view, demo_window.measure
    assert view.width() >= 900 and view.height() >= 520
    assert measure.desk.context.isVisible() and measure.table.isVisible()
    assert [measure.table.isColumnHidden(n) for n in range(8)] == [False, True, True, False, True, True, True, True]
    slate = demo_window.slate.height()
    show(demo_window, "Measure", "Sizes")
    assert demo_window.slate.height() > slate and measure.table.width() > 600
    assert measure.calliper.isVisible() and not view.isVisible()


def places(window: Window) -> dict[int, QRect]:
    """Where each visible part of the window is; the card writes its answers anew, and may scroll."""
    parts = [w for w in window.findChildren(QWidget) if w.isVisible() and not window.cards.isAncestorOf(w)]
    return {id(w): QRect(w.mapTo(window, QPoint()), w.size()) for w in parts if not isinstance(w, QLabel)}


@pytest.mark.parametrize("stage", ["Measure", "Finish"])
def test_nothing_shifts_while_answers_come_or_a_tool_is_taken_up(
    qtbot: QtBot, demo_window: Window, stage: StageName
) -> None:
    session = demo_window.session
    demo_window.resize(1280, 800)
    show_stage(demo_window, stage)
    settle(qtbot, session)
    qtbot.wait(200)
    strip = [id(w) for w in (demo_window.prompt, *demo_window.prompt.findChildren(QWidget))]
    before = {key: place for key, place in places(demo_window).items() if key not in strip}
    mark = session.build.all(LandmarkMark)[5]
    session.edit("mark", mark, mark=replace(mark.mark, x_px=mark.mark.x_px + 0.3))
    while session.stale or session.busy:
        qtbot.wait(20)
        assert {key: place for key, place in places(demo_window).items() if key in before} == before
    if stage == "Measure":
        demo_window.measure.use(LANDMARK)
        QApplication.processEvents()
        assert demo_window.measure.desk.context.isVisible()
        assert {key: place for key, place in places(demo_window).items() if key in before} == before


def test_the_picture_alone_and_everything_back(demo_window: Window) -> None:
    demo_window.resize(1280, 800)
    show(demo_window, "Measure", "Stills")
    view, before = demo_window.measure.view, demo_window.measure.view.height()
    parts = (demo_window.slate, demo_window.chalkline, demo_window.reel, demo_window.cards)
    demo_window.actions_by_id["alone"].trigger()
    QApplication.processEvents()
    assert not any(part.isVisible() for part in parts) and view.width() > 1200 and view.height() > before
    demo_window.actions_by_id["alone"].trigger()
    QApplication.processEvents()
    assert all(part.isVisible() for part in parts) and view.height() == before


def test_a_question_about_marks_is_seen_even_where_the_card_was_folded(demo_window: Window) -> None:
    demo_window.resize(900, 500)
    show(demo_window, "Measure", "Stills")
    assert not demo_window.cards.isVisible()
    demo_window.measure.pending.confirm("Is it so?", lambda: None)
    QApplication.processEvents()
    pending = demo_window.measure.pending
    assert demo_window.cards.isVisible() and demo_window.focusWidget() is pending.keep_button
    assert pending.title.visibleRegion().boundingRect().height() > 0


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a: str, b: str) -> float:
    low, high = sorted((luminance(a), luminance(b)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", ["slate", "daylight"])
def test_every_pair_of_colours_can_be_read(name: str) -> None:
    t = theme.SLATE if name == "slate" else theme.DAYLIGHT
    grounds = (t.board, t.panel, t.raised, t.chosen)
    for ground in grounds:
        for state in ("text", "quiet", "yellow", "coral", "mint", "sky", "lilac"):
            assert contrast(getattr(t, state), ground) >= 4.5, (state, ground)
        assert contrast(t.border, ground) >= 3.0 or ground == t.chosen, ground
    assert contrast(t.on_yellow, t.yellow) >= 4.5
    assert all(getattr(t, f.name).startswith("#") for f in fields(t) if f.name != "name")


def nameless(window: Window) -> list[str]:
    """Controls that take the keys and tell nobody what they are."""
    found = []
    for widget in window.findChildren(QWidget):
        if (
            not widget.isVisible()
            or widget.focusPolicy() == Qt.FocusPolicy.NoFocus
            or isinstance(widget.parentWidget(), QComboBox)
        ):
            continue
        named = widget.accessibleName() or (isinstance(widget, QAbstractButton) and widget.text())
        if not named and isinstance(widget, (QAbstractButton, QLineEdit, QComboBox, QAbstractItemView)):
            found.append(f"{type(widget).__name__} in {type(widget.parentWidget()).__name__}")
        elif not named and type(widget).__module__.startswith("chalkreel"):
            found.append(type(widget).__name__)
    return found


def test_no_control_is_without_a_name(demo_window: Window) -> None:
    for stage, page in pages(demo_window):
        show(demo_window, stage, page)
        QApplication.processEvents()
        assert nameless(demo_window) == [], (stage, page)


def test_the_room_of_common_screens() -> None:
    assert [room_of(*size) for size in ((1093, 614), (960, 540), (1280, 800), (2560, 1440))] == [
        "close",
        "close",
        "usual",
        "wide",
    ]


def test_text_and_controls_are_magnified_from_the_next_start_on(demo_window: Window) -> None:
    demo_window.actions_by_id["larger"].trigger()
    demo_window.actions_by_id["larger"].trigger()
    assert "130 %" in demo_window.prompt.words.text()
    script = (
        "from chalkreel.app.magnify import put_in_force; put_in_force()\n"
        "from PySide6.QtWidgets import QApplication, QWidget; app = QApplication([])\n"
        "print(QWidget().devicePixelRatioF())"
    )
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    assert float(done.stdout) == pytest.approx(1.3)
    # A desktop whose text is a third larger than usual: started again once, with all a third larger.
    script = (
        "import os, sys; from chalkreel.app import magnify; ours = magnify.put_in_force()\n"
        "from chalkreel.app.application import Application; app = Application([])\n"
        "from PySide6.QtWidgets import QWidget; print(ours, QWidget().devicePixelRatioF(), flush=True)\n"
        "magnify.follow_system(14.3)"
    )
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    assert [line.split()[0] for line in done.stdout.splitlines()] == ["True", "True"]
    assert [float(line.split()[1]) for line in done.stdout.splitlines()] == pytest.approx([1.3, 1.3 * 1.3])
    done = subprocess.run(
        [sys.executable, "-c", script.replace("14.3", "10")], check=True, capture_output=True, text=True
    )
    assert [float(line.split()[1]) for line in done.stdout.splitlines()] == pytest.approx([1.3 * 1.3, 1.3])
    for _ in range(2):
        demo_window.actions_by_id["smaller"].trigger()
    assert "100 %" in demo_window.prompt.words.text()
