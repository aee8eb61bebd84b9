"""The wiring on paper and as rows: the drawing, what each branch draws, what to have ready, what to mind."""

from __future__ import annotations

from typing import Final

from reportlab.graphics.shapes import Circle, Drawing, Line, Rect, String
from reportlab.lib import colors

from chalkreel.answers.light_words import cautions, have_ready, ma_words, span_words, verdict
from chalkreel.answers.lighting import Lighting, Solved
from chalkreel.answers.routes import Routes
from chalkreel.core.lengths import LengthUnit, rough_length, small_length
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import StepUp
from chalkreel.core.light.drawing import Part, Wiring, draw_wiring
from chalkreel.exchange.entity_tables import Row

# Branches side by side, and how high they may stand (points).
A_ROW, TALLEST = 6, 330.0
_SIZES: Final = {"name": 9.5, "figure": 9.5, "bad": 9.5, "quiet": 8.5, "plus": 10.0, "minus": 10.0}


def branch_rows(lighting: Lighting | None) -> list[Row]:
    """One row a branch: its lamps, resistor and mA with their ± (95 %)."""
    found = lighting.solved if lighting is not None else None
    if found is None:
        return []
    by_number = {e.branch: e for e in found.expected}
    return [
        {
            "branch": b.name, "times": b.times, "lamps": sum(len(s.lamps) for s in b.strands),
            "strands": len(b.strands), "resistor_ohm": b.ohm or 0, "ma": round(e.ma, 2) if e else 0,
            "plus_minus_ma": round(e.plus_minus, 2) if e else 0, "wire": b.wire, "wire_mm": b.wire_mm,
        }
        for n, b in enumerate(found.circuit.branches)
        for e in (by_number.get(n),)
    ]  # fmt: skip


def plan_lines(lighting: Lighting) -> tuple[str, ...]:
    """Everything to say under the drawing."""
    found = lighting.solved
    if found is None:
        return (lighting.problem,) if lighting.problem else ()
    lines = [f"{verdict(found)[0]}, {verdict(found)[1]}: {_named(found.main)}."]
    lines += [_hours_line(found)] if found.done is not None else []
    lines += [f"{f.title}: {f.words} {f.cure_words}".strip() for f in found.findings]
    lines += [f"Have ready: {', '.join(f'{what} ({rating})' for what, rating in have_ready(found))}."]
    for number, branch in enumerate(found.circuit.branches):
        wanted = next((e for e in found.expected if e.branch == number), None)
        if wanted is not None:
            figure, more = ma_words(wanted.ma, wanted.plus_minus / 2)
            each = f" in each of {branch.times}" if branch.times > 1 else ""
            lines.append(f"□ {branch.name}: {figure} {more}{each}")
    return (*lines, *cautions(found))


def _named(supply: Supply | StepUp) -> str:
    return supply.name if isinstance(supply, Supply) else "step-up module"


def _hours_line(found: Solved) -> str:
    parts = []
    for name, hours in (("half the light", found.half), ("first dark lamp", found.dark), ("cells used up", found.done)):
        if hours is not None:
            figure, span = span_words(hours)
            parts.append(f"{name} after {figure} ({span})")
    return "; ".join(parts) + "."


def wire_lines(found: Routes | None, unit: LengthUnit) -> tuple[str, ...]:
    """Each branch's wire, with its length where it is known, and the bundle."""
    if found is None:
        return ()
    lines = []
    for row in found.rows:
        length = f", {rough_length(row.one_way_mm, unit)} one way" if row.one_way_mm is not None else ""
        pairs = f"{row.count} pairs" if row.count > 1 else "a pair"
        lines.append(f"Wire of {row.name}: {pairs} of {row.wire.name}, + is {row.colour}{length}")
    return (*lines, f"Through the tube: {small_length(found.tube_mm, unit)} inside at least.")


def wiring_drawings(found: Solved, width: float) -> tuple[Drawing, ...]:
    """The drawing in print, in rows of so many branches that it can be read."""
    numbers = range(len(found.circuit.branches))
    rows = [frozenset(numbers[n : n + A_ROW]) for n in range(0, len(numbers), A_ROW)]
    return tuple(_printed(draw_wiring(found.circuit, found.lit, found.findings, row), width, TALLEST) for row in rows)


def _printed(wiring: Wiring, width: float, height: float) -> Drawing:
    scale = min(width / wiring.width, height / wiring.height, 1.0)
    sheet = Drawing(wiring.width * scale, wiring.height * scale)

    def at(x: float, y: float) -> tuple[float, float]:
        return x * scale, (wiring.height - y) * scale

    for f in wiring.frames:
        x, y = at(f.x, f.y + f.height)
        frame = Rect(x, y, f.width * scale, f.height * scale, fillColor=None, strokeColor=colors.grey)
        frame.strokeDashArray = [3, 3]
        sheet.add(frame)
        sheet.add(
            String(*at(f.x + f.width - 34, f.y + f.height - 8), f.badge, fontName="Book-Bold", fontSize=11 * scale)
        )
    for w in wiring.lines:
        line = Line(*at(w.x0, w.y0), *at(w.x1, w.y1), strokeWidth=1.5 if w.polarity == "plus" else 0.7)
        if w.broken:
            line.strokeDashArray = [2, 3]
        sheet.add(line)
    for part in wiring.parts:
        _part(sheet, part, *at(part.x, part.y), scale)
    for t in wiring.texts:
        bold = t.role in ("name", "figure", "bad", "plus", "minus")
        font = "Book-Bold" if bold else "Book"
        sheet.add(String(*at(t.x, t.y), t.words, fontName=font, fontSize=_SIZES[t.role] * 1.2 * scale))
    return sheet


def _part(sheet: Drawing, part: Part, x: float, y: float, scale: float) -> None:
    white = {"fillColor": colors.white, "strokeColor": colors.black, "strokeWidth": 0.8}
    if part.kind in ("resistor", "fuse"):
        sheet.add(Rect(x - 7 * scale, y - 16 * scale, 14 * scale, 32 * scale, rx=3 * scale, ry=3 * scale, **white))
    elif part.kind in ("dome", "chip", "strip"):
        sheet.add(Rect(x - 9 * scale, y - 13 * scale, 18 * scale, 26 * scale, **white))
        # The bar is the minus end.
        foot = y + (9 if part.turned else -13) * scale
        sheet.add(Rect(x - 9 * scale, foot, 18 * scale, 4 * scale, fillColor=colors.black))
    elif part.kind == "cell":
        sheet.add(Rect(x - 26 * scale, y - 13 * scale, 52 * scale, 26 * scale, rx=4 * scale, ry=4 * scale, **white))
        sheet.add(String(x - 21 * scale, y - 4 * scale, "−", fontName="Book-Bold", fontSize=11 * scale))
        sheet.add(String(x + 13 * scale, y - 4 * scale, "+", fontName="Book-Bold", fontSize=11 * scale))
    else:
        sheet.add(Circle(x, y, 8 * scale, **white))
    if part.ringed:
        sheet.add(Circle(x, y, 22 * scale, fillColor=None, strokeColor=colors.black, strokeWidth=1.2))
