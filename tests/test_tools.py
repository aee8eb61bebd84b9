"""The cameras of the demo's pictures: what they say of a point agrees with plain geometry."""

import json
from pathlib import Path

import numpy as np
import pytest
from tools.bench_range import CLEARS, NM, PAINTS
from tools.tender.cameras import SHOTS, project
from tools.tender.surfaces import SURFACES, WAVELENGTHS_NM

from chalkreel.answers.shelf import masstone
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.demo.evidence import clears
from chalkreel.document.paint_entities import ShelfPaint

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize("shot", SHOTS, ids=lambda s: s.name)
def test_the_target_is_in_the_middle_and_the_field_of_view_fills_the_width(shot: object) -> None:
    middle = project(shot, np.array([shot.target]))[0]  # type: ignore[arg-type,attr-defined]
    width, height, left, top = shot.whole  # type: ignore[attr-defined]
    assert (middle[0] + left, middle[1] + top) == pytest.approx((width / 2, height / 2))
    origin, target = np.array(shot.origin), np.array(shot.target)  # type: ignore[attr-defined]
    distance = np.linalg.norm(target - origin)
    forward = (target - origin) / distance
    right = np.cross(forward, shot.up)  # type: ignore[attr-defined]
    right /= np.linalg.norm(right)
    edge = target + right * distance * np.tan(np.radians(shot.fov_deg) / 2)  # type: ignore[attr-defined]
    offset = project(shot, edge[None])[0] - middle  # type: ignore[arg-type]
    shown = np.hypot(offset[0] * shot.pixel_aspect, offset[1])  # type: ignore[attr-defined]
    bent = 1 + shot.bend * np.tan(np.radians(shot.fov_deg) / 2) ** 2  # type: ignore[attr-defined]
    assert shown == pytest.approx(bent * width * shot.pixel_aspect / 2)  # type: ignore[attr-defined]


def test_starboard_is_seen_from_starboard() -> None:
    starboard = next(s for s in SHOTS if "starboard" in s.name)
    bow, stern = project(starboard, np.array([[387.5, -150.0, 96.0], [-387.5, -150.0, 96.0]]))
    assert bow[0] > stern[0]
    port = next(s for s in SHOTS if "1-port" in s.name)
    bow, stern = project(port, np.array([[387.5, 150.0, 96.0], [-387.5, 150.0, 96.0]]))
    assert bow[0] < stern[0]


def test_spectra_are_physical_and_the_truth_is_what_was_rendered() -> None:
    truth = json.loads((ROOT / "tests/data/truth.json").read_text())
    assert truth["wavelengths_nm"] == WAVELENGTHS_NM.tolist()
    for name, values in SURFACES.items():
        assert ((values > 0) & (values < 1)).all()
        assert truth["reflectance"][name] == pytest.approx(values, abs=1e-5)


def test_the_shipped_range_is_what_the_tool_writes() -> None:
    rows = (ROOT / "src/chalkreel/demo/data/bench_range.csv").read_text().splitlines()
    assert len(rows) == 1 + 2 * len(PAINTS)
    name, constant, *values = rows[1].split(",")
    assert (name, constant, len(values)) == ("titanium white", "K", len(NM))
    assert [float(v) for v in values] == pytest.approx(PAINTS["titanium white"][0], rel=1e-4)
    shown = {p.name: masstone(p) for p in clears() if isinstance(p, ShelfPaint)}
    assert shown.keys() == CLEARS.keys()
    # Nothing over white is brighter than white in any band, as a typed colour may be.
    assert all(delta_e_2000(np.array(shown[name]), np.array(look)) < 1.5 for name, look in CLEARS.items())
