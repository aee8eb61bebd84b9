"""Where practitioners differ: a school chosen on the card changes the steps of a build of one's own, and is kept."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from chalkreel.app.finish.forms import ZoneForm
from chalkreel.app.window import Window
from chalkreel.document.paint_entities import Zone
from tests.app.conftest import in_front, settle
from tests.app.test_finish import sequence_of, sledge, step_of


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
