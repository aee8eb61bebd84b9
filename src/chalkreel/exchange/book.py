"""The build book: everything about a build on paper, as PDF."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

from PIL import Image, ImageDraw
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    PageBreak,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
)
from reportlab.platypus import Image as PlacedImage
from reportlab.platypus.tableofcontents import TableOfContents

from chalkreel.answers.answers import Answers
from chalkreel.answers.cut_sheets import cut_sheet
from chalkreel.answers.drawing import three_view
from chalkreel.answers.face_marks import face_map
from chalkreel.answers.faces import Faces
from chalkreel.answers.log import entry_details, in_time, pictures_of
from chalkreel.answers.sizes import Sizes
from chalkreel.answers.stages import StageName
from chalkreel.answers.templates import templates
from chalkreel.answers.wording import lack_words, missed_words, size_name, size_words, stock_words, story_words
from chalkreel.core.draft.sheet import Sheet, Words
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import format_pm, plural
from chalkreel.core.finish.steps import Step
from chalkreel.core.lengths import format_length
from chalkreel.core.measure.sides import spoken
from chalkreel.core.media.picture import Picture
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.entities import Plane, Reading, RulerMark, Still, reel_place
from chalkreel.document.gallery import picture_name
from chalkreel.document.paint_entities import ColourPatch
from chalkreel.document.snapshot import Build
from chalkreel.exchange import book_tables
from chalkreel.exchange.book_tables import BookTable
from chalkreel.exchange.fonts import register_fonts, with_signs
from chalkreel.exchange.plain_text import cut, printable
from chalkreel.exchange.sheet_drawing import drawing_of
from chalkreel.exchange.verdict_page import verdict_pictures, verdict_rows, verdict_words
from chalkreel.exchange.wiring_plan import plan_lines, wire_lines, wiring_drawings

WIDTH = A4[0] - 36 * mm
GRID = colors.Color(0.7, 0.7, 0.7)
LONGEST_PX = 1100
LONGEST_TEXT = 1500
HIGHEST = 150 * mm


def write_book(answers: Answers, picture: Callable[[str], Picture], path: Path) -> None:
    """Write stills with marks, sizes, operations, wiring, recipes, sequence, cautions and log."""
    _write(answers, _Book(answers, picture).story(), path)


def write_stage(answers: Answers, picture: Callable[[str], Picture], path: Path, stage: StageName) -> None:
    """Write what one stage has to say, to lie beside the work.

    Raises
    ------
    RefusedError
        There is nothing yet.
    """
    _write(answers, _Book(answers, picture).of_stage(stage), path)


def _write(answers: Answers, story: list[Flowable], path: Path) -> None:
    document = _Pages(
        str(path), pagesize=A4, leftMargin=18 * mm, rightMargin=18 * mm, topMargin=16 * mm, bottomMargin=16 * mm,
        title=answers.build.info.name, author="Chalk Reel",
    )  # fmt: skip
    document.multiBuild(story, onFirstPage=_footer, onLaterPages=_footer)


class _Pages(SimpleDocTemplate):  # type: ignore[misc]  # the library has no types
    """Pages whose headings become bookmarks and the table of contents."""

    def afterFlowable(self, flowable: Flowable) -> None:  # noqa: N802 - the library's name
        if isinstance(flowable, Paragraph) and flowable.style.name == "head":
            words = flowable.getPlainText()
            self.canv.bookmarkPage(words)
            self.canv.addOutlineEntry(words, words, 0)
            self.notify("TOCEntry", (0, words, self.page, words))


def _footer(canvas: Any, document: Any) -> None:
    canvas.setFont("Book", 8)
    canvas.drawRightString(A4[0] - 18 * mm, 9 * mm, f"{document.title}   {canvas.getPageNumber()}")


class _Book:
    def __init__(self, answers: Answers, picture: Callable[[str], Picture]) -> None:
        register_fonts()
        self.answers, self.build, self.picture = answers, answers.build, picture
        base = ParagraphStyle("base", fontName="Book", fontSize=9, leading=12)
        self.plain = base
        self.head = ParagraphStyle(
            "head", parent=base, fontName="Book-Bold", fontSize=14, leading=20, spaceBefore=10, keepWithNext=1
        )
        self.contents_head = ParagraphStyle("contents", parent=self.head)
        self.contents = TableOfContents(levelStyles=[ParagraphStyle("entry", parent=base, leading=15)])
        self.title = ParagraphStyle("title", parent=base, fontName="Book-Bold", fontSize=22, leading=30)

    def story(self) -> list[Flowable]:
        parts = [*self._title(), Paragraph("Contents", self.contents_head), self.contents, PageBreak()]
        for section in (
            self._kit, self._sizes, self._drawings, self._stills, self._jobs, self._wiring, self._recipes, self._paints,
            self._sequence, self._verdict, self._log,
        ):  # fmt: skip
            parts += section()
        return parts

    def of_stage(self, stage: StageName) -> list[Flowable]:
        """The sections of one stage under the build's title."""
        sections: dict[StageName, tuple[Callable[[], list[Flowable]], ...]] = {
            "Gather": (self._kit, self._stills), "Measure": (self._sizes, self._drawings),
            "Convert": (self._kit, self._jobs),
            "Light": (self._wiring,), "Colour": (self._recipes, self._paints), "Finish": (self._sequence,),
            "Bench": (self._verdict, self._log),
        }  # fmt: skip
        parts = [part for section in sections[stage] for part in section()]
        if not parts:
            raise RefusedError(f"There is nothing to print of {stage} yet.")
        return [*self._title(), *parts]

    def _title(self) -> list[Flowable]:
        info, chain = self.build.info, self.build.chain
        story, miniature, replica = (
            format_length(mm, info.unit) for mm in (chain.story_mm, chain.miniature_mm, chain.replica_mm)
        )
        words = (
            f"In the story {story}, miniature {miniature}, replica {replica} (1:{chain.replica_ratio:.4g}). "
            "Every ± holds 19 times in 20."
        )
        return [Paragraph(_safe(info.name), self.title), Paragraph(words, self.plain)]

    def _kit(self) -> list[Flowable]:
        return self._tables(book_tables.kit(self.build))

    def _jobs(self) -> list[Flowable]:
        tables = self._tables(book_tables.features(self.build), book_tables.operations(self.answers))
        return [*tables, *self._cuts(), *self._tables(book_tables.orders(self.answers), book_tables.stock(self.build))]

    def _cuts(self) -> list[Flowable]:
        """The cut list and its sheets, made to fit the page; at true size they are sheets of their own."""
        found = self.answers.cuts
        if found is None or not found.rows:
            return []
        parts = self._tables(book_tables.cuts(self.answers))
        for number, group in enumerate(found.groups):
            with suppress(RefusedError):
                parts += self._drawn(f"Cut from {group.material} {group.form}", cut_sheet(self.build, found, (number,)))
        return parts

    def _paints(self) -> list[Flowable]:
        return self._tables(
            book_tables.pots(self.answers), book_tables.shelf(self.build), book_tables.zones(self.answers)
        )

    def _tables(self, *tables: BookTable) -> list[Flowable]:
        """Tables that hold something."""
        return [part for t in tables if len(t.rows) > 1 for part in self._section(t.title, t.rows, t.widths_mm)]

    def _drawings(self) -> list[Flowable]:
        """Three views and templates, made to fit the page; at true size they are sheets of their own."""
        sizes = self.answers.sizes
        if sizes is None:
            return []
        found: list[Flowable] = []
        for title, drawn in (("Three views", three_view), ("Templates", _templates), ("Marks on faces", _marks)):
            try:
                sheet = drawn(self.build, sizes, self.answers.faces)
            except RefusedError:
                continue
            found += self._drawn(title, sheet)
        return found

    def _drawn(self, title: str, sheet: Sheet) -> list[Flowable]:
        """A sheet made to fit the page."""
        if not sheet.paths:
            return []
        words = Paragraph("To fit this page. Print the sheet itself for true size.", self.plain)
        return [KeepTogether([Paragraph(title, self.head), drawing_of(sheet, WIDTH, HIGHEST), words])]

    def _sizes(self) -> list[Flowable]:
        rows, unit = [["size", "story", "miniature", "replica", "stock", "kit part"]], self.build.info.unit
        for r in self.answers.sizes.rows if self.answers.sizes else ():
            name = size_name(self.build, r)
            if r.angle is not None:
                rows.append(
                    [name, "", "", format_pm(r.angle.degrees, r.angle.half_width_deg, "°"), "", r.verdict.words]
                )
                continue
            if r.story is None or r.miniature is None or r.replica is None:
                rows.append([name, lack_words(self.build, r.lack), "", "", "", r.verdict.words])
                continue
            rows.append([
                name, story_words(r.story, unit), size_words(r.miniature, unit), size_words(r.replica, unit),
                stock_words(self.build, self.answers.stocks.get(r.dimension_id)), r.verdict.words,
            ])  # fmt: skip
        return self._section("Sizes", rows, (32, 28, 29, 29, 26, 30))

    def _stills(self) -> list[Flowable]:
        parts: list[Flowable] = [PageBreak(), Paragraph("Stills", self.head)]
        for still in sorted(self.build.all(Still), key=reel_place):
            known = f"{spoken(still.side)}, {still.still_kind}, trust {still.trust}"
            caption = f"{still.number}. {still.title}: {known}. {still.note}"
            image = self._marked(still)
            height = WIDTH * 0.62 * image.height / image.width
            parts.append(KeepTogether([_placed(image, WIDTH * 0.62, height), Paragraph(_safe(caption), self.plain),
                                       Spacer(1, 8)]))  # fmt: skip
        return parts

    def _marked(self, still: Still) -> Image.Image:
        """The still in corrected shape with its marks in chalk."""
        image = Image.fromarray(self.picture(picture_name(still)).display())
        scale = min(1.0, LONGEST_PX / (still.width_px * still.pixel_aspect))
        sx, sy = scale * still.pixel_aspect, scale
        image = image.resize((round(still.width_px * sx), round(still.height_px * sy)), Image.Resampling.LANCZOS)
        draw = ImageDraw.Draw(image)

        def line(points: list[tuple[float, float]], colour: str) -> None:
            path = [(x * sx, y * sy) for x, y in points]
            draw.line(path, fill="#101010", width=5)
            draw.line(path, fill=colour, width=2)

        for plane in self.build.all(Plane):
            if plane.still_id == still.id:
                line([(m.x_px, m.y_px) for m in (*plane.corners, plane.corners[0])], "#c9aeea")
        for ruler in self.build.all(RulerMark):
            if ruler.still_id == still.id:
                line([(ruler.a.x_px, ruler.a.y_px), (ruler.b.x_px, ruler.b.y_px)], "#f2d06b")
        for reading in self.build.all(Reading):
            if reading.still_id == still.id:
                line([(reading.a.x_px, reading.a.y_px), (reading.b.x_px, reading.b.y_px)], "#8fc4f2")
        for p in self.build.all(ColourPatch):
            if p.still_id == still.id:
                x, y, w, h = p.x_px, p.y_px, p.width_px, p.height_px
                line([(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)], "#f4f4f4")
        return image

    def _wiring(self) -> list[Flowable]:
        found = self.answers.lighting
        if found is None or found.solved is None or not found.solved.circuit.branches:
            return []
        told = (*plan_lines(found), *wire_lines(self.answers.routes, self.build.info.unit))
        first, *more = wiring_drawings(found.solved, WIDTH)
        lines = [Paragraph(_safe(words), self.plain) for words in told]
        return [KeepTogether([Paragraph("Wiring", self.head), first]), *more, *lines]

    def _recipes(self) -> list[Flowable]:
        rows: list[list[Any]] = [["surface", "target", "mix", "recipe in drops", "ΔE00"]]
        for s in self.answers.colours.surfaces if self.answers.colours else ():
            if s.swatch is None or s.best is None:
                rows.append([s.name, "", "", s.problem, ""])
                continue
            recipe, swatch = s.best
            words = " + ".join(f"{n} {name}" for name, n in recipe.drops)
            if s.mixes.clear is not None:
                words += f"; {plural(recipe.coats, 'clear coat')} over {s.mixes.clear.over}"
            rows.append([s.name, _swatch(s.swatch), _swatch(swatch), words, s.delta_e_words])
        return self._section("Recipes", rows, (34, 24, 24, 74, 18))

    def _sequence(self) -> list[Flowable]:
        found = self.answers.sequence
        if found is None:
            return []
        slots = found.timetable.slots if found.timetable else ()
        starts = {slot.step_id: f"{slot.start:%a %d %b %H:%M}" for slot in reversed(slots)}
        rows = [["", "when", "step", "assembly", "min", "materials"]]
        rows += [
            [str(n), starts.get(s.id, "done" if s.id in self.build.info.done else ""), s.title, s.assembly,
             str(s.minutes), ", ".join(s.materials)]
            for n, s in enumerate(found.by_plan, start=1)
        ]  # fmt: skip
        titles = {s.id: s.title for s in found.steps}
        missed = [missed_words(m, titles) for m in (found.timetable.missed if found.timetable else ())]
        wrong = (*(v.reason for v in found.broken), *missed)
        broken = [Paragraph(_safe(f"Broken rule: {words}"), self.plain) for words in wrong]
        return [*self._section("Sequence", rows, (8, 28, 52, 22, 12, 52)), *broken, *self._cautions(found.steps)]

    def _cautions(self, steps: tuple[Step, ...]) -> list[Flowable]:
        words = dict.fromkeys(c for step in steps for c in step.cautions)
        note = "General good practice only: labels, safety data sheets, local rules and licensed trades decide."
        return [Paragraph("Cautions", self.head), *(Paragraph(_safe(w), self.plain) for w in (*words, note))]

    def _verdict(self) -> list[Flowable]:
        if not self.answers.comparing.laid:
            return []
        parts: list[Flowable] = [Paragraph("Is the replica right?", self.head)]
        parts += [Paragraph(_safe(words), self.plain) for words in verdict_words(self.answers)]
        for words, image in verdict_pictures(self.answers, self.picture):
            width = A4[0] - 40 * mm
            parts += [Spacer(1, 2 * mm), _placed(image, width, width * image.height / image.width),
                      Paragraph(_safe(words), self.plain)]  # fmt: skip
        rows = verdict_rows(self.answers)
        return parts + (
            self._section("Findings", [("assembly", "found", "since"), *rows], (40, 90, 44)) if rows else []
        )

    def _log(self) -> list[Flowable]:
        parts: list[Flowable] = [Paragraph("Log", self.head)]
        for entry in in_time(self.build.all(LogEntry)):
            words = f"{entry.at.replace('T', ' ')}{' (lesson)' if entry.lesson else ''}: {entry.words}"
            told = entry_details(entry)
            parts.append(Paragraph(_safe(f"{words} ({told})" if told else words), self.plain))
            for blob in pictures_of(entry):
                image = Image.fromarray(self.picture(blob).display())
                image.thumbnail((LONGEST_PX, LONGEST_PX))
                parts.append(_placed(image, 70 * mm, 70 * mm * image.height / image.width))
        return parts

    def _section(self, title: str, rows: Sequence[Sequence[Any]], widths_mm: tuple[int, ...]) -> list[Flowable]:
        cells = [[Paragraph(_safe(c), self.plain) if isinstance(c, str) else c for c in row] for row in rows]
        table = Table(cells, [w * mm for w in widths_mm], repeatRows=1)
        whole = ((0, 0), (-1, -1))
        table.setStyle([
            ("LINEBELOW", *whole, 0.4, GRID), ("VALIGN", *whole, "TOP"),
            ("LEFTPADDING", *whole, 2), ("RIGHTPADDING", *whole, 2),
        ])  # fmt: skip
        return [Paragraph(title, self.head), table]


def _templates(build: Build, sizes: Sizes, faces: Faces) -> Sheet:
    """All templates; what could not be drawn is told below them."""
    sheet, problems = templates(build, sizes, faces)
    x0, y0, _, _ = sheet.bounds()
    told = (Words((x0, y0 - 8.0 * n), f"Not drawn: {words}", 3.5) for n, words in enumerate(problems, start=1))
    return replace(sheet, words=(*sheet.words, *told))


def _marks(build: Build, sizes: Sizes, faces: Faces) -> Sheet:
    return face_map(build, faces, sizes.reel)


def _safe(words: str) -> str:
    """Words as the page's markup takes them; a word without end or a novel in a cell would not fit any page."""
    words = cut(printable(words), LONGEST_TEXT)
    return with_signs(words.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace("\n", "<br/>"))


def _swatch(rgb: tuple[int, int, int]) -> Drawing:
    drawing = Drawing(22 * mm, 10 * mm)
    fill = colors.Color(*(v / 255 for v in rgb))
    drawing.add(Rect(0, 0, 22 * mm, 10 * mm, fillColor=fill, strokeColor=None))
    return drawing


def _placed(image: Image.Image, width: float, height: float) -> PlacedImage:
    stream = io.BytesIO()
    image.convert("RGB").save(stream, "JPEG", quality=85)
    stream.seek(0)
    return PlacedImage(stream, width, height)
