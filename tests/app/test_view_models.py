"""What the screens say, tested without a window."""

import itertools
import re
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta

import msgspec
import pytest

from chalkreel.answers.answers import Answers
from chalkreel.answers.conversion import Conversion
from chalkreel.answers.plan import planned_spans
from chalkreel.answers.sequence import Sequence, sequence
from chalkreel.answers.sequence_inputs import sequence_inputs
from chalkreel.app.bench.log_model import new_entry, newest_first
from chalkreel.app.colour import model as colour
from chalkreel.app.colour import pots
from chalkreel.app.convert import model as convert
from chalkreel.app.finish import model as finish
from chalkreel.app.finish.folds import FOLD_ABOVE, EveningRow, folded, steps_passed
from chalkreel.app.finish.plan_model import plan_picture
from chalkreel.app.gather import model as gather
from chalkreel.app.light import model as light
from chalkreel.app.measure import model as measure
from chalkreel.app.places import best_place, places
from chalkreel.app.start.model import chain_from
from chalkreel.app.stills.strokes import Handle
from chalkreel.app.stills.tools import BRUSH, KNOWN, NEUTRAL, PATCH, POLYGON, RECTANGLE, SIZE, Gathering
from chalkreel.core.colour.recipe import Recipe
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.schedule import Schedule
from chalkreel.core.finish.timing import Untimely
from chalkreel.core.lengths import LengthUnit, format_length
from chalkreel.core.measure.combine import Size
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.convert_entities import StockPiece
from chalkreel.document.entities import (
    Dimension,
    Feature,
    FeatureInVersion,
    KitPart,
    Landmark,
    Plane,
    RulerMark,
    Source,
    Still,
)
from chalkreel.document.finish_entities import Assembly
from chalkreel.document.paint_entities import ColourPatch, Zone
from chalkreel.document.snapshot import Build
from tests.builds import empty_build
from tests.core.test_lengths import SPELLINGS


def test_the_wall_puts_the_version_being_built_first_and_shows_bare_places(demo_answers: Answers) -> None:
    found = gather.wall(demo_answers.build)
    assert found.sides == ("port", "starboard", "bow", "aft", "top")
    assert [row.name for row in found.rows] == ["Series (being built)", "Special", "squared up from these"]
    assert [len(cell) for cell in found.rows[0].cells] == [1, 2, 2, 2, 1]
    assert [len(cell) for cell in found.rows[1].cells] == [0, 1, 0, 0, 0]


@pytest.mark.parametrize("text", ["0", "9", "wide", "-1"])
def test_impossible_pixels_are_refused(text: str) -> None:
    with pytest.raises(RefusedError):
        gather.parse_aspect(text)


def test_pixel_shapes_keep_an_uncommon_one() -> None:
    assert gather.pixel_shapes(1.3)[-1] == ("1.3000", "1.300 : 1")
    assert gather.shape_aspect("1.0667") == pytest.approx(16 / 15, abs=1e-12)


def test_a_still_shows_its_rulers_planes_and_sizes(demo_answers: Answers) -> None:
    build = demo_answers.build
    still = build.get(Still, "still-3")
    assert still is not None
    strokes, handles = measure.marks_of(build, still, demo_answers, "plane-aft deck plate")
    assert sum(s.closed for s in strokes) == 2 and len(handles) == 2 * 4 + 4 * 2
    labels = {s.label.rsplit(" ", 2)[0] for s in strokes if not s.closed}
    # The flange and the panel hang on landmarks: what this one plane says of them is shown only when asked for.
    assert labels == {"Roof width", "Roof length", ""}
    asked, _ = measure.marks_of(build, still, demo_answers, "dim-Fan flange diameter")
    assert any(s.label.startswith("Fan flange diameter") and s.label.endswith("in this plane") for s in asked)
    assert [s.label for s in strokes if s.strong] == ["aft deck plate"]


def test_dimension_rows_are_in_the_unit_chosen(demo_answers: Answers) -> None:
    metric = {r.name: r for r in measure.dimension_rows(demo_answers, "mm")}
    inches = {r.name: r for r in measure.dimension_rows(demo_answers, "inch")}
    assert metric["Fin height, port"].replica.endswith("mm") and "±" in metric["Fin height, port"].replica
    assert metric["Fin height, port"].story.endswith(" m")
    assert re.fullmatch(r"1 \d+/\d+ in ± 0\.\d+ in", inches["Fin height, port"].replica)
    assert inches["Fin height, port"].story.endswith(" in") and " ft" in inches["Length overall"].story
    assert measure.size_figure(Size(44.17, 0.44), "mm") == ("44.17", "± 0.86 mm")


def test_the_largest_doubt_names_what_would_help(demo_answers: Answers) -> None:
    doubt = measure.doubt_advice(demo_answers)
    assert doubt is not None and doubt.words.startswith("Roof length")
    assert "click" in doubt.cure or "ruler" in doubt.cure


def test_typed_lengths_of_rulers() -> None:
    assert measure.length_and_sigma("18.6 m", "0.1 m", "story", "mm") == (18_600, 100)
    assert measure.length_and_sigma("21.4", "", "miniature", "mm") == (21.4, pytest.approx(0.214))
    assert measure.length_and_sigma("1", "2 %", "replica", "inch") == (25.4, pytest.approx(0.508))
    for length, plus_minus in (("18.6", "1 %"), ("18.6 m", "0.1"), ("18.6 m", "0 %"), ("18.6 m", "200 %")):
        with pytest.raises(RefusedError):
            measure.length_and_sigma(length, plus_minus, "story", "mm")


def test_planes_want_sides_or_a_ratio(demo_answers: Answers) -> None:
    build = demo_answers.build
    still = build.get(Still, "still-1")
    assert still is not None
    points = ((0.0, 0.0), (10.0, 0.0), (10.0, 5.0), (0.0, 5.0))
    (by_sides,) = measure.plane_made(build, still, points, 1.0, ("p", "2 m", "1 m", "1 cm", "story")).edits.values()
    assert isinstance(by_sides, Plane) and (by_sides.width_mm, by_sides.height_mm) == (2000, 1000)
    assert by_sides.width_sigma_mm == 10
    with pytest.raises(RefusedError, match="both sides"):
        measure.plane_made(build, still, points, 1.0, ("p", "2 m", "", "", "story"))


def test_a_moved_mark_changes_only_itself(demo_answers: Answers) -> None:
    build = demo_answers.build
    (moved,) = measure.moved_mark(build, Handle("ruler-set plan", 1, 5.0, 6.0), 4.0).values()
    old = build.get(RulerMark, "ruler-set plan")
    assert isinstance(moved, RulerMark) and old is not None
    assert moved.a == old.a and (moved.b.x_px, moved.b.y_px) == (5.0, 6.0)
    (corner,) = measure.moved_mark(build, Handle("plane-port side", 2, 1.0, 2.0), 4.0).values()
    assert isinstance(corner, Plane) and (corner.corners[2].x_px, corner.corners[2].y_px) == (1.0, 2.0)


@pytest.mark.parametrize(
    ("text", "present", "form", "place"),
    [
        ("lattice boom at amidships", True, "lattice boom", "amidships"),
        ("ring", True, "ring", ""),
        ("-", False, "", ""),
        ("not there", False, "", ""),
        ("?", None, "", ""),
        ("", None, "", ""),
    ],
)
def test_phrases_are_read_back(demo_answers: Answers, text: str, present: bool | None, form: str, place: str) -> None:
    build = demo_answers.build
    feature = build.all(Feature)[0]
    (entry,) = convert.cell_edits(build, feature, "version-series", text).values()
    assert isinstance(entry, FeatureInVersion)
    assert (entry.present, entry.form, entry.place, entry.still_id) == (present, form, place, "still-2")
    if text not in ("-", ""):
        assert convert.Cell(feature, entry).words == (text if form != "ring" else "ring")


def test_hours_and_evidence_are_checked(demo_answers: Answers) -> None:
    assert convert.hours_from("2.5 h") == 2.5 and convert.hours_from(" ") is None
    for call in (
        lambda: convert.hours_from("-3"),
        lambda: convert.evidence_edits(
            demo_answers.build, demo_answers.build.all(Feature)[0], "version-series", "still 77"
        ),
    ):
        with pytest.raises(RefusedError):
            call()


def test_points_of_a_lamp_are_read_as_people_write_them() -> None:
    volts, ma, more = light.points_from("3,1 V at 20 mA, 2.7 at 1; 3 V @ 9.5 mA read")
    assert (volts, ma) == (3.1, 20) and [(p.volts, p.ma, p.bench) for p in more] == [(2.7, 1, False), (3, 9.5, True)]
    assert light.points_from("3.05")[:2] == (3.05, 20)
    for nonsense in ("bright", "3.1 V at", "3.1 20 7", "400 V at 2 mA"):
        with pytest.raises(RefusedError):
            light.points_from(nonsense)


def test_resistors_of_ones_own_are_read_as_they_are_written() -> None:
    assert light.ohms_from("220R, 100; 4k7 1.5k 1M") == (100, 220, 1500, 4700, 1e6)
    for nonsense in ("many", "0", "4kk", "-5"):
        with pytest.raises(RefusedError):
            light.ohms_from(nonsense)


def test_patches_need_a_surface_and_a_size(demo_answers: Answers) -> None:
    build = demo_answers.build
    still = build.get(Still, "still-1")
    assert still is not None
    edits, surface = colour.tool_edits(build, still, PATCH, ((30, 40), (10, 20)), "Hull grey", "", "side")
    assert surface == "surface-hull" and len(edits) == 2
    patch = edits[next(reversed(edits))]
    assert isinstance(patch, ColourPatch) and patch.facet == "side"
    assert (patch.x_px, patch.y_px, patch.width_px, patch.height_px) == (10, 20, 20, 20)
    edits, _ = colour.tool_edits(build, still, BRUSH, ((30, 40), (60, 45)), "New", "", "")
    stroke = edits[next(reversed(edits))]
    assert isinstance(stroke, ColourPatch) and stroke.brush_px > 3 and stroke.x_px == 30 - stroke.brush_px
    edits, surface = colour.tool_edits(build, still, KNOWN, ((30, 40), (60, 75)), "", "62 4 38", "")
    known = edits[next(iter(edits))]
    assert surface == "" and isinstance(known, ColourPatch) and known.known_lab == (62.0, 4.0, 38.0)
    for kind, points, name, known_words in (
        (PATCH, ((0, 0), (1, 50)), "x", ""),
        (PATCH, ((0, 0), (50, 50)), " ", ""),
        (POLYGON, ((0, 0), (50, 1), (20, 1)), "x", ""),
        (NEUTRAL, ((0, 0), (50, 50)), "", "150"),
        (KNOWN, ((0, 0), (50, 50)), "", ""),
        (KNOWN, ((0, 0), (50, 50)), "", "95 90 90"),
        (KNOWN, ((0, 0), (50, 50)), "", "#12345"),
    ):
        with pytest.raises(RefusedError):
            colour.tool_edits(build, still, kind, points, name, known_words, "")


def test_colours_are_read_as_people_write_them() -> None:
    assert lab_of_words("50, 0, 0") == (50.0, 0.0, 0.0)
    # sRGB 119 is L* 50 (published).
    assert lab_of_words("#777777") == pytest.approx((50.0, 0.0, 0.0), abs=0.3)


def test_the_need_adds_zones_up(demo_answers: Answers) -> None:
    row = colour.chosen_row(demo_answers, "surface-hull")
    assert row is not None and row.mixes.need is not None
    wanted = row.mixes.need
    # Typed 310 cm² of hull, and the wheelhouse by its faces.
    house = sum(row.area_mm2 * (2 if row.id.endswith("side") else 1) for row in demo_answers.faces.rows
                if row.id.startswith("face-wheelhouse")) / 4 / 100  # fmt: skip
    assert (wanted.area_cm2, wanted.coats) == (pytest.approx(310.0 + house), 3) and wanted.batch is not None
    assert any("still 5" in words for words in colour.fault_words(row))


def test_drops_are_read_and_the_pot_speaks(demo_answers: Answers) -> None:
    build = demo_answers.build
    assert pots.drops_from("6 Titanium White + 2 yellow ochre", build) == (("titanium white", 6), ("yellow ochre", 2))
    for bad in ("", "six titanium white", "3 unicorn", "0 titanium white"):
        with pytest.raises(RefusedError):
            pots.drops_from(bad, build)
    row = colour.chosen_row(demo_answers, "surface-hull")
    assert row is not None
    (pot,) = row.mixes.pots
    lines = [words for words, _ in pots.rescue_words(pot)]
    assert "off by" in lines[0] and lines[1].startswith("1. Add ")
    cells = pots.cells(pot)
    assert [c.ahead for c in cells[:2]] == [False, False] and all(c.ahead for c in cells[2:]) and len(cells) > 2


def test_the_plan_draws_blocks_apart_and_time_forwards(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None and found.timetable is not None
    picture = plan_picture(found)
    assert picture.lanes[:3] == ("Hull", "Deck", "Wheelhouse")
    for lane in range(len(picture.lanes)):
        here = sorted((b for b in picture.blocks if b.lane == lane), key=lambda b: b.left)
        assert all(a.right <= b.left + 1e-6 for a, b in itertools.pairwise(here))
    times = [found.evenings[0].start + timedelta(hours=7 * n) for n in range(90)]
    places = [picture.x(at) for at in times]
    assert places == sorted(places) and len(picture.columns) < len(found.evenings) + 1
    for column in picture.columns:
        assert picture.at(picture.x(column.start)) == column.start
    assert all(h.left <= h.touch <= h.right for h in picture.hatches) and picture.wedges and picture.cups


def test_rows_stand_by_date_and_say_what_is_done(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None
    rows = finish.step_rows(found, demo_answers.build.info.done)
    done = [r.done for r in rows]
    count = done.count(True)
    assert count > 10 and done == [True] * count + [False] * (len(rows) - count)
    assert rows[count - 1].when == "done" and rows[count].when.startswith("Tue 1 Dec")
    spans = planned_spans(found)
    starts = [spans[r.step.id][0] for r in rows[count:]]
    assert starts == sorted(starts)


def test_a_build_of_one_stuff_takes_all_its_parts_to_be_of_it_until_told_otherwise() -> None:
    info = empty_build("gondola")["build"]
    hull = Zone(id="z", name="hull", assembly="Hull", surface_id="", medium="enamel")
    cabin = Zone(id="y", name="cabin", assembly="Cabin", surface_id="", medium="enamel")
    told = Assembly(id="a", name="Cabin", facts=())

    def plan(*sources: Source) -> Sequence:
        entities = {"build": msgspec.structs.replace(info, sources=sources), "z": hull, "y": cabin, "a": told}
        return sequence(sequence_inputs(Build(0, entities), Conversion((), 0.0, ()), None, datetime(2027, 3, 1, 9)))

    soft = plan("soft vinyl")
    assert {v.step for v in soft.broken} == {"Hull/hull/base", "Hull/hull/base/2"}
    assert all("vinyl" in v.reason for v in soft.broken)
    rows = {row.name: row for row in finish.assembly_rows(Build(0, {"build": msgspec.structs.replace(
        info, sources=("soft vinyl",)), "z": hull, "y": cabin, "a": told}), soft)}  # fmt: skip
    assert rows["Hull"].facts == ("vinyl",) and rows["Cabin"].facts == ()
    assert [s.assembly for s in plan("printed parts").steps if s.kind == "smooth"] == ["Hull"]
    # Of a mixed build nothing is taken for granted.
    mixed = plan("kit", "soft vinyl")
    assert not mixed.broken and "smooth" not in {s.kind for s in mixed.steps}


def test_many_steps_fold_under_their_evenings_and_none_is_lost(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None
    rows = finish.step_rows(found, demo_answers.build.info.done)
    assert len(rows) > FOLD_ABOVE and folded(rows[:FOLD_ABOVE], {}, "") == rows[:FOLD_ABOVE]
    shown = folded(rows, {}, "")
    heads = [row for row in shown if isinstance(row, EveningRow)]
    # What is done and all evenings but the first to come are folded; their headings tell what is in them.
    assert [h.is_open for h in heads] == [False, True] + [False] * (len(heads) - 2) and heads[0].id == "done"
    assert sum(h.minutes for h in heads) == sum(row.step.minutes for row in rows)
    assert len({h.id for h in heads}) == len(heads)
    last = rows[-1]
    opened = folded(rows, {heads[1].id: False}, last.step.id)
    assert [row for row in opened if not isinstance(row, EveningRow)][-1] == last and len(opened) < len(shown) + 12
    everything = folded(rows, {h.id: True for h in heads}, "")
    assert tuple(row for row in everything if not isinstance(row, EveningRow)) == rows
    # Past a folded evening a step passes all that is in it.
    first, third = next(row for row in shown if not isinstance(row, EveningRow)), heads[3]
    by = shown.index(third) - shown.index(first)
    passed = [row for row in rows if row.evening in (heads[1].id, heads[2].id)]
    assert steps_passed(shown, rows, first, by) == len(passed) - 1
    assert steps_passed(shown, rows, first, 1) == 1 and steps_passed(shown, rows, first, -1) == 0


def test_a_zone_is_told_as_it_is_at_an_hour(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None
    done = demo_answers.build.info.done
    end = planned_spans(found)["Hull/Hazard band/stripe/2"][1]

    def band(at: datetime) -> str:
        words = finish.surfaces_words(found, done, "Hull", at)
        return next(line for line in words.splitlines() if line.startswith("Hazard band"))

    # Water acrylic: touch-dry after an hour at most, tape and varnish after a day.
    assert band(end - timedelta(minutes=5)).startswith("Hazard band: stripe 1")
    assert f"stripe 2: wet until {end + timedelta(hours=1):%H:%M}" in band(end)
    assert f"tape from {end + timedelta(hours=24):%a}" in band(end + timedelta(hours=2))
    assert band(end + timedelta(hours=25)) == "Hazard band: stripe 2: dry"
    assert "prime: laid, not said when" in band(found.evenings[0].start)


def test_tonight_is_one_evening_by_the_clock(demo_answers: Answers) -> None:
    sheet, found = demo_answers.tonight, demo_answers.sequence
    assert sheet is not None and found is not None and found.timetable is not None
    assert sheet.window.start == datetime(2026, 12, 1, 19, 30)
    assert all(sheet.window.start <= a.start < a.end <= b.start for a, b in itertools.pairwise(sheet.work))
    assert sheet.work[-1].end <= sheet.window.end and sheet.stops[-1] == sheet.work[-1].end
    assert set(sheet.stops) <= {w.end for w in sheet.work}


def test_times_days_and_numbers_are_checked() -> None:
    assert finish.clock("9:05") == "09:05"
    assert finish.days_off_from("2026-12-24 to 2027-01-01, 2027-01-06")[1] == ("2027-01-06", "2027-01-06")
    for call in (
        lambda: finish.clock("25:00"),
        lambda: finish.days_off_from("2026-12-24 to 2026-12-01"),
        lambda: finish.number_between("99", 1, 20, "Coats"),
    ):
        with pytest.raises(RefusedError):
            call()


def test_log_entries_need_words_and_know_their_step(demo_answers: Answers) -> None:
    now = datetime(2026, 11, 23, 20, 0)
    entry = new_entry(demo_answers.build, " primed ", now, demo_answers, "Hull//prime", "35", "4,50", True)
    assert (entry.words, entry.step_kind, entry.minutes, entry.at) == ("primed", "prime", 35, "2026-11-23T20:00")
    assert entry.cost == 4.5 and entry.lesson
    for words, minutes in (("", "5"), ("x", "many"), ("x", "-4")):
        with pytest.raises(RefusedError):
            new_entry(demo_answers.build, words, now, demo_answers, "", minutes, "", False)
    times = [e.at for e in newest_first(demo_answers.build.all(LogEntry))]
    assert times == sorted(times, reverse=True)


def test_tools_gather_points_and_back_out() -> None:
    got: list[object] = []
    tool = Gathering(RECTANGLE, got.append)
    assert not tool.back()
    for n in range(3):
        assert not tool.place(n, n)
    assert tool.back() and len(tool.points) == 2 and "third" in tool.prompt
    tool.place(8, 8)
    assert tool.place(9, 9)
    tool.deliver()
    assert got == [((0, 0), (1, 1), (8, 8), (9, 9))]
    assert "Arrows" in Gathering(SIZE, got.append).prompt and "Arrows" not in Gathering(PATCH, got.append).prompt


def test_anything_is_found_by_part_of_its_name(demo_answers: Answers) -> None:
    found = places(demo_answers.build)
    fan = best_place(found, "fan flange di")
    assert fan is not None and (fan.stage, fan.still_id) == ("Measure", "still-3")
    for words, stage in (("c2 port", "Gather"), ("titanium", "Colour"), ("bow tip", "Measure"), ("hazard", "Measure")):
        place = best_place(found, words)
        assert place is not None and place.stage == stage and words in place.words.lower(), words
    command = best_place(found, "build book")
    assert command is not None and command.command == "book"
    assert best_place(found, "zebra") is None and best_place(found, "  ") is None


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_every_reader_of_lengths_takes_what_people_write(unit: LengthUnit) -> None:
    """Rulers and their ±, ends of the chain, places on a plan: understood as written, or refused."""
    readers: dict[str, Callable[[str], float | None]] = {
        "ruler": lambda text: measure.length_and_sigma(text, "1 %", "miniature", unit)[0],
        "its ±": lambda text: measure.length_and_sigma("20 m", text, "replica", unit)[1],
        "place": lambda text: (measure.parse_place(f"0; {text}; 0 ± 1 mm", unit)[0] or (0, None))[1],
        "± of a place": lambda text: measure.parse_place(f"0; 0; 0 ± {text}", unit)[1],
        "miniature": lambda text: chain_from("20 m", text, "100 mm", unit).lengths.miniature_mm,
        "replica": lambda text: chain_from("20 m", "2 m", text, unit).lengths.replica_mm,
        "kit part": lambda text: gather.optional_length(text, unit),
    }
    for name, read in readers.items():
        for text, wanted in SPELLINGS.items():
            # Nothing typed, what a place may be and a ± or a model cannot; what is too large or small for its field.
            if text in ("", "0", "-3") or (wanted is not None and not 1 <= wanted[unit == "inch"] <= 20_000):
                continue
            if wanted is None:
                with pytest.raises(RefusedError):
                    read(text)
            else:
                assert read(text) == pytest.approx(wanted[unit == "inch"]), f"{name}: {text}"


def test_sizes_of_one_part_stand_together_and_lengths_name_what_is_left(demo_answers: Answers) -> None:
    build = demo_answers.build
    sizes, part = build.all(Dimension), build.all(KitPart)[0]
    chosen = (sizes[3], sizes[20])
    told = {s.id: msgspec.structs.replace(s, part_id=part.id if s in chosen else "") for s in sizes}
    entities = {**build.entities, **told}
    changed = replace(demo_answers, build=replace(build, entities=entities))
    rows = measure.dimension_rows(changed, "mm")
    ids = [row.dimension_id for row in rows]
    assert ids[3:5] == [s.id for s in chosen] and rows[3].part == rows[4].part == part.name
    assert [i for i in ids if i != sizes[20].id] == [s.id for s in sizes if s is not sizes[20]]
    # The shortest strip, rod or tube that is long enough, and what the blade leaves of it.
    longest = max(s.long_mm for s in build.all(StockPiece) if s.count and s.form != "sheet")
    lengths = {row.dimension_id: row for row in demo_answers.sizes.rows} if demo_answers.sizes else {}
    told_lengths = 0
    for row in rows:
        size = lengths[row.dimension_id].replica
        if size is None or size.mm < 10:
            continue
        fits = [s for s in build.all(StockPiece) if s.count and s.form != "sheet" and s.long_mm >= size.mm]
        left = min((s.long_mm - size.mm for s in fits), default=None)
        assert (left is None) == (size.mm > longest)
        assert row.stock.endswith(f"{format_length(left, 'mm')} left" if left is not None else "cut to length")
        told_lengths += left is not None
    assert told_lengths > 10


def test_places_on_a_plan_are_read_and_written() -> None:
    place, sigma = measure.parse_place("-120, 75, 40.5 ± 0.2", "mm")
    assert (place, sigma) == ((-120.0, 75.0, 40.5), 0.2)
    assert measure.parse_place("-120,0; 75; 40,5 ± 0,2", "mm") == (place, sigma)
    assert measure.parse_place("1, 2, 3", "mm")[1] == 0.5 and measure.parse_place("  ", "mm") == (None, 0.5)
    assert measure.parse_place("1, 2, -3 ± 1/2", "inch") == ((25.4, 50.8, pytest.approx(-76.2)), 12.7)
    landmark = Landmark(id="a", name="a", place_mm=place, place_sigma_mm=sigma)
    assert measure.parse_place(measure.place_words(landmark, "mm"), "mm") == (place, sigma)
    for nonsense in ("1, 2", "1, 2, up", "1, 2, 3 ± 0", "1e9, 0, 0", "1, 2, 3, 4"):
        with pytest.raises(RefusedError):
            measure.parse_place(nonsense, "mm")


def test_a_mix_is_called_right_only_where_target_and_paints_are_known() -> None:
    recipe = Recipe((("grey", 1),), (50.0, 0.0, 0.0), 0.4)
    assert colour.closeness(recipe, 0.5, 0.5)[1] == "good"
    for landing, target in ((8.5, 0.0), (0.0, 22.0)):
        words, state = colour.closeness(recipe, landing, target)
        assert state == "warn" and "no difference" not in words and "±" in words


def test_rules_are_ticked_only_where_some_were_checked(demo_answers: Answers) -> None:
    found = demo_answers.sequence
    assert found is not None and found.timetable is not None
    words, state = finish.rules_words(found)
    assert state == "good" and str(found.checked) in words
    empty = Sequence((), (), (), Schedule((), ()), "", ())
    assert finish.rules_words(empty)[1] == "quiet"
    late = Untimely("tape off", 35, "a", "b", 30.0, None, 2.0, "Too late.")
    assert finish.rules_words(replace(found, timetable=replace(found.timetable, missed=(late,))))[1] == "bad"
