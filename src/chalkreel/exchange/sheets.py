"""Sheets at true size: SVG, DXF, and PDF over as many pages as it takes, with a bar to check the printer by."""

from __future__ import annotations

import base64
import io
import math
from collections.abc import Iterator
from pathlib import Path as FilePath
from typing import Final
from xml.etree import ElementTree

from reportlab.lib.pagesizes import A3, A4
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from chalkreel.core.draft.sheet import CHECK_BARS, LAYERS, LineLayer, Sheet
from chalkreel.core.errors import RefusedError
from chalkreel.exchange.fonts import register_fonts
from chalkreel.exchange.plain_text import printable

PAPERS: Final[dict[str, tuple[float, float]]] = {"A4": A4, "A3": A3}
POINTS_PER_MM: Final = 72.0 / 25.4
MARGIN_MM: Final = 8.0
OVERLAP_MM: Final = 12.0
FOOT_MM: Final = 14.0
STROKE_MM: Final = 0.25
# Colours for screens and cutters; each layer has its own dash as well.
COLOURS: Final[dict[LineLayer, str]] = {
    "cut": "#000000", "score": "#c02020", "mask": "#2050b0", "outline": "#000000", "dimension": "#505050",
    "register": "#208040",
}  # fmt: skip
DASHES: Final[dict[LineLayer, tuple[float, ...]]] = {"score": (3.0, 1.0), "mask": (6.0, 1.0, 1.0, 1.0), "register": ()}
DXF_COLOURS: Final[dict[LineLayer, int]] = {
    "cut": 7, "score": 1, "mask": 5, "outline": 7, "dimension": 8, "register": 3,
}  # fmt: skip


def write_svg(sheet: Sheet, path: FilePath) -> None:
    """One drawing, a unit for each mm, a group for each layer."""
    x0, y0, x1, y1 = _with_margin(sheet)
    width, height = x1 - x0, y1 - y0
    root = ElementTree.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{width:.3f}mm", height=f"{height:.3f}mm",
        viewBox=f"0 0 {width:.3f} {height:.3f}",
    )  # fmt: skip
    if sheet.plate is not None:
        plate = sheet.plate
        left, top = plate.corner[0] - x0, y1 - plate.corner[1] - plate.height
        place = {"x": f"{left:.4f}", "y": f"{top:.4f}", "width": f"{plate.width:.4f}", "height": f"{plate.height:.4f}"}
        href = f"data:image/png;base64,{base64.b64encode(plate.png).decode('ascii')}"
        ElementTree.SubElement(root, "image", place | {"href": href, "preserveAspectRatio": "none"})
    groups = {layer: ElementTree.SubElement(root, "g", _stroke(layer)) for layer in LAYERS}
    for line in sheet.paths:
        points = " ".join(f"{x - x0:.4f},{y1 - y:.4f}" for x, y in line.points)
        ElementTree.SubElement(groups[line.layer], "polygon" if line.closed else "polyline", points=points)
    for ring in sheet.rings:
        ElementTree.SubElement(
            groups[ring.layer], "circle", cx=f"{ring.centre[0] - x0:.4f}", cy=f"{y1 - ring.centre[1]:.4f}",
            r=f"{ring.radius:.4f}",
        )  # fmt: skip
    bar_mm, bar_words = CHECK_BARS[sheet.unit]
    bar = f"{MARGIN_MM:.3f},{height - 3:.3f} {MARGIN_MM + bar_mm:.3f},{height - 3:.3f}"
    ElementTree.SubElement(groups["register"], "polyline", id="check-bar", points=bar)
    texts = [(t.at[0] - x0, y1 - t.at[1], t.words, t.height, t.centred) for t in sheet.words]
    texts.append((MARGIN_MM, height - 4.5, f"{sheet.name}: this bar is {bar_words} long", 2.5, False))
    for x, y, words, size, centred in texts:
        look = {
            "font-size": f"{size:.2f}",
            "font-family": "sans-serif",
            "text-anchor": "middle" if centred else "start",
        }
        made = ElementTree.SubElement(root, "text", look | {"x": f"{x:.3f}", "y": f"{y:.3f}", "fill": "#000000"})
        made.text = printable(words)
    ElementTree.ElementTree(root).write(path, encoding="utf-8", xml_declaration=True)


def _stroke(layer: LineLayer) -> dict[str, str]:
    dash = " ".join(map(str, DASHES.get(layer, ()))) or "none"
    return {"id": layer, "fill": "none", "stroke": COLOURS[layer], "stroke-width": str(STROKE_MM),
            "stroke-dasharray": dash}  # fmt: skip


def write_dxf(sheet: Sheet, path: FilePath) -> None:
    """Lines, circles and words on named layers, in mm."""
    from ezdxf import units  # noqa: PLC0415 - slow to load, and seldom needed
    from ezdxf.document import Drawing  # noqa: PLC0415

    drawing = Drawing.new("AC1024")
    drawing.units = units.MM
    space = drawing.modelspace()
    for layer in LAYERS:
        drawing.layers.add(layer, color=DXF_COLOURS[layer])
    for line in sheet.paths:
        space.add_lwpolyline(line.points, close=line.closed, dxfattribs={"layer": line.layer})
    for ring in sheet.rings:
        space.add_circle(ring.centre, ring.radius, dxfattribs={"layer": ring.layer})
    for text in sheet.words:
        space.add_text(printable(text.words), height=text.height, dxfattribs={"layer": "dimension", "insert": text.at})
    x0, y0, _, _ = _with_margin(sheet)
    space.add_line((x0, y0), (x0 + CHECK_BARS[sheet.unit][0], y0), dxfattribs={"layer": "register"})
    drawing.saveas(path)


def write_pdf(sheet: Sheet, path: FilePath, paper: str = "A4") -> int:
    """Pages at true size, lapping over each other, with crop marks and a check bar on each; how many."""
    canvas = Canvas(str(path), pagesize=_page(sheet, paper))
    canvas.setTitle(sheet.name)
    canvas.setCreator("Chalk Reel")
    register_fonts()
    regular = "Book"
    page_w, page_h = (v / POINTS_PER_MM for v in _page(sheet, paper))
    tiles = list(_tiles(sheet, page_w, page_h))
    bar_mm, bar_words = CHECK_BARS[sheet.unit]
    for number, (column, row, left, top) in enumerate(tiles, start=1):
        canvas.scale(POINTS_PER_MM, POINTS_PER_MM)
        frame_w, frame_h = page_w - 2 * MARGIN_MM, page_h - 2 * MARGIN_MM - FOOT_MM
        canvas.saveState()
        clip = canvas.beginPath()
        clip.rect(MARGIN_MM, MARGIN_MM + FOOT_MM, frame_w, frame_h)
        canvas.clipPath(clip, stroke=0)
        canvas.translate(MARGIN_MM - left, MARGIN_MM + FOOT_MM + frame_h - top)
        _draw(canvas, sheet, regular)
        canvas.restoreState()
        _crop_marks(canvas, frame_w, frame_h)
        canvas.setLineWidth(0.4)
        canvas.line(MARGIN_MM, MARGIN_MM + 4, MARGIN_MM + bar_mm, MARGIN_MM + 4)
        canvas.setFont(regular, 3.2)
        words = f"{sheet.name}, page {number} of {len(tiles)} (column {column + 1}, row {row + 1}), at true size."
        canvas.drawString(MARGIN_MM, MARGIN_MM + 6, f"{words} This bar is {bar_words}: print at 100 %.")
        canvas.showPage()
    canvas.save()
    return len(tiles)


def _with_margin(sheet: Sheet) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = sheet.bounds()
    return (
        x0 - MARGIN_MM,
        y0 - MARGIN_MM - FOOT_MM,
        max(x1 + MARGIN_MM, x0 + CHECK_BARS[sheet.unit][0] + MARGIN_MM),
        y1 + MARGIN_MM,
    )


def _page(sheet: Sheet, paper: str) -> tuple[float, float]:
    """The paper, upright or on its side, whichever takes fewer pages."""
    upright = PAPERS[paper]
    across = upright[1], upright[0]
    papers: tuple[tuple[float, float], ...] = (upright, across)
    return min(papers, key=lambda p: len(list(_tiles(sheet, p[0] / POINTS_PER_MM, p[1] / POINTS_PER_MM))))


def _tiles(sheet: Sheet, page_w: float, page_h: float) -> Iterator[tuple[int, int, float, float]]:
    """Column, row, and the sheet's left and top edge on each page."""
    x0, y0, x1, y1 = sheet.bounds()
    frame_w, frame_h = page_w - 2 * MARGIN_MM, page_h - 2 * MARGIN_MM - FOOT_MM
    step_x, step_y = frame_w - OVERLAP_MM, frame_h - OVERLAP_MM
    columns = 1 if x1 - x0 <= frame_w else math.ceil((x1 - x0 - OVERLAP_MM) / step_x)
    rows = 1 if y1 - y0 <= frame_h else math.ceil((y1 - y0 - OVERLAP_MM) / step_y)
    for row in range(rows):
        for column in range(columns):
            yield column, row, x0 + column * step_x, y1 - row * step_y


def write_png(sheet: Sheet, path: FilePath) -> None:
    """The picture under a sheet's lines, with its dots to an inch.

    Raises
    ------
    RefusedError
        The sheet has no picture.
    """
    if sheet.plate is None:
        raise RefusedError("This sheet has no picture. Save it as PDF, SVG or DXF.")
    path.write_bytes(sheet.plate.png)


def _draw(canvas: Canvas, sheet: Sheet, font: str) -> None:
    if sheet.plate is not None:
        plate = sheet.plate
        canvas.drawImage(ImageReader(io.BytesIO(plate.png)), *plate.corner, plate.width, plate.height, mask="auto")
    canvas.setLineWidth(STROKE_MM)
    for line in sheet.paths:
        canvas.setStrokeColor(COLOURS[line.layer])
        canvas.setDash(list(DASHES.get(line.layer, ())))
        path = canvas.beginPath()
        path.moveTo(*line.points[0])
        for point in line.points[1:]:
            path.lineTo(*point)
        if line.closed:
            path.close()
        canvas.drawPath(path)
    canvas.setDash([])
    for ring in sheet.rings:
        canvas.setStrokeColor(COLOURS[ring.layer])
        canvas.circle(*ring.centre, ring.radius)
    canvas.setStrokeColor("#000000")
    for text in sheet.words:
        size = text.height * 1.35
        width = stringWidth(text.words, font, size)
        # Words stand clear of lines.
        canvas.setFillColor("#ffffff")
        left = text.at[0] - (width / 2 if text.centred else 0.0)
        canvas.rect(left - 0.3, text.at[1] - 0.2, width + 0.6, text.height + 0.4, stroke=0, fill=1)
        canvas.setFillColor("#000000")
        canvas.setFont(font, size)
        (canvas.drawCentredString if text.centred else canvas.drawString)(*text.at, text.words)


def _crop_marks(canvas: Canvas, frame_w: float, frame_h: float) -> None:
    canvas.setLineWidth(0.15)
    for x, outward_x in ((MARGIN_MM, -1), (MARGIN_MM + frame_w, 1)):
        for y, outward_y in ((MARGIN_MM + FOOT_MM, -1), (MARGIN_MM + FOOT_MM + frame_h, 1)):
            canvas.line(x, y + outward_y * 1, x, y + outward_y * 5)
            canvas.line(x + outward_x * 1, y, x + outward_x * 5, y)
