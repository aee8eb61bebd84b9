"""The Shelf page: the paints, nearest to the target first when asked, and every way for paints to come in and out."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import cast

from PySide6.QtGui import QGuiApplication, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from chalkreel.answers.colours import Colours, SurfaceRow
from chalkreel.app.colour import shelf
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.figures import plural
from chalkreel.core.materials import MEDIA, SHEENS
from chalkreel.document.changes import Edits
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.edits.removing import removal
from chalkreel.edits.shelving import Dries, called_clear, dried_to, shelved

IN = "Shelves, lists, palettes and readings (*.csv *.gpl *.txt *.cgats);;All files (*)"
OUT = "Shelf with K and S (*.csv);;Palette of masstones (*.gpl)"
ABOVE = ("Bring in…", "Save as…", "My shelf in", "My shelf out", "Off my shelf")
MY_SHELF = {
    "My shelf in": "Put the paints that you keep for all builds on this build's shelf",
    "My shelf out": "Keep this build's paints, with what they were read from, for all builds",
    "Off my shelf": "Take the chosen paints out of what is kept for all builds; this build keeps them",
}
BELOW = ("Add by its colour", "Paste a list", "Simulated meter", "Read card…", "Print card…", "Practice range")
# The width of the page from which a column is shown, and the search's own.
ROOM_FOR = {"per ml": 900, "drop": 900, "kind": 700, "medium": 700}
SEARCH_PX = 180
# So many of the lines that could not be read are told.
MOST_TOLD = 3
PICTURES = "Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"


class ShelfPage(QWidget):
    """The table of paints with what can be done to it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._row: SurfaceRow | None = None
        self._colours: Colours | None = None
        self.table = Table(session, "Paints", self._columns(), self._remove)
        self.table.hint = (
            "The shelf is empty: bring in a file, meter or guess a paint, or put the practice range on it."
        )
        self.search, self.name, self.colour = QLineEdit(), QLineEdit(), QLineEdit()
        self.search.setPlaceholderText("search the shelf")
        self.search.setAccessibleName("Search the shelf")
        self.name.setPlaceholderText("name of a paint")
        self.name.setAccessibleName("Name of a paint")
        self.colour.setPlaceholderText("its masstone: L* a* b* or #rrggbb")
        self.colour.setAccessibleName("Masstone of the paint")
        self.colour.setToolTip(
            "Write D50 behind L* a* b* where they hold under that light, as in print.\n"
            "Of a clear paint give the look of one coat over white, and call it clear in its row."
        )
        self.medium, self.sheen = choice("Medium of new paints", MEDIA), choice("New paints dry", SHEENS)
        self.nearest = QPushButton("Nearest to the target first")
        self.nearest.setCheckable(True)
        self.buttons = {
            words: QPushButton(words)
            for words in (*ABOVE, *BELOW)
        }  # fmt: skip
        self._lay_out()
        for words, tip in MY_SHELF.items():
            self.buttons[words].setToolTip(tip)
        self.buttons["Simulated meter"].setVisible(session.stand_ins)
        acts: dict[str, Callable[[], object]] = {
            "Bring in…": self.ask_import, "Save as…": self.ask_export, "Add by its colour": self._guess,
            "Paste a list": lambda: self.take_words(QGuiApplication.clipboard().text()),
            "Read card…": self.ask_card, "Print card…": self.ask_print, "Simulated meter": self._meter,
            "Practice range": self.put_practice_range,
            "My shelf in": self.bring_my_shelf,
            "Off my shelf": self._off_my_shelf,
            "My shelf out": lambda: session.prompted.emit(shelf.my_shelf_out(session.build)),
        }  # fmt: skip
        for words, act in acts.items():
            self.buttons[words].clicked.connect(partial(self._try, act))
        self.colour.returnPressed.connect(partial(self._try, self._guess))
        self.search.textChanged.connect(lambda _: self._show())
        self.nearest.clicked.connect(lambda _: self._show())

    def show_row(self, row: SurfaceRow | None, colours: Colours | None) -> None:
        """Show the shelf against the chosen surface's target."""
        self._row, self._colours = row, colours
        self._show()

    def put_practice_range(self) -> None:
        """Put the shipped made-up paints on the shelf."""
        from chalkreel.demo.evidence import bench_range

        edits: Edits = {paint.id: paint for paint in bench_range()}
        self._session.commit("practice range", edits)

    def bring_my_shelf(self) -> None:
        """Put the library's paints on the shelf, read in the worker."""

        def take(found: object) -> None:
            assert isinstance(found, tuple)
            self._put(found, "my shelf")

        self._session.run("reading my shelf", lambda _: iter((shelf.my_paints(),)), take)

    def _off_my_shelf(self) -> None:
        names = tuple(row.name for row in self.table.chosen_rows())
        self._session.prompted.emit(shelf.off_my_shelf(names))

    def take_file(self, path: Path) -> None:
        """Bring in a shelf, a palette or metered readings, read in the worker."""
        build, dries = self._session.build, self._dries()
        self._session.run(
            f"reading {path.name}",
            lambda _: iter((shelf.paints_from_file(path, build, dries),)),
            lambda found: self._take_in(found, f"from {path.name}"),
        )

    def take_words(self, text: str) -> None:
        """Put pasted lines of a name and a colour on the shelf, worked out in the worker."""
        dries = self._dries()
        self._session.run(
            "reading the list",
            lambda _: iter((shelf.paints_from_words(text, dries),)),
            lambda found: self._take_in(found, "as pasted"),
        )

    def take_card(self, path: Path) -> None:
        """Read the photograph of a drawdown card in the worker."""
        build, name, dries = self._session.build, self.name.text(), self._dries()

        def take(found: object) -> None:
            assert isinstance(found, tuple)
            paint, problems = found
            self._put((paint,), f"{paint.name} from its card", problems=problems)

        self._session.run("reading the card", lambda _: iter((shelf.paint_from_card(path, name, build, dries),)), take)

    def _take_in(self, found: object, where: str) -> None:
        assert isinstance(found, tuple)
        paints, told = found
        label = f"{plural(len(paints), 'paint')} {where}"
        more = f" and {len(told) - MOST_TOLD} more" if len(told) > MOST_TOLD else ""
        words = f"{label}: {'; '.join(told[:MOST_TOLD])}{more}."
        self._put(paints, label, words if told else "")

    def _dries(self) -> Dries:
        """What new paints are brought in as."""
        return Dries(self.medium.currentText(), self.sheen.currentText())  # type: ignore[arg-type]

    def write_file(self, path: Path) -> None:
        """Write the shelf as CSV, or its masstones as a GPL palette."""
        shelf.write_shelf(path, self._session.build)
        self._session.prompted.emit(f"Written: {path.name}.")

    def print_card(self, path: Path) -> None:
        """Write a drawdown card as PDF in the worker."""
        name = self.name.text().strip() or "name: ______________"
        words = f"Written: {path.name}. Print it at full size, paint it, photograph it."
        self._session.run(
            "writing", lambda _: shelf.card_written(path, name), lambda _: self._session.prompted.emit(words)
        )

    def ask_import(self) -> None:
        """Choose a file to bring in."""
        name, _ = QFileDialog.getOpenFileName(self, "Bring paints in", "", IN)
        if name:
            self.take_file(Path(name))

    def ask_export(self) -> None:
        """Choose where the shelf goes."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the shelf", "shelf.csv", OUT)
        if name:
            self.write_file(Path(name))

    def ask_card(self) -> None:
        """Choose the photograph of a card."""
        name, _ = QFileDialog.getOpenFileName(self, "Photograph of a drawdown card", "", PICTURES)
        if name:
            self.take_card(Path(name))

    def ask_print(self) -> None:
        """Choose where the card's PDF goes."""
        name, _ = QFileDialog.getSaveFileName(self, "Drawdown card", "drawdown-card.pdf", "PDF (*.pdf)")
        if name:
            self.print_card(Path(name))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.search.setMinimumWidth(SEARCH_PX)
        above = FlowLayout()
        for widget in (self.search, self.nearest):
            above.addWidget(widget)
        for words in ABOVE:
            above.addWidget(self.buttons[words])
        column.addLayout(above)
        column.addWidget(self.table, 1)
        column.addWidget(PlainLabel("A new paint, or a better reading of one"))
        told, below = QHBoxLayout(), FlowLayout()
        told.addWidget(self.name, 2)
        told.addWidget(self.colour, 3)
        told.addWidget(self.medium)
        told.addWidget(PlainLabel("dries"))
        told.addWidget(self.sheen)
        for words in (
            "Add by its colour",
            "Paste a list",
            "Simulated meter",
            "Read card…",
            "Print card…",
            "Practice range",
        ):
            below.addWidget(self.buttons[words])
        column.addLayout(told)
        column.addLayout(below)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_columns()

    def _fit_columns(self) -> None:
        """Names come first: what is seldom looked at goes where there is no room for it."""
        for number, column in enumerate(self.table.rows_model.columns):
            self.table.setColumnHidden(number, self.width() < ROOM_FOR.get(column.title, 0))

    def _show(self) -> None:
        rows = shelf.rows(self._session.build, self._row, self._colours, self.search.text(), self.nearest.isChecked())
        self.table.show_rows(rows, self._session.stale)

    def _try(self, act: Callable[[], object], *_: object) -> None:
        attempt(self._session, act)

    def _put(self, paints: tuple[ShelfPaint, ...], label: str, words: str = "", problems: tuple[str, ...] = ()) -> None:
        """Put paints on the shelf; what that finds anew, of them and of others, is computed in the worker.

        Then `words` are said, or the `problems` of a photograph with whatever else its readings make one doubt.
        """
        build = self._session.build

        def take(found: object) -> None:
            assert isinstance(found, tuple)
            edits, doubts = found
            if self._session.build.all(ShelfPaint) != build.all(ShelfPaint):
                # The shelf was edited meanwhile.
                self._put(paints, label, words, problems)
            elif self._session.commit(label, edits):
                if problems or doubts:
                    self._session.refused.emit("Read, but " + "; ".join((*problems, *doubts)) + ".")
                elif words:
                    self._session.prompted.emit(words)

        self._session.run("working out paints", lambda progress: iter((shelved(build, paints, progress),)), take)

    def _guess(self) -> None:
        paint = shelf.guess(self.name.text(), self.colour.text(), self._dries())
        self._put((paint,), f"{paint.name}, a guess")
        self.colour.clear()

    def _meter(self) -> None:
        paint = shelf.metered(self.name.text() or (self.table.current.name if self.table.current else ""),
                              self._session.build)  # fmt: skip
        self._put((paint,), f"{paint.name}, metered")

    def _remove(self, row: shelf.PaintRow) -> None:
        self._session.commit(f"{row.name} off the shelf", removal(self._session.build, row.paint.id))

    def _columns(self) -> tuple[Column, ...]:
        def put(field: str, read: Callable[[str], object]) -> Callable[[shelf.PaintRow, str], object]:
            return lambda row, text: self._session.edit(f"{row.name}: {field}", row.paint, **{field: read(text)})

        return (
            Column("", lambda _: "", swatch=lambda r: r.swatch),
            Column("paint", lambda r: r.name, put("name", shelf.read_name), stretch=True),
            Column("medium", lambda r: r.paint.medium, put("medium", str), lambda: MEDIA),
            Column("dries", lambda r: r.paint.sheen, self._put_sheen, lambda: SHEENS),
            Column("kind", shelf.kind_words, self._kind, lambda: shelf.KINDS),
            Column(
                "known by", lambda r: r.paint.source, state=lambda r: "warn" if r.paint.source == "guess" else "plain"
            ),
            Column("strength", lambda r: r.strength, right=True),
            Column("ΔE00", lambda r: r.apart, right=True),
            Column("drop", lambda r: f"{r.paint.drop_ml:g} ml", put("drop_ml", shelf.read_drop), right=True),
            Column("left", shelf.left_words, put("ml_left", shelf.read_left), right=True, state=shelf.left_state),
            Column("per ml", shelf.price_words, put("price_per_ml", shelf.read_price), right=True),
        )

    def _put_sheen(self, row: shelf.PaintRow, text: str) -> None:
        sheen, build = next(s for s in SHEENS if s == text), self._session.build
        self._work_out(f"{row.name}: dries {text}", lambda: dried_to(build, row.paint, sheen))

    def _kind(self, row: shelf.PaintRow, text: str) -> None:
        build = self._session.build
        if text == "clear":
            self._work_out(f"{row.name}: clear", lambda: called_clear(build, row.paint))
            return
        self._session.edit(f"{row.name}: {text}", row.paint, clear=False, metallic=text == "metallic")

    def _work_out(self, label: str, edits: Callable[[], Edits]) -> None:
        self._session.run(
            "working out paints",
            lambda _: iter((edits(),)),
            lambda found: self._session.commit(label, cast("Edits", found)),
        )


def choice(name: str, words: tuple[str, ...]) -> QComboBox:
    """A box to choose from, called by a name that is also its tooltip."""
    box = QComboBox()
    box.setAccessibleName(name)
    box.setToolTip(name)
    box.addItems(list(words))
    return box
