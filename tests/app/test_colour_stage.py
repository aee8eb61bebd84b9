"""The Colour stage in the real window: sample, correct, mix, rescue, apply; the shelf's ways in and out."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QLabel, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.answers.colours import SurfaceRow
from chalkreel.app.colour import shelf
from chalkreel.app.colour.screen_page import HALF_LIGHT, ScreenPage, checks
from chalkreel.app.parts import screen_colour
from chalkreel.app.parts.fields import TextField
from chalkreel.app.parts.screen_colour import on_screen, profile_name, use_profile
from chalkreel.app.window import Window
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.spectra import WAVELENGTHS_NM
from chalkreel.core.colour.typed_colour import lab_of_code
from chalkreel.document.library import library_paints
from chalkreel.document.light_entities import Lamp
from chalkreel.document.paint_entities import ColourPatch, FinishChip, PaintPot, ShelfPaint, Surface
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store
from chalkreel.edits.shelving import Dries, guessed_paint, is_white
from chalkreel.exchange.shelf import shelf_csv
from tests.app.conftest import click_still, drag_still, settle, show_stage
from tests.core.colour.test_samples_and_light import glowing, photographed_card
from tests.core.colour.test_screen_profile import profile


@pytest.fixture
def window(demo_window: Window) -> Window:
    show_stage(demo_window, "Colour")
    demo_window.session.choose_still("still-2")
    demo_window.session.select("surface-hull")
    return demo_window


def row_of(window: Window, surface_id: str = "surface-hull") -> SurfaceRow:
    answers = window.session.answers
    assert answers is not None and answers.colours is not None
    return next(r for r in answers.colours.surfaces if r.surface_id == surface_id)


def card_text(window: Window) -> str:
    answers = window.colour.card.answers
    buttons = [b.text().replace("\n", " ") for b in answers.findChildren(QPushButton)]
    return "\n".join([label.text() for label in answers.findChildren(QLabel)] + buttons)


def press(qtbot: QtBot, button: QPushButton) -> None:
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def card_button(window: Window, words: str) -> QPushButton:
    return next(b for b in window.colour.card.answers.findChildren(QPushButton) if words in b.text())


def paints_in(path: Path) -> tuple[ShelfPaint, ...]:
    store = Store.open(path)
    try:
        return tuple(store.build.all(ShelfPaint))
    finally:
        store.close()


def show_page(qtbot: QtBot, window: Window, page: str) -> None:
    press(qtbot, window.colour.switch.buttons[page])  # type: ignore[index]


def patches(window: Window, surface_id: str) -> list[ColourPatch]:
    return [p for p in window.session.build.all(ColourPatch) if p.surface_id == surface_id]


def test_brush_and_polygon_add_votes_by_mouse_and_keys(qtbot: QtBot, window: Window) -> None:
    before = len(patches(window, "surface-hull"))
    window.actions_by_id["bend"].trigger()
    drag_still(qtbot, window.colour.view, (620, 480), (700, 500))
    brush = patches(window, "surface-hull")[-1]
    assert brush.brush_px > 0 and len(brush.outline) >= 3
    window.actions_by_id["tool-o"].trigger()
    for x, y in ((600, 470), (660, 470), (660, 500)):
        click_still(qtbot, window.colour.view, x, y)
    qtbot.keyClick(window.colour.view, Qt.Key.Key_Return)
    settle(qtbot, window.session)
    assert len(patches(window, "surface-hull")) == before + 2
    votes = [v for v in row_of(window).votes if v.still_number == 2]
    assert len(votes) == 3 and all(v.apart < 5 for v in votes)
    assert window.colour.view._masks


def test_a_vote_is_left_out_and_counts_again(qtbot: QtBot, window: Window) -> None:
    plot = window.colour.desk.plot
    column = plot._column(3).center().toPoint()
    qtbot.mouseClick(plot, Qt.MouseButton.LeftButton, pos=QPoint(column.x(), 50))
    vote = row_of(window).votes[3]
    assert window.session.still_id == vote.still_id
    press(qtbot, window.colour.desk.odd)
    settle(qtbot, window.session)
    colour = row_of(window).colour
    assert colour is not None and colour.stills == 6
    assert window.colour.desk.odd.text() == "Count again"
    press(qtbot, window.colour.desk.odd)
    settle(qtbot, window.session)
    again = row_of(window).colour
    assert again is not None and again.stills == 7


def test_the_same_patch_is_found_on_the_next_still(qtbot: QtBot, window: Window) -> None:
    window.session.select("surface-band_series")
    window.session.choose_still("still-1")
    press(qtbot, window.colour.desk.next)
    settle(qtbot, window.session)
    assert window.session.still_id == "still-9"
    carried = next(v for v in row_of(window, "surface-band_series").votes if v.still_id == "still-9")
    assert carried.lab is not None and carried.apart < 8
    # A surface that was sampled nowhere here says what to do first.
    window.session.select("surface-skirt")
    window.session.choose_still("still-3")
    press(qtbot, window.colour.desk.next)
    assert "Sample the surface" in window.prompt.words.text()


def test_a_known_colour_corrects_a_still(qtbot: QtBot, window: Window) -> None:
    window.session.choose_still("still-5")
    window.colour.desk.known.setText("72 -0.5 9")
    window.actions_by_id["tool-k"].trigger()
    patch = next(p for p in patches(window, "surface-hull") if p.still_id == "still-5")
    x, y = patch.x_px, patch.y_px
    drag_still(qtbot, window.colour.view, (x, y), (x + patch.width_px, y + patch.height_px))
    settle(qtbot, window.session)
    special = next(v for v in row_of(window).votes if v.still_number == 5)
    assert special.lab is not None and not special.counts
    assert abs(special.lab[1] + 0.5) < 3 and abs(special.lab[2] - 9) < 4


def test_how_the_card_was_held_is_said_and_taken_back(qtbot: QtBot, window: Window) -> None:
    session, desk = window.session, window.colour.desk
    session.choose_still("still-2")
    session.select("surface-hull")
    settle(qtbot, session)
    before = row_of(window).evidence.colour
    assert before is not None and desk.to_light.isChecked()
    qtbot.mouseClick(desk.to_light, Qt.MouseButton.LeftButton, pos=QPoint(8, desk.to_light.height() // 2))
    settle(qtbot, session)
    cards = [p for p in session.build.all(ColourPatch) if p.still_id == "still-2" and not p.surface_id]
    assert cards and not any(card.to_light for card in cards)
    after = row_of(window).evidence.colour
    # Panels are no longer taken to catch less than the card: they come out darker, their hue as before.
    assert after is not None and after.lab[0] < before.lab[0] - 0.3
    assert abs(after.lab[1] - before.lab[1]) < 1 and abs(after.lab[2] - before.lab[2]) < 2
    session.undo()
    settle(qtbot, session)
    assert desk.to_light.isChecked() and row_of(window).evidence.colour == before


def test_targets_are_chosen_and_recipes_settled_by_mouse(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Mix")
    pair, trade = window.colour.mix.pair, window.colour.mix.trade
    qtbot.mouseClick(pair, Qt.MouseButton.LeftButton, pos=pair._mode_place(1).center().toPoint())
    settle(qtbot, window.session)
    target = row_of(window).mixes.target
    assert target is not None and target.mode == "picture"
    other = row_of(window).mixes.recipes[-1][0]
    qtbot.mouseClick(trade, Qt.MouseButton.LeftButton, pos=trade._spot(other.total, other.delta_e).toPoint())
    settle(qtbot, window.session)
    assert row_of(window).best is not None and row_of(window).best[0].drops == other.drops  # type: ignore[index]
    assert "settled" in card_text(window)
    press(qtbot, card_button(window, "Let the search choose again"))
    assert window.session.build.get(Surface, "surface-hull").drops == ()  # type: ignore[union-attr]


def field(window: Window, name: str) -> TextField:
    return next(f for f in window.colour.form.findChildren(TextField) if f.accessibleName() == name)


def type_in(qtbot: QtBot, line: QLineEdit, text: str) -> None:
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, text)
    qtbot.keyClick(line, Qt.Key.Key_Return)


@pytest.mark.parametrize(
    ("name", "text", "words"),
    [("own colour", "95 90 90", "vivid"), ("lighten by", "80", "between"), ("at most paints", "2.5", "whole"),
     ("at most drops", "none", ""), ("lost, %", "99", "between")],
)  # fmt: skip
def test_impossible_wishes_are_refused_in_place(qtbot: QtBot, window: Window, name: str, text: str, words: str) -> None:
    show_page(qtbot, window, "Mix")
    before = window.session.build.revision
    shown = field(window, name).text()
    type_in(qtbot, field(window, name), text)
    refused = field(window, name)
    assert window.session.build.revision == before and refused.text() == text
    assert words in window.prompt.words.text() and words in refused.echo.words
    qtbot.keyClick(refused, Qt.Key.Key_Escape)
    assert refused.text() == shown and not refused.echo.words


def test_wishes_change_the_mix(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Mix")
    type_in(qtbot, field(window, "at most paints"), "2")
    type_in(qtbot, field(window, "without"), "titanium white")
    settle(qtbot, window.session)
    used = {name for recipe, _ in row_of(window).mixes.recipes for name, _ in recipe.drops}
    assert "titanium white" not in used
    assert all(len(recipe.drops) <= 2 for recipe, _ in row_of(window).mixes.recipes)


def test_varnish_is_warned_of_and_compensated_with_one_click(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Layers")
    before = row_of(window).mixes.stacks[0].looks[-1].to_target
    assert "varnish and wash move the colour" in card_text(window)
    press(qtbot, card_button(window, "finished surface is right"))
    settle(qtbot, window.session)
    assert row_of(window).mixes.stacks[0].looks[-1].to_target < 0.6 * before
    assert window.colour.switch.page == "Layers"
    show_page(qtbot, window, "Mix")
    box = next(b for b in window.colour.form.findChildren(QCheckBox) if "varnish" in b.text())
    assert box.isChecked()


def test_layers_of_a_zone_are_edited_and_its_area_measured(qtbot: QtBot, window: Window) -> None:
    window.session.select("surface-band_series")
    show_page(qtbot, window, "Layers")
    settle(qtbot, window.session)
    form = window.colour.zone_form
    boxes = {b.accessibleName(): b for b in form.findChildren(QComboBox)}
    choose(boxes["primer"], "black")
    settle(qtbot, window.session)
    (stack,) = row_of(window, "surface-band_series").mixes.stacks
    assert stack.looks[0].name == "black primer" and stack.looks[0].lab[0] < 30
    choose(boxes["length"], "Length overall")
    choose(boxes["height"], "Hazard band height")
    type_in(qtbot, next(f for f in form.findChildren(QLineEdit) if f.accessibleName() == "such faces"), "2")
    settle(qtbot, window.session)
    need = row_of(window, "surface-band_series").mixes.need
    # Two faces of 387 × 16 mm on the replica.
    assert need is not None and need.area_cm2 == pytest.approx(2 * 38.7 * 1.6, rel=0.03)
    type_in(qtbot, next(f for f in form.findChildren(QLineEdit) if f.accessibleName() == "filter"), "1 burnt umber")
    settle(qtbot, window.session)
    assert "filter" in [look.name for look in row_of(window, "surface-band_series").mixes.stacks[0].looks]
    show_stage(window, "Finish")
    settle(qtbot, window.session)
    assert any("filter, thin and even" in step.title.lower() for step in window.session.answers.sequence.steps)


def test_a_published_mix_is_aimed_at_with_its_doubt(qtbot: QtBot, window: Window) -> None:
    session, text = window.session, "3 #707070 + 1 #f4f1ea"
    session.select("surface-deck")
    show_page(qtbot, window, "Mix")
    before = session.build.get(Surface, "surface-deck")
    own = next(f for f in window.colour.form.findChildren(QLineEdit) if f.accessibleName() == "own colour")
    type_in(qtbot, own, text)
    settle(qtbot, session)
    surface, row = session.build.get(Surface, "surface-deck"), row_of(window, "surface-deck")
    assert (surface.published, surface.mode) == (text, "free") and own.text() == text
    # Grey (L* 47) with a third as much white is lighter, and a mix that meets it by computation is not called right.
    assert 47 < row.mixes.target.lab[0] < 65 and row.best is not None and row.best[0].delta_e < 2
    assert "most of it from the target" in card_text(window) and "no difference by eye" not in card_text(window)
    type_in(qtbot, own, "3 rust + 1 #f4f1ea")
    assert "no part of a mix" in window.prompt.words.text()
    assert session.build.get(Surface, "surface-deck").published == text
    # A part may be named after a surface, as of a label whose picture is on the reel: its colour is written down.
    skirt = row_of(window, "surface-skirt").mixes.target.lab
    type_in(qtbot, own, "3 skirt + 1 #f4f1ea")
    settle(qtbot, session)
    assert session.build.get(Surface, "surface-deck").published.startswith(f"3 Skirt {skirt[0]:.1f} ")
    assert skirt[0] < row_of(window, "surface-deck").mixes.target.lab[0] < 95
    session.undo()
    session.undo()
    assert session.build.get(Surface, "surface-deck") == before


def choose(box: QComboBox, words: str) -> None:
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())


def test_a_pot_is_started_swatched_rescued_and_kept(qtbot: QtBot, window: Window) -> None:
    window.session.select("surface-deck")
    show_page(qtbot, window, "Pots")
    page = window.colour.pots
    press(qtbot, page.start)
    settle(qtbot, window.session)
    first = page.chosen
    assert first is not None and first.drops and "swatch" in card_text(window)
    press(qtbot, page.meter)
    settle(qtbot, window.session)
    pot = page.chosen
    assert pot is not None and pot.rescue is not None
    off = pot.rescue.now
    assert off > 1.0 and "The swatch is off" in card_text(window)
    press(qtbot, page.carry_out)
    settle(qtbot, window.session)
    press(qtbot, page.meter)
    settle(qtbot, window.session)
    after = page.chosen
    assert after is not None and after.rescue is not None
    assert after.rescue.now < 0.6 * off
    assert sum(n for _, n in after.drops) > sum(n for _, n in first.drops)
    type_in(qtbot, page.kept, "1.5 ml")
    stored = window.session.build.get(PaintPot, pot.pot.id)
    assert stored is not None and stored.kept_ml == 1.5 and len(stored.steps) == 4
    type_in(qtbot, page.drops, "3 unicorn")
    assert "not on the shelf" in window.prompt.words.text()
    type_in(qtbot, page.drops, "900 titanium white")
    assert "the cup holds" in window.prompt.words.text()
    window.actions_by_id["undo"].trigger()
    assert window.session.build.get(PaintPot, pot.pot.id).kept_ml == 0  # type: ignore[union-attr]


def test_a_swatch_may_be_typed_and_its_lesson_taken_back(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Pots")
    page = window.colour.pots
    type_in(qtbot, page.swatch, "66 -1 6")
    settle(qtbot, window.session)
    assert window.session.build.get(PaintPot, "pot-hull").steps[-1].swatch_lab == (66.0, -1.0, 6.0)  # type: ignore[union-attr]
    taught = row_of(window).best
    press(qtbot, page.teaches)
    settle(qtbot, window.session)
    answers = window.session.answers
    assert answers is not None and answers.colours is not None and answers.colours.lessons.strengths == {}
    assert row_of(window).best != taught


def test_the_shelf_is_searched_and_sorted(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Shelf")
    page = window.colour.shelf
    qtbot.keyClicks(page.search, "blue")
    names = [r.name for r in page.table.rows_model.rows]
    assert names == ["ultramarine blue", "phthalo blue"]
    page.search.clear()
    press(qtbot, page.nearest)
    distances = [r.distance for r in page.table.rows_model.rows]
    assert distances == sorted(distances) and len(distances) == 18 + 3
    assert "raw sienna: 2 ml left" in card_text(window)


def test_paints_come_in_and_go_out_as_files(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    show_page(qtbot, window, "Shelf")
    page, build = window.colour.shelf, window.session.build
    page.write_file(tmp_path / "out.csv")
    page.write_file(tmp_path / "out.gpl")
    assert (tmp_path / "out.gpl").read_text().count("\n") == 18 + 3 + 4
    (tmp_path / "more.gpl").write_text("GIMP Palette\n#\n200 60 40\tsignal coral\n")
    take(qtbot, window, tmp_path / "more.gpl")
    settle(qtbot, window.session)
    found = next(p for p in window.session.build.all(ShelfPaint) if p.name == "signal coral")
    assert found.source == "guess" and "18 metered, 4 guessed from a colour" in card_text(window)
    take(qtbot, window, tmp_path / "out.csv")
    assert len(window.session.build.all(ShelfPaint)) == len(build.all(ShelfPaint)) + 1
    (tmp_path / "junk.csv").write_bytes(b"\x00junk")
    take(qtbot, window, tmp_path / "junk.csv")
    assert "neither" in window.prompt.words.text()
    shelf.my_shelf_out(window.session.build)
    assert [p.name for p in library_paints(shelf.library())].count("signal coral") == 1


def test_a_new_shelf_is_pasted_read_and_told_how_it_dries(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    """From an empty build: a pasted list, a meter's file with its white, and a sheen told too late."""
    fresh = opened(tmp_path / "fresh.chalkreel")
    show_stage(fresh, "Colour")
    show_page(qtbot, fresh, "Shelf")
    page, session = fresh.colour.shelf, fresh.session
    QGuiApplication.clipboard().setText("name;colour\nrust; #8c3c28\nneon; 95; 90; 90\nolive; 38,5; -4; 22\n")
    page.sheen.setCurrentText("satin")
    press(qtbot, page.buttons["Paste a list"])
    settle(qtbot, session)
    assert [(p.name, p.sheen, p.source) for p in session.build.all(ShelfPaint)] == [
        ("rust", "satin", "guess"), ("olive", "satin", "guess"),
    ]  # fmt: skip
    assert "2 paints as pasted" in fresh.prompt.words.text() and "neon" in fresh.prompt.words.text()
    bands = [str(int(nm)) for nm in WAVELENGTHS_NM]
    grey, white, tint = (";".join([str(v)] * 36) for v in (21.0, 88.0, 52.0))
    (tmp_path / "meter.csv").write_text(
        f"name;{';'.join(bands)}\nmid grey;{grey}\nplain white;{white}\nmid grey 1:4;{tint}\n"
    )
    take(qtbot, fresh, tmp_path / "meter.csv")
    assert "read as percents, as paint that dries satin" in fresh.prompt.words.text()
    before = next(p for p in session.build.all(ShelfPaint) if p.name == "mid grey")
    assert before.source == "metered" and next(
        is_white(p) for p in session.build.all(ShelfPaint) if p.name == "plain white"
    )
    row = next(n for n, r in enumerate(page.table.rows_model.rows) if r.name == "mid grey")
    column = next(n for n, c in enumerate(page.table.rows_model.columns) if c.title == "dries")
    page.table.rows_model.setData(page.table.rows_model.index(row, column), "matte")
    settle(qtbot, session)
    after = paint_named(session.build, "mid grey")
    # What a matte surface adds is no longer the pigment's: the same reading means a blacker body.
    assert (
        after.sheen == "matte"
        and after.absorption[0] / after.scattering[0] > 1.05 * before.absorption[0] / before.scattering[0]
    )
    session.undo()
    assert next(p for p in session.build.all(ShelfPaint) if p.name == "mid grey") == before
    (tmp_path / "dark.csv").write_text(f"name;{';'.join(bands)}\njet;{';'.join(['1.8'] * 36)}\n")
    take(qtbot, fresh, tmp_path / "dark.csv")
    assert "white paper" in fresh.prompt.words.toolTip()
    settle(qtbot, session)


def paint_named(build: Build, name: str) -> ShelfPaint:
    return next(p for p in build.all(ShelfPaint) if p.name == name)


def take(qtbot: QtBot, window: Window, path: Path) -> None:
    window.colour.shelf.take_file(path)
    settle(qtbot, window.session)


def test_a_new_build_takes_its_paints_from_the_shared_shelf(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    shelf.library().unlink(missing_ok=True)
    on_empty = opened(tmp_path / "first.chalkreel")
    show_stage(on_empty, "Colour")
    show_page(qtbot, on_empty, "Shelf")
    press(qtbot, on_empty.colour.shelf.buttons["My shelf in"])
    settle(qtbot, on_empty.session)
    assert "empty so far" in on_empty.prompt.words.text()
    # A shelf that was kept before there was a library is offered and taken over.
    older = shelf.library().with_name("shelf.csv")
    older.parent.mkdir(parents=True, exist_ok=True)
    older.write_text(shelf_csv((guessed_paint("old grey", (60.0, 0.0, 0.0), Dries()),)), encoding="utf-8")
    assert shelf.my_paint_count() == 1 and [p.name for p in shelf.my_paints()] == ["old grey"]
    older.unlink()
    page = on_empty.colour.shelf
    page.name.setText("own red")
    type_in(qtbot, page.colour, "#8c3c28")
    settle(qtbot, on_empty.session)
    press(qtbot, page.buttons["My shelf out"])
    assert "1 paint" in on_empty.prompt.words.text()
    fresh = opened(tmp_path / "fresh.chalkreel")
    show_stage(fresh, "Colour")
    show_page(qtbot, fresh, "Shelf")
    press(qtbot, card_button(fresh, "Put my shelf on it (1 paint)"))
    settle(qtbot, fresh.session)
    (red,) = fresh.session.build.all(ShelfPaint)
    # What it was read from comes along, so that another sheen or a white finds it anew; its id is this build's.
    (kept,) = paints_in(tmp_path / "first.chalkreel")
    assert red.drawdowns == kept.drawdowns and red.drawdowns and red.id != kept.id
    page = fresh.colour.shelf
    press(qtbot, page.buttons["Off my shelf"])
    assert "none of these" in fresh.prompt.words.text()
    page.table.setCurrentIndex(page.table.rows_model.index(0, 1))
    press(qtbot, page.buttons["Off my shelf"])
    assert "1 paint off your shelf" in fresh.prompt.words.text()
    assert fresh.session.build.all(ShelfPaint) == (red,) and library_paints(shelf.library()) == ()


def test_a_paint_is_guessed_metered_and_read_from_its_card(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    show_page(qtbot, window, "Shelf")
    page = window.colour.shelf
    page.name.setText("own red")
    type_in(qtbot, page.colour, "#8c3c28")
    settle(qtbot, window.session)
    assert next(p for p in window.session.build.all(ShelfPaint) if p.name == "own red").source == "guess"
    path = tmp_path / "card.png"
    Image.fromarray(photographed_card().pixels).save(path)
    page.take_card(path)
    settle(qtbot, window.session)
    read = next(p for p in window.session.build.all(ShelfPaint) if p.name == "own red")
    assert read.source == "card" and 0.2 <= read.coat <= 6.0
    page.name.setText("yellow ochre")
    press(qtbot, page.buttons["Simulated meter"])
    settle(qtbot, window.session)
    metered = next(p for p in window.session.build.all(ShelfPaint) if p.name == "yellow ochre")
    assert metered.source == "metered" and metered.ml_left == 9.0
    page.name.setText("nobody's paint")
    press(qtbot, page.buttons["Simulated meter"])
    assert "not there" in window.prompt.words.text()
    page.print_card(tmp_path / "card.pdf")
    qtbot.waitUntil(lambda: not window.session.busy, timeout=20_000)
    assert (tmp_path / "card.pdf").read_bytes().startswith(b"%PDF")


def test_a_glow_goes_to_light(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    """On a picture that the demo does not contain; where no lamp is, that is said."""
    before = len(window.session.build.all(Lamp))
    window.actions_by_id["ghost"].trigger()
    drag_still(qtbot, window.colour.view, (200, 600), (240, 640))
    settle(qtbot, window.session)
    assert len(window.session.build.all(Lamp)) == before and "glow" in window.prompt.words.text()
    path = tmp_path / "lamp.png"
    Image.fromarray(glowing((1.0, 0.005, 0.0)).pixels).save(path)
    with qtbot.waitSignal(window.session.build_changed, timeout=20_000):
        window.gather.add_files([path])
    settle(qtbot, window.session)
    window.actions_by_id["ghost"].trigger()
    drag_still(qtbot, window.colour.view, (12, 8), (148, 112))
    qtbot.waitUntil(lambda: len(window.session.build.all(Lamp)) == before + 1, timeout=10_000)
    assert window.session.build.all(Lamp)[-1].colour == "red"
    settle(qtbot, window.session)


def test_a_lamp_that_is_known_is_kept_for_the_others_of_its_still(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = opened(tmp_path / "lantern.chalkreel")
    session, desk = window.session, window.colour.desk
    path = tmp_path / "lamp.png"
    # A yellow lamp that the print shows too blue.
    Image.fromarray(glowing((1.0, 0.72, 0.55)).pixels).save(path)
    with qtbot.waitSignal(session.build_changed, timeout=20_000):
        window.gather.add_files([path])
    show_stage(window, "Colour")
    settle(qtbot, session)

    def frame(known: str) -> None:
        window.actions_by_id["ghost"].trigger()
        desk.known.setText(known)
        drag_still(qtbot, window.colour.view, (12, 8), (148, 112))

    frame("purple")
    assert "warm white" in window.prompt.words.text() and not session.build.all(ColourPatch)
    frame("Warm white")
    qtbot.waitUntil(lambda: bool(session.build.all(ColourPatch)), timeout=10_000)
    assert session.build.all(ColourPatch)[0].lamp == "warm white" and desk.known.text() == ""
    assert not session.build.all(Lamp) and "read against" in window.prompt.words.text()
    settle(qtbot, session)
    # It is no grey card: no still is told to have a neutral by it.
    assert "known to be grey" in card_text(window) or "Name a surface" in card_text(window)
    frame("")
    qtbot.waitUntil(lambda: bool(session.build.all(Lamp)), timeout=10_000)
    assert session.build.all(Lamp)[0].colour == "warm white" and "against the known lamp" in window.prompt.words.text()
    for _ in range(2):
        window.actions_by_id["undo"].trigger()
        settle(qtbot, session)
    assert not session.build.all(Lamp) and not session.build.all(ColourPatch)
    window.actions_by_id["redo"].trigger()
    settle(qtbot, session)
    assert opened(tmp_path / "lantern.chalkreel").session.build.all(ColourPatch)[0].lamp == "warm white"


def test_the_screen_is_checked_by_a_pattern_in_plain_srgb(qtbot: QtBot, window: Window) -> None:
    show_page(qtbot, window, "Screen")
    page = next(w for w in window.findChildren(ScreenPage))
    drawn = page.grab().toImage()
    places = [(x, y) for x in range(0, drawn.width(), 5) for y in range(drawn.height())]
    seen = {(c.red(), c.green(), c.blue()) for c in (drawn.pixelColor(*at) for at in places)}
    for check in checks():
        assert set(check.fields) <= seen and check.words in page.accessibleDescription()
    # The lines are neither blended nor missing: as many white as black, and nothing between.
    column = [drawn.pixelColor(60, y).red() for y in range(drawn.height())]
    runs = [n for n in range(len(column) - 40) if column[n : n + 40] == [255, 0] * 20]
    assert runs
    # Between the fields of a pair is nothing that would look like an edge.
    row = [drawn.pixelColor(x, drawn.height() - 40) for x in range(24, drawn.width() - 24)]
    assert {(c.red(), c.green(), c.blue()) for c in row} == {*checks()[-1].fields, (128, 128, 128)}
    # Half of white's light, and pairs that are told to differ by about two.
    linear = ((HALF_LIGHT / 255 + 0.055) / 1.055) ** 2.4
    assert linear == pytest.approx(0.5, abs=0.005)
    labs = [np.array(lab_of_code(bytes(colour).hex())) for colour in checks()[-1].fields]
    apart = [delta_e_2000(a, b) for a, b in zip(labs[::2], labs[1::2], strict=True)]
    assert all(1.4 < delta < 2.6 for delta in apart)


def test_every_page_paints_with_nothing_on_it(qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path) -> None:
    fresh = opened(tmp_path / "bare.chalkreel")
    show_stage(fresh, "Colour")
    for page in ("Stills", "Mix", "Layers", "Pots", "Shelf"):
        show_page(qtbot, fresh, page)
        assert not fresh.grab().isNull()
    press(qtbot, fresh.colour.pots.start)
    assert "no recipe" in fresh.prompt.words.text()


def test_a_surface_name_typed_with_enter_is_kept_until_its_patch_is_taken(qtbot: QtBot, window: Window) -> None:
    session, desk = window.session, window.colour.desk
    show_page(qtbot, window, "Stills")
    edit = desk.surface.lineEdit()
    edit.setFocus()
    edit.selectAll()
    qtbot.keyClicks(edit, "Mast")
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    session.select("surface-deck")
    session.edit("note", session.build.entities["still-1"], note="noon")
    settle(qtbot, session)
    assert desk.surface.currentText() == "Mast"
    # The tool is in hand since Enter.
    drag_still(qtbot, desk.view, (600.0, 400.0), (640.0, 430.0))
    settle(qtbot, session)
    (mast,) = (s for s in session.build.all(Surface) if s.name == "Mast")
    assert session.selection == mast.id and desk.surface.currentText() == "Mast"


def test_chips_teach_what_varnish_and_wash_do(qtbot: QtBot, window: Window) -> None:
    """By mouse and keys: the layers follow, the card says what was learnt, and without the chips all is as before."""
    session = window.session
    show_page(qtbot, window, "Layers")
    page = window.colour.layers
    model = page.table.rows_model
    titles = [column.title for column in model.columns]

    def last_look() -> tuple[float, float, float]:
        return row_of(window).mixes.stacks[0].looks[-1].lab

    def put(row: int, title: str, text: str) -> bool:
        done = bool(model.setData(model.index(row, titles.index(title)), text))
        settle(qtbot, session)
        return done

    taught = last_look()
    for chip in session.build.all(FinishChip):
        session.commit("away", {chip.id: None})
    settle(qtbot, session)
    usual = last_look()
    assert usual != taught and not page.table.isVisible()
    assert "no chip tells yet: matte varnish" in card_text(window)
    press(qtbot, page.add)
    settle(qtbot, session)
    page.table.setCurrentIndex(model.index(0, 0))
    assert put(0, "before, L*a*b*", "#3c3c3c") and put(0, "coats", "2")
    assert "read it after" in page.table.rows_model.columns[-1].get(model.rows[0]) and last_look() == usual
    assert not put(0, "after, L*a*b*", "no colour") and not put(0, "coats", "half")
    assert put(0, "after, L*a*b*", "40 0 0")
    assert last_look()[0] > usual[0] + 1 and "Your matte varnish scatters" in card_text(window)
    # A wash whose paint is not known says so; with drops of the shelf it teaches.
    press(qtbot, page.add)
    settle(qtbot, session)
    assert put(1, "layer", "wash") and put(1, "before, L*a*b*", "60 0 8") and put(1, "after, L*a*b*", "45 1 8")
    assert model.columns[-1].get(model.rows[1]) == "give the wash's drops"
    assert not put(1, "wash", "1 nobody's brown")
    varnished = last_look()
    assert put(1, "wash", "1 burnt umber") and last_look()[0] < varnished[0] - 0.5
    assert "Your wiped wash leaves" in card_text(window)
    while session.build.all(FinishChip):
        session.undo()
    settle(qtbot, session)
    assert last_look() == usual


def test_swatches_go_through_the_profile_that_is_chosen(
    qtbot: QtBot, window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    show_page(qtbot, window, "Screen")
    assert "No profile chosen" in card_text(window)
    path, junk = tmp_path / "wide.icc", tmp_path / "junk.icc"
    path.write_bytes(profile())
    junk.write_bytes(b"junk")
    red = (200, 30, 30)

    def painted() -> tuple[int, int, int]:
        colour = on_screen(red)
        return colour.red(), colour.green(), colour.blue()

    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(junk), ""))
    press(qtbot, card_button(window, "Choose its profile"))
    assert "no colour profile" in window.prompt.words.text() and painted() == red
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    press(qtbot, card_button(window, "Choose its profile"))
    qtbot.waitUntil(lambda: "Swatches go through “wide screen”" in card_text(window))
    sent = painted()
    assert sent != red
    # Next time too, until the file is gone; then swatches are sRGB again and the card says so.
    screen_colour._SCREEN.read, screen_colour._SCREEN.profile = False, None
    assert painted() == sent
    path.unlink()
    screen_colour._SCREEN.read = False
    assert painted() == red and profile_name() == ""
    use_profile(None)
    assert QSettings().value(screen_colour.KEY) == ""
