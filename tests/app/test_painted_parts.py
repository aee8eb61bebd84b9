"""Painted parts by keys alone, and in words for whoever cannot see them."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from chalkreel.app.parts.key_choices import KeyChoices
from chalkreel.app.window import Window
from chalkreel.document.entities import Landmark, LandmarkMark
from chalkreel.document.paint_entities import Surface
from chalkreel.edits.removing import removal
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


def spoken_things(widget: QWidget) -> list[tuple[str, QRect]]:
    """The things of a painted part as an assistive tool gets them, each found again where it is on the screen."""
    whole = QAccessible.queryAccessibleInterface(widget)
    assert whole.role() == QAccessible.Role.List and whole.text(QAccessible.Text.Name) == widget.accessibleName()
    things = [whole.child(n) for n in range(whole.childCount())]
    assert all(t.isValid() and t.parent().object() is widget for t in things)
    assert all(whole.indexOfChild(t) == n for n, t in enumerate(things))
    for thing in things[:9]:
        there = whole.childAt(thing.rect().center().x(), thing.rect().center().y())
        assert there is not None and there.rect().contains(thing.rect().center())
    return [(thing.text(QAccessible.Text.Name), thing.rect()) for thing in things]


@pytest.mark.parametrize("part", ["lanes", "votes", "targets", "recipes"])
def test_each_thing_is_handed_to_assistive_tools(qtbot: QtBot, demo_window: Window, part: str) -> None:
    widget = painted(qtbot, demo_window, part)
    things = spoken_things(widget)
    assert len(things) > 2 and all(words for words, _ in things)
    corner, size = widget.mapToGlobal(QPoint()), widget.size()
    assert all(QRect(corner, size).intersects(place) for _, place in things[:1])


def test_marks_and_frames_are_handed_over_and_follow_the_build(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-1")
    session, view = demo_window.session, demo_window.measure.view
    mark = next(m for m in session.build.all(LandmarkMark) if m.still_id == "still-1")
    landmark = session.build.get(Landmark, mark.landmark_id)
    assert landmark is not None
    there = view.mapToGlobal(view.to_screen(mark.mark.x_px, mark.mark.y_px).toPoint())
    assert any(words == landmark.name and place.contains(there) for words, place in spoken_things(view))
    whole = QAccessible.queryAccessibleInterface(view)
    last, count = whole.child(whole.childCount() - 1), whole.childCount()
    session.edit("name", landmark, name="tip of the mast")
    qtbot.waitUntil(lambda: "tip of the mast" in dict(view.things()))
    assert "tip of the mast" in {whole.child(n).text(QAccessible.Text.Name) for n in range(count)}
    session.commit("gone", removal(session.build, landmark.id))
    qtbot.waitUntil(lambda: whole.childCount() < count)
    assert not last.isValid() and last.text(QAccessible.Text.Name) == "" and last.rect().isEmpty()
    show_stage(demo_window, "Gather")
    demo_window.gather.wall.grab()
    frames = [words for words, _ in spoken_things(demo_window.gather.wall)]
    assert any(words.startswith("1  ") and ": port, " in words for words in frames)
    assert any(words.startswith("no still: ") for words in frames)


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
