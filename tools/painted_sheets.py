"""Makes photographs of painted drawdown cards and stripes sheets: those the demo ships, and those the tests read.

Run: `python -m tools.painted_sheets`.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image

from chalkreel.core.colour.cielab import XYZ_TO_RGB, encode_srgb, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.drawdown import FIELDS, TINTS, fields
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import PRINTED_BLACK, film_over, mix_reflectance, reflectance_of
from chalkreel.core.colour.marked_sheet import (
    CARD,
    HEIGHT_MM,
    MARK_MM,
    PAPER,
    STRIPES,
    WIDTH_MM,
    Box,
    SheetKind,
    mark_cells,
)
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, xyz_of_reflectance
from chalkreel.core.colour.stripes import PAGE_MARK, PAINTS, StripePlace, page_mark
from chalkreel.core.colour.surface_terms import SURFACE, seen

Spectrum = npt.NDArray[np.float64]
PIXELS_PER_MM = 6
CORNERS = ((120, 90), (1240, 60), (1290, 860), (70, 900))
SIZE = (1400, 960)
COAT = 1.4
# Films of the demo's stripes: the hand's own thickness, and the stripes' about it.
STRIPE_COAT, STRIPE_SPREAD = 0.5, 0.1
INK = 0.04


def photograph(
    kind: SheetKind, painted: Iterable[tuple[Box, Lab]], hide: int | None = None, exposure: float = 0.8,
    sheet: int = 0,
) -> npt.NDArray[np.uint8]:  # fmt: skip
    """A printed sheet with painted boxes, lit unevenly and warmly, seen askew, as stored pixels (H, W, 3)."""
    flat = np.full((int(HEIGHT_MM * PIXELS_PER_MM), int(WIDTH_MM * PIXELS_PER_MM), 3), PAPER)
    marks = {**kind.mark_corners(), **({page_mark(sheet): (PAGE_MARK.x_mm, PAGE_MARK.y_mm)} if sheet else {})}
    for mark, (x, y) in marks.items():
        cells = np.kron(mark_cells(mark), np.ones((int(MARK_MM * PIXELS_PER_MM / 6),) * 2)) > 0
        if mark != hide:
            top, left = int(y * PIXELS_PER_MM), int(x * PIXELS_PER_MM)
            flat[top : top + cells.shape[0], left : left + cells.shape[1]][cells] = INK
    for row in range(PAINTS + 1) if kind == STRIPES else ():
        flat[_pixels(StripePlace(row).bar)] = PRINTED_BLACK
    for box, lab in painted:
        flat[_pixels(box)] = XYZ_TO_RGB @ xyz_of_lab(np.array(lab, float))
    light = np.linspace(1.0, 0.65, flat.shape[1])[None, :, None] * np.array([1.0, 0.82, 0.6]) * exposure
    high, wide = flat.shape[:2]
    corners = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    askew = cv2.getPerspectiveTransform(corners, np.array(CORNERS, np.float32))
    shown = cv2.warpPerspective(flat * light, askew, SIZE, borderValue=(0.05, 0.05, 0.05), flags=cv2.INTER_AREA)
    noise = np.random.default_rng(3).normal(0, 1.5, shown.shape)
    return np.asarray((255 * encode_srgb(np.asarray(shown, np.float64)) + noise).clip(0, 255).astype(np.uint8))


def card(colours: Mapping[str, Lab], hide: int | None = None, exposure: float = 0.8) -> npt.NDArray[np.uint8]:
    """A photographed drawdown card with these colours of its fields."""
    return photograph(CARD, [(field.box, colours[field.name]) for field in fields()], hide, exposure)


def stripes(sheet: int, colours: Mapping[int, tuple[Lab, Lab, Lab]], hide: int | None = None) -> npt.NDArray[np.uint8]:
    """A photographed stripes sheet: each row's colours over paper, over the bar and at its end; others are bare."""
    painted = [
        (part, lab) for row, labs in colours.items() for part, lab in zip(StripePlace(row).parts, labs, strict=True)
    ]
    return photograph(STRIPES, painted, hide, sheet=sheet)


def demo_colours() -> dict[str, Lab]:
    """The fields of a made-up sea-mist green, as its hand-drawn K and S have them."""
    white_k, white_s = np.full(36, 0.004), np.ones(36)
    k = 0.10 + 0.25 / (1 + np.exp((WAVELENGTHS_NM - 480) / 18)) + 0.2 / (1 + np.exp(-(WAVELENGTHS_NM - 600) / 22))
    s = np.full(36, 0.5)

    def tint(share: float) -> Spectrum:
        return mix_reflectance(np.array([share, 1 - share]), np.stack([k, white_k]), np.stack([s, white_s]))

    inner = [reflectance_of(k / s), film_over(np.full(36, 0.05), k, s, COAT), *(tint(share) for share in TINTS)]
    return dict(zip(FIELDS, map(_lab, inner), strict=True))


def demo_stripes() -> dict[int, tuple[Lab, Lab, Lab]]:
    """The white and made-up paints of the demo's stripes sheet, by row, as hand-drawn K and S have them."""
    edge = [1 / (1 + np.exp((WAVELENGTHS_NM - middle) / 16)) for middle in (500, 560, 590, 640)]
    shapes: dict[int, tuple[Spectrum, float]] = {
        0: (np.full(36, 0.004), 1.0), 1: (0.05 + 1.1 * edge[0], 0.35), 2: (0.12 + 1.6 * edge[2], 0.3),
        3: (0.3 + 0.8 * (1 - edge[1]), 0.22), 4: (0.35 + 0.1 * edge[3], 0.4), 5: (0.1 + 1.2 * (1 - edge[0]), 0.2),
    }  # fmt: skip
    rng = np.random.default_rng(11)
    found = {}
    for row, (k, level) in shapes.items():
        s, coat = np.full(36, level), STRIPE_COAT * float(np.exp(rng.normal(0, STRIPE_SPREAD)))
        over_paper, over_black = (_lab(film_over(np.full(36, ground), k, s, coat)) for ground in (PAPER, PRINTED_BLACK))
        found[row] = (over_paper, over_black, _lab(reflectance_of(k / s)))
    return found


def _lab(inner: Spectrum) -> Lab:
    light, a, b = (float(v) for v in lab_of_xyz(xyz_of_reflectance(seen(inner, SURFACE["matte"]))))
    return light, a, b


def _pixels(box: Box) -> tuple[slice, slice]:
    left, top = int(box.x_mm * PIXELS_PER_MM), int(box.y_mm * PIXELS_PER_MM)
    return (slice(top, top + int(box.height_mm * PIXELS_PER_MM)),
            slice(left, left + int(box.width_mm * PIXELS_PER_MM)))  # fmt: skip


def main() -> None:
    """Write the photographs that the demo ships."""
    where = Path(__file__).parents[1] / "src/chalkreel/demo/data"
    Image.fromarray(card(demo_colours())).save(where / "drawdown-card.jpg", quality=90)
    Image.fromarray(stripes(1, demo_stripes())).save(where / "stripes-sheet.jpg", quality=90)


if __name__ == "__main__":
    main()
