"""From a picture of one's own, which the demo does not contain, to a sized, coloured, ordered plan."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from chalkreel.answers.wording import size_name
from chalkreel.app.window import Window
from chalkreel.document.entities import Dimension, KitPart, Reading, RulerMark, Still
from chalkreel.document.paint_entities import ColourPatch, Surface, Zone
from tests.app.conftest import click_still, drag_still, settle, show_stage

# A made-up picture: a grey card, an ochre panel 600 px long, a 200 px rod that is 50 mm long.
CARD, PANEL = (119, 119, 119), (184, 150, 72)


@pytest.fixture
def own_picture(tmp_path: Path) -> Path:
    pixels = np.full((800, 1200, 3), 60, np.uint8)
    pixels[100:300, 100:300] = CARD
    pixels[400:600, 300:900] = PANEL
    pixels[700:706, 200:400] = 230
    noise = np.random.default_rng(2).integers(-2, 3, pixels.shape)
    path = tmp_path / "own still.png"
    Image.fromarray((pixels + noise).clip(0, 255).astype(np.uint8)).save(path)
    return path


def drop(window: Window, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(
        QDropEvent(
            QPointF(400, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )


def test_from_nothing_to_a_plan(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path, own_picture: Path
) -> None:
    path = tmp_path / "mine.chalkreel"
    window = opened(path)
    session = window.session
    with qtbot.waitSignal(session.build_changed, timeout=20_000):
        drop(window, own_picture)
    settle(qtbot, session)
    still = session.still
    assert still is not None and (still.title, still.width_px, still.height_px) == ("own still", 1200, 800)

    measure(qtbot, window)
    colour(qtbot, window)
    plan(qtbot, window)

    before = dict(session.build.entities)
    window = opened(path)
    assert dict(window.session.build.entities) == before
    assert window.session.store.undo_label == "order put right"


def measure(qtbot: QtBot, window: Window) -> None:
    session, stage = window.session, window.measure
    show_stage(window, "Measure")
    settle(qtbot, session)
    qtbot.waitUntil(lambda: bool(window.images.levels(session.still)))  # type: ignore[arg-type]
    window.actions_by_id["tool-r"].trigger()
    click_still(qtbot, stage.view, 200, 703)
    click_still(qtbot, stage.view, 400, 703)
    assert stage.pending.isVisible() and not session.build.all(RulerMark)
    qtbot.keyClicks(stage.pending.length, "fifty")
    qtbot.keyClick(stage.pending.length, Qt.Key.Key_Return)
    assert "not a length" in window.prompt.words.text() and not session.build.all(RulerMark)
    stage.pending.length.clear()
    qtbot.keyClicks(stage.pending.length, "50 mm")
    qtbot.keyClicks(stage.pending.plus_minus, "0.5 %")
    qtbot.keyClick(stage.pending.plus_minus, Qt.Key.Key_Return)
    assert [(r.length_mm, r.sigma_mm) for r in session.build.all(RulerMark)] == [(50.0, 0.25)]
    window.actions_by_id["tool-s"].trigger()
    click_still(qtbot, stage.view, 300, 500)
    click_still(qtbot, stage.view, 900, 500)
    settle(qtbot, session)
    assert session.answers is not None and session.answers.sizes is not None
    (row,) = session.answers.sizes.rows
    assert row.miniature is not None and abs(row.miniature.mm - 150) <= row.miniature.half_width_mm < 12
    session.undo()
    assert not session.build.all(Reading) and not session.build.all(Dimension)
    session.redo()
    assert len(session.build.all(Reading)) == 1


def colour(qtbot: QtBot, window: Window) -> None:
    session, stage = window.session, window.colour
    show_stage(window, "Colour")
    stage.desk.surface.setEditText("Panel")
    # Card and panel lie flat in the same light.
    stage.desk.facet.setText("flat")
    window.actions_by_id["tool-n"].trigger()
    stage.desk.known.setText("18.4")
    drag_still(qtbot, stage.view, (130, 130), (270, 270))
    window.actions_by_id["tool-p"].trigger()
    drag_still(qtbot, stage.view, (400, 430), (800, 570))
    assert len(session.build.all(ColourPatch)) == 2
    settle(qtbot, session)
    assert "shelf is empty" in card_text(window)
    stage.put_practice_range()
    settle(qtbot, session)
    assert session.answers is not None and session.answers.colours is not None
    (row,) = session.answers.colours.surfaces
    # sRGB (184, 150, 72) is L*a*b* 63.73, 3.60, 45.12 under D65 by an independent library.
    assert row.colour is not None and np.abs(np.array(row.colour.lab) - (63.73, 3.60, 45.12)).max() < 0.8
    assert row.best is not None and row.best[0].delta_e < 2.5
    other = next(recipe for recipe, _ in row.mixes.recipes if recipe.drops != row.best[0].drops)
    stage._settle(other)
    assert session.build.all(Surface)[0].drops == other.drops


def plan(qtbot: QtBot, window: Window) -> None:
    session, stage = window.session, window.finish
    show_stage(window, "Finish")
    stage.turn_to("Zones")
    qtbot.mouseClick(stage.add, Qt.MouseButton.LeftButton)
    zone = session.build.all(Zone)[0]
    session.edit("zone", zone, surface_id=session.build.all(Surface)[0].id, wear=("wash",), decals=True)
    settle(qtbot, session)
    assert session.answers is not None and session.answers.sequence is not None
    steps = session.answers.sequence.steps
    assert session.answers.sequence.broken == () and session.answers.sequence.timetable is not None
    decal = next(s for s in steps if s.kind == "decal")
    session.select(decal.id)
    for _ in range(3):
        window.actions_by_id["earlier"].trigger()
        settle(qtbot, session)
    assert any(v.rule == "decals on gloss" for v in session.answers.sequence.broken)
    assert "silver" in card_text(window)
    stage._repair(session.answers.sequence.repaired)
    settle(qtbot, session)
    assert session.answers.sequence.broken == ()


def card_text(window: Window) -> str:
    QApplication.processEvents()
    card = window.stages[window.session.stage].card
    return "\n".join(label.text() for label in card.findChildren(QLabel) if not label.isHidden())


@pytest.mark.parametrize("content", [b"no picture at all", b"\x89PNG\r\n\x1a\n" + b"\0" * 64])
def test_a_bad_file_gets_a_sentence_and_nothing_else_happens(
    qtbot: QtBot, demo_window: Window, tmp_path: Path, content: bytes
) -> None:
    bad = tmp_path / "bad.png"
    bad.write_bytes(content)
    before = demo_window.session.build
    with qtbot.waitSignal(demo_window.session.refused, timeout=10_000):
        drop(demo_window, bad)
    assert "bad.png" in demo_window.prompt.words.text()
    assert demo_window.session.build is before


def test_a_still_is_pasted_and_video_shapes_are_offered(qtbot: QtBot, demo_window: Window) -> None:
    image = QImage(720, 576, QImage.Format.Format_RGB32)
    image.fill(0xFF808080)
    QApplication.clipboard().setImage(image)
    with qtbot.waitSignal(demo_window.session.build_changed, timeout=10_000):
        demo_window.actions_by_id["paste"].trigger()
    still = demo_window.session.still
    assert still is not None and still.number == 11
    assert still.pixel_aspect == pytest.approx(16 / 15) and still.still_kind == "screen frame"


def test_kit_parts_are_edited_in_place(qtbot: QtBot, demo_window: Window) -> None:
    session, table = demo_window.session, demo_window.gather.parts
    model = table.rows_model
    row = next(n for n, part in enumerate(model.rows) if part.id == "part-fin-port")
    assert model.setData(model.index(row, 1), "present")
    assert model.setData(model.index(row, 2), "1 3/4 in")
    part = session.build.get(KitPart, "part-fin-port")
    assert part is not None and (part.state, part.calliper_mm) == ("present", pytest.approx(44.45))
    assert not model.setData(model.index(row, 2), "wide")
    assert "not a length" in demo_window.prompt.words.text()
    settle(qtbot, session)
    assert session.answers is not None and session.answers.sizes is not None
    fin = next(r for r in session.answers.sizes.rows if size_name(session.answers.build, r) == "Fin height, port")
    assert fin.verdict.action in ("leave", "unsure")
    table.setCurrentIndex(model.index(row, 0))
    table.setFocus()
    qtbot.waitUntil(table.hasFocus)
    qtbot.keyClick(table, Qt.Key.Key_Delete)
    assert session.build.get(KitPart, "part-fin-port") is None
    session.undo()
    assert session.build.get(KitPart, "part-fin-port") == part


def test_features_are_typed_as_phrases_and_jobs_follow(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Convert")
    demo_window.convert.turn_to("Versions")
    model = demo_window.convert.versions.table.rows_model
    row = next(n for n, f in enumerate(model.rows) if f.name == "towing eye")
    assert model.setData(model.index(row, 4), "not there")
    assert model.setData(model.index(row, 5), "still 6")
    settle(qtbot, session)
    assert session.answers is not None and session.answers.conversion is not None
    jobs = {(r.operation.verb, r.operation.feature) for r in session.answers.conversion.rows}
    assert ("remove", "towing eye") in jobs and ("check", "towing eye") not in jobs
    assert "towing eye" not in session.answers.conversion.without_evidence


def test_lamps_warn_as_soon_as_the_supply_is_too_weak(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    show_stage(demo_window, "Light")
    session.edit("supply", session.build.entities["supply"], supply_kind="coin cell", cells=1)
    settle(qtbot, session)
    text = card_text(demo_window)
    assert "✗" in text and "children" in text
    model = demo_window.light.lamps.rows_model
    assert not model.setData(model.index(0, 3), "0")
    assert "between 1 and 500" in demo_window.prompt.words.text()


def test_the_log_is_written_and_lessons_come_back(qtbot: QtBot, demo_window: Window, own_picture: Path) -> None:
    session, stage = demo_window.session, demo_window.bench.diary
    show_stage(demo_window, "Bench")
    demo_window.bench.turn_to("Log")
    settle(qtbot, session)
    stage.step.setCurrentIndex(stage.step.findText("Gloss coat: Deck"))
    stage.lesson.setChecked(True)
    qtbot.keyClicks(stage.words, "Two thin gloss coats, not one wet one.")
    qtbot.keyClicks(stage.minutes, "25")
    qtbot.keyClick(stage.words, Qt.Key.Key_Return)
    settle(qtbot, session)
    assert "Two thin gloss coats" in card_text(demo_window)
    assert session.answers is not None and session.answers.spent.minutes == 147
    with qtbot.waitSignal(session.build_changed, timeout=10_000):
        stage.put_photo(own_picture)
    entry = stage.log.chosen()
    assert entry is not None and session.store.blob(entry.photo) == own_picture.read_bytes()


def test_removing_the_last_still_leaves_a_usable_window(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    for _ in range(10):
        demo_window.gather._remove_still()
    assert session.build.all(Still) == () and session.still is None
    for stage in ("Measure", "Colour", "Finish", "Gather"):
        show_stage(demo_window, stage)
    show_stage(demo_window, "Measure")
    demo_window.actions_by_id["tool-r"].trigger()
    assert "no still" in demo_window.prompt.words.text()
    settle(qtbot, session)
