"""The window itself: keys, marks by mouse and keyboard, workers, themes, nothing clipped."""

import shutil
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetrics
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.answers.stages import STAGES
from chalkreel.answers.wording import size_name
from chalkreel.app import theme
from chalkreel.app.application import Application
from chalkreel.app.commands import COMMANDS
from chalkreel.app.main import NO_DISPLAY, main
from chalkreel.app.places import SEEN_ON, WORKED_ON
from chalkreel.app.shots import take_shots
from chalkreel.app.window import Window
from chalkreel.document.bench_entities import LogEntry, ReplicaMark
from chalkreel.document.convert_entities import Order
from chalkreel.document.entities import KitPart, Plane, Reading
from chalkreel.document.store import Store
from tests.app.conftest import click_still, drag_still, settle, show_stage


def ready_to_mark(qtbot: QtBot, window: Window, still_id: str = "still-1") -> None:
    show_stage(window, "Measure")
    window.session.choose_still(still_id)
    qtbot.waitUntil(lambda: bool(window.images.levels(window.session.still)))  # type: ignore[arg-type]


def reading(window: Window, entity_id: str) -> Reading:
    found = window.session.build.get(Reading, entity_id)
    assert found is not None
    return found


def test_a_mark_is_dragged_in_image_coordinates_and_undone(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window)
    view, before = demo_window.measure.view, reading(demo_window, "reading-3")
    view.zoom_by(8, view.to_screen(before.b.x_px, before.b.y_px))
    drag_still(qtbot, view, (before.b.x_px, before.b.y_px), (before.b.x_px + 12, before.b.y_px - 20))
    moved = reading(demo_window, "reading-3")
    # The mouse knows whole screen pixels only.
    assert moved.b.x_px == pytest.approx(before.b.x_px + 12, abs=1 / view.zoom)
    assert moved.b.y_px == pytest.approx(before.b.y_px - 20, abs=1 / view.zoom)
    assert moved.a == before.a and moved.b.sigma_px < before.b.sigma_px
    demo_window.session.undo()
    assert reading(demo_window, "reading-3") == before


def test_arrows_nudge_a_quarter_pixel_and_one_change_holds_the_run(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window)
    view, before = demo_window.measure.view, reading(demo_window, "reading-3")
    click_still(qtbot, view, before.a.x_px, before.a.y_px)
    revision = demo_window.session.build.revision
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Up):
        qtbot.keyClick(view, key)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    after = reading(demo_window, "reading-3")
    assert (after.a.x_px, after.a.y_px) == (before.a.x_px + 0.5, before.a.y_px - 0.25)
    assert demo_window.session.build.revision == revision + 1


def test_a_size_is_placed_by_keys_alone_and_esc_backs_out(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window)
    view, session = demo_window.measure.view, demo_window.session
    count = len(session.build.all(Reading))
    demo_window.actions_by_id["tool-s"].trigger()
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert "other end" in demo_window.prompt.words.text()
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    assert "one end" in demo_window.prompt.words.text()
    qtbot.keyClick(view, Qt.Key.Key_Return)
    for _ in range(20):
        qtbot.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    # No landmark was met: nothing becomes a size in one plane by accident.
    pending = demo_window.measure.pending
    assert pending.isVisible() and len(session.build.all(Reading)) == count
    qtbot.keyClick(pending.keep_button, Qt.Key.Key_Space)
    made = session.build.all(Reading)[-1]
    assert len(session.build.all(Reading)) == count + 1
    assert made.b.x_px - made.a.x_px == pytest.approx(40) and made.b.y_px == pytest.approx(made.a.y_px)


def test_a_squared_up_plane_of_known_ratio(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-6")
    stage, session = demo_window.measure, demo_window.session
    demo_window.actions_by_id["tool-p"].trigger()
    for x, y in ((300, 300), (600, 320), (590, 500), (310, 480)):
        click_still(qtbot, stage.view, x, y)
    qtbot.keyClicks(stage.pending.length, "3:2")
    qtbot.keyClicks(stage.pending.name, "stern")
    qtbot.mouseClick(stage.pending.findChildren(QPushButton)[0], Qt.MouseButton.LeftButton)
    plane = next(p for p in session.build.all(Plane) if p.name == "stern")
    assert plane.height_mm is None and plane.width_mm == pytest.approx(1.5)
    assert stage.desk.context.plane.currentText() == "stern"


def test_the_pixel_aspect_changes_what_is_shown(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window, "still-4")
    view = demo_window.measure.view
    shown = view.to_screen(720, 0).x() - view.to_screen(0, 0).x()
    assert shown / (view.to_screen(0, 576).y() - view.to_screen(0, 0).y()) == pytest.approx(4 / 3)


def test_wheel_keeps_the_point_under_the_hand(qtbot: QtBot, demo_window: Window) -> None:
    ready_to_mark(qtbot, demo_window)
    view = demo_window.measure.view
    spot = view.to_screen(900, 300)
    view.zoom_by(3.0, spot)
    assert view.to_still(spot) == pytest.approx((900, 300), abs=1e-6)
    qtbot.keyClick(view, Qt.Key.Key_0)
    assert view.to_screen(0, 0).x() >= 0


def test_every_command_has_a_key_of_its_own_and_does_something(qtbot: QtBot, demo_window: Window) -> None:
    # One key may turn a lamp on the wiring and take a tool on a still: no key does two things in one place.
    for scope in {c.scope for c in COMMANDS}:
        keys = [c.key for c in COMMANDS if c.key and c.scope in ("window", scope)]
        assert len(keys) == len(set(keys))
    assert set(demo_window.actions_by_id) == {c.id for c in COMMANDS}
    demo_window.actions_by_id["help"].trigger()
    told = demo_window.help.text.toPlainText()
    assert demo_window.help.isVisible() and told.startswith("Gather")
    # Its own keys come before the others.
    assert told.index("Add stills") < told.index("Undo")
    qtbot.keyClick(demo_window.help.text, Qt.Key.Key_Escape)
    assert not demo_window.help.isVisible()
    demo_window.actions_by_id["reel"].trigger()
    assert not demo_window.reel.isVisible()


def test_alt_numbers_walk_the_stages_and_space_the_stills(qtbot: QtBot, demo_window: Window) -> None:
    for number, stage in enumerate(STAGES, start=1):
        qtbot.keyClick(demo_window.reel, Qt.Key(Qt.Key.Key_0 + number), Qt.KeyboardModifier.AltModifier)
        assert demo_window.session.stage == stage
        assert demo_window.centres.currentWidget() is demo_window.stages[stage].centre
    assert demo_window.session.still_id == "still-1"
    demo_window.reel.setFocus()
    qtbot.keyClick(demo_window.reel, Qt.Key.Key_Space)
    assert demo_window.session.still_id == "still-2"


def test_space_still_presses_a_focused_button(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Finish")
    button = demo_window.finish.switch.buttons["Zones"]
    button.setFocus()
    qtbot.waitUntil(button.hasFocus)
    qtbot.keyClick(button, Qt.Key.Key_Space)
    assert demo_window.finish.switch.page == "Zones" and demo_window.session.still_id == "still-1"


def test_the_go_to_box_finds_sizes(qtbot: QtBot, demo_window: Window) -> None:
    demo_window.slate.goto.setFocus()
    qtbot.keyClicks(demo_window.slate.goto, "fan flange")
    qtbot.keyClick(demo_window.slate.goto, Qt.Key.Key_Return)
    assert (demo_window.session.stage, demo_window.session.still_id) == ("Measure", "still-3")


def go_to(qtbot: QtBot, window: Window, words: str) -> tuple[str, str]:
    """Find something by its name; the stage and page that show it."""
    window.slate.goto.setFocus()
    qtbot.keyClicks(window.slate.goto, words)
    qtbot.keyClick(window.slate.goto, Qt.Key.Key_Return)
    stage = window.session.stage
    switch = window.stages[stage].page_switch()
    return stage, switch.page if switch is not None else ""


def test_what_is_found_or_undone_is_shown_on_a_page_that_has_it(qtbot: QtBot, demo_window: Window) -> None:
    window, session = demo_window, demo_window.session
    switches = {name: window.stages[name].page_switch() for name in STAGES}
    for kind, pages in SEEN_ON.items():
        stage = "Convert" if kind is KitPart else next(name for name, kinds in WORKED_ON.items() if kind in kinds)
        assert set(pages) <= set(switches[stage].buttons), kind
    for words, where in (
        ("tank scar", ("Convert", "Cuts")),
        ("styrene 0.25", ("Convert", "Stock")),
        ("photograph 2", ("Bench", "Compare")),
        ("log: ", ("Bench", "Log")),
        ("zone: deck", ("Finish", "Zones")),
        ("step: ", ("Finish", "Plan")),
    ):
        assert go_to(qtbot, window, words) == where
    assert window.bench.compare.shown.number == 2 and window.bench.log.chosen().id == session.build.all(LogEntry)[0].id
    # On Tonight a step is seen as well: nothing turns.
    window.finish.turn_to("Tonight")
    assert go_to(qtbot, window, "step: ") == ("Finish", "Tonight")
    order = session.build.all(Order)[0]
    session.edit("price", order, price=9.0)
    window.convert.turn_to("Box")
    session.undo()
    assert session.stage == "Convert" and window.convert.switch.page == "Orders"
    mark = next(m for m in session.build.all(ReplicaMark) if m.photo_id != window.bench.compare.photo_id)
    session.commit("mark gone", {mark.id: None})
    window.bench.turn_to("Log")
    session.undo()
    assert (session.stage, window.bench.switch.page) == ("Bench", "Compare")
    assert window.bench.compare.photo_id == mark.photo_id


def test_the_scale_chain_is_edited_in_place(qtbot: QtBot, demo_window: Window) -> None:
    field = demo_window.slate.links["replica"]
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "1:72")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert demo_window.session.build.chain.replica_ratio == pytest.approx(72)
    settle(qtbot, demo_window.session)
    answers = demo_window.session.answers
    assert answers is not None and answers.sizes is not None
    length = next(r for r in answers.sizes.rows if size_name(answers.build, r) == "Length overall")
    assert length.replica is not None and length.replica.mm == pytest.approx(18_600 / 72, rel=0.02)


def test_the_window_lives_while_answers_are_computed(qtbot: QtBot, demo_window: Window) -> None:
    """The event loop is never held up for long, although recipes for new colours are searched meanwhile."""
    session, gaps, last = demo_window.session, [], time.perf_counter()

    def tick() -> None:
        nonlocal last
        now = time.perf_counter()
        gaps.append(now - last)
        last = now

    timer = QTimer(interval=5)
    timer.timeout.connect(tick)
    timer.start()
    patch = session.build.entities["patch-0"]
    last = time.perf_counter()
    session.edit("reflectance", patch, reflectance=0.35)
    assert session.stale
    settle(qtbot, session)
    timer.stop()
    assert len(gaps) > 10
    # A hundred milliseconds leaves room for a busy machine; the usual gap is under twenty.
    assert sorted(gaps)[int(len(gaps) * 0.95)] < 0.1


def test_stop_leaves_old_answers_grey_and_computing_again_freshens_them(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    old = session.answers
    session.edit("reflectance", session.build.entities["patch-0"], reflectance=0.37)
    session.stop_work()
    qtbot.waitUntil(lambda: not session.busy, timeout=10_000)
    assert session.stale and session.answers is not None
    assert old is not None and session.answers.sequence in (None, old.sequence)
    demo_window.actions_by_id["again"].trigger()
    settle(qtbot, session)
    assert session.answers.build is session.build


def test_the_last_of_many_edits_wins(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    for share in (0.2, 0.25, 0.3, 0.35, 0.4):
        session.edit("reflectance", session.build.entities["patch-0"], reflectance=share)
    settle(qtbot, session)
    assert session.answers is not None and session.answers.build is session.build


def test_a_second_window_reads_and_says_so(
    qtbot: QtBot, opened: Callable[[Path], Window], demo_file: Path, tmp_path: Path
) -> None:
    path = tmp_path / "shared.chalkreel"
    shutil.copy(demo_file, path)
    holder = Store.open(path)
    window = opened(path)
    assert "read only" in window.prompt.state.text()
    before = window.session.build
    part = window.session.build.entities["part-deck"]
    assert not window.session.edit("name", part, name="other")
    assert "Another window" in window.prompt.words.text() and window.session.build is before
    holder.close()


def test_a_refused_file_leaves_the_open_build_as_it_is(qapp: Application, demo_window: Window, tmp_path: Path) -> None:
    foreign = tmp_path / "x.chalkreel"
    foreign.write_text("no build")
    demo_window.open_asked.emit(foreign)
    assert qapp.window is demo_window and "not a Chalk Reel build" in demo_window.prompt.words.text()


def test_the_start_page_tells_why_and_offers_three_ways(qapp: Application, tmp_path: Path) -> None:
    qapp.close_build()
    qapp.begin(tmp_path / "missing.chalkreel")
    assert qapp.start is not None
    assert any("cannot be read" in label.text() for label in qapp.start.findChildren(QLabel))
    form = qapp.start.form
    assert not form.begin_at(tmp_path / "fresh.chalkreel") and "name" in form.chain_told.text()
    form.name.setText("Fresh")
    form.story.setText("12 m")
    form.replica.setText("1:48")
    assert form.begin_at(tmp_path / "fresh.chalkreel")
    assert qapp.start is None and qapp.window is not None
    qapp.close_build()


@pytest.mark.parametrize("name", ["slate", "daylight"])
def test_surfaces_are_exactly_neutral(name: str) -> None:
    t = theme.SLATE if name == "slate" else theme.DAYLIGHT
    for colour in (t.board, t.panel, t.raised, t.edge, t.text, t.quiet, theme.JUDGING_GREY):
        c = QColor(colour)
        assert c.red() == c.green() == c.blue()
    # WCAG contrast of every text colour on its ground.
    for ink in (t.text, t.quiet, t.yellow, t.coral, t.mint):
        assert contrast(ink, t.panel) >= 4.5, ink


def contrast(one: str, other: str) -> float:
    def luminance(name: str) -> float:
        c = QColor(name)
        parts = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in (c.redF(), c.greenF(), c.blueF())]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


def test_the_other_theme_keeps_the_build_and_the_stage(qtbot: QtBot, qapp: Application, demo_window: Window) -> None:
    show_stage(demo_window, "Light")
    session, size = demo_window.session, demo_window.size()
    answers, dark = session.answers, demo_window.grab().toImage().pixelColor(5, 120).lightness()
    demo_window.actions_by_id["theme"].trigger()
    # The same window, its size and its answers: nothing is solved again for a colour.
    assert qapp.window is demo_window and demo_window.size() == size and session.stage == "Light"
    assert session.answers is answers and not session.busy
    assert theme.current().name == "daylight"
    assert demo_window.grab().toImage().pixelColor(5, 120).lightness() > dark + 100
    demo_window.actions_by_id["theme"].trigger()
    assert theme.current().name == "slate"


@pytest.mark.parametrize("stage", STAGES)
def test_nothing_is_clipped_at_the_smallest_size(qtbot: QtBot, demo_window: Window, stage: str) -> None:
    demo_window.resize(1100, 700)
    show_stage(demo_window, stage)
    settle(qtbot, demo_window.session)
    QApplication.processEvents()
    assert (demo_window.width(), demo_window.height()) == (1100, 700)
    frame = demo_window.rect()
    for widget in demo_window.findChildren(QAbstractButton):
        if widget.isVisible() and widget.text() and widget.visibleRegion().isEmpty() is False:
            need = QFontMetrics(widget.font()).horizontalAdvance(widget.text())
            assert widget.width() >= need, (stage, widget.text())
            if isinstance(widget, QPushButton) and not inside_scroll(widget):
                assert frame.contains(widget.mapTo(demo_window, QPoint(widget.width() - 1, widget.height() - 1)))
    for label in demo_window.cards.currentWidget().findChildren(QLabel):
        if label.isVisible() and not label.wordWrap():
            assert label.width() >= QFontMetrics(label.font()).horizontalAdvance(label.text()), (stage, label.text())


def inside_scroll(widget: QPushButton) -> bool:
    parent = widget.parentWidget()
    while parent is not None:
        if parent.objectName() == "card":
            return True
        parent = parent.parentWidget()
    return False


def test_everything_that_takes_focus_has_a_name(demo_window: Window) -> None:
    for kind in (
        demo_window.reel,
        demo_window.slate.name,
        demo_window.slate.goto,
        demo_window.measure.view,
        demo_window.measure.table,
        demo_window.convert.versions.table,
        demo_window.convert.box.view,
        demo_window.convert.cuts.view,
        demo_window.light.lamps,
        demo_window.bench.log,
        demo_window.finish.steps,
        *demo_window.chalkline.stations,
        *demo_window.slate.links.values(),
    ):
        assert kind.accessibleName()
    assert demo_window.chalkline.stations[0].accessibleName() == "Gather, 8 open"


def repaint_seconds(window: Window) -> float:
    view, taken = window.measure.view, []
    for factor in (1.0, 2.0, 3.0, 0.3, 5.0):
        view.zoom_by(factor)
        started = time.perf_counter()
        view.grab()
        taken.append(time.perf_counter() - started)
    return sorted(taken)[2]


def test_a_large_still_is_drawn_about_as_fast_as_a_small_one(qtbot: QtBot, demo_window: Window, tmp_path: Path) -> None:
    ready_to_mark(qtbot, demo_window, "still-5")
    small = repaint_seconds(demo_window)
    path = tmp_path / "large.jpg"
    Image.new("RGB", (6000, 4000), (90, 120, 90)).save(path, quality=60)
    with qtbot.waitSignal(demo_window.session.build_changed, timeout=30_000):
        demo_window.session.add_stills([path])
    settle(qtbot, demo_window.session)
    ready_to_mark(qtbot, demo_window, demo_window.session.still_id)
    # Twenty-four times the pixels; drawn whole it would take about that many times as long.
    assert repaint_seconds(demo_window) < 6 * small


def test_pictures_of_every_view_without_a_monitor(qapp: Application, demo_window: Window, tmp_path: Path) -> None:
    take_shots(qapp, tmp_path)
    shots = sorted(tmp_path.glob("*.png"))
    assert len(shots) == 19
    for shot in shots:
        with Image.open(shot) as image:
            assert image.size == (1280, 800)
            assert len(image.convert("RGB").getcolors(1_000_000) or []) > 200


def test_without_a_display_it_says_so(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    for name in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    assert main(["--demo"]) == 2
    assert capsys.readouterr().err.strip() == NO_DISPLAY


def test_exports_are_written_by_the_worker_and_bad_places_are_told(
    qtbot: QtBot, demo_window: Window, tmp_path: Path
) -> None:
    exports, session = demo_window.exports, demo_window.session
    for write, name in (
        (exports.write_book, "b.pdf"),
        (exports.write_json, "t.json"),
        (exports.write_calendar, "c.ics"),
        (exports.write_evening, "t.pdf"),
        (exports.write_csv, "tables"),
        (exports.write_palette, "colours.gpl"),
    ):
        with qtbot.waitSignal(session.prompted, timeout=30_000, check_params_cb=lambda words: "Written" in words):
            write(tmp_path / name)
        assert (tmp_path / name).exists()
    with qtbot.waitSignal(session.refused, timeout=10_000):
        exports.write_json(tmp_path / "no folder" / "t.json")
    session.edit("reflectance", session.build.entities["patch-0"], reflectance=0.33)
    exports.write_json(tmp_path / "stale.json")
    assert "still being computed" in demo_window.prompt.words.text()
    assert not (tmp_path / "stale.json").exists()
    settle(qtbot, session)
