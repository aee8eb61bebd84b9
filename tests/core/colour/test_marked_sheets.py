"""Sheets printed to PDF, painted, photographed and read back; and photographs that do not do."""

from pathlib import Path

import cv2
import numpy as np
import pypdfium2
import pytest
from tools.painted_sheets import card, demo_colours, demo_stripes, stripes

from chalkreel.core.colour.cielab import XYZ_TO_RGB, encode_srgb, xyz_of_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.drawdown import fields, read_card
from chalkreel.core.colour.marked_sheet import Box
from chalkreel.core.colour.stripes import StripePlace, read_stripes
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture, linear
from chalkreel.exchange.card import write_card
from chalkreel.exchange.marked_sheet import LEFT_MM, TOP_MM
from chalkreel.exchange.stripes import StripesSheet, write_stripes

PIXELS_PER_MM = 5
NAMES = {1: "marsh yellow", 2: "brick", 3: "harbour teal", 4: "slate", 5: "night blue"}


def printed(path: Path, page: int = 0) -> np.ndarray:
    """A page as it comes out of a printer on plain paper: linear light (H, W, 3)."""
    shown = pypdfium2.PdfDocument(path)[page].render(scale=PIXELS_PER_MM * 25.4 / 72).to_numpy()[..., :3]
    return 0.05 + 0.81 * linear(shown)


def painted(page: np.ndarray, boxes: list[tuple[Box, tuple[float, float, float]]]) -> np.ndarray:
    """The page with paint on it, brushed a little over the outlines."""
    for box, lab in boxes:
        left, top = (LEFT_MM + box.x_mm) * PIXELS_PER_MM, (TOP_MM + box.y_mm) * PIXELS_PER_MM
        rows = slice(int(top) - 2, int(top + box.height_mm * PIXELS_PER_MM) + 2)
        page[rows, int(left) : int(left + box.width_mm * PIXELS_PER_MM)] = XYZ_TO_RGB @ xyz_of_lab(np.array(lab))
    return page


def photograph(page: np.ndarray, turn_deg: float, seed: int) -> Picture:
    """Held askew under a cool window from the right, a little out of focus, with noise."""
    high, wide = page.shape[:2]
    lit = page * np.linspace(0.55, 0.9, wide)[None, :, None] * np.array([0.72, 0.85, 1.0])
    turn = cv2.getRotationMatrix2D((wide / 2, high / 2), turn_deg, 0.9)
    lean = np.array([[1, 0.02, 0], [-0.01, 1, 0], [4e-5, 6e-5, 1]])
    shown = cv2.warpPerspective(lit, lean @ np.vstack([turn, [0, 0, 1]]), (wide, high), borderValue=(0.2, 0.2, 0.2))
    shown = cv2.GaussianBlur(shown, (0, 0), 1.2)
    noise = np.random.default_rng(seed).normal(0, 1.5, shown.shape)
    return Picture((255 * encode_srgb(np.asarray(shown, float)) + noise).clip(0, 255).astype(np.uint8))


@pytest.mark.parametrize("turn", [-8.0, 3.0, 182.0])
def test_a_printed_stripes_sheet_is_read_as_it_was_painted(tmp_path: Path, turn: float) -> None:
    path = tmp_path / "sheets.pdf"
    write_stripes(path, "own white", [StripesSheet(3, {1: "x"}), StripesSheet(41, NAMES)])
    boxes = [
        (part, lab)
        for row, labs in demo_stripes().items()
        for part, lab in zip(StripePlace(row).parts, labs, strict=True)
    ]
    found = read_stripes(photograph(painted(printed(path, 1), boxes), turn, 1))
    assert found.sheet == 41 and found.problems == ()
    assert [row for row, stripe in found.stripes.items() if not stripe.bare] == [0, *NAMES]
    for row, labs in demo_stripes().items():
        stripe = found.stripes[row]
        for read, true in zip((stripe.over_paper, stripe.over_black, stripe.hiding), labs, strict=True):
            assert delta_e_2000(read, np.array(true)) < 1.5, (row, read, true)


def test_a_printed_card_is_read_as_it_was_painted(tmp_path: Path) -> None:
    path = tmp_path / "card.pdf"
    write_card(path, "sea-mist green")
    true = demo_colours()
    page = painted(printed(path), [(field.box, true[field.name]) for field in fields()])
    found = read_card(photograph(page, 5.0, 2))
    assert found.problems == ()
    for name, lab in true.items():
        assert delta_e_2000(found.colours[name], np.array(lab)) < 1.5, name


def test_a_sheet_of_another_kind_or_without_its_number_is_refused() -> None:
    sheet, drawdown = Picture(stripes(1, demo_stripes())), Picture(card(demo_colours()))
    with pytest.raises(RefusedError, match="of a stripes sheet, not of a drawdown card"):
        read_card(sheet)
    with pytest.raises(RefusedError, match="of a drawdown card, not of a stripes sheet"):
        read_stripes(drawdown)
    with pytest.raises(RefusedError, match="tells the sheet"):
        read_stripes(Picture(stripes(1, demo_stripes(), hide=30)))
    with pytest.raises(RefusedError, match="3 of the stripes sheet"):
        read_stripes(Picture(stripes(1, demo_stripes(), hide=12)))
