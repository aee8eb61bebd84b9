"""True size, read back from the files with other people's readers."""

from __future__ import annotations

import re
from pathlib import Path as FilePath
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pytest
from pypdf import PdfReader

from chalkreel.core.draft.sheet import Path, Ring, Sheet, Words
from chalkreel.exchange.sheets import write_dxf, write_pdf, write_svg

PLATE = Sheet(
    "plate & <fin>",
    (Path(((10, 10), (130, 10), (130, 60), (10, 60)), "cut", closed=True), Path(((10, 35), (130, 35)), "score")),
    (Ring((70, 35), 12.5, "mask"),),
    (Words((12, 62), "ünï ± 0.2 mm"),),
)
LONG = Sheet("long", (Path(((0, 0), (500, 0), (500, 300), (0, 300)), "cut", closed=True),))


def test_svg_is_in_millimetres(tmp_path: FilePath) -> None:
    write_svg(PLATE, tmp_path / "p.svg")
    root = ElementTree.parse(tmp_path / "p.svg").getroot()
    box = [float(v) for v in root.attrib["viewBox"].split()]
    assert root.attrib["width"] == f"{box[2]:.3f}mm" and root.attrib["height"] == f"{box[3]:.3f}mm"
    space = root.tag[: root.tag.index("}") + 1]
    layers = {g.attrib["id"]: g for g in root.iter(f"{space}g")}
    points = np.array([p.split(",") for p in layers["cut"][0].attrib["points"].split()], float)
    assert np.ptp(points, axis=0) == pytest.approx((120, 50))
    assert float(layers["mask"][0].attrib["r"]) == 12.5
    bar = next(e for e in root.iter() if e.attrib.get("id") == "check-bar")
    ends = np.array([p.split(",") for p in bar.attrib["points"].split()], float)
    assert np.ptp(ends, axis=0) == pytest.approx((100, 0))
    assert (points.min(axis=0) >= 0).all() and (points.max(axis=0) <= box[2:]).all()
    assert any(t.text == "ünï ± 0.2 mm" for t in root.iter(f"{space}text"))


def test_dxf_is_in_millimetres_on_layers(tmp_path: FilePath) -> None:
    write_dxf(PLATE, tmp_path / "p.dxf")
    drawing = ezdxf.readfile(tmp_path / "p.dxf")  # type: ignore[attr-defined]
    assert drawing.units == ezdxf.units.MM
    assert not drawing.audit().has_errors
    outline = drawing.modelspace().query('LWPOLYLINE[layer=="cut"]').first
    assert outline is not None and outline.closed
    assert np.ptp(np.array(outline.get_points("xy")), axis=0) == pytest.approx((120, 50))
    assert drawing.modelspace().query("CIRCLE").first.dxf.radius == 12.5
    bar = drawing.modelspace().query("LINE").first
    assert (bar.dxf.end - bar.dxf.start).magnitude == pytest.approx(100)


def lines_in_mm(page: object) -> list[tuple[float, ...]]:
    """Straight strokes of a page whose content is scaled to millimetres."""
    text = page.get_contents().get_data().decode("latin-1")  # type: ignore[attr-defined]
    scale = re.search(r"(2[\d.]+) 0 0 (2[\d.]+) 0 0 cm", text)
    assert scale is not None
    assert float(scale[1]) == pytest.approx(72 / 25.4, rel=1e-4)
    number = r"(-?[\d.]+)"
    return [tuple(map(float, m)) for m in re.findall(rf"{number} {number} m {number} {number} l S", text)]


def test_pdf_pages_hold_a_bar_of_100_mm_and_lap_over(tmp_path: FilePath) -> None:
    assert write_pdf(PLATE, tmp_path / "one.pdf") == 1
    assert write_pdf(LONG, tmp_path / "many.pdf", "A4") == len(PdfReader(tmp_path / "many.pdf").pages)
    pages = PdfReader(tmp_path / "many.pdf").pages
    # Two and two of A4 on its side, less margins, foot and laps, reach 550 × 348 mm; nothing less does.
    assert len(pages) == 4
    assert len(PdfReader(tmp_path / "many.pdf").pages) > write_pdf(LONG, tmp_path / "a3.pdf", "A3")
    for page in pages:
        assert any(abs(abs(x1 - x0) - 100) < 1e-3 and y0 == y1 for x0, y0, x1, y1 in lines_in_mm(page))
        width, height = (float(v) * 25.4 / 72 for v in page.mediabox[2:])
        assert sorted((width, height)) == pytest.approx([210, 297], abs=0.5)
    assert "page 1 of" in pages[0].extract_text() and "print at 100 %" in pages[0].extract_text()


def test_every_part_of_a_large_sheet_is_on_some_page(tmp_path: FilePath) -> None:
    write_pdf(LONG, tmp_path / "many.pdf")
    shifts = []
    for page in PdfReader(tmp_path / "many.pdf").pages:
        text = page.get_contents().get_data().decode("latin-1")
        move = re.search(r"W\* n.*?1 0 0 1 (-?[\d.]+) (-?[\d.]+) cm", text, re.DOTALL)
        clip = re.search(r"(-?[\d.]+) (-?[\d.]+) (-?[\d.]+) (-?[\d.]+) re W\*", text)
        assert move is not None and clip is not None
        x, y, w, h = map(float, clip.groups())
        left, bottom = x - float(move[1]), y - float(move[2])
        shifts.append((left, bottom, left + w, bottom + h))
    for px, py in [(x, y) for x in np.linspace(0, 500, 41) for y in np.linspace(0, 300, 31)]:
        assert any(a - 1e-6 <= px <= c + 1e-6 and b - 1e-6 <= py <= d + 1e-6 for a, b, c, d in shifts), (px, py)


def test_an_empty_sheet_is_still_a_file(tmp_path: FilePath) -> None:
    write_svg(Sheet("nothing"), tmp_path / "n.svg")
    write_dxf(Sheet("nothing"), tmp_path / "n.dxf")
    assert write_pdf(Sheet("nothing"), tmp_path / "n.pdf") == 1
