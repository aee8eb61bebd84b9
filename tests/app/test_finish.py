"""Finish in the real window: a build of one's own planned, worked on, disturbed, mended, printed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

from pypdf import PdfReader
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QLineEdit, QPushButton, QToolButton
from pytestqt.qtbot import QtBot

from chalkreel.answers.plan import planned_spans
from chalkreel.answers.sequence import Sequence
from chalkreel.app.finish.forms import ZoneForm
from chalkreel.app.finish.model import better_words
from chalkreel.app.finish.tonight_page import WorkFrame
from chalkreel.app.parts.columns import NO, YES
from chalkreel.app.parts.fields import Form
from chalkreel.app.window import Window
from chalkreel.core.finish.steps import Step
from chalkreel.document.entities import BUILD_ID
from chalkreel.document.finish_entities import Evening, KeptFinish
from chalkreel.document.paint_entities import Zone
from tests.app.conftest import in_front, settle, show_stage
from tests.app.test_counts import drag
from tests.app.test_forms_and_tables import field, retype
from tests.app.test_whole_slice import card_text


def sequence_of(window: Window) -> Sequence:
    answers = window.session.answers
    assert answers is not None and answers.sequence is not None
    return answers.sequence


def finish_of(window: Window) -> datetime:
    table = sequence_of(window).timetable
    assert table is not None and table.finish is not None
    return table.finish


def step_of(window: Window, kind: str) -> Step:
    return next(s for s in sequence_of(window).steps if s.kind == kind)


def sledge(qtbot: QtBot, window: Window, first_day: str = "2031-03-03") -> None:
    """Two zones of an invented ice sledge, finishes chosen by name, three evenings from a day far ahead."""
    session = window.session
    show_stage(window, "Finish")
    window.finish.turn_to("Zones")
    for number, (name, finish) in enumerate((("runners", "chipped over metal"), ("flash", "masked panel or stripe"))):
        qtbot.mouseClick(window.finish.add, Qt.MouseButton.LeftButton)
        zone = session.build.all(Zone)[number]
        session.edit("name", zone, name=name, assembly="Sledge", decals=number == 0)
        column = next(c for c in window.finish.zones.rows_model.columns if c.title == "finish")
        assert column.put is not None
        column.put(session.build.all(Zone)[number], finish)
    session.edit("first day", session.build.info, first_bench_day=first_day)
    for day in (0, 2, 5):
        session.edit("evening", Evening(id=f"evening-{day}", weekday=day, start="14:00", end="21:00"))
    settle(qtbot, session)


def test_a_build_of_ones_own_is_planned_disturbed_and_mended(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window)
    session, stage = window.session, window.finish
    assert {"chipping medium", "chip", "mask", "edge seal", "unmask", "decal", "wipe"} <= {
        s.kind for s in sequence_of(window).steps
    }
    table = sequence_of(window).timetable
    assert sequence_of(window).broken == () and table is not None and table.missed == ()
    stage.turn_to("Plan")
    settle(qtbot, session)
    assert "four times in five" in card_text(window) and "No plan ends before" in card_text(window)
    # Dragged before the gloss the decals break a rule, in lane, row and count; undone, all is as before.
    lanes, decal = stage.plan.lanes, step_of(window, "decal")
    session.select(decal.id)
    settle(qtbot, session)
    before = planned_spans(sequence_of(window))
    place = next(place for title, place, _ in lanes.choices() if title == decal.title)
    gloss = next(place for title, place, _ in lanes.choices() if title == step_of(window, "gloss").title)
    drag(lanes, place.center(), QPointF(max(gloss.left() - 4, 100), gloss.center().y()))
    settle(qtbot, session)
    assert any(v.step == decal.id for v in sequence_of(window).broken)
    assert "Gloss coat: Sledge must come before Decals" in card_text(window)
    assert any(v.step == decal.id and "silver" in v.reason for v in sequence_of(window).broken)
    assert stage.replan.isVisibleTo(window)
    session.undo()
    settle(qtbot, session)
    assert planned_spans(sequence_of(window)) == before and not stage.replan.isVisibleTo(window)


def test_after_a_tick_only_what_must_move_moves_and_a_better_plan_is_offered(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.finish
    show_stage(demo_window, "Finish")
    settle(qtbot, session)
    before = planned_spans(sequence_of(demo_window))
    late = max(before, key=lambda name: before[name])
    session.select(min(before, key=lambda name: before[name]))
    qtbot.mouseClick(stage.done, Qt.MouseButton.LeftButton)
    settle(qtbot, session)
    after = planned_spans(sequence_of(demo_window))
    moved = [name for name, span in after.items() if span[0].date() != before[name][0].date()]
    assert len(moved) <= len(after) / 4
    # Without the evenings of a month another plan may be better; it is told, and taken by its button.
    sequence = sequence_of(demo_window)
    assert sequence.better is not None and sequence.timetable is not None
    worse = replace(sequence.timetable, slots=tuple(
        replace(s, start=s.start + timedelta(days=9), end=s.end + timedelta(days=9)) if s.step_id == late else s
        for s in sequence.timetable.slots
    ))  # fmt: skip
    likely = sequence.likely
    assert likely is not None
    offer = better_words(replace(sequence, timetable=worse, better_likely=likely))
    assert "days earlier by the plan" in offer and "steps move" in offer
    # One that leaves so little room that it likely ends later is not offered.
    later = replace(likely, four_in_five=likely.four_in_five + timedelta(days=1))
    assert not better_words(replace(sequence, timetable=worse, better_likely=later))
    stage.plan_anew()
    settle(qtbot, session)
    assert sequence_of(demo_window).better is None


def test_a_step_ticked_on_tonights_sheet_goes_on_curing(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window, first_day="")
    session, stage = window.session, window.finish
    stage.turn_to("Tonight")
    settle(qtbot, session)
    frames = stage.sheet.findChildren(WorkFrame)
    first = next(f for f in frames if f.focusPolicy() != Qt.FocusPolicy.NoFocus)
    QTest.keyClick(first, Qt.Key.Key_Return)
    assert session.selection == step_of(window, "clean").id
    qtbot.mouseClick(stage.done, Qt.MouseButton.LeftButton)
    settle(qtbot, session)
    assert session.build.info.done == (step_of(window, "clean").id,) and session.build.info.done_at
    sheet = session.answers.tonight if session.answers else None
    assert sheet is not None and all(w.step is None or w.step.kind != "clean" for w in sheet.work)
    # Washed parts dry for up to three hours before the seams are filled.
    fill = planned_spans(sequence_of(window))[step_of(window, "fill").id][0]
    ((_, at),) = sequence_of(window).ends
    assert (fill - at).total_seconds() >= 3 * 3600 - 60
    path = tmp_path / "tonight.pdf"
    with qtbot.waitSignal(session.prompted, timeout=30_000, check_params_cb=lambda words: "Written" in words):
        window.exports.write_evening(path)
    text = PdfReader(path).pages[0].extract_text()
    assert "Fill seams: Sledge" in text and "Half an hour less" in text and "data sheets" in text


def test_a_coat_that_went_wrong_is_sanded_back_once_it_is_dry(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    path = tmp_path / "sledge.chalkreel"
    window = in_front(qtbot, opened(path))
    sledge(qtbot, window, first_day="")
    session, stage = window.session, window.finish
    coat = step_of(window, "base")
    steps = sequence_of(window).steps
    done = tuple(s.id for s in steps[: steps.index(coat) + 1])
    laid = datetime.now().replace(second=0, microsecond=0) - timedelta(hours=1)
    times = tuple((name, (laid if name == coat.id else laid - timedelta(days=9)).isoformat()) for name in done)
    session.edit("done", session.build.info, done=done, done_at=times)
    settle(qtbot, session)
    stage.turn_to("Plan")
    session.select(coat.id)
    qtbot.mouseClick(stage.again, Qt.MouseButton.LeftButton)
    settle(qtbot, session)
    sanding = step_of(window, "sand back")
    spans = planned_spans(sequence_of(window))
    through = coat.dries("over", sequence_of(window).room)[1]
    assert spans[sanding.id][0] >= laid + timedelta(hours=through) and through >= 24
    assert spans[coat.id][0] >= spans[sanding.id][1]
    # The layer itself is nothing to be ticked.
    before = session.build
    session.select(step_of(window, "wrong layer").id)
    qtbot.mouseClick(stage.done, Qt.MouseButton.LeftButton)
    assert session.build is before and "until its sanding" in window.prompt.words.text()
    session.undo()
    settle(qtbot, session)
    assert coat.id in session.build.info.done and "sand back" not in {s.kind for s in sequence_of(window).steps}
    session.redo()
    settle(qtbot, session)
    again = opened(path)
    settle(qtbot, again.session)
    assert step_of(again, "sand back").id == sanding.id
    # Sanded, then laid again: nothing more is said of it.
    for step_id in (sanding.id, coat.id):
        session.select(step_id)
        qtbot.mouseClick(stage.done, Qt.MouseButton.LeftButton)
        settle(qtbot, session)
    assert "sand back" not in {s.kind for s in sequence_of(window).steps}


def test_vinyl_and_prints_of_ones_own_are_told_what_they_bear_and_walked_to_paper(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    path = tmp_path / "sledge.chalkreel"
    window = in_front(qtbot, opened(path))
    session, stage = window.session, window.finish
    session.edit("made of", session.build.info, sources=("soft vinyl",))
    sledge(qtbot, window)
    medium = next(c for c in stage.zones.rows_model.columns if c.title == "medium")
    assert medium.put is not None
    medium.put(session.build.all(Zone)[0], "enamel")
    settle(qtbot, session)
    stage.turn_to("Plan")
    settle(qtbot, session)
    assert "soft vinyl" in card_text(window) and "rules broken" in card_text(window)
    # It is no vinyl after all, but printed: told in the table of parts, and one rule less to mind.
    stage.turn_to("Zones")
    for title, text in (("soft vinyl", NO), ("printed", YES)):
        fact = next(c for c in stage.assemblies.rows_model.columns if c.title == title)
        assert fact.put is not None
        fact.put(stage.assemblies.rows_model.rows[0], text)
        settle(qtbot, session)
    assert not [v for v in sequence_of(window).broken if "vinyl" in v.rule]
    session.select(session.build.all(Zone)[0].id)
    settle(qtbot, session)
    form = stage.forms["Zones"]
    assert isinstance(form, ZoneForm)
    decals = field(form.zone, QLineEdit, "Decals")
    assert isinstance(decals, QLineEdit)
    retype(qtbot, decals, "crest, left; oar, under a part")
    settle(qtbot, session)
    sheet = tmp_path / "tonight.pdf"
    with qtbot.waitSignal(session.prompted, timeout=30_000, check_params_cb=lambda words: "Written" in words):
        window.exports.write_evening(sheet)
    assert "Smooth the layer lines" in PdfReader(sheet).pages[0].extract_text()
    book = tmp_path / "book.pdf"
    with qtbot.waitSignal(session.prompted, timeout=60_000, check_params_cb=lambda words: "Written" in words):
        window.exports.write_book(book)
    text = " ".join("".join(page.extract_text() for page in PdfReader(book).pages).split())
    assert "under parts: oar" in text and "crest, left" in text
    session.undo()
    settle(qtbot, session)
    assert not session.build.all(Zone)[0].decal_list
    session.redo()
    settle(qtbot, session)
    again = opened(path)
    settle(qtbot, again.session)
    titles = [s.title for s in sequence_of(again).steps if s.kind in ("decal", "smooth")]
    assert len(titles) == 3 and any("oar" in title for title in titles)


def test_what_went_wrong_is_done_again_with_what_lies_over_it(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.finish
    show_stage(demo_window, "Finish")
    found = sequence_of(demo_window)
    spans = planned_spans(found)
    until = spans["Hull//gloss"][1]
    done = tuple(s.id for s in found.steps if s.id not in spans or spans[s.id][1] <= until)
    session.edit("done", session.build.info, done=done)
    settle(qtbot, session)
    session.select("Hull/Hazard band/stripe")
    settle(qtbot, session)
    qtbot.mouseClick(stage.again, Qt.MouseButton.LeftButton)
    gone = set(done) - set(session.build.info.done)
    assert {"Hull/Hazard band/stripe", "Hull/Hazard band/stripe/2", "Hull/Hazard band/unmask", "Hull//gloss"} <= gone
    # Neither the tape beneath it, nor the zone beside it, nor another assembly.
    assert all(name.startswith(("Hull//", "Hull/Hazard band/", "Hull/hull number/")) for name in gone)
    assert "Hull/Hazard band/mask" not in gone
    # When it was laid nobody wrote down: it dries from now on, and is sanded back then.
    settle(qtbot, session)
    assert any(s.kind == "sand back" and s.zone == "Hazard band" for s in sequence_of(demo_window).steps)
    session.undo()
    assert session.build.info.done == done
    settle(qtbot, session)
    stage.turn_to("Tonight")
    rest = next(s for s in sequence_of(demo_window).steps if s.kind == "make" and s.id not in done)
    session.select(rest.id)
    settle(qtbot, session)
    form = stage.forms["Tonight"]
    assert isinstance(form, Form)
    line = field(form, QLineEdit, "Half done: min left")
    assert isinstance(line, QLineEdit)
    retype(qtbot, line, "15")
    settle(qtbot, session)
    assert next(s for s in sequence_of(demo_window).steps if s.id == rest.id).minutes == 15 < rest.minutes


def test_what_brings_the_end_forward_is_asked_for_and_taken(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window = in_front(qtbot, opened(tmp_path / "sledge.chalkreel"))
    sledge(qtbot, window)
    session, panel = window.session, window.finish.helps
    window.finish.turn_to("Evenings")
    settle(qtbot, session)
    likely = sequence_of(window).likely
    assert likely is not None
    qtbot.mouseClick(panel.ask, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "four times in five" in panel.words.text(), timeout=30_000)
    assert "must be begun" not in panel.words.text()
    takes = [b for b in panel.findChildren(QPushButton) if b.text() == "Take it"]
    assert any("s too, 14:00 to 21:00" in b.accessibleName() for b in takes)
    evenings = len(session.build.all(Evening))
    next(b for b in takes if "s too" in b.accessibleName()).click()
    settle(qtbot, session)
    assert len(session.build.all(Evening)) == evenings + 1 and panel.words.text() == ""
    better = sequence_of(window).likely
    assert better is not None and better.four_in_five < likely.four_in_five
    session.undo()
    settle(qtbot, session)
    assert sequence_of(window).likely == likely
    # With a deadline it says by when to begin.
    session.edit("deadline", session.build.info, deadline=f"{likely.four_in_five + timedelta(days=60):%Y-%m-%d}")
    settle(qtbot, session)
    qtbot.mouseClick(panel.ask, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "must be begun by" in panel.words.text(), timeout=30_000)


def wheelhouse_form(qtbot: QtBot, window: Window) -> Form:
    """The card's form of the demo's wheelhouse zone."""
    show_stage(window, "Finish")
    window.finish.turn_to("Zones")
    window.session.select("zone-Wheelhouse")
    settle(qtbot, window.session)
    form = window.finish.forms["Zones"]
    assert isinstance(form, ZoneForm)
    return form.zone


def test_finish_room_and_dates_are_told_on_the_cards(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.finish
    form = wheelhouse_form(qtbot, demo_window)
    streaks = next(b for b in form.findChildren(QToolButton) if b.text() == "streaks")
    qtbot.waitUntil(lambda: not streaks.isChecked())
    streaks.click()
    zone = session.build.get(Zone, "zone-Wheelhouse")
    assert zone is not None and set(zone.wear) == {"wash", "streaks"}
    kept = field(form, QLineEdit, "Keep it as")
    assert isinstance(kept, QLineEdit)
    retype(qtbot, kept, "lee side")
    assert [k.name for k in session.build.all(KeptFinish)][-1] == "lee side"
    settle(qtbot, session)
    before = finish_of(demo_window)
    stage.turn_to("Evenings")
    dates = stage.forms["Evenings"]
    assert isinstance(dates, Form)

    def tell(name: str, words: str) -> None:
        line = field(dates, QLineEdit, name)
        assert isinstance(line, QLineEdit)
        retype(qtbot, line, words)
        settle(qtbot, session)

    tell("Room, °C", "13")
    assert finish_of(demo_window) > before and "13 °C" in card_text(demo_window)
    tell("Deadline", "2026-12-20")
    assert "deadline in 0 of 100" in card_text(demo_window) and "to cure before the deadline" in card_text(demo_window)
    tell("Room, °C", "45")
    assert "At 45 °C paint does not dry as it should" in card_text(demo_window)
    assert sequence_of(demo_window).timetable is None and sequence_of(demo_window).steps
    tell("Days off", "2026-12-24 to 2026-12-01")
    assert "ends before it begins" in demo_window.prompt.words.text()
    session.edit("room", session.build.entities[BUILD_ID], room_c=20.0)
    settle(qtbot, session)
    assert sequence_of(demo_window).timetable is not None


def test_decals_are_listed_on_their_zone(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    form = wheelhouse_form(qtbot, demo_window)
    decals = field(form, QLineEdit, "Decals")
    assert isinstance(decals, QLineEdit)
    retype(qtbot, decals, "7; tally, under a part; 7")
    assert "one name" in demo_window.prompt.words.text()
    retype(qtbot, decals, "7; tally, under a part")
    settle(qtbot, session)
    laid = [s for s in sequence_of(demo_window).steps if s.kind == "decal" and s.assembly == "Wheelhouse"]
    assert [("tally" in s.title, "7" in s.title) for s in laid] == [(True, False), (False, True)]
    assert decals.text() == "7; tally, under a part"


def test_a_cabinet_is_told_with_its_caution_and_a_plan_made_anew_ends_sooner(qtbot: QtBot, demo_window: Window) -> None:
    session, stage = demo_window.session, demo_window.finish
    show_stage(demo_window, "Finish")
    stage.turn_to("Evenings")
    before = finish_of(demo_window)
    cabinet = next(box for box in stage.forms["Evenings"].findChildren(QCheckBox) if "cabinet" in box.text())
    qtbot.mouseClick(cabinet, Qt.MouseButton.LeftButton)
    settle(qtbot, session)
    # The plan stands as it was, and says what its waits are for; made anew it ends sooner.
    stage.turn_to("Plan")
    assert "no flame or open heater" in card_text(demo_window)
    stage.plan_anew()
    settle(qtbot, session)
    assert finish_of(demo_window) < before
    session.undo()
    settle(qtbot, session)
    assert not sequence_of(demo_window).room.cabinet


def test_a_missed_window_leads_to_an_evening_that_keeps_it(qtbot: QtBot, demo_window: Window) -> None:
    """A wash is laid just now, and the bench is free again long after it can be wiped off."""
    session, found = demo_window.session, sequence_of(demo_window)
    spans = planned_spans(found)
    wash = next(s.id for s in found.steps if s.kind == "wash")
    before = tuple(name for name, (begin, _) in spans.items() if begin <= spans[wash][0])
    now = datetime.now().replace(microsecond=0)
    ended = tuple((name, (now if name == wash else now - timedelta(days=20)).isoformat()) for name in before)
    info = session.build.info
    for evening in session.build.all(Evening):
        session.edit("another day", evening, weekday=(now.weekday() + 4) % 7)
    session.edit("a wash", info, done=(*info.done, *before), done_at=(*info.done_at, *ended), first_bench_day="")
    settle(qtbot, session)
    show_stage(demo_window, "Finish")
    finish, late = demo_window.finish, len(sequence_of(demo_window).timetable.missed)
    qtbot.waitUntil(lambda: any(b.text() == "What would help?" for b in finish.card.findChildren(QPushButton)))
    next(b for b in finish.card.findChildren(QPushButton) if b.text() == "What would help?").click()
    assert late >= 1 and finish.switch.page == "Evenings"
    qtbot.waitUntil(lambda: "By these" in finish.helps.words.text(), timeout=60_000)
    take = finish.helps.findChildren(QPushButton, options=Qt.FindChildOption.FindChildrenRecursively)[1]
    assert "more kept" in take.accessibleName()
    take.click()
    settle(qtbot, session)
    assert len(sequence_of(demo_window).timetable.missed) < late
    session.undo()
    settle(qtbot, session)
    assert len(sequence_of(demo_window).timetable.missed) == late
