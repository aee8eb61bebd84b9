"""One table for all lists of entities: columns are described, cells are edited in place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.plain import tip
from chalkreel.app.session import Session

Index = QModelIndex | QPersistentModelIndex


@dataclass(frozen=True)
class Column:
    """How a column reads a row, and how it writes one if it can.

    `put` gets the row and the typed text, commits, and raises RefusedError for nonsense.
    `options` lists the words to choose from. `state` names the colour state of the cell, `swatch` a
    colour shown as it is.
    """

    title: str
    get: Callable[[Any], str]
    put: Callable[[Any, str], object] | None = None
    options: Callable[[], tuple[str, ...]] | None = None
    state: Callable[[Any], str] | None = None
    stretch: bool = False
    right: bool = False
    swatch: Callable[[Any], tuple[int, int, int]] | None = None


class RowModel(QAbstractTableModel):
    """Rows of anything, seen through columns."""

    def __init__(self, session: Session, columns: tuple[Column, ...]) -> None:
        super().__init__()
        self._session, self.columns = session, columns
        self.rows: tuple[Any, ...] = ()
        self.stale = False

    def set_columns(self, columns: tuple[Column, ...]) -> None:
        """Replace all columns."""
        self.beginResetModel()
        self.columns = columns
        self.endResetModel()

    def show_rows(self, rows: tuple[Any, ...], stale: bool) -> None:
        """Replace all rows; a same number of rows keeps selection and place."""
        if len(rows) == len(self.rows):
            self.rows, self.stale = rows, stale
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self.columns) - 1))
            return
        self.beginResetModel()
        self.rows, self.stale = rows, stale
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        column, row = self.columns[index.column()], self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return column.get(row)
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip(column.get(row))
        if role == Qt.ItemDataRole.DecorationRole and column.swatch is not None:
            return QColor(*column.swatch(row))
        if role == Qt.ItemDataRole.ForegroundRole and (self.stale or column.state is not None):
            state = "quiet" if self.stale or column.state is None else column.state(row)
            return QColor(theme.current().state(state))
        if role == Qt.ItemDataRole.TextAlignmentRole and column.right:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        put = self.columns[index.column()].put
        row = self.rows[index.row()]
        if put is None or role != Qt.ItemDataRole.EditRole or str(value) == self.columns[index.column()].get(row):
            return False
        return attempt(self._session, lambda: put(row, str(value)))

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return flags | Qt.ItemFlag.ItemIsEditable if self.columns[index.column()].put is not None else flags

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.columns[section].title
        return None


class _Editors(QStyledItemDelegate):
    """A list of words where a column has options, else a line of text."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        model = index.model()
        assert isinstance(model, RowModel)
        column = model.columns[index.column()]
        if column.options is None:
            return super().createEditor(parent, option, index)
        box = QComboBox(parent)
        box.addItems(list(column.options()))
        box.setCurrentText(column.get(model.rows[index.row()]))
        box.activated.connect(lambda: self._take(box))
        return box

    def _take(self, box: QComboBox) -> None:
        self.commitData.emit(box)
        self.closeEditor.emit(box)

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText())
        else:
            super().setModelData(editor, model, index)


class Table(QTableView):
    """A table whose rows can be taken away with Delete and edited with Enter, F2 or a second click."""

    def __init__(
        self, session: Session, name: str, columns: tuple[Column, ...], remove: Callable[[Any], object] | None = None
    ) -> None:
        super().__init__()
        self.rows_model = RowModel(session, columns)
        self._remove = remove
        self.hint = ""
        self.setModel(self.rows_model)
        self._editors = _Editors(self)
        self.setItemDelegate(self._editors)
        self.setAccessibleName(name)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(25)
        self.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QTableView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setHighlightSections(False)
        self.set_columns(columns)

    def set_columns(self, columns: tuple[Column, ...]) -> None:
        """Replace all columns."""
        self.rows_model.set_columns(columns)
        header = self.horizontalHeader()
        header.setStretchLastSection(not any(column.stretch for column in columns))
        for number, column in enumerate(columns):
            stretch = QHeaderView.ResizeMode.Stretch if column.stretch else QHeaderView.ResizeMode.ResizeToContents
            header.setSectionResizeMode(number, stretch)

    def show_rows(self, rows: tuple[Any, ...], stale: bool = False) -> None:
        """Replace all rows."""
        self.rows_model.show_rows(rows, stale)

    @property
    def current(self) -> Any | None:
        """The chosen row."""
        row = self.currentIndex().row()
        return self.rows_model.rows[row] if 0 <= row < len(self.rows_model.rows) else None

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.rows_model.rows and self.hint:
            painter = QPainter(self.viewport())
            painter.setPen(QColor(theme.current().quiet))
            painter.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter, self.hint)

    def remove_current(self) -> None:
        """Take the chosen row away, where this table allows it."""
        if self._remove is not None and self.current is not None:
            self._remove(self.current)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        editing = self.state() == QTableView.State.EditingState
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid() and not editing:
            self.edit(self.currentIndex())
        else:
            super().keyPressEvent(event)
