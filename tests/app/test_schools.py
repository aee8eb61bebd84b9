"""Where practitioners differ: a school chosen on the card changes the steps of a build of one's own, and is kept."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from chalkreel.answers.plan import planned_spans
from chalkreel.app.finish.forms import ZoneForm
from chalkreel.app.window import Window
from chalkreel.document.paint_entities import ShelfPaint, Surface, Zone
from chalkreel.edits.shelving import Dries, guessed_paint
from tests.app.conftest import in_front, settle
from tests.app.test_finish import sequence_of, sledge, step_of
from tests.app.test_whole_slice import card_text


def chosen(qtbot: QtBot, window: Window, school: str, words: str) -> None:
    window.finish.turn_to("Zones")
    form = window.finish.card.findChild(ZoneForm)
    assert form is not None
    box = next(b for b in form.schools.findChildren(QComboBox) if b.accessibleName() == school)
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())
    settle(qtbot, window.session)


def test_a_windscreen_set_in_last_or_masked_before_painting(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window)
    session = window.session
    qtbot.mouseClick(window.finish.add, Qt.MouseButton.LeftButton)
    pane = session.build.all(Zone)[2]
    session.edit("pane", pane, name="windscreen", assembly="Sledge", role="glass", sheen="gloss")
    settle(qtbot, session)

    def kinds() -> list[str]:
        table = sequence_of(window).timetable
        assert table is not None and table.missed == () and sequence_of(window).broken == ()
        begun = {slot.step_id: slot.start for slot in reversed(table.slots)}
        return [s.kind for s in sorted(sequence_of(window).steps, key=lambda s: begun[s.id])]

    last = kinds()
    assert last.index("matte") < last.index("glass") and "mask glass" not in last
    chosen(qtbot, window, "Clear parts", "set in before painting, masked")
    masked = kinds()
    assert "glass" not in masked and masked.index("mask glass") < masked.index("prime")
    assert masked.index("matte") < masked.index("unmask glass")
    assert "Set in the clear part and mask it: windscreen" in step_of(window, "mask glass").title
    again = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    settle(qtbot, again.session)
    assert again.session.build.info.canopy == "masked" and step_of(again, "unmask glass")
    # Its zone taken off, there is nothing to mask; undone, there is.
    again.session.commit("no pane", {pane.id: None})
    settle(qtbot, again.session)
    assert not any("glass" in s.kind for s in sequence_of(again).steps)
    again.session.undo()
    settle(qtbot, again.session)
    assert step_of(again, "mask glass")


def kinds(window: Window) -> set[str]:
    """The kinds of steps of a plan that breaks nothing and misses nothing."""
    found = sequence_of(window)
    assert found.broken == () and found.timetable is not None and found.timetable.missed == ()
    return {s.kind for s in found.steps}


def test_gloss_under_decals_only_where_the_paint_is_not_glossy(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    """A sledge painted out of one glossy tin, as its recipe tells; for a matte tin or a wash gloss comes back."""
    window = in_front(qtbot, opened(tmp_path / "tin.chalkreel"))
    sledge(qtbot, window)
    session = window.session
    red = guessed_paint("tin red", (40.0, 40.0, 25.0), Dries("enamel", "gloss"))
    surface = Surface(id="own", name="sledge red", mode="free", free_lab=(40.0, 40.0, 25.0), drops=(("tin red", 1),))
    flash = session.build.all(Zone)[1]
    session.commit("no flash", {flash.id: None})
    session.commit("tin", {red.id: red, surface.id: surface})
    session.edit("one tin", session.build.all(Zone)[0], surface_id="own", medium="enamel", sheen="gloss", wear=())
    settle(qtbot, session)

    assert "gloss" in kinds(window)
    chosen(qtbot, window, "Decals on", "glossy paint, else gloss")
    assert "gloss" not in kinds(window) and "decal" in kinds(window) and "seal" in kinds(window)
    # The decal waits until the enamel itself has hardened.
    table = sequence_of(window).timetable
    assert table is not None
    coat, decal = (step_of(window, kind).id for kind in ("base", "decal"))
    painted = max(slot.end for slot in table.slots if slot.step_id.startswith(coat))
    laid = min(slot.start for slot in table.slots if slot.step_id == decal)
    assert (laid - painted).total_seconds() >= 24 * 3600
    # A wash wants gloss whatever the paint.
    session.edit("washed", session.build.all(Zone)[0], wear=("wash",))
    settle(qtbot, session)
    assert "gloss" in kinds(window)
    session.undo()
    session.edit("matte tin", session.build.all(ShelfPaint)[0], sheen="matte")
    settle(qtbot, session)
    assert "gloss" in kinds(window)
    session.undo()
    settle(qtbot, session)
    assert "gloss" not in kinds(window)
    again = in_front(qtbot, opened(tmp_path / "tin.chalkreel"))
    settle(qtbot, again.session)
    assert again.session.build.info.gloss == "on matte paint"
    assert not any(s.kind == "gloss" for s in sequence_of(again).steps)


def test_washes_of_oil_or_acrylic_and_an_edge_left_soft(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window)
    session = window.session

    assert {"wash", "wipe", "mask", "edge seal", "unmask"} <= kinds(window)
    chosen(qtbot, window, "Washes of", "oil, wiped")
    assert {"wash", "wipe"} <= kinds(window) and step_of(window, "wash").materials == ("oil wash",)
    table = sequence_of(window).timetable
    assert table is not None
    ends = {slot.step_id: slot.end for slot in table.slots}
    begins = {slot.step_id: slot.start for slot in reversed(table.slots)}
    wash, matte = (step_of(window, kind).id for kind in ("wash", "matte"))
    assert (begins[matte] - ends[wash]).total_seconds() >= 48 * 3600
    chosen(qtbot, window, "Washes of", "acrylic, which stays")
    assert "acrylic wash" in kinds(window) and not kinds(window) & {"wash", "wipe"}
    # The flash is sprayed freehand: no tape, no seal under it, and the page names its finish.
    column = next(c for c in window.finish.zones.rows_model.columns if c.title == "finish")
    assert column.put is not None
    column.put(session.build.all(Zone)[1], "soft-edged, freehand")
    settle(qtbot, session)
    assert not kinds(window) & {"mask", "edge seal", "unmask"}
    assert step_of(window, "stripe").title.startswith("Spray freehand, edges soft: flash")
    again = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    settle(qtbot, again.session)
    assert again.session.build.info.wash == "acrylic" and again.session.build.all(Zone)[1].role == "freehand"
    for _ in range(2):
        again.session.undo()
    settle(qtbot, again.session)
    assert {s.kind for s in sequence_of(again).steps} >= {"mask", "wash", "wipe"}


def test_a_stripe_comes_first_where_the_colour_round_it_can_be_sprayed_over_tape(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window)
    session = window.session
    column = next(c for c in window.finish.zones.rows_model.columns if c.title == "finish")
    assert column.put is not None
    column.put(session.build.all(Zone)[1], "stripe first, taped over")
    window.finish.turn_to("Plan")
    settle(qtbot, session)
    # The runners are chipped: what is chipped cannot wait under tape, so the stripe is masked, and that is told.
    assert "“flash” cannot be sprayed first" in card_text(window)
    assert step_of(window, "mask").zone == "flash"
    column.put(session.build.all(Zone)[0], "weathered paint")
    settle(qtbot, session)
    assert "cannot be sprayed first" not in card_text(window)
    spans = planned_spans(sequence_of(window))
    titles = [s.title.split(":")[0] for s in sorted(sequence_of(window).steps, key=lambda s: spans[s.id])]
    order = [t for t in dict.fromkeys(titles) if "stripe" in t.lower() or t.startswith(("Seal the tape", "Tape off"))]
    assert order == [
        "Spray the stripe first", "Tape over the stripes", "Seal the tape's edge with the colour beneath",
        "Spray round the taped stripes", "Tape off, slowly, flat back",
    ]  # fmt: skip
    assert step_of(window, "mask").zone == "runners"
    for _ in range(2):
        session.undo()
    settle(qtbot, session)
    assert step_of(window, "mask").zone == "flash" and "cannot be sprayed first" not in card_text(window)
