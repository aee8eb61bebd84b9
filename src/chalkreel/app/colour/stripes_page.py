"""The Stripes page: names of bottles, sheets to print and paint, and photographs of them that fill the shelf."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from chalkreel.app.colour import stripes
from chalkreel.app.colour.shelf_page import MOST_TOLD, PICTURES, choice
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.materials import MEDIA, SHEENS
from chalkreel.document.paint_entities import ShelfPaint, Stripe
from chalkreel.edits.shelving import Dries
from chalkreel.edits.striping import given_rows, guessed_rows

HOW = (
    "A shelf in an evening: name the bottles, print the sheets, lay one thin coat of each paint over paper and black, "
    "let them dry, photograph each sheet. First mixes then land about twice as near as from plain colours, though not "
    "as near as from cards."
)


class StripesPage(QWidget):
    """The list of bottles with their rows on the sheets, and the way there and back."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.table = Table(session, "Stripes", self._columns(), self._remove)
        self.table.hint = "No bottle has a row yet: type its name below, or paste a list of names."
        self.count, self.name = PlainLabel(), QLineEdit()
        self.name.setPlaceholderText("name of a bottle, Enter")
        self.name.setAccessibleName("Name of a bottle")
        self.medium, self.sheen = choice("Medium of the bottles", MEDIA), choice("They dry", SHEENS)
        acts: dict[str, Callable[[], object]] = {
            "Give it a row": self._add,
            "Paste names": lambda: self.take_names(stripes.names_in(QGuiApplication.clipboard().text())),
            "All guesses of the shelf": lambda: session.commit(
                "rows for the shelf's guesses", guessed_rows(session.build)
            ),
            "Print sheets…": self.ask_print,
            "Read photographs…": self.ask_read,
        }
        self.buttons = {words: QPushButton(words) for words in acts}
        for words, act in acts.items():
            self.buttons[words].clicked.connect(partial(attempt, session, act))
        self.name.returnPressed.connect(partial(attempt, session, self._add))
        self._lay_out()

    def refresh(self) -> None:
        """Follow the build."""
        self.table.show_rows(stripes.rows(self._session.build))
        self.count.setText(stripes.count_words(self._session.build))

    def take_names(self, names: tuple[str, ...]) -> None:
        """Give bottles rows on the sheets.

        Raises
        ------
        RefusedError
            None of them is new.
        """
        edits = given_rows(self._session.build, names, self._dries())
        self._session.commit(f"{plural(len(edits), 'bottle')} on stripes sheets", edits)

    def print_sheets(self, path: Path) -> None:
        """Write the sheets as PDF in the worker."""
        session, build = self._session, self._session.build

        def take(edits: object) -> None:
            assert isinstance(edits, dict)
            still = {key: stripe for key, stripe in edits.items() if key in session.build.entities}
            if not still or session.commit("stripes sheets printed", still):
                session.prompted.emit(f"Written: {path.name}. Print it at full size on plain matt paper, and paint it.")

        session.run("writing", lambda _: stripes.sheets_written(path, build), take)

    def read_photographs(self, paths: tuple[Path, ...]) -> None:
        """Read photographs of sheets in the worker and put their paints on the shelf."""
        session, build = self._session, self._session.build

        def take(found: object) -> None:
            assert isinstance(found, stripes.SheetsRead)
            if any(session.build.all(kind) != build.all(kind) for kind in (ShelfPaint, Stripe)):
                # The shelf was edited meanwhile.
                self.read_photographs(paths)
            elif session.commit(f"{plural(found.count, 'paint')} from stripes", found.edits):
                self._say(found)

        session.run("reading stripes", lambda progress: stripes.sheets_read(paths, build, progress), take)

    def _say(self, found: stripes.SheetsRead) -> None:
        told = found.told
        more = f" and {len(told) - MOST_TOLD} more" if len(told) > MOST_TOLD else ""
        words = f"{plural(found.count, 'paint')} read, by stripe"
        if told:
            self._session.refused.emit(f"{words}, but {'; '.join(told[:MOST_TOLD])}{more}.")
        else:
            self._session.prompted.emit(f"{words}: see the Shelf.")

    def ask_print(self) -> None:
        """Choose where the sheets' PDF goes.

        Raises
        ------
        RefusedError
            There is nothing to print.
        """
        stripes.to_print(self._session.build)
        name, _ = QFileDialog.getSaveFileName(self, "Stripes sheets", "stripes.pdf", "PDF (*.pdf)")
        if name:
            self.print_sheets(Path(name))

    def ask_read(self) -> None:
        """Choose photographs of sheets, several at once if need be."""
        names, _ = QFileDialog.getOpenFileNames(self, "Photographs of stripes sheets", "", PICTURES)
        if names:
            self.read_photographs(tuple(map(Path, names)))

    def _add(self) -> None:
        self.take_names((self.name.text(),))
        self.name.clear()

    def _remove(self, row: stripes.StripeRow) -> None:
        self._session.commit(f"{row.stripe.name} off its sheet", {row.id: None})

    def _dries(self) -> Dries:
        return Dries(self.medium.currentText(), self.sheen.currentText())  # type: ignore[arg-type]

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        how = PlainLabel(HOW)
        how.setWordWrap(True)
        told, below = QHBoxLayout(), FlowLayout()
        told.addWidget(self.name, 1)
        told.addWidget(self.medium)
        told.addWidget(PlainLabel("dries"))
        told.addWidget(self.sheen)
        for button in self.buttons.values():
            below.addWidget(button)
        column.addWidget(how)
        column.addWidget(self.table, 1)
        column.addWidget(self.count)
        column.addLayout(told)
        column.addLayout(below)

    def _columns(self) -> tuple[Column, ...]:
        def put(field: str) -> Callable[[stripes.StripeRow, str], object]:
            return lambda row, text: self._session.edit(f"{row.stripe.name}: {field}", row.stripe, **{field: text})

        return (
            Column("sheet", lambda r: str(r.stripe.sheet), right=True),
            Column("row", lambda r: str(r.stripe.row), right=True),
            Column("bottle", lambda r: r.stripe.name, self._rename, stretch=True),
            Column("medium", lambda r: r.stripe.medium, put("medium"), lambda: MEDIA),
            Column("dries", lambda r: r.stripe.sheen, put("sheen"), lambda: SHEENS),
            Column("next", lambda r: r.state),
        )

    def _rename(self, row: stripes.StripeRow, text: str) -> None:
        name = " ".join(text.split())
        if not name:
            raise RefusedError("Every bottle needs a name.")
        if any(s.name == name and s.id != row.id for s in self._session.build.all(Stripe)):
            raise RefusedError(f"“{name}” has a row already.")
        self._session.edit(f"{row.stripe.name}: name", row.stripe, name=name)
