"""The demo's squared-up still: the port side as the program itself lays it flat, and what was traced on it.

Run after `tools.tender.marks`: `python -m tools.tender.squared` (needs the tools environment and the program).
"""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from tools.tender import model as m

from chalkreel.answers.reel import ReelSolver
from chalkreel.answers.sizes import sizes
from chalkreel.demo.ninepin import create_demo
from chalkreel.document.gallery import Gallery
from chalkreel.edits.squaring import square_up

DATA = Path(__file__).parents[2] / "src/chalkreel/demo/data"
CLICK_SIGMA_PX = 0.6
# Marks on the paint, both ends in x and z of the miniature.
SPOTS = {
    "chip at the joint": ((24.0, 112.0), (30.0, 109.0)),
    "streak below the band": ((-120.5, 95.0), (-121.5, 82.0)),
    "scuffed stripe": ((-330.0, 104.0), (-322.0, 118.0)),
}


def main() -> None:
    """Write the picture and what lies on it."""
    (DATA / "squared.json").write_text("null\n")
    with tempfile.TemporaryDirectory() as folder:
        store = create_demo(Path(folder) / "demo.chalkreel")
        reel = ReelSolver().solve(store.build, lambda _: True)
        found = sizes(store.build, reel)
        made = square_up(store.build, found, Gallery(store.blob), "flat-side", False)
        store.close()
    picture = cv2.imdecode(np.frombuffer(made.png, np.uint8), cv2.IMREAD_COLOR)
    cv2.imwrite(str(DATA / "still-10-side-squared.jpg"), picture, [cv2.IMWRITE_JPEG_QUALITY, 88])
    squared = made.still.squared
    assert squared is not None and squared.corner_mm is not None
    assert reel.solution is not None
    # Where the solved model stands along the bench is nobody's business; here it must meet the true one.
    names = [f"fin {where}, port" for where in ("root, aft", "top, aft", "top, forward", "root, forward")]
    solved = np.mean([reel.solution.point(name) for name in names], axis=0)
    shift = solved - np.mean([(x, m.HALF_WIDTH, z) for x, z in m.FIN], axis=0)
    rng = np.random.default_rng(48)

    def click(x: float, z: float) -> list[float]:
        away = np.array([x, m.HALF_WIDTH, z]) + shift - np.array(squared.corner_mm)
        exact = np.array([away @ np.array(squared.right), away @ np.array(squared.down)]) / squared.mm_per_px
        return [round(float(v), 2) for v in exact + rng.normal(0, CLICK_SIGMA_PX, 2)]

    known: dict[str, Any] = {
        "width_px": made.still.width_px,
        "height_px": made.still.height_px,
        "mm_per_px": squared.mm_per_px,
        "corner_mm": squared.corner_mm,
        "right": squared.right,
        "down": squared.down,
        "source_ids": squared.source_ids,
        "anchors": [(key, round(x, 2), round(y, 2)) for key, x, y in squared.anchors],
        "fin": [click(x, z) for x, z in m.FIN],
        "spots": {name: [click(*a), click(*b)] for name, (a, b) in SPOTS.items()},
    }
    (DATA / "squared.json").write_text(json.dumps(known, indent=1) + "\n")


if __name__ == "__main__":
    main()
