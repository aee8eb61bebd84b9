"""A lamp lens in clear coats over silver, from an empty build to the reopened one, by mouse and keys."""

from collections.abc import Callable
from pathlib import Path

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from chalkreel.app.window import Window
from chalkreel.core.colour.recipe import Recipe
from chalkreel.document.paint_entities import PaintPot, ShelfPaint, Zone
from chalkreel.edits.painting import surface_named
from tests.app.conftest import settle, show_stage
from tests.app.test_colour_stage import card_text, field, press, row_of, show_page, type_in

LENS = "surface-lens"
CLEARS = {"clear red": "48 62 38", "clear amber": "78 22 60", "clear base": "93 0 3"}


def add_clears(qtbot: QtBot, window: Window) -> None:
    """Three clears by the look of one coat over white, and a white that hides."""
    show_page(qtbot, window, "Shelf")
    page = window.colour.shelf
    for name, look in {**CLEARS, "titanium white": "96 -1 1"}.items():
        page.name.setText(name)
        type_in(qtbot, page.colour, look)
        settle(qtbot, window.session)
    model = page.table.model()
    headings = [model.headerData(c, Qt.Orientation.Horizontal) for c in range(model.columnCount())]
    kind = headings.index("kind")
    for row, name in enumerate(CLEARS):
        assert model.index(row, 1).data() == name
        model.setData(model.index(row, kind), "clear", Qt.ItemDataRole.EditRole)
        settle(qtbot, window.session)


def lay(qtbot: QtBot, window: Window, words: str) -> None:
    """Choose how the surface is laid."""
    box = next(b for b in window.colour.form.findChildren(QComboBox) if b.accessibleName() == "laid")
    box.setFocus()
    qtbot.keyClick(box, Qt.Key.Key_Home)
    for _ in range(box.findText(words)):
        qtbot.keyClick(box, Qt.Key.Key_Down)
    settle(qtbot, window.session)


def best_of(window: Window) -> Recipe:
    best = row_of(window, LENS).best
    assert best is not None
    return best[0]


@pytest.fixture
def lens(qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path) -> Window:
    """A surface of an own build whose colour is typed, laid clear over silver with three clears on the shelf."""
    window = opened(tmp_path / "sledge.chalkreel")
    session = window.session
    show_stage(window, "Colour")
    surface = msgspec.structs.replace(surface_named(session.build, "Tail lens"), id=LENS)
    zone = Zone(id="zone-1", name="Lenses", assembly="Hull", surface_id=LENS, sheen="gloss", coats=6, area_cm2=3.0)
    session.commit("lens", {LENS: surface, zone.id: zone})
    session.select(LENS)
    settle(qtbot, session)
    show_page(qtbot, window, "Mix")
    type_in(qtbot, field(window, "own colour"), "45 45 32")
    settle(qtbot, session)
    lay(qtbot, window, "clear coats over silver")
    assert "No clear paint is on the shelf" in card_text(window)
    add_clears(qtbot, window)
    show_page(qtbot, window, "Mix")
    return window


def settled(qtbot: QtBot, window: Window) -> Recipe:
    """Settle on a mix of another number of coats than the best and than was planned."""
    mixes = row_of(window, LENS).mixes
    assert mixes.best is not None
    other = next(r for r, _ in mixes.recipes if r.coats not in (mixes.best[0].coats, 6))
    window.colour.mix.trade.recipe_chosen.emit(other)
    settle(qtbot, window.session)
    return other


def test_a_lens_is_mixed_and_laid_in_clear_coats(qtbot: QtBot, lens: Window) -> None:
    best = best_of(lens)
    # Nothing else tells its colour: what was typed is aimed at.
    assert best.delta_e < 2.0 and {name for name, _ in best.drops} <= set(CLEARS)
    assert f"{best.coats} coat" in card_text(lens) and "over silver" in card_text(lens)
    show_page(qtbot, lens, "Layers")
    assert "6 coats planned" in card_text(lens)
    show_page(qtbot, lens, "Mix")
    other = settled(qtbot, lens)
    zone = lens.session.build.get(Zone, "zone-1")
    assert zone is not None and (zone.coats, zone.primer) == (other.coats, "silver")
    show_page(qtbot, lens, "Layers")
    assert f"{other.coats} clear coat" in card_text(lens) and "hide" not in card_text(lens)
    looks = row_of(lens, LENS).mixes.stacks[0].looks
    assert looks[0].name == "silver" and len(looks) == other.coats + 2
    show_stage(lens, "Finish")
    settle(qtbot, lens.session)
    answers = lens.session.answers
    assert answers is not None and answers.sequence is not None
    titles = [step.title for step in answers.sequence.steps]
    silver = titles.index("Silver under the clear coats: Lenses")
    assert titles.index("Prime: Hull") < silver < titles.index(f"Clear colour: Lenses, coat 1 of {other.coats}")
    show_stage(lens, "Colour")
    lens.session.undo()
    zone = lens.session.build.get(Zone, "zone-1")
    assert zone is not None and zone.coats == 6
    lay(qtbot, lens, "in paint that hides")
    show_page(qtbot, lens, "Mix")
    assert {name for name, _ in best_of(lens).drops} == {"titanium white"}


def test_a_strip_teaches_and_stays_taught(
    qtbot: QtBot, lens: Window, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    session, other = lens.session, settled(qtbot, lens)
    show_page(qtbot, lens, "Pots")
    press(qtbot, lens.colour.pots.start)
    settle(qtbot, session)
    assert "Spray a test strip over silver" in card_text(lens)
    before = best_of(lens)
    # It came out darker: this hand sprays thicker, and the next mixes count on it.
    type_in(qtbot, lens.colour.pots.swatch, "38 45 30")
    settle(qtbot, session)
    step = session.build.all(PaintPot)[0].steps[-1]
    assert (step.clear_over, step.coats) == ("silver", other.coats)
    assert "settle on one" in card_text(lens)
    after = best_of(lens)
    assert after.drops == before.drops and after.lab[0] < before.lab[0] - 3
    show_page(qtbot, lens, "Mix")
    assert "another mix comes to" in card_text(lens)
    # In paint that hides, that pot is no pot to be put right.
    lay(qtbot, lens, "in paint that hides")
    (pot,) = row_of(lens, LENS).mixes.pots
    assert pot.rescue is None and "for clear coats" in pot.problem
    session.undo()
    session.undo()
    settle(qtbot, session)
    assert best_of(lens) == before
    session.redo()
    settle(qtbot, session)
    window = opened(tmp_path / "sledge.chalkreel")
    show_stage(window, "Colour")
    window.session.select(LENS)
    settle(qtbot, window.session)
    assert best_of(window) == after
    # Without one of its clears the recipe is gone, and what is left is searched.
    gone = next(p for p in window.session.build.all(ShelfPaint) if p.name == "clear red")
    window.session.commit("no red", {gone.id: None})
    settle(qtbot, window.session)
    assert {name for name, _ in best_of(window).drops} <= {"clear amber", "clear base"}
