"""What is written can be read back by other programs, with the numbers the window shows."""

import csv
import json
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import msgspec
import pytest
from icalendar import Calendar
from pypdf import PdfReader
from tests.builds import empty_build

from chalkreel.answers.answers import Answerer, Answers
from chalkreel.answers.stages import STAGES
from chalkreel.answers.wording import size_name
from chalkreel.core.errors import RefusedError
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store
from chalkreel.exchange.book import write_book, write_stage
from chalkreel.exchange.calendar import write_calendar
from chalkreel.exchange.tables import write_csv, write_json


def test_csv_tables_hold_the_sizes_with_units_in_their_names(demo_answers: Answers, tmp_path: Path) -> None:
    written = {path.stem for path in write_csv(demo_answers, tmp_path)}
    assert {"dimensions", "operations", "cut-list", "branches", "recipes", "pots", "steps", "log"} <= written
    # All that the build holds is there as well, each kind in a table of its own.
    assert {"build-kit-part", "build-landmark-mark", "build-outline", "build-zone", "build-paint"} <= written
    with (tmp_path / "dimensions.csv").open(newline="", encoding="utf-8") as stream:
        rows = {row["name"]: row for row in csv.DictReader(stream)}
    assert demo_answers.sizes is not None
    fin = next(r for r in demo_answers.sizes.rows if size_name(demo_answers.build, r) == "Fin height, port")
    assert fin.replica is not None
    row = rows["Fin height, port"]
    assert float(row["replica_mm"]) == pytest.approx(fin.replica.mm, abs=1e-3)
    assert float(row["replica_plus_minus_95_mm"]) == pytest.approx(1.96 * fin.replica.sigma_mm, abs=1e-3)
    assert rows["Fin height, port"]["verdict"] == "make new"


def test_json_holds_the_same_tables(demo_answers: Answers, tmp_path: Path) -> None:
    write_json(demo_answers, tmp_path / "t.json")
    found = json.loads((tmp_path / "t.json").read_text("utf-8"))
    assert len(found["dimensions"]) == 36
    assert sum(row["lamps"] * row["times"] for row in found["branches"]) == 13
    recipes = {row["surface"]: row["coats"] for row in found["recipes"]}
    assert recipes.keys() == {"Hull grey", "Hazard band ochre", "Skirt", "Deck", "Port lamp lens"}
    assert recipes["Port lamp lens"] in range(1, 9) and recipes["Deck"] == 0
    assert any(row["verb"] == "add" and row["feature"] == "crane mast" for row in found["operations"])


def test_the_calendar_is_read_back_with_every_slot(demo_answers: Answers, tmp_path: Path) -> None:
    assert demo_answers.sequence is not None and demo_answers.sequence.timetable is not None
    path = tmp_path / "s.ics"
    count = write_calendar(demo_answers.sequence, "Ninepin", path)
    events = Calendar.from_ical(path.read_bytes()).walk("VEVENT")
    assert len(events) == count == len(demo_answers.sequence.timetable.slots)
    starts = {event.decoded("dtstart") for event in events}
    assert starts == {slot.start for slot in demo_answers.sequence.timetable.slots}
    assert all(isinstance(start, datetime) and start.tzinfo is None for start in starts)
    alarms = [str(alarm["description"]) for event in events for alarm in event.walk("VALARM")]
    assert any(words.startswith("Tape off") and "by" in words for words in alarms)
    assert alarms.count("Lay out for the evening.") > 10
    spray = next(e for e in events if "Base colour" in str(e["summary"]))
    assert "Respirator" in str(spray["description"])


def test_the_book_has_every_part(demo_answers: Answers, demo_file: Path, tmp_path: Path) -> None:
    store = Store.open(demo_file)
    path = tmp_path / "book.pdf"
    # One template cannot be drawn: the book says so, and has the others.
    fin = msgspec.structs.replace(demo_answers.build.entities["outline-fin"], corner="behind")
    build = Build(0, {**demo_answers.build.entities, fin.id: fin})
    write_book(replace(demo_answers, build=build), Gallery(store.blob).picture, path)
    store.close()
    reader = PdfReader(path)
    text = "\n".join(page.extract_text() for page in reader.pages)
    for words in (
        "Ninepin, Series version",
        "Sizes",
        "Fin height, port",
        "Jobs",
        "Cut list",
        "Orders",
        "Stock",
        "crane mast",
        "Wiring",
        "over silver",
        "680 Ω",
        "Recipes",
        "titanium white",
        "Sequence",
        "Cautions",
        "Respirator",
        "Is the replica right?",
        "3.69 ± 0.44 mm aft; not looked at since",
        "Log",
        "stern joint",
        "Not drawn: port tail fin: Say how thick",
    ):
        assert words in text, words
    pictures = sum(len(page.images) for page in reader.pages)
    assert pictures == 12  # ten stills, the bench photograph, and the primed replica beside its still
    width, height = (float(v) / 72 * 25.4 for v in reader.pages[0].mediabox[2:])
    assert (width, height) == pytest.approx((210, 297), abs=0.5)


def test_an_empty_build_makes_a_book_but_no_calendar(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "e.chalkreel", empty_build("Empty & <new>"))
    *_, answers = Answerer(Gallery(store.blob)).answer(store.build)
    write_book(answers, Gallery(store.blob).picture, tmp_path / "e.pdf")
    assert "Empty & <new>" in PdfReader(tmp_path / "e.pdf").pages[0].extract_text()
    assert answers.sequence is not None
    with pytest.raises(RefusedError, match="no schedule"):
        write_calendar(answers.sequence, "Empty", tmp_path / "e.ics")
    with pytest.raises(RefusedError, match="nothing to print of Light"):
        write_stage(answers, Gallery(store.blob).picture, tmp_path / "l.pdf", "Light")
    store.close()


def words_of(path: Path) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(path).pages)


def test_each_stage_prints_by_itself(demo_answers: Answers, demo_file: Path, tmp_path: Path) -> None:
    own = {
        "Gather": "Stills", "Measure": "Three views", "Convert": "Cut list", "Light": "Wiring", "Colour": "Recipes",
        "Finish": "Sequence", "Bench": "Log",
    }  # fmt: skip
    store = Store.open(demo_file)
    for stage in STAGES:
        path = tmp_path / f"{stage}.pdf"
        write_stage(demo_answers, Gallery(store.blob).picture, path, stage)
        heads = {line.strip() for line in words_of(path).splitlines()}
        assert own[stage] in heads and not heads & (set(own.values()) - {own[stage]})
    store.close()


def test_every_export_says_how_surely_a_distance_is_known_and_keeps_the_plans_order(
    demo_answers: Answers, tmp_path: Path
) -> None:
    """The doubt of a ΔE00 is in the window's words, the book and the table; steps stand by the hour."""
    write_json(demo_answers, tmp_path / "t.json")
    found = json.loads((tmp_path / "t.json").read_text("utf-8"))
    assert demo_answers.colours is not None
    hull = next(s for s in demo_answers.colours.surfaces if s.name == "Hull grey")
    assert hull.colour is not None and hull.delta_e_words.endswith(f"± {hull.within:.0f}")
    # Its lightness is known by stills alone, and that is most of the doubt.
    assert hull.within >= hull.colour.delta_e > 3.0
    told = {row["within_delta_e_95"] for row in found["recipes"] if row["surface"] == "Hull grey"}
    assert told == {round(hull.within, 1)}
    starts = [row["start"] for row in found["steps"] if row["start"]]
    assert len(starts) > 20 and starts == sorted(starts)
    events = Calendar.from_ical(_calendar(demo_answers, tmp_path).read_bytes()).walk("VEVENT")
    hours = [event.decoded("dtstart") for event in events]
    assert hours == sorted(hours)


def _calendar(answers: Answers, folder: Path) -> Path:
    assert answers.sequence is not None
    write_calendar(answers.sequence, "Ninepin", folder / "s.ics")
    return folder / "s.ics"
