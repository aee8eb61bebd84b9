"""Pages of a PDF as pictures: drawings and plans, with the size they have on paper."""

from __future__ import annotations

import threading

import numpy as np
import pypdfium2

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture

DOTS_PER_INCH = 300
POINTS_PER_INCH = 72
MOST_BYTES = 400 * 1024 * 1024
# A sheet of 2.4 × 1.2 m has this many at 300 dots an inch; larger ones get fewer dots.
MOST_PIXELS = 40_000_000
MOST_PAGES = 2_000
# The reader keeps global state.
_LOCK = threading.Lock()


class Pages:
    """An open PDF; pages are painted by number, from 0.

    Raises
    ------
    RefusedError
        No PDF, damaged, locked by a password, or too large.
    """

    def __init__(self, data: bytes) -> None:
        if len(data) > MOST_BYTES:
            raise RefusedError("This PDF is larger than 400 MB. Save the pages you need on their own.")
        try:
            with _LOCK:
                self._document = pypdfium2.PdfDocument(data)
                self.count = min(len(self._document), MOST_PAGES)
        except pypdfium2.PdfiumError as error:
            locked = "assword" in str(error)
            raise RefusedError(
                "This PDF is locked with a password. Save a copy without one and add that."
                if locked
                else "This PDF is damaged, or none at all. Copy it again from where it came from."
            ) from error
        if not self.count:
            raise RefusedError("This PDF has no page.")

    def close(self) -> None:
        """Let the file go."""
        with _LOCK:
            self._document.close()

    def page(self, number: int) -> tuple[Picture, float]:
        """A page on white paper, and its dots to an inch: 300, or fewer on a huge sheet.

        Raises
        ------
        RefusedError
            The page cannot be painted, or has no size.
        """
        try:
            with _LOCK:
                page = self._document[number]
                width, height = (side / POINTS_PER_INCH for side in page.get_size())
                if min(width, height) <= 0:
                    raise RefusedError(f"Page {number + 1} of this PDF has no size.")
                dots = min(DOTS_PER_INCH, float(np.sqrt(MOST_PIXELS / (width * height))))
                bitmap = page.render(scale=dots / POINTS_PER_INCH, rev_byteorder=True, no_smoothpath=False)
                pixels = np.ascontiguousarray(bitmap.to_numpy()[:, :, :3])
                page.close()
        except pypdfium2.PdfiumError as error:
            raise RefusedError(f"Page {number + 1} of this PDF is damaged.") from error
        pixels.flags.writeable = False
        return Picture(pixels), dots
