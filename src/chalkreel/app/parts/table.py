"""The one table for all lists: cells edited in place; rows added, pasted, filled, sorted, removed by mouse and keys."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, QItemSelectionModel, QSettings, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractItemDelegate, QApplication, QHeaderView, QTableView, QWidget

from chalkreel.app import theme
from chalkreel.app.parts.cell_editors import CellEditors
from chalkreel.app.parts.columns import NO, YES, Column, filled_columns, pasted_cells, pasted_lines, written
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.rows import RowModel
from chalkreel.app.parts.widths import shared_widths
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
MOST_PASTED = 500
PADDING_PX = 4
# Widths follow the words of so many rows: measuring hundreds takes longer than anybody should wait.
MEASURED_ROWS = 60


def own_id(row: Any) -> str:
    """The id of a row that is an entity, or speaks of one."""
    return str(getattr(row, "id", "") or getattr(row, "dimension_id", "") or getattr(row, "spot_id", ""))


class Table(QTableView):
    """A table of rows.

    `remove` takes a row away (Del); `add` makes one and returns its id (Ins, or Enter after the row just added);
    `move` shifts one by so many places (a drag). `row_entered` tells that Enter was pressed on one.
    """

    row_entered = Signal()

    def __init__(
        self,
        session: Session,
        name: str,
        columns: tuple[Column, ...],
        remove: Callable[[Any], object] | None = None,
        add: Callable[[], str] | None = None,
        key: Callable[[Any], str] = own_id,
        sortable: bool = True,
        move: Callable[[Any, int], object] | None = None,
    ) -> None:
        super().__init__()
        self._session, self._name, self._remove, self._add, self._move = session, name, remove, add, move
        self._dragged, self._drop_at = -1, -1
        self.rows_model = RowModel(session, columns, key)
        self.rows_model.together = self._chosen_numbers
        self.hint = ""
        self._fresh, self._added_at = "", -1
        self._sorted: tuple[int, Qt.SortOrder] | None = None
        self._drawn: dict[int, int] = {}
        self._sharing = False
        self._figures: list[int] = []
        self.setModel(self.rows_model)
        self._editors = CellEditors(self)
        self.setItemDelegate(self._editors)
        self._set_up(name)
        header = self.horizontalHeader()
        header.setSectionsClickable(sortable)
        if sortable:
            header.sectionClicked.connect(self._sort)
        header.sectionResized.connect(self._width_drawn)
        self.rows_model.modelReset.connect(self._share_room)
        self.rows_model.dataChanged.connect(self._follow_figures)
        self.set_columns(columns)

    def _set_up(self, name: str) -> None:
        self.setAccessibleName(name)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(25)
        self.setSelectionBehavior(QTableView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QTableView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QTableView.EditTrigger.DoubleClicked | QTableView.EditTrigger.EditKeyPressed)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollMode(QTableView.ScrollMode.ScrollPerPixel)
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setHighlightSections(False)
        header.setResizeContentsPrecision(MEASURED_ROWS)
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)

    def set_columns(self, columns: tuple[Column, ...]) -> None:
        """Replace all columns."""
        self.rows_model.set_columns(columns)
        kept = QSettings().value(self._widths_name(), {})
        self._drawn = {int(n): int(w) for n, w in kept.items()} if isinstance(kept, dict) else {}
        self._share_room()

    def show_rows(self, rows: tuple[Any, ...], stale: bool = False) -> None:
        """Replace all rows; the chosen ones stay chosen where they are still there."""
        model = self.rows_model
        chosen = {model.key_at(n) for n in self._chosen_numbers()}
        current, column = model.key_at(self.currentIndex().row()), self.currentIndex().column()
        model.show_rows(rows, stale)
        if current and not self.currentIndex().isValid() and model.row_of(current) >= 0:
            # Restored, not chosen by anybody: nothing must follow it.
            self.selectionModel().blockSignals(True)
            self.setCurrentIndex(model.index(model.row_of(current), column))
            for key in chosen - {current}:
                flags = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
                if model.row_of(key) >= 0:
                    self.selectionModel().select(model.index(model.row_of(key), 0), flags)
            self.selectionModel().blockSignals(False)

    def setColumnHidden(self, column: int, hide: bool) -> None:
        # Measuring every cell anew takes longer than a refresh may that hides nothing.
        if hide != self.isColumnHidden(column):
            super().setColumnHidden(column, hide)
            self._share_room()

    @property
    def current(self) -> Any | None:
        """The chosen row."""
        row = self.currentIndex().row()
        return self.rows_model.rows[row] if 0 <= row < len(self.rows_model.rows) else None

    def choose(self, key: str) -> None:
        """Make a row the chosen one."""
        number = self.rows_model.row_of(key)
        if number >= 0 and number != self.currentIndex().row():
            self.setCurrentIndex(self.rows_model.index(number, max(0, self.currentIndex().column())))
            # A stage shown for the first time is laid out after this.
            QTimer.singleShot(0, self, lambda: self.scrollTo(self.currentIndex()))

    def add_row(self) -> None:
        """Make a row and open its first cell; Enter in it makes the next."""
        if self._add is None:
            return
        key = self._add()
        made = self._session.build.entities.get(key)
        if made is None:
            # Refused, as in a build that another window holds; it has been said.
            return
        # The stage shows it through the event loop; it is wanted now.
        self.rows_model.show_rows((*self.rows_model.rows, made), self.rows_model.stale)
        number = self.rows_model.row_of(key)
        first = next(n for n, c in enumerate(self.rows_model.columns) if c.put is not None and not c.tick)
        index = self.rows_model.index(number, first)
        self.setFocus()
        self.setCurrentIndex(index)
        self.scrollTo(index)
        self.edit(index)
        self._fresh, self._added_at = key, self._session.build.revision

    def paste(self, text: str) -> None:
        """Put what was copied from a spreadsheet into the cells from the chosen one down, or make rows of it, as one
        change. It fills cells where the chosen one is not the first of its row.

        Raises
        ------
        RefusedError
            This table makes no rows, or a cell does not do: nothing was pasted then.
        """
        filled = filled_columns(text, self.rows_model.columns, self.currentIndex().column())
        if filled:
            self._fill(pasted_lines(text), filled)
            return
        lines = pasted_cells(text, self.rows_model.columns)
        if self._add is None or not lines:
            raise RefusedError("There are no rows to paste here.")
        if len(lines) > MOST_PASTED:
            raise RefusedError(f"At most {MOST_PASTED} rows are pasted at once.")
        columns = self.rows_model.columns
        with self._session.gesture(f"{plural(len(lines), 'row')} pasted"):
            for number, cells in enumerate(lines, start=1):
                key = self._add()
                for column, words in cells.items():
                    _put_pasted(columns[column], self._session.build.entities[key], words, number)

    def _fill(self, lines: list[list[str]], filled: list[int]) -> None:
        """Replace cells from the chosen one down, each row of lines in one of the table."""
        columns, first = self.rows_model.columns, self.currentIndex().row()
        # As they stand now: the table is shown anew while it is filled.
        keys = [self.rows_model.key_at(n) for n in range(first, len(self.rows_model.rows))]
        if len(lines) > len(keys):
            raise RefusedError(
                f"{plural(len(lines), 'row')} were copied, but from here down there "
                f"{'is' if len(keys) == 1 else 'are'} {len(keys)}. Nothing was pasted."
            )
        names = ", ".join(columns[n].title for n in filled)
        with self._session.gesture(f"{plural(len(lines), 'row')} of {names} pasted"):
            for number, (key, cells) in enumerate(zip(keys, lines, strict=False), start=1):
                for column, words in zip(filled, cells, strict=False):
                    row = self._session.build.entities.get(key) or self.rows_model.rows[first + number - 1]
                    _put_pasted(columns[column], row, words, number)

    def copied(self) -> str:
        """The chosen rows as a spreadsheet takes them, with the titles."""
        columns = [(n, c) for n, c in enumerate(self.rows_model.columns) if not self.isColumnHidden(n)]
        lines = [[c.title for _, c in columns]]
        lines += [[c.get(self.rows_model.rows[n]) for _, c in columns] for n in self._chosen_numbers()]
        return "\n".join("\t".join(line) for line in lines) + "\n"

    def chosen_rows(self) -> tuple[Any, ...]:
        """The chosen rows, the one that the keys are on among them."""
        return tuple(self.rows_model.rows[n] for n in self._chosen_numbers())

    def remove_current(self) -> None:
        """Take the chosen rows away, where this table allows it."""
        rows = self.chosen_rows()
        if self._remove is None or not rows:
            return
        number = self.currentIndex().row()
        if len(rows) == 1:
            self._remove(rows[0])
        else:
            with self._session.gesture(f"{len(rows)} rows of {self._name.lower()} removed"):
                for row in rows:
                    self._remove(row)
        # The keys stay where they were, on the row that has moved up.
        left = tuple(r for r in self.rows_model.rows if r not in rows)
        self.rows_model.show_rows(left, self.rows_model.stale)
        if left:
            self.setCurrentIndex(self.rows_model.index(min(number, len(left) - 1), 0))

    def toggle_tick(self) -> bool:
        """Space on a box; False where there is none."""
        index = self.currentIndex()
        if not index.isValid() or not self.rows_model.columns[index.column()].tick:
            return False
        now = self.rows_model.columns[index.column()].get(self.rows_model.rows[index.row()])
        self.rows_model.setData(index, NO if now == YES else YES)
        return True

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.rows_model.rows and self.hint:
            painter = QPainter(self.viewport())
            painter.setPen(QColor(theme.current().quiet))
            flags = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)
            painter.drawText(self.viewport().rect().adjusted(12, 0, -12, 0), flags, self.hint)
        if self._drop_at >= 0:
            painter = QPainter(self.viewport())
            last = self._drop_at >= len(self.rows_model.rows)
            y = self.rowViewportPosition(min(self._drop_at, len(self.rows_model.rows) - 1))
            y += self.rowHeight(0) if last else 0
            painter.fillRect(0, y - 1, self.viewport().width(), 3, QColor(theme.current().yellow))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._dragged = self.rowAt(int(event.position().y())) if self._move is not None else -1
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged < 0:
            super().mouseMoveEvent(event)
            return
        y = int(event.position().y())
        under = self.rowAt(y)
        half = under >= 0 and y > self.rowViewportPosition(under) + self.rowHeight(under) // 2
        self._drop_at = under + half if under >= 0 else len(self.rows_model.rows) if y > 0 else 0
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, to = self._dragged, self._drop_at
        self._dragged = self._drop_at = -1
        super().mouseReleaseEvent(event)
        self.viewport().update()
        by = to - dragged - (1 if to > dragged else 0)
        if self._move is not None and dragged >= 0 and to >= 0 and by:
            self._move(self.rows_model.rows[dragged], by)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._share_room()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if not self.currentIndex().isValid() and self.rows_model.rows:
            self.setCurrentIndex(self.rows_model.index(0, 0))
        self._session.prompted.emit(self._prompt())

    def event(self, event: QEvent) -> bool:
        # Keys of the table's own come before the window's.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            makes_row = event.key() == Qt.Key.Key_Insert and self._add is not None
            if makes_row or self._word_for(event) is not None:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        editing = self.state() == QTableView.State.EditingState
        index = self.currentIndex()
        found = None if editing else self._word_for(event)
        if found is not None:
            column, words = found
            self.rows_model.setData(self.rows_model.index(index.row(), column), words)
        elif (event.key() == Qt.Key.Key_Insert and self._add is not None) or (
            event.key() in ENTER and not editing and not self.rows_model.rows and self._add is not None
        ):
            attempt(self._session, self.add_row)
        elif event.key() in ENTER and index.isValid() and not editing:
            if not self.toggle_tick() and index.flags() & Qt.ItemFlag.ItemIsEditable:
                self.edit(index)
            self.row_entered.emit()
        else:
            super().keyPressEvent(event)

    def closeEditor(self, editor: QWidget, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Refused words stay in their cell; Enter in a row just added goes on to the next."""
        reverted = hint == QAbstractItemDelegate.EndEditHint.RevertModelCache
        if self._editors.refused is editor and not reverted and self.isVisible():
            editor.setFocus()
            return
        fresh, self._editors.refused = self._fresh, None
        entered = hint == QAbstractItemDelegate.EndEditHint.SubmitModelCache
        super().closeEditor(editor, hint)
        if fresh and reverted:
            self._fresh = ""
            # Nothing was typed into it: it was one too many.
            if self._session.build.revision == self._added_at:
                self._session.undo()
        elif fresh and entered and self.rows_model.key_at(self.currentIndex().row()) == fresh:
            attempt(self._session, self.add_row)

    def _prompt(self) -> str:
        words = []
        if any(c.put is not None for c in self.rows_model.columns):
            words.append("Enter edits the cell.")
        keys = {k: w for c in self.rows_model.columns for k, w in c.keys.items()}
        if keys:
            words.append(", ".join(f"{k.upper()} {w}" for k, w in keys.items()) + ".")
        if self._add is not None:
            words.append("Ins makes a row, Ctrl+V pastes rows from a spreadsheet.")
        if self._remove is not None:
            words.append("Del removes.")
        return " ".join(words) or self._session.resting_prompt

    def _word_for(self, event: QKeyEvent) -> tuple[int, str] | None:
        """The column and word that a letter sets at once, without opening a cell."""
        plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        if not plain or not self.currentIndex().isValid() or self.state() == QTableView.State.EditingState:
            return None
        letter = event.text().lower()
        return next(
            ((n, c.keys[letter]) for n, c in enumerate(self.rows_model.columns) if letter and letter in c.keys), None
        )

    def _chosen_numbers(self) -> tuple[int, ...]:
        if self.selectionModel() is None:
            return ()
        chosen = {index.row() for index in self.selectionModel().selectedRows()}
        chosen |= {self.currentIndex().row()} if self.currentIndex().isValid() else set()
        return tuple(sorted(chosen))

    def _sort(self, column: int) -> None:
        """Up, then down, then as the rows come."""
        up, down = (column, Qt.SortOrder.AscendingOrder), (column, Qt.SortOrder.DescendingOrder)
        self._sorted = {up: down, down: None}.get(self._sorted, up) if self._sorted else up
        header = self.horizontalHeader()
        header.setSortIndicatorShown(self._sorted is not None)
        if self._sorted is not None:
            header.setSortIndicator(*self._sorted)
        self.rows_model.sort(*(self._sorted or (-1,)))

    def _widths_name(self) -> str:
        return f"tables/{self._name}/{len(self.rows_model.columns)}"

    def _width_drawn(self, column: int, _: int, width: int) -> None:
        if not self._sharing and QApplication.mouseButtons() & Qt.MouseButton.LeftButton:
            self._drawn[column] = width
            QSettings().setValue(self._widths_name(), {str(n): w for n, w in self._drawn.items()})

    def _figure_lengths(self) -> list[int]:
        """How long the words of each column of figures are at most."""
        rows = self.rows_model.rows[:MEASURED_ROWS]
        figures = (column for column in self.rows_model.columns if column.right)
        return [max((len(column.get(row)) for row in rows), default=0) for column in figures]

    def _follow_figures(self) -> None:
        """Figures that were not there before, or were shorter, must not be cut off; words may."""
        if any(now > before for now, before in zip(self._figure_lengths(), self._figures, strict=True)):
            self._share_room()

    def _share_room(self) -> None:
        """Give every column its width within what is there."""
        if self._sharing:
            return
        shown = [n for n in range(len(self.rows_model.columns)) if not self.isColumnHidden(n)]
        header = self.horizontalHeader()
        wanted = [
            self._drawn.get(n) or max(self.sizeHintForColumn(n), header.sectionSizeHint(n)) + PADDING_PX for n in shown
        ]
        stretch = [self.rows_model.columns[n].stretch and n not in self._drawn for n in shown]
        self._sharing = True
        firm = [self.rows_model.columns[n].right for n in shown]
        for n, width in zip(shown, shared_widths(wanted, stretch, self.viewport().width(), firm), strict=True):
            header.resizeSection(n, width)
        self._sharing = False
        self._figures = self._figure_lengths()


def _put_pasted(column: Column, row: Any, words: str, number: int) -> None:
    """Write one pasted cell; what does not do says where it stands.

    Raises
    ------
    RefusedError
        The words mean nothing to the column.
    """
    try:
        written(column, row, words)
    except RefusedError as refusal:
        raise RefusedError(f"Row {number}, {column.title}: {refusal} Nothing was pasted.") from refusal
