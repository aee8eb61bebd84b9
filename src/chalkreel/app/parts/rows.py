"""Rows of anything, seen through columns: sorted as asked, written one or several at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

from chalkreel.app import theme
from chalkreel.app.parts.columns import NO, YES, Column, sort_key, written
from chalkreel.app.parts.plain import tip
from chalkreel.app.parts.screen_colour import on_screen
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError

Index = QModelIndex | QPersistentModelIndex
Role = Qt.ItemDataRole


class RowModel(QAbstractTableModel):
    """What the table shows. `together` names the rows that are written along with one that is edited."""

    def __init__(self, session: Session, columns: tuple[Column, ...], key: Callable[[Any], str]) -> None:
        super().__init__()
        self._session, self.columns, self._key = session, columns, key
        # What a column's title means, where it wants a word.
        self.explained: Mapping[str, str] = {}
        self.rows: tuple[Any, ...] = ()
        self.stale = False
        self.refusal = ""
        self.together: Callable[[], tuple[int, ...]] = tuple
        self._given: tuple[Any, ...] = ()
        self._sorted: tuple[int, bool] | None = None

    def set_columns(self, columns: tuple[Column, ...]) -> None:
        """Replace all columns."""
        self.beginResetModel()
        self.columns, self._sorted = columns, None
        self.endResetModel()

    def show_rows(self, rows: tuple[Any, ...], stale: bool) -> None:
        """Replace all rows; the same rows keep selection and place."""
        self._given = rows
        ordered = self._ordered(rows)
        if [self._key(r) for r in ordered] == [self._key(r) for r in self.rows]:
            self.rows, self.stale = ordered, stale
            if rows:
                self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self.columns) - 1))
            return
        self.beginResetModel()
        self.rows, self.stale = ordered, stale
        self.endResetModel()

    def row_of(self, key: str) -> int:
        """Where a row stands now, -1 for nowhere."""
        return next((n for n, row in enumerate(self.rows) if self._key(row) == key), -1)

    def key_at(self, number: int) -> str:
        """Which row stands there; empty for none."""
        return self._key(self.rows[number]) if 0 <= number < len(self.rows) else ""

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Sort by a column; -1 goes back to the order that rows come in."""
        self._sorted = None if column < 0 else (column, order == Qt.SortOrder.DescendingOrder)
        self.show_rows(self._given, self.stale)

    def write(self, index: Index, text: str) -> None:
        """Put words into a cell, and into the same column of the rows that are chosen with it, as one change.

        Raises
        ------
        RefusedError
            The words do not do for one of them; none was changed.
        """
        column = self.columns[index.column()]
        numbers = self.together()
        rows = [self.rows[n] for n in (numbers if index.row() in numbers else (index.row(),))]
        if len(rows) == 1:
            written(column, rows[0], text)
            return
        with self._session.gesture(f"{column.title} of {len(rows)} rows: {text}"):
            for row in rows:
                written(column, row, text)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Role.DisplayRole) -> Any:
        reader = _READERS.get(Role(role))
        column, row = self.columns[index.column()], self.rows[index.row()]
        if role == Role.ForegroundRole and self.stale:
            return QColor(theme.current().state("quiet"))
        return reader(column, row) if reader is not None else None

    def setData(self, index: Index, value: Any, role: int = Role.EditRole) -> bool:
        """Write a cell; where it is refused, `refusal` says why."""
        column = self.columns[index.column()]
        self.refusal = ""
        if role == Role.CheckStateRole and column.tick:
            value = YES if Qt.CheckState(value) == Qt.CheckState.Checked else NO
        elif role != Role.EditRole:
            return False
        if column.put is None or str(value) == column.get(self.rows[index.row()]):
            return False
        try:
            self.write(index, str(value))
        except RefusedError as refusal:
            self.refusal = str(refusal)
            self._session.refused.emit(self.refusal)
        return not self.refusal

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        column = self.columns[index.column()]
        if column.put is None:
            return flags
        return flags | (Qt.ItemFlag.ItemIsUserCheckable if column.tick else Qt.ItemFlag.ItemIsEditable)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Role.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Role.DisplayRole:
            return self.columns[section].title
        if orientation == Qt.Orientation.Horizontal and role == Role.ToolTipRole:
            return tip(self.explained.get(self.columns[section].title, ""))
        return None

    def _ordered(self, rows: Iterable[Any]) -> tuple[Any, ...]:
        if self._sorted is None:
            return tuple(rows)
        number, backwards = self._sorted
        return tuple(sorted(rows, key=lambda row: sort_key(self.columns[number].get(row)), reverse=backwards))


def _shown(column: Column, row: Any) -> str | None:
    return None if column.tick else column.get(row)


def _ticked(column: Column, row: Any) -> Qt.CheckState | None:
    if not column.tick:
        return None
    return Qt.CheckState.Checked if column.get(row) == YES else Qt.CheckState.Unchecked


def _colour(column: Column, row: Any) -> QColor | None:
    return QColor(theme.current().state(column.state(row))) if column.state is not None else None


def _side(column: Column, _: Any) -> int | None:
    return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter) if column.right else None


_READERS: dict[Role, Callable[[Column, Any], Any]] = {
    Role.DisplayRole: _shown,
    Role.EditRole: lambda column, row: column.get(row),
    Role.CheckStateRole: _ticked,
    Role.AccessibleTextRole: lambda column, row: f"{column.title}: {column.get(row) or 'empty'}",
    Role.ToolTipRole: lambda column, row: tip(column.get(row)),
    Role.DecorationRole: lambda column, row: on_screen(column.swatch(row)) if column.swatch is not None else None,
    Role.ForegroundRole: _colour,
    Role.TextAlignmentRole: _side,
}
