"""The log: filled in from what is known, put right later, found again, and what it teaches the next evening."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QLineEdit
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.fields import Form
from chalkreel.app.window import Window
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import BUILD_ID, BuildInfo
from chalkreel.document.paint_entities import PaintPot
from tests.app.conftest import settle, show_stage
from tests.app.test_forms_and_tables import choose, field, retype
from tests.app.test_whole_slice import card_text

SPRAYED = "Hull/Hull sides/base"


def line(form: Form, name: str) -> QLineEdit:
    """A field of the entry's form."""
    found = field(form, QLineEdit, name)
    assert isinstance(found, QLineEdit)
    return found


def in_log(window: Window) -> None:
    show_stage(window, "Bench")
    window.bench.turn_to("Log")


def written(qtbot: QtBot, window: Window, words: str, step_id: str = "") -> LogEntry:
    """Write an entry by keys."""
    page = window.bench.diary
    page.step.setCurrentIndex(page.step.findData(step_id))
    page.words.setFocus()
    qtbot.keyClicks(page.words, words)
    qtbot.keyClick(page.words, Qt.Key.Key_Return)
    entry = page.log.chosen()
    assert entry is not None and entry.words == words
    return entry


def test_an_entry_is_filled_in_put_right_and_comes_back_by_undo(qtbot: QtBot, demo_window: Window) -> None:
    session, form = demo_window.session, demo_window.bench.diary.form
    in_log(demo_window)
    entry = written(qtbot, demo_window, "first coat on the sides", SPRAYED)
    pot = session.build.get(PaintPot, entry.pot_id)
    assert pot is not None and pot.surface_id == "surface-hull" and entry.mix == pot.label
    assert (entry.coats, entry.thinner_parts, entry.room_c, entry.room_humidity) == (1, 1.0, 20.0, 50.0)
    assert form.isVisible()
    for name, text in (
        ("Bar", "1.4"),
        ("Needle", "0.3"),
        ("Minutes", "25"),
        ("When", "2026-11-20 19:05"),
        ("Mix", "pale"),
    ):
        retype(qtbot, line(form, name), text)
    step = field(form, QComboBox, "At step")
    assert isinstance(step, QComboBox)
    choose(step, session.answers.sequence.steps[0].title)
    now = session.build.get(LogEntry, entry.id)
    assert now is not None
    assert (now.bar, now.needle_mm, now.minutes, now.at, now.mix) == (1.4, 0.3, 25, "2026-11-20T19:05", "pale")
    assert now.step_id == session.answers.sequence.steps[0].id
    told: list[str] = []
    session.refused.connect(told.append)
    for name, text in (("Bar", "-1"), ("When", "yesterday"), ("What", " "), ("Room °C", "90"), ("Coats", "many")):
        retype(qtbot, line(form, name), text)
        qtbot.keyClick(line(form, name), Qt.Key.Key_Escape)
    assert len(told) == 5 and session.build.get(LogEntry, entry.id) == now
    for _ in range(7):
        session.undo()
    assert session.build.get(LogEntry, entry.id) is None


def test_the_log_is_searched_and_an_entry_has_several_pictures(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, page = demo_window.session, demo_window.bench.diary
    in_log(demo_window)
    every = page.log.count()
    qtbot.keyClicks(page.search, "primer bar")
    assert page.log.count() == 1 < every
    page.log.setCurrentRow(0)
    for number in range(3):
        path = tmp_path / f"{number}.png"
        Image.new("RGB", (400, 300), (90 + 40 * number, 120, 90)).save(path)
        page.put_photo(path)
        qtbot.waitUntil(lambda n=number: len(pictures(demo_window)) == n + 1, timeout=20_000)  # type: ignore[misc]
    page.remove_photo()
    assert len(pictures(demo_window)) == 2
    page.search.clear()
    assert page.log.count() == every
    settle(qtbot, session)
    unpacked = tmp_path / "unpacked"
    demo_window.exports.write_unpacked(unpacked)
    qtbot.waitUntil((unpacked / "build.json").exists, timeout=60_000)
    settle(qtbot, session)
    assert {p.stem for p in (unpacked / "stills").iterdir()} >= set(pictures(demo_window))


def pictures(window: Window) -> tuple[str, ...]:
    entry = window.session.build.get(LogEntry, "log-4")
    assert entry is not None
    return tuple(p for p in (entry.photo, *entry.photos) if p)


def test_what_was_set_last_time_comes_back_tonight_and_on_paper(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session = demo_window.session
    sprayed = next(w.step for w in session.answers.tonight.work if w.step is not None and w.step.spray)
    entry = LogEntry(id="own", at="2026-11-22T20:00", words="went well", step_kind=sprayed.kind, bar=1.3,
                     needle_mm=0.25, thinner_parts=1.5)  # fmt: skip
    older = LogEntry(id="old", at="2026-11-02T20:00", words="spat", step_kind=sprayed.kind, bar=2.5)
    session.commit("log", {entry.id: entry, older.id: older})
    settle(qtbot, session)
    work = next(w for w in session.answers.tonight.work if w.step is not None and w.step.kind == sprayed.kind)
    assert work.yours == "1.3 bar, needle 0.25, thinned 1 : 1.5"
    show_stage(demo_window, "Bench")
    demo_window.exports.write_stage(tmp_path / "bench.pdf")
    qtbot.waitUntil((tmp_path / "bench.pdf").exists, timeout=60_000)
    settle(qtbot, session)
    text = " ".join("".join(page.extract_text() for page in PdfReader(tmp_path / "bench.pdf").pages).split())
    assert "went well (1.3 bar, needle 0.25, thinned 1 : 1.5)" in text


def test_what_dried_slowly_moves_the_plan_and_undo_brings_it_back(qtbot: QtBot, demo_window: Window) -> None:
    session, form = demo_window.session, demo_window.bench.diary.form
    in_log(demo_window)
    before = session.answers.sequence
    step = next(s for s in before.steps if s.id == SPRAYED)
    over = step.dries("over", before.room)
    written(qtbot, demo_window, "still soft next morning", SPRAYED)
    retype(qtbot, line(form, "Touch-dry, h"), "4")
    settle(qtbot, session)
    found = session.answers.sequence
    assert dict(found.room.own)[step.medium] > 1.2
    assert step.dries("over", found.room)[1] > 1.2 * over[1]
    show_stage(demo_window, "Finish")
    qtbot.waitUntil(lambda: "cleanings of the airbrush" in card_text(demo_window))
    assert f"By your log {step.medium} is given" in card_text(demo_window)
    session.undo()
    session.undo()
    settle(qtbot, session)
    assert session.answers.sequence.room.own == ()


def test_the_clock_of_tonight_writes_the_minutes(qtbot: QtBot, demo_window: Window) -> None:
    session, finish = demo_window.session, demo_window.finish
    show_stage(demo_window, "Finish")
    finish.turn_to("Tonight")
    step = next(w.step for w in session.answers.tonight.work if w.step is not None)
    session.select(step.id)
    finish.clock.click()
    finish.begun[step.id] = datetime.now() - timedelta(minutes=42)
    before = session.build.revision
    finish.toggle_done()
    (entry,) = [e for e in session.build.all(LogEntry) if e.step_id == step.id]
    info = session.build.get(BuildInfo, BUILD_ID)
    assert info is not None and step.id in info.done and session.build.revision == before + 1
    assert entry.minutes == pytest.approx(42, abs=1) and entry.step_kind == step.kind
    session.undo()
    assert not [e for e in session.build.all(LogEntry) if e.step_id == step.id]
    # Without the clock nothing is written.
    finish.toggle_done()
    assert not [e for e in session.build.all(LogEntry) if e.step_id == step.id]
