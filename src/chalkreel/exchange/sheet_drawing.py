"""A sheet as a drawing in the book, made to fit."""

from __future__ import annotations

from reportlab.graphics.shapes import Circle, Drawing, PolyLine, String
from reportlab.lib import colors

from chalkreel.core.draft.sheet import Sheet
from chalkreel.exchange.plain_text import printable
from chalkreel.exchange.sheets import COLOURS, DASHES

SMALLEST_TEXT = 4.0


def drawing_of(sheet: Sheet, width: float, height: float) -> Drawing:
    """The sheet within so many points, no larger than true size would be at two to one."""
    x0, y0, x1, y1 = sheet.bounds()
    scale = min(width / max(x1 - x0, 1.0), height / max(y1 - y0, 1.0))
    drawing = Drawing((x1 - x0) * scale, (y1 - y0) * scale)

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - x0) * scale, (y - y0) * scale

    for path in sheet.paths:
        points = [at(*p) for p in (*path.points, *(path.points[:1] if path.closed else ()))]
        dash = [d * scale for d in DASHES.get(path.layer, ())]
        drawing.add(PolyLine([v for p in points for v in p], strokeColor=colors.HexColor(COLOURS[path.layer]),
                             strokeWidth=0.6, strokeDashArray=dash or None))  # fmt: skip
    for ring in sheet.rings:
        drawing.add(Circle(*at(*ring.centre), ring.radius * scale, fillColor=None, strokeWidth=0.6))
    for words in sheet.words:
        size = max(SMALLEST_TEXT, words.height * scale)
        anchor = "middle" if words.centred else "start"
        drawing.add(String(*at(*words.at), printable(words.words), fontName="Book", fontSize=size, textAnchor=anchor))
    return drawing
