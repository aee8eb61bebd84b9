"""What somebody clicked on the demo's stills, and the truth that only tests read.

Every click is the true place of a visible point, projected by the known camera, with a hand's error
added. Run: `python -m tools.tender.marks` (needs the tools environment).
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
from tools.tender import model as m
from tools.tender.cameras import SHOTS, project
from tools.tender.surfaces import SURFACES, WAVELENGTHS_NM

ROOT = Path(__file__).parents[2]
CLICK_SIGMA_PX = 0.6
Point = tuple[float, float, float]

SIDE = m.HALF_WIDTH
X0, X1, PLATE_Y = m.PLATE
# The rounded bow tip that one sees lies a little inside the drawn corner.
BOW_TIP: Point = (386.6, 147.5, 96.0)
STERN: Point = (-387.5, 147.0, 90.0)
HATCH_Z = m.ROOF_Z + 1.6
HALF_HATCH = m.HATCH_SIDE / 2

RULERS: dict[str, dict[str, tuple[Point, Point]]] = {
    "still-1": {
        "set plan": (BOW_TIP, STERN),
        "road wheel": (
            (m.WHEEL_AT[0] - m.WHEEL_D / 2, 154.5, m.WHEEL_AT[1]),
            (m.WHEEL_AT[0] + m.WHEEL_D / 2, 154.5, m.WHEEL_AT[1]),
        ),
    },
}
PLANES: dict[str, dict[str, tuple[Point, Point, Point, Point]]] = {
    "still-2": {"port side": ((160, SIDE, 147), (-260, SIDE, 147), (-260, SIDE, 98), (160, SIDE, 98))},
    "still-3": {
        "aft deck plate": ((X0, PLATE_Y, 150), (X1, PLATE_Y, 150), (X1, -PLATE_Y, 150), (X0, -PLATE_Y, 150)),
        "wheelhouse roof": (
            (m.HATCH_X - HALF_HATCH, HALF_HATCH, HATCH_Z),
            (m.HATCH_X + HALF_HATCH, HALF_HATCH, HATCH_Z),
            (m.HATCH_X + HALF_HATCH, -HALF_HATCH, HATCH_Z),
            (m.HATCH_X - HALF_HATCH, -HALF_HATCH, HATCH_Z),
        ),
    },
}
VX0, VX1, VZ0, VZ1 = m.VENT
DIMENSIONS: dict[str, tuple[Point, Point]] = {
    "Length overall": (BOW_TIP, STERN),
    "Side joints, first to last": ((160, SIDE, 80), (-260, SIDE, 80)),
    "Hazard band height": ((-60, SIDE, 98), (-60, SIDE, 130)),
    "Fin height, port": ((-356, SIDE, 150), (-356, SIDE, 238.5)),
    "Fin root length": ((-384, SIDE, 150), (-290, SIDE, 150)),
    "Louvre width": ((VX0, 152.5, 76), (VX1, 152.5, 76)),
    "Louvre height": ((-60, 152.5, VZ0), (-60, 152.5, VZ1)),
    "Fan flange diameter": ((m.FAN_X - m.FLANGE_D / 2, m.FAN_Y, 152), (m.FAN_X + m.FLANGE_D / 2, m.FAN_Y, 152)),
    "Foredeck panel width": ((225, 112, 150), (225, -112, 150)),
    "Roof width": ((60, 90, 232), (60, -90, 232)),
    "Roof length": ((31, 40, 232), (141.5, 40, 232)),
}
READINGS: tuple[tuple[str, str, str], ...] = (
    *((name, "still-1", "") for name in (
        "Length overall", "Side joints, first to last", "Hazard band height", "Fin height, port", "Fin root length",
        "Louvre width", "Louvre height")),
    ("Hazard band height", "still-2", "port side"),
    ("Louvre width", "still-2", "port side"),
    ("Fin root length", "still-2", "port side"),
    ("Fan flange diameter", "still-3", "aft deck plate"),
    ("Foredeck panel width", "still-3", "aft deck plate"),
    ("Roof width", "still-3", "wheelhouse roof"),
    ("Roof length", "still-3", "wheelhouse roof"),
)  # fmt: skip
# Centre on the model and size in pixels of colour patches.
PATCHES: tuple[tuple[str, str, Point, tuple[int, int]], ...] = (
    ("neutral", "still-1", (150, 697, 32), (52, 34)),
    ("hull", "still-1", (95, SIDE, 80), (110, 24)),
    ("band_series", "still-1", (90, SIDE, 114), (120, 26)),
    ("skirt", "still-1", (106, 160, 38), (24, 12)),
    ("neutral", "still-2", (150, 330, 40), (90, 70)),
    ("hull", "still-2", (95, SIDE, 80), (60, 20)),
    ("band_series", "still-2", (90, SIDE, 114), (60, 14)),
    ("skirt", "still-2", (106, 160, 38), (14, 12)),
    ("deck", "still-2", (-105, 100, 150), (40, 10)),
    ("neutral", "still-3", (300, 245, 2), (80, 52)),
    ("deck", "still-3", (-322, 0, 150), (50, 150)),
    ("hull", "still-3", (318, 0, 124), (70, 160)),
    ("hull", "still-4", (95, -SIDE, 80), (40, 12)),
    ("hull", "still-6", (-387.5, 0, 100), (90, 30)),
)  # fmt: skip


def main() -> None:
    """Write the demo's clicks and the tests' truth."""
    rng = np.random.default_rng(1981)
    shots = {shot.name[:7]: shot for shot in SHOTS if shot.name.startswith("still")}

    def click(still: str, point: Point) -> list[float]:
        exact = project(shots[still], np.array([point]))[0]
        return [round(float(v), 2) for v in exact + rng.normal(0, CLICK_SIGMA_PX, 2)]

    clicks: dict[str, Any] = {
        "click_sigma_px": CLICK_SIGMA_PX,
        "rulers": [{"still": s, "name": n, "marks": [click(s, p) for p in ends]}
                   for s, named in RULERS.items() for n, ends in named.items()],
        "planes": [{"still": s, "name": n, "corners": [click(s, p) for p in corners]}
                   for s, named in PLANES.items() for n, corners in named.items()],
        "readings": [{"dimension": d, "still": s, "plane": plane, "marks": [click(s, p) for p in DIMENSIONS[d]]}
                     for d, s, plane in READINGS],
        "patches": [{"surface": name, "still": s, "centre": click(s, centre), "size": size}
                    for name, s, centre, size in PATCHES],
    }  # fmt: skip
    truth = {
        "miniature_mm": {n: round(float(np.linalg.norm(np.subtract(a, b))), 3) for n, (a, b) in DIMENSIONS.items()},
        "wavelengths_nm": WAVELENGTHS_NM.tolist(),
        "reflectance": {name: np.round(values, 5).tolist() for name, values in SURFACES.items()},
    }
    (ROOT / "src/chalkreel/demo/data/clicks.json").write_text(json.dumps(clicks, indent=1) + "\n")
    (ROOT / "tests/data/truth.json").write_text(json.dumps(truth) + "\n")


if __name__ == "__main__":
    main()
