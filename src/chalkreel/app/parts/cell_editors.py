"""What edits a cell: a list of words where its column has options, else a line that keeps refused words."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QComboBox, QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.rows import Index, RowModel


class CellLine(QLineEdit):
    """A line in a cell, with what is understood of its words, or why they were refused, right under it."""

    def __init__(self, parent: QWidget, understand: Any) -> None:
        super().__init__(parent)
        self.echo = Echo(self, understand)


class CellEditors(QStyledItemDelegate):
    """Makes the editors; `refused` is the one whose words were just refused, if any."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.refused: CellLine | None = None

    def createEditor(self, parent: QWidget, _: QStyleOptionViewItem, index: Index) -> QWidget:
        model = index.model()
        assert isinstance(model, RowModel)
        column = model.columns[index.column()]
        if column.options is None:
            line = CellLine(parent, column.understand)
            line.setAccessibleName(column.title)
            line.setFrame(False)
            return line
        box = QComboBox(parent)
        box.setAccessibleName(column.title)
        box.addItems(list(column.options()))
        box.setCurrentText(column.get(model.rows[index.row()]))
        box.activated.connect(lambda: self._take(box))
        return box

    def eventFilter(self, editor: QObject, event: QEvent) -> bool:
        # A list that opens takes the keys; that is no reason to take the cell's words as final.
        if isinstance(editor, QComboBox) and event.type() == QEvent.Type.FocusOut and editor.view().isVisible():
            return False
        return super().eventFilter(editor, event)

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        if not isinstance(editor, CellLine):
            super().setEditorData(editor, index)
            return
        # Answers that arrive meanwhile must not write over what is being typed, nor take the selection off.
        words = index.data(Qt.ItemDataRole.EditRole)
        if not editor.isModified() and editor.text() != words:
            editor.setText(words)

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        assert isinstance(model, RowModel)
        self.refused = None
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText())
        elif isinstance(editor, CellLine):
            # An editor that was only opened writes nothing: the cell may have changed since by an undo.
            if editor.isModified():
                model.setData(index, editor.text())
            if editor.isModified() and model.refusal:
                self.refused = editor
                editor.echo.say(f"✗ {model.refusal}", "bad")

    def _take(self, box: QComboBox) -> None:
        self.commitData.emit(box)
        self.closeEditor.emit(box)
