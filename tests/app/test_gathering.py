"""Gathering as users do it: pages, copies, versions and sides, on the wall and in the form."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.window import Window
from chalkreel.core.media.decode import decode
from chalkreel.document.entities import LandmarkMark, Still, Version
from tests.app.conftest import settle, show_stage
from tests.app.test_counts import drag
from tests.app.test_forms_and_tables import choose, field, retype
from tests.core.raw_file import raw_file
from tests.core.test_pages_and_likeness import drawn, scenery

LEFT = Qt.MouseButton.LeftButton


def still(window: Window, still_id: str) -> Still:
    found = window.session.build.get(Still, still_id)
    assert found is not None
    return found


def sizes(window: Window) -> dict[str, float]:
    answers = window.session.answers
    assert answers is not None and answers.sizes is not None
    return {row.dimension_id: row.replica.mm for row in answers.sizes.rows if row.replica is not None}


def test_a_page_of_a_pdf_is_chosen_and_a_lone_one_needs_no_choosing(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, stage = demo_window.session, demo_window.gather
    (tmp_path / "plan.pdf").write_bytes(drawn(3))
    stage.add_files([tmp_path / "plan.pdf"])
    qtbot.waitUntil(lambda: "page 1 of 3" in stage.pages.words.text(), timeout=20_000)
    onward = next(b for b in stage.pages.findChildren(QPushButton) if b.text() == "+1")
    qtbot.mouseClick(onward, LEFT)
    qtbot.waitUntil(lambda: "page 2 of 3" in stage.pages.words.text())
    with qtbot.waitSignal(session.still_changed, timeout=20_000):
        qtbot.mouseClick(stage.pages.keep, LEFT)
    kept = session.still
    assert kept is not None and (kept.title, kept.still_kind, kept.width_px) == ("plan.pdf, page 2", "plan", 3000)
    assert "11.81 px" in kept.note and stage.pages.isVisible()
    qtbot.mouseClick(stage.pages.close_button, LEFT)
    assert not stage.pages.isVisible()
    (tmp_path / "sheet.pdf").write_bytes(drawn(1))
    with qtbot.waitSignal(session.still_changed, timeout=20_000):
        stage.add_files([tmp_path / "sheet.pdf"])
    assert session.still is not None and session.still.title == "sheet.pdf, page 1" and not stage.pages.isVisible()
    (tmp_path / "torn.pdf").write_bytes(drawn(1)[:300])
    stage.add_files([tmp_path / "torn.pdf"])
    qtbot.waitUntil(lambda: "torn.pdf: This PDF is damaged" in demo_window.prompt.words.text())
    settle(qtbot, session)


def test_a_raw_file_and_a_burst_go_on_the_reel_and_the_burst_is_said(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, stage = demo_window.session, demo_window.gather
    show_stage(demo_window, "Gather")
    light = (scenery(4) / 255.0) ** 2
    (tmp_path / "first.dng").write_bytes(raw_file(light))
    (tmp_path / "second.dng").write_bytes(raw_file(light * 0.9))
    before = len(session.build.all(Still))
    stage.add_files([tmp_path / "first.dng", tmp_path / "second.dng"])
    qtbot.waitUntil(lambda: len(session.build.all(Still)) == before + 2, timeout=20_000)
    qtbot.waitUntil(lambda: session.answers is not None and bool(session.answers.alike), timeout=60_000)
    numbers = [s.number for s in session.build.all(Still)][-2:]
    said = f"Stills {numbers[0]} and {numbers[1]} are nearly the same picture"
    qtbot.waitUntil(lambda: any(said in label.text() for label in stage.card.findChildren(PlainLabel)))
    settle(qtbot, session)


def test_a_better_copy_keeps_the_marks_and_undo_brings_the_old_one_back(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    session, stage = demo_window.session, demo_window.gather
    session.choose_still("still-1")
    old = still(demo_window, "still-1")
    picture = decode(session.store.blob(old.blob)).display()
    copy = Image.fromarray(picture).resize((2 * old.width_px, 2 * old.height_px), Image.Resampling.LANCZOS)
    out = io.BytesIO()
    copy.save(out, "PNG")
    (tmp_path / "fine.png").write_bytes(out.getvalue())
    mark = next(m for m in session.build.all(LandmarkMark) if m.still_id == "still-1")
    settle(qtbot, session)
    before = sizes(demo_window)
    with qtbot.waitSignal(session.build_changed, timeout=30_000):
        stage.replace_picture(tmp_path / "fine.png")
    assert still(demo_window, "still-1").width_px == 2 * old.width_px
    moved = session.build.get(LandmarkMark, mark.id)
    assert moved is not None and abs(moved.mark.x_px - 2 * mark.mark.x_px) < 0.5
    settle(qtbot, session)
    assert len(before) > 20 and sizes(demo_window) == pytest.approx(before, rel=0.002)
    session.undo()
    assert still(demo_window, "still-1").blob == old.blob
    (tmp_path / "other.png").write_bytes(session.store.blob(still(demo_window, "still-3").blob))
    stage.replace_picture(tmp_path / "other.png")
    qtbot.waitUntil(lambda: "not the same picture" in demo_window.prompt.words.text(), timeout=30_000)
    assert still(demo_window, "still-1").blob == old.blob
    settle(qtbot, session)


def test_sides_are_said_of_several_at_once_by_mouse_and_keys(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Gather")
    session, stage = demo_window.session, demo_window.gather
    demo_window.resize(1280, 1500)
    QApplication.processEvents()
    stage.wall.grab()
    frames = {s.number: place for place, s in stage.wall._frames if s is not None}
    qtbot.mouseClick(stage.wall, LEFT, pos=frames[1].center().toPoint())
    qtbot.mouseClick(stage.wall, LEFT, Qt.KeyboardModifier.ControlModifier, frames[2].center().toPoint())
    revision = session.build.revision
    qtbot.mouseClick(stage.sides["bow"], LEFT)
    assert [still(demo_window, f"still-{n}").side for n in (1, 2)] == ["port bow", "bow"]
    # The opposite of a side takes its place.
    stage.sides["aft"].setFocus()
    qtbot.keyClick(stage.sides["aft"], Qt.Key.Key_Space)
    assert [still(demo_window, f"still-{n}").side for n in (1, 2)] == ["port aft", "aft"]
    choose(field(stage.form, QComboBox, "Trust"), "low")  # type: ignore[arg-type]
    assert [still(demo_window, f"still-{n}").trust for n in (1, 2)] == ["low", "low"]
    assert session.build.revision == revision + 3
    stage.wall.setFocus()
    qtbot.keyClick(stage.wall, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert len(stage.wall.chosen()) == sum(s.squared is None for s in session.build.all(Still))
    session.choose_still("still-10")
    assert stage.wall.chosen() == {"still-10"}
    settle(qtbot, session)


def test_a_version_is_made_where_it_is_chosen_and_named_there(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Gather")
    session, stage = demo_window.session, demo_window.gather
    session.choose_still("still-6")
    choose(field(stage.form, QComboBox, "Version"), "new version…")  # type: ignore[arg-type]
    made = session.build.get(Version, still(demo_window, "still-6").version_id)
    assert made is not None and made.name == "Version 3"
    assert stage.version_name.hasFocus() and stage.version_name.selectedText() == "Version 3"
    qtbot.keyClicks(stage.version_name, "Ferry")
    qtbot.keyClick(stage.version_name, Qt.Key.Key_Return)
    assert session.build.get(Version, made.id).name == "Ferry"  # type: ignore[union-attr]
    # Dropped below the wall, stills make a version of their own.
    demo_window.resize(1280, 1900)
    QApplication.processEvents()
    stage.wall.grab()
    frame = next(place for place, s in stage.wall._frames if s is not None and s.number == 9)
    drag(stage.wall, frame.center(), stage.wall._new_version.center())
    assert still(demo_window, "still-9").version_id not in ("version-series", "version-special", made.id)
    retype(qtbot, field(stage.form, QLineEdit, "  its name"), "  ")  # type: ignore[arg-type]
    assert "needs a name" in demo_window.prompt.words.text()
    settle(qtbot, session)


def test_what_cameras_show_is_offered_and_taken_over_at_once(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Gather")
    session, stage = demo_window.session, demo_window.gather
    for still_id in ("still-3", "still-4"):
        session.edit("side", still(demo_window, still_id), side="several")
    settle(qtbot, session)
    button = next(b for b in stage.card.findChildren(QPushButton) if b.text() == "Say so of 2 stills")
    qtbot.mouseClick(button, LEFT, pos=QPoint(5, 5))
    assert [still(demo_window, i).side for i in ("still-3", "still-4")] == ["top", "starboard"]
    settle(qtbot, session)
    qtbot.waitUntil(lambda: not [b for b in stage.card.findChildren(QPushButton) if b.text().startswith("Say so")])
