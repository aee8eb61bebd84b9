"""Help where it is wanted: a half-page and a picture a stage, and a line on every word that wants one."""

from __future__ import annotations

import re
from html import escape

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextDocument
from PySide6.QtWidgets import QAbstractButton, QLabel, QTableView

from chalkreel.answers.stages import STAGES
from chalkreel.app.help_page import CAPTION, PICTURE, help_text
from chalkreel.app.measure.keys import KEYS
from chalkreel.app.parts.explained import lines
from chalkreel.app.window import Window


def test_every_stage_has_its_half_page_of_help() -> None:
    for stage in STAGES:
        text = help_text(stage)
        assert text.startswith(f"# {stage}") and 60 < len(text.split("## Keys")[0].split()) < 400


def test_every_word_that_is_explained_stands_on_its_stage_and_has_its_line_there(demo_window: Window) -> None:
    key = re.compile(r"\s+(\([A-Z]\)|[A-Z0-9])$")
    for name, words in lines().items():
        stage, found = demo_window.stages[name], {}  # type: ignore[index]
        for root in (stage.centre, stage.card):
            for widget in root.findChildren(QAbstractButton) + root.findChildren(QLabel):
                found[key.sub("", widget.text())] = widget.toolTip()
            for table in root.findChildren(QTableView):
                ask, across = table.model().headerData, Qt.Orientation.Horizontal
                for number in range(table.model().columnCount()):
                    title = str(ask(number, across, Qt.ItemDataRole.DisplayRole))
                    found[title] = ask(number, across, Qt.ItemDataRole.ToolTipRole) or found.get(title, "")
        lost = [word for word, line in words.items() if escape(line) not in found.get(word, "(not there)")]
        assert not lost, name
        assert all(len(line) <= 118 for line in words.values())
    tools = {kind.name for kind, _ in KEYS}
    assert tools <= set(lines()["Measure"]), "every tool says what it is for"


def test_the_help_page_shows_the_stage_and_its_picture(demo_window: Window) -> None:
    for stage in STAGES:
        demo_window.session.choose_stage(stage)
        demo_window.help.turn()
        document = demo_window.help.text.document()
        picture = document.resource(QTextDocument.ResourceType.ImageResource, QUrl(PICTURE))
        assert picture.width() == 800 and picture.height() == 500
        text = document.toPlainText()
        block = document.begin()
        while "\ufffc" not in block.text():
            block = block.next()
        assert block.begin().fragment().charFormat().toImageFormat().width() > 500
        # Right before the keys, also where the half-page speaks of keys itself.
        before = text[: text.index("\nKeys\n")]
        assert before.endswith(CAPTION) and before[-len(CAPTION) - 2] == "\ufffc"
        demo_window.help.turn()
