"""Makes photographs of painted drawdown cards: the one the demo ships, and those the tests read.

Run: `python -m tools.drawdown`.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image

from chalkreel.core.colour.cielab import XYZ_TO_RGB, encode_srgb, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.drawdown import (
    FIELD_MM,
    FIELDS,
    HEIGHT_MM,
    MARK_IDS,
    MARK_MM,
    PAPER,
    TINTS,
    WIDTH_MM,
    fields,
    mark_cells,
    mark_corners,
)
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import film_over, mix_reflectance, reflectance_of
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, xyz_of_reflectance
from chalkreel.core.colour.surface_terms import SURFACE, seen

PIXELS_PER_MM = 6
CORNERS = ((120, 90), (1240, 60), (1290, 860), (70, 900))
SIZE = (1400, 960)
COAT = 1.4


def photograph(colours: dict[str, Lab], hide: int | None = None, exposure: float = 0.8) -> npt.NDArray[np.uint8]:
    """The printed card with painted fields, lit unevenly and warmly, seen askew, as stored pixels (H, W, 3)."""
    sheet = np.full((int(HEIGHT_MM * PIXELS_PER_MM), int(WIDTH_MM * PIXELS_PER_MM), 3), PAPER)
    for mark in MARK_IDS:
        x, y = mark_corners()[mark]
        cells = np.kron(mark_cells(mark), np.ones((int(MARK_MM * PIXELS_PER_MM / 6),) * 2)) > 0
        if mark != hide:
            top, left = int(y * PIXELS_PER_MM), int(x * PIXELS_PER_MM)
            sheet[top : top + cells.shape[0], left : left + cells.shape[1]][cells] = 0.04
    for field in fields():
        left, top = int(field.x_mm * PIXELS_PER_MM), int(field.y_mm * PIXELS_PER_MM)
        right, low = left + int(FIELD_MM[0] * PIXELS_PER_MM), top + int(FIELD_MM[1] * PIXELS_PER_MM)
        sheet[top:low, left:right] = XYZ_TO_RGB @ xyz_of_lab(np.array(colours[field.name], float))
    light = np.linspace(1.0, 0.65, sheet.shape[1])[None, :, None] * np.array([1.0, 0.82, 0.6]) * exposure
    high, wide = sheet.shape[:2]
    flat = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32)
    askew = cv2.getPerspectiveTransform(flat, np.array(CORNERS, np.float32))
    shown = cv2.warpPerspective(sheet * light, askew, SIZE, borderValue=(0.05, 0.05, 0.05), flags=cv2.INTER_AREA)
    noise = np.random.default_rng(3).normal(0, 1.5, shown.shape)
    return np.asarray((255 * encode_srgb(np.asarray(shown, np.float64)) + noise).clip(0, 255).astype(np.uint8))


def demo_colours() -> dict[str, Lab]:
    """The fields of a made-up sea-mist green, as its hand-drawn K and S have them."""
    white_k, white_s = np.full(36, 0.004), np.ones(36)
    k = 0.10 + 0.25 / (1 + np.exp((WAVELENGTHS_NM - 480) / 18)) + 0.2 / (1 + np.exp(-(WAVELENGTHS_NM - 600) / 22))
    s = np.full(36, 0.5)

    def tint(share: float) -> npt.NDArray[np.float64]:
        return mix_reflectance(np.array([share, 1 - share]), np.stack([k, white_k]), np.stack([s, white_s]))

    inner = [reflectance_of(k / s), film_over(np.full(36, 0.05), k, s, COAT), *(tint(share) for share in TINTS)]
    labs = [lab_of_xyz(xyz_of_reflectance(seen(values, SURFACE["matte"]))) for values in inner]
    return {name: (float(v[0]), float(v[1]), float(v[2])) for name, v in zip(FIELDS, labs, strict=True)}


def main() -> None:
    """Write the photograph that the demo ships."""
    where = Path(__file__).parents[1] / "src/chalkreel/demo/data/drawdown-card.jpg"
    Image.fromarray(photograph(demo_colours())).save(where, quality=90)


if __name__ == "__main__":
    main()
