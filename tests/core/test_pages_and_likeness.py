"""Pages of PDFs as pictures; pictures that are nearly the same."""

from __future__ import annotations

import io

import numpy as np
import pytest
from reportlab.pdfgen import canvas

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.likeness import alike, signature
from chalkreel.core.media.pages import Pages
from chalkreel.core.media.picture import Picture


def drawn(pages: int = 2, password: str = "") -> bytes:
    out = io.BytesIO()
    sheet = canvas.Canvas(out, pagesize=(720, 360), encrypt=password or None)
    for number in range(pages):
        sheet.setFillColorRGB(1, 0, 0)
        # An inch from the left and the bottom, so many inches long.
        sheet.rect(72, 72, 72 * (number + 1), 36, fill=1, stroke=0)
        sheet.showPage()
    sheet.save()
    return out.getvalue()


def test_a_page_has_the_size_of_its_paper_at_300_dots_an_inch():
    pages = Pages(drawn())
    picture, dots = pages.page(1)
    assert (pages.count, picture.width, picture.height, dots) == (2, 3000, 1500, 300)
    red = np.flatnonzero(picture.pixels[1100, :, 1] < 128)
    assert (red[0], red[-1] + 1) == (300, 900)
    assert picture.pixels[1100, 500].tolist() == [255, 0, 0] and picture.pixels[5, 5].tolist() == [255] * 3


def test_a_huge_sheet_gets_fewer_dots_and_says_how_many():
    out = io.BytesIO()
    sheet = canvas.Canvas(out, pagesize=(72 * 100, 72 * 50))
    sheet.showPage()
    sheet.save()
    picture, dots = Pages(out.getvalue()).page(0)
    assert picture.width * picture.height < 41_000_000 and picture.width == pytest.approx(100 * dots, abs=1)


@pytest.mark.parametrize(
    ("data", "says"),
    [(b"", "damaged"), (b"%PDF-1.7 and nothing", "damaged"), (drawn()[:500], "damaged"),
     (drawn(password="bench"), "password")],
)  # fmt: skip
def test_what_is_no_pdf_or_locked_gets_a_sentence(data, says):
    with pytest.raises(RefusedError, match=says):
        Pages(data)


def scenery(seed: int, height: int = 300, width: int = 400) -> np.ndarray:
    rng = np.random.default_rng(seed)
    coarse = rng.uniform(0, 255, (12, 16, 3))
    return np.kron(coarse, np.ones((height // 12, width // 16, 1)))


def test_frames_of_a_still_shot_and_copies_are_nearly_the_same_and_a_moved_camera_is_not():
    rng = np.random.default_rng(3)
    first = scenery(1)
    noisy = first + rng.normal(0, 12, first.shape)
    blank = np.full((90, 90, 3), 128.0)
    darker = 255 * (first / 255) ** 1.2 * 0.8
    pictures = [first, scenery(2), noisy, darker, np.roll(first, 20, axis=1), blank, first[::2, ::2], blank]
    signatures = np.stack([signature(Picture(p.clip(0, 255).astype(np.uint8))) for p in pictures])
    assert alike(signatures) == [(0, 2, 3, 6)]
    assert alike(signatures[:1]) == []
