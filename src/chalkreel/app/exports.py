"""Writing the book, tables and calendar in the worker."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QWidget

from chalkreel.app.jobs import Progress
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.document.atomic import written_over

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.core.draft.sheet import Sheet


class Exports:
    """Asks for a name, then writes; nothing is written from stale answers."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        self._session, self._parent = session, parent

    def offered(self) -> tuple[tuple[str, Callable[[], None]], ...]:
        """What can be written, in the words of its button."""
        return (
            ("Write the build book (PDF)…", self.book),
            ("Tables as CSV…", self.csv),
            ("Tables as JSON…", self.json),
            ("Schedule for a calendar…", self.calendar),
            ("Tonight's sheet (PDF)…", self.evening),
            ("The reel's colours…", self.palette),
        )

    def book(self) -> None:
        """The build book as PDF."""
        self._ask("Build book", "book.pdf", "PDF (*.pdf)", self.write_book)

    def stage(self) -> None:
        """The stage in front as PDF."""
        self._ask("This stage", f"{self._session.stage.lower()}.pdf", "PDF (*.pdf)", self.write_stage)

    def json(self) -> None:
        """All tables in one JSON file."""
        self._ask("Tables", "tables.json", "JSON (*.json)", self.write_json)

    def calendar(self) -> None:
        """The schedule as a calendar file."""
        self._ask("Schedule", "schedule.ics", "Calendar (*.ics)", self.write_calendar)

    def evening(self) -> None:
        """The sheet of the next evening as PDF."""
        self._ask("Tonight's sheet", "tonight.pdf", "PDF (*.pdf)", self.write_evening)

    def palette(self) -> None:
        """All surfaces with their colours, as a page of swatches or a list."""
        kinds = "Swatches (*.pdf);;Palette (*.gpl);;Table (*.csv);;JSON (*.json)"
        self._ask("The reel's colours", "colours.pdf", kinds, self.write_palette)

    def unpack(self) -> None:
        """The build as a folder of plain files."""
        suggested = self._session.store.path.with_suffix("").name + "-unpacked"
        name, _ = QFileDialog.getSaveFileName(self._parent, "Name of the new folder", suggested)
        if name:
            self.write_unpacked(Path(name))

    def write_unpacked(self, folder: Path) -> None:
        """Write the folder in the worker."""
        build, blob = self._session.build, self._session.store.blob

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.exchange.unpacked import unpack

            try:
                unpack(build, blob, folder)
            except OSError as error:
                raise RefusedError(f"“{folder}” cannot be written. Choose a folder that is yours.") from error
            yield folder

        self._session.run("writing", work, lambda done: self._session.prompted.emit(f"Written: {done}"))

    def csv(self) -> None:
        """One CSV file a table, into a folder."""
        name = QFileDialog.getExistingDirectory(self._parent, "Folder for the tables")
        if name:
            self.write_csv(Path(name))

    def write_book(self, path: Path) -> None:
        """Write the book to a path."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.book import write_book

            write_book(answers, self._session.gallery.picture, part)

        self._write(path, write)

    def write_stage(self, path: Path) -> None:
        """Write the stage in front to a path."""
        stage = self._session.stage

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.book import write_stage

            write_stage(answers, self._session.gallery.picture, part, stage)

        self._write(path, write)

    def write_json(self, path: Path) -> None:
        """Write JSON to a path."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.tables import write_json

            write_json(answers, part)

        self._write(path, write)

    def write_csv(self, folder: Path) -> None:
        """Write CSV files to a folder."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.tables import write_csv

            write_csv(answers, part)

        self._write(folder, write, whole=False)

    def write_calendar(self, path: Path) -> None:
        """Write the calendar to a path."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.calendar import write_calendar

            assert answers.sequence is not None
            write_calendar(answers.sequence, answers.build.info.name, part)

        self._write(path, write)

    def write_evening(self, path: Path) -> None:
        """Write tonight's sheet to a path."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.exchange.evening_sheet import write_evening

            info = answers.build.info
            write_evening(answers.tonight, info.name, info.unit, part)

        self._write(path, write)

    def write_palette(self, path: Path) -> None:
        """Write the reel's colours to a path, in the format of its suffix."""

        def write(answers: Answers, part: Path) -> None:
            from chalkreel.answers.palette import palette
            from chalkreel.exchange.palette import write_palette

            write_palette(f"{answers.build.info.name}, colours", palette(answers.colours), part, path.suffix)

        self._write(path, write)

    def write_sheet(self, sheet: Sheet, path: Path) -> None:
        """Write a drawing to a path, in the format of its suffix."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.exchange.sheets import write_dxf, write_pdf, write_png, write_svg

            writers: dict[str, Callable[[Sheet, Path], object]] = {
                ".pdf": write_pdf,
                ".svg": write_svg,
                ".dxf": write_dxf,
                ".png": write_png,
            }
            write = writers.get(path.suffix.lower())
            if write is None:
                raise RefusedError("Name the file .pdf, .svg, .dxf or, of a picture, .png.")
            try:
                written_over(path, lambda part: write(sheet, part))
            except OSError as error:
                raise RefusedError(f"“{path}” cannot be written. Choose a folder that is yours.") from error
            yield path

        self._session.run("writing", work, lambda done: self._session.prompted.emit(f"Written: {done}"))

    def _ask(self, title: str, suggestion: str, kinds: str, write: Callable[[Path], None]) -> None:
        suggested = self._session.store.path.with_suffix("").name + "-" + suggestion
        name, _ = QFileDialog.getSaveFileName(self._parent, title, suggested, kinds)
        if name:
            write(Path(name))

    def _write(self, path: Path, write: Callable[[Answers, Path], None], whole: bool = True) -> None:
        """Write in the worker; a `whole` file takes its name only when it is complete."""
        answers = self._session.answers
        if answers is None or self._session.stale:
            self._session.refused.emit(
                "The answers are still being computed. Try again when “saved as you work” shows."
            )
            return

        def work(_: Progress) -> Iterator[object]:
            try:
                if whole:
                    written_over(path, lambda part: write(answers, part))
                else:
                    write(answers, path)
            except OSError as error:
                raise RefusedError(f"“{path}” cannot be written. Choose a folder that is yours.") from error
            yield path

        self._session.run("writing", work, lambda done: self._session.prompted.emit(f"Written: {done}"))
