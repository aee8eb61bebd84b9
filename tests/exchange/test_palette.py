"""The reel's colours as files that others read, and as a page of swatches."""

from __future__ import annotations

import csv
import json
from pathlib import Path
from typing import Any

import pytest
from pypdf import PdfReader

from chalkreel.answers.colours import Colours, SurfaceRow
from chalkreel.answers.evidence import SurfaceEvidence
from chalkreel.answers.mixes import Mixes, Target, TargetRow
from chalkreel.answers.palette import PaletteColour, palette
from chalkreel.core.colour.cielab import in_srgb
from chalkreel.core.colour.kinds import MODES
from chalkreel.core.colour.learning import Lessons
from chalkreel.core.errors import RefusedError
from chalkreel.exchange.palette import write_palette
from chalkreel.exchange.shelf import parse_gpl


def colour(name: str, **more: Any) -> PaletteColour:
    told = {"lab": (53.24, 80.09, 67.2), "rgb": (255, 0, 0), "shown": True, "within": 2.34, "source": "3 stills"}
    return PaletteColour(name=name, target=(50.0, 70.0, 60.0), recipe="3 red, 1 white", **{**told, **more})


def test_what_a_screen_shows_is_told_from_what_it_cannot() -> None:
    # The primaries of sRGB (IEC 61966-2-1) lie on the rim, a little more of any of them outside.
    for lab in ((53.24, 80.09, 67.20), (87.73, -86.18, 83.18), (32.30, 79.19, -107.86), (100.0, 0.0, 0.0)):
        assert in_srgb(lab)
        assert lab[0] == 100.0 or not in_srgb((lab[0], 1.05 * lab[1], 1.05 * lab[2]))


def test_every_format_holds_every_colour(tmp_path: Path) -> None:
    odd = colour("=red", shown=False, within=None, source="given, not measured")
    colours = (*(colour(f"panel {n}") for n in range(13)), odd)
    files = {suffix: tmp_path / f"c{suffix}" for suffix in (".gpl", ".csv", ".json", ".pdf")}
    for suffix, path in files.items():
        write_palette("Own", colours, path, suffix.upper())
    read = parse_gpl(files[".gpl"].read_bytes())
    assert [name for name, _ in read] == [c.name for c in colours]
    assert read[0][1] == pytest.approx((53.24, 80.09, 67.2), abs=0.1)
    with files[".csv"].open(newline="", encoding="utf-8") as stream:
        rows = list(csv.DictReader(stream))
    assert (
        rows[0]["within_delta_e_95"] == "2.3" and rows[0]["sRGB"] == "#ff0000" and rows[0]["drops"] == "3 red, 1 white"
    )
    # A name that a spreadsheet would take for a formula is kept as words, and nothing claims a doubt that is not known.
    assert rows[13]["surface"] == "'=red" and rows[13]["within_delta_e_95"] == "" and rows[13]["in_sRGB"] == "0"
    found = json.loads(files[".json"].read_text())
    assert [c["surface"] for c in found["colours"]] == [c.name for c in colours] and found["white"] == "D65/2°"
    text = " ".join(page.extract_text() for page in PdfReader(files[".pdf"]).pages)
    assert all(c.name in text for c in colours) and "=red *" in text and "panel 3 *" not in text
    assert "within ΔE 2.3 (3 stills)" in text and "drops: 3 red, 1 white" in text
    with pytest.raises(RefusedError, match=r"\.pdf, \.gpl"):
        write_palette("Own", colours, tmp_path / "c.bmp", ".bmp")


def test_what_a_picture_looked_like_is_no_colour_of_the_object() -> None:
    given, looked = (40.0, 10.0, 10.0), (70.0, 1.0, 2.0)

    def row(known: bool, **labs: tuple[float, float, float]) -> Colours:
        targets = tuple(TargetRow(mode, labs.get(mode), None) for mode in MODES)
        mixes = Mixes(targets, Target("picture", looked, looked, 0.0))
        return Colours((SurfaceRow("s", "hull", SurfaceEvidence(), mixes, known),), (), (), Lessons((), {}, ()))

    (found,) = palette(row(True, object=given, picture=looked))
    assert (found.lab, found.target, found.source) == (given, looked, "given, not measured")
    with pytest.raises(RefusedError, match="No surface has a colour"):
        palette(row(False, picture=looked))


def test_the_reel_gives_its_colours_with_how_surely_each_is_known(demo_answers: Any) -> None:
    found = {one.name: one for one in palette(demo_answers.colours)}
    rows = {row.name: row for row in demo_answers.colours.surfaces}
    assert found.keys() == {
        name for name, row in rows.items() if row.colour is not None or row.mixes.target is not None
    }
    hull = found["Hull grey"]
    assert hull.within == rows["Hull grey"].colour.delta_e > 1 and hull.source.endswith("stills")
    assert "titanium white" in hull.recipe
    with pytest.raises(RefusedError, match="No surface has a colour"):
        palette(None)
