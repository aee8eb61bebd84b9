"""Choosing pages of a PDF as stills."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage

from chalkreel.app.gather.picker import Picker
from chalkreel.app.jobs import Progress
from chalkreel.app.session import Session, read_file, told_of

if TYPE_CHECKING:
    from chalkreel.core.media.pages import Pages
    from chalkreel.core.media.picture import Picture

PREVIEW = QSize(560, 320)


class PagePicker(Picker):
    """One open PDF."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "page", (-1, 1))
        self._pages: Pages | None = None
        self._name = ""
        self._shown: tuple[Picture, float, int] | None = None

    def open_pdf(self, path: Path) -> None:
        """Open a PDF in the worker; the page of one that has no other goes on the reel at once."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.pages import Pages

            with told_of(path.name):
                yield path.name, Pages(read_file(path))

        self._session.run(f"reading {path.name}", work, self._take_pages)

    def read(self) -> None:
        pages, number = self._pages, self.slider.value()
        if pages is None:
            return

        def work(_: Progress) -> Iterator[object]:
            # While the slider moves on, pages that were passed by are not painted.
            if number == self.slider.value():
                picture, dots = pages.page(number)
                yield picture, dots, number

        self._session.run(f"painting page {number}", work, self._take_page)

    def keep_shown(self) -> None:
        session, shown, name = self._session, self._shown, self._name
        if shown is None:
            return

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.edits.grabbing import page_still, png_of

            picture, dots, number = shown
            yield page_still(session.build, name, number, picture, dots, session.store.keep(png_of(picture.pixels)))

        session.run("keeping the page", work, self.put_on_reel)

    def close_file(self) -> None:
        if self._pages is not None:
            self._pages.close()
        self._pages = self._shown = None
        self.open_up(False)

    def _take_pages(self, found: object) -> None:
        self.close_file()
        self._name, self._pages = cast("tuple[str, Pages]", found)
        self.open_at_first(self._pages.count)
        self.open_up(self._pages.count > 1)

    def _take_page(self, found: object) -> None:
        self._shown = picture, dots, number = cast("tuple[Picture, float, int]", found)
        if self._pages is None:
            return
        if self._pages.count == 1:
            self.keep_shown()
            return
        image = QImage(
            picture.pixels.data, picture.width, picture.height, 3 * picture.width, QImage.Format.Format_RGB888
        )
        size = QSize(picture.width, picture.height).scaled(PREVIEW, Qt.AspectRatioMode.KeepAspectRatio)
        self.show_image(
            image, size,
            f"{self._name}: page {number + 1} of {self._pages.count}; {picture.width} × {picture.height} px "
            f"at {dots:.0f} dots an inch",
        )  # fmt: skip

    def put_on_reel(self, still: object) -> None:
        super().put_on_reel(still)
        if self._pages is not None and self._pages.count == 1:
            self.close_file()
