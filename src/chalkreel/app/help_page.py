"""Help over the window: what the stage in front is for, and all keys, those of that stage first."""

from __future__ import annotations

from importlib.resources import files
from itertools import groupby

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import (
    QImage,
    QKeyEvent,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextImageFormat,
)
from PySide6.QtWidgets import QFrame, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from chalkreel.answers.stages import StageName
from chalkreel.app.commands import COMMANDS, STILL_KEYS
from chalkreel.app.session import Session

MARGIN, WIDEST, GAP = 30, 860, 7
KEYS_HEAD, PICTURE, CAPTION = "Keys", "help:stage", "So it looks in the demo, half done."


class HelpPage(QFrame):
    """Covers the window until Esc, F1 or its button."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("over")
        self.setAccessibleName("Help")
        self._session = session
        self.text, self.close_button = QTextBrowser(), QPushButton("Close (Esc)")
        self.text.setAccessibleName("What this stage is for, and its keys")
        column = QVBoxLayout(self)
        column.addWidget(self.text, 1)
        column.addWidget(self.close_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.close_button.clicked.connect(self.hide)
        self.hide()

    def turn(self) -> None:
        """Show it over the parent, or take it away."""
        if self.isVisible():
            self.hide()
            return
        parent = self.parentWidget()
        assert parent is not None
        width = min(WIDEST, parent.width() - 2 * MARGIN)
        self.setGeometry((parent.width() - width) // 2, MARGIN, width, parent.height() - 2 * MARGIN)
        self.text.setMarkdown(help_text(self._session.stage))
        self._part_paragraphs()
        self._add_picture(width - 2 * MARGIN)
        self.raise_()
        self.show()
        self.text.setFocus()

    def _part_paragraphs(self) -> None:
        """A little room below each paragraph of the half-page, which the toolkit's Markdown leaves out."""
        cursor = QTextCursor(self.text.document())
        while cursor.currentTable() is None and cursor.block().text() != KEYS_HEAD:
            form = cursor.blockFormat()
            form.setBottomMargin(GAP)
            cursor.setBlockFormat(form)
            if not cursor.movePosition(QTextCursor.MoveOperation.NextBlock):
                break

    def _add_picture(self, room: int) -> None:
        """The stage as the demo has it, between its half-page and the keys; no wider than there is room."""
        picture = QImage.fromData(picture_of(self._session.stage))
        size = picture.size().scaled(min(room, picture.width()), picture.height(), Qt.AspectRatioMode.KeepAspectRatio)
        document = self.text.document()
        document.addResource(QTextDocument.ResourceType.ImageResource, QUrl(PICTURE), picture)
        block = document.begin()
        while block.text() != KEYS_HEAD:
            block = block.next()
        at = QTextCursor(block)
        form = QTextImageFormat()
        form.setName(PICTURE)
        form.setWidth(size.width())
        form.setHeight(size.height())
        at.insertBlock(QTextBlockFormat(), QTextCharFormat())
        at.movePosition(QTextCursor.MoveOperation.PreviousBlock)
        at.setBlockFormat(QTextBlockFormat())
        at.insertImage(form)
        at.insertText("\n" + CAPTION, QTextCharFormat())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)


def help_text(stage: StageName) -> str:
    """The stage's half-page and the keys, as Markdown."""
    page = files("chalkreel.help").joinpath(f"{stage.lower()}.md").read_text("utf-8")
    return f"{page}\n\n## {KEYS_HEAD}\n\n{keys_text(stage)}"


def picture_of(stage: StageName) -> bytes:
    """The stage as the demo has it."""
    return files("chalkreel.help").joinpath(f"{stage.lower()}.webp").read_bytes()


def keys_text(stage: StageName) -> str:
    """Tables of keys by group; what names the stage or belongs to it comes first."""
    by_group = groupby(COMMANDS, lambda command: command.group)
    groups = [(name, [(c.key, c.words) for c in found if c.key]) for name, found in by_group]
    groups.append(("On a still", list(STILL_KEYS)))

    def own(group: tuple[str, list[tuple[str, str]]]) -> bool:
        return group[0] == stage or any(f"{stage}:" in words for _, words in group[1])

    parts = []
    for name, rows in sorted(groups, key=lambda group: not own(group)):
        here = sorted(rows, key=lambda row: f"{stage}:" not in row[1])
        lines = [f"| {key.replace('|', '/')} | {words} |" for key, words in here]
        parts.append("\n".join((f"### {name}", "", "| key | does |", "|---|---|", *lines)))
    return "\n\n".join(parts)
