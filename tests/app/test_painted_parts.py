"""Painted parts by keys alone, and in words for whoever cannot see them."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.key_choices import KeyChoices
from chalkreel.app.window import Window
from chalkreel.document.paint_entities import Surface
from tests.app.conftest import in_front, settle, show_stage
from tests.app.test_window import ready_to_mark


def painted(qtbot: QtBot, window: Window, part: str) -> KeyChoices:
    show_stage(window, "Finish" if part == "lanes" else "Colour")
    if part != "lanes":
        window.session.choose_still("still-2")
        window.session.select("surface-hull")
        window.colour.switch.show_page("Stills" if part == "votes" else "Mix")
    settle(qtbot, window.session)
    window.stages[window.session.stage].refresh()
    in_front(qtbot, window)
    window.grab()
    parts = {
        "lanes": lambda: window.finish.plan.lanes, "votes": lambda: window.colour.desk.plot,
        "targets": lambda: window.colour.mix.pair, "recipes": lambda: window.colour.mix.trade,
    }  # fmt: skip
    found = parts[part]()
    assert isinstance(found, KeyChoices)
    found.setFocus()
    return found


@pytest.mark.parametrize("part", ["lanes", "votes", "targets", "recipes"])
def test_arrows_walk_it_and_each_thing_is_told(qtbot: QtBot, demo_window: Window, part: str) -> None:
    widget = painted(qtbot, demo_window, part)
    count = len(widget.choices())
    assert count > 2
    told = []
    for number in range(count):
        told.append(widget.accessibleDescription())
        # What is framed lies within the part, which scrolls to it where it has to.
        assert widget.rect().toRectF().contains(widget.choices()[number][1].center())
        qtbot.keyClick(widget, Qt.Key.Key_Right)
    assert all(words.endswith(f"{n} of {count}") for n, words in enumerate(told, start=1))
    assert widget.accessibleDescription() == told[0]


def test_a_target_and_a_recipe_are_chosen_without_a_mouse(qtbot: QtBot, demo_window: Window) -> None:
    targets = painted(qtbot, demo_window, "targets")
    qtbot.keyClick(targets, Qt.Key.Key_Right)
    qtbot.keyClick(targets, Qt.Key.Key_Return)
    surface = demo_window.session.build.get(Surface, "surface-hull")
    assert surface is not None and surface.mode in targets.accessibleDescription()
    recipes = painted(qtbot, demo_window, "recipes")
    qtbot.keyClick(recipes, Qt.Key.Key_Right)
    words = recipes.accessibleDescription()
    qtbot.keyClick(recipes, Qt.Key.Key_Return)
    surface = demo_window.session.build.get(Surface, "surface-hull")
    assert surface is not None and surface.drops
    assert all(name in words for name, _ in surface.drops)


def test_a_step_and_a_vote_are_chosen_without_a_mouse(qtbot: QtBot, demo_window: Window) -> None:
    lanes = painted(qtbot, demo_window, "lanes")
    qtbot.keyClick(lanes, Qt.Key.Key_Return)
    step = demo_window.finish.steps.current
    assert step is not None and step.step.title in lanes.accessibleDescription()
    votes = painted(qtbot, demo_window, "votes")
    qtbot.keyClick(votes, Qt.Key.Key_Right)
    number = int(votes.accessibleDescription().split()[1].rstrip(","))
    qtbot.keyClick(votes, Qt.Key.Key_Return)
    assert demo_window.session.still is not None and demo_window.session.still.number == number


def test_the_active_mark_its_still_and_each_move_are_told(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-1")
    view = demo_window.measure.view
    view.walk_to(lambda handle: not handle.ghost)
    first = view.accessibleDescription()
    assert "on still 1 at" in first and not first.startswith(" ")
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view.accessibleDescription() != first


def test_undo_tells_three_edits_of_one_thing_apart(demo_window: Window) -> None:
    session = demo_window.session
    surface = session.build.get(Surface, "surface-hull")
    assert surface is not None
    labels = []
    for name in ("Hull white", "Hull cream"):
        session.edit("name of a surface", surface, name=name)
        labels.append(session.store.undo_label)
    assert labels == ["name of a surface: Hull white", "name of a surface: Hull cream"]
