"""The kit and the cut list of a subject the demo does not know, by mouse and keys to the file; undone, reopened."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import ezdxf.filemanagement
import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot

from chalkreel.app.convert.model import further_from, further_words, holds_up, waits_for
from chalkreel.app.convert.runner_view import RunnerView
from chalkreel.app.window import Window
from chalkreel.core.errors import RefusedError
from chalkreel.document.convert_entities import CutPiece, Order, StockPiece
from chalkreel.document.entities import Feature, KitPart, Landmark
from chalkreel.document.validated import InvalidBuildError, kept_as_is
from chalkreel.edits.removing import removal
from tests.app.conftest import settle, show_stage
from tests.app.test_whole_slice import card_text

# Hyphens: a key press of the toolkit's tests holds no dash.
GONDOLA = "A1-40, B1-40, C1-40, less C9"


def in_box(window: Window) -> RunnerView:
    show_stage(window, "Convert")
    window.convert.turn_to("Box")
    return window.convert.box.view


def type_ranges(qtbot: QtBot, window: Window, text: str) -> None:
    field = window.convert.box.ranges
    field.setFocus()
    field.clear()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def states(window: Window) -> dict[str, str]:
    return {p.name: p.state for p in window.session.build.all(KitPart) if p.state != "present"}


@pytest.fixture
def gondola(opened: Callable[[Path], Window], tmp_path: Path) -> Window:
    return opened(tmp_path / "gondola.chalkreel")


def test_a_box_of_120_parts_is_taken_in_with_few_keys_and_comes_back(
    qtbot: QtBot, gondola: Window, opened: Callable[[Path], Window], tmp_path: Path
) -> None:
    window, session = gondola, gondola.session
    view = in_box(window)
    type_ranges(qtbot, window, GONDOLA)
    assert len(session.build.all(KitPart)) == 120 and states(window) == {"C9": "missing"}
    assert view.hasFocus(), "the next keys say what is wrong"
    # Five exceptions: runner A at once, then the next runners.
    keys: list[str | Qt.Key] = [*"7s12d", Qt.Key.Key_PageDown, *"3w", Qt.Key.Key_PageDown, *"40k1b"]
    for key in keys:
        if isinstance(key, str):
            qtbot.keyClicks(view, key)
        else:
            qtbot.keyClick(view, key)
    wrong = {"A7": "short", "A12": "damaged", "B3": "warped", "C40": "sunk", "C1": "brittle", "C9": "missing"}
    assert len(keys) + 1 <= 40 and states(window) == wrong
    settle(qtbot, session)
    qtbot.waitUntil(lambda: "114 of 120 parts right" in card_text(window))
    # Let what is wrong become jobs: each has one, with its own verb.
    window.convert.make_jobs(session.answers.conversion.offers)
    settle(qtbot, session)
    jobs = {row.operation.feature: row.operation.verb for row in session.answers.conversion.rows}
    assert jobs == {"A7": "repair", "A12": "repair", "B3": "straighten", "C40": "repair", "C1": "repair", "C9": "add"}
    assert any(step.title == "Straighten B3" for step in session.answers.sequence.steps)
    assert session.answers.conversion.offers == ()
    assert session.answers.conversion.without_evidence == (), "to mend a part takes no still"
    path = session.store.path
    for _ in range(7):
        session.undo()
        assert session.stage == "Convert"
    assert session.build.all(KitPart) == () and session.build.all(Feature) == ()
    for _ in range(7):
        session.redo()
    window = opened(path)
    assert states(window) == wrong and len(window.session.build.all(Feature)) == 6


def test_twins_are_asked_after_together(qtbot: QtBot, gondola: Window) -> None:
    view = in_box(gondola)
    QApplication.clipboard().setText("part;state;count\nA1 port fin;;1\nA2 starboard fin;;1\nB3 wheel;miss;4\n")
    gondola.convert.box.paste.click()
    assert states(gondola) == {"B3 wheel": "missing"}
    qtbot.keyClicks(view, "1w")
    box = gondola.convert.box
    assert box.both.isVisible() and "A2 starboard fin is its twin: warped too?" in box.twin_words.text()
    box.both.click()
    assert states(gondola) == {"B3 wheel": "missing", "A1 port fin": "warped", "A2 starboard fin": "warped"}
    # Four wheels of one number count as four.
    assert "2 of 6" not in states(gondola) and gondola.session.build.all(KitPart)[2].count == 4


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("B22-1", "runs backwards"),
        ("It was a dark and stormy night", "“It” is no part"),
        ("A1-999, B1-999, C9-99", "2000"),
    ],
)
def test_what_is_no_list_stays_in_the_field_with_the_reason(
    qtbot: QtBot, gondola: Window, text: str, said: str
) -> None:
    in_box(gondola)
    told: list[str] = []
    gondola.session.refused.connect(told.append)
    type_ranges(qtbot, gondola, text)
    assert gondola.session.build.all(KitPart) == () and said in told[-1]
    assert gondola.convert.box.ranges.text() == text


def cells(window: Window, row: int, **words: str) -> None:
    """Type into cells of the table in front, by their titles."""
    convert = window.convert
    table = {"Cuts": convert.cuts.table, "Stock": convert.stock.table, "Orders": convert.orders.table}[
        convert.switch.page
    ]
    model = table.rows_model
    for title, text in words.items():
        column = next(n for n, c in enumerate(model.columns) if c.title == title)
        assert model.setData(model.index(row, column), text), f"{title}: {text}"


def put(qtbot: QtBot, window: Window, name: str, text: str, form: str = "Cuts") -> None:
    """Type into a field of a form on the card."""
    fields = window.convert.forms[form].findChildren(QLineEdit)
    field = next(f for f in fields if f.accessibleName() == name)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


@pytest.fixture
def with_pieces(qtbot: QtBot, gondola: Window) -> Window:
    """One sheet of 200 × 100 mm and two kinds of pieces on it."""
    show_stage(gondola, "Convert")
    gondola.convert.turn_to("Stock")
    gondola.convert.stock.add.click()
    cells(gondola, 0, stock="plate", thick="0.5", long="200", wide="100")
    gondola.convert.turn_to("Cuts")
    for number, (name, sizes, count) in enumerate((("side", "120, 40", "2"), ("end", "30, 40", "2"))):
        gondola.convert.cuts.add.click()
        cells(gondola, number, piece=name, thick="0.5", **{"×": count})
        gondola.convert.cuts.table.choose(gondola.session.build.all(CutPiece)[number].id)
        gondola.convert.refresh()
        put(qtbot, gondola, "Sizes", sizes)
        settle(qtbot, gondola.session)
    gondola.convert.refresh()
    return gondola


def test_pieces_are_laid_out_saved_true_to_size_cut_and_uncut(
    qtbot: QtBot, with_pieces: Window, tmp_path: Path
) -> None:
    window, session = with_pieces, with_pieces.session
    (group,) = session.answers.cuts.groups
    (laid,) = group.layout.laid
    assert sorted(session.answers.cuts.titles[p.piece] for p in laid.placed) == ["end", "end", "side", "side"]
    from chalkreel.answers.cut_sheets import cut_sheet

    found = session.answers.cuts
    assert found is not None
    sheet = cut_sheet(session.answers.build, found, (0,))
    exports = window.convert.cuts.exports
    for suffix in (".dxf", ".svg", ".pdf"):
        exports.write_sheet(sheet, tmp_path / f"cuts{suffix}")
        qtbot.waitUntil((tmp_path / f"cuts{suffix}").exists, timeout=20_000)
        settle(qtbot, session)
    drawing = ezdxf.filemanagement.readfile(tmp_path / "cuts.dxf")
    sizes = []
    for line in drawing.modelspace().query("LWPOLYLINE"):
        points = [(p[0], p[1]) for p in line.get_points()]  # type: ignore[attr-defined]
        across = [max(p[n] for p in points) - min(p[n] for p in points) for n in (0, 1)]
        sizes.append(tuple(sorted(round(v, 1) for v in across)))
    assert sorted(s for s in sizes if 0.0 not in s) == [
        (30.0, 40.0),
        (30.0, 40.0),
        (40.0, 120.0),
        (40.0, 120.0),
        (100.0, 200.0),
    ]
    assert re.search(r'width="[\d.]+mm"', (tmp_path / "cuts.svg").read_text())
    assert "side" in "".join(page.extract_text() for page in PdfReader(tmp_path / "cuts.pdf").pages)
    window.convert.cut_now(0)
    settle(qtbot, session)
    assert all(piece.cut for piece in session.build.all(CutPiece)) and session.answers.cuts.rows == ()
    plate, *offcuts = session.build.all(StockPiece)
    assert plate.count == 0 and all(o.offcut and o.count == 1 for o in offcuts)
    # Two sides and two ends (30 by 40) leave at least 200 × 19 or 49 × 100 whole, and no more than the rest of it all.
    areas = [o.long_mm * o.wide_mm for o in offcuts]
    assert areas[0] >= 3_800 and sum(areas) <= 200 * 100 - 2 * 120 * 40 - 2 * 30 * 40
    session.undo()
    settle(qtbot, session)
    assert not any(piece.cut for piece in session.build.all(CutPiece)) and len(session.build.all(StockPiece)) == 1


def test_what_cannot_be_cut_is_told_and_nothing_is_lost(qtbot: QtBot, with_pieces: Window) -> None:
    window, session = with_pieces, with_pieces.session
    cells(window, 0, thick="1.5")
    settle(qtbot, session)
    # Three sheets of 0.5 make it: one sheet is not enough for six sides.
    row = session.answers.cuts.rows[0]
    assert row.layers_mm == (0.5, 0.5, 0.5)
    assert any("No sheet is left" in words for words in session.answers.cuts.open)
    window.convert.cuts.table.choose(session.build.all(CutPiece)[0].id)
    window.convert.refresh()
    put(qtbot, window, "Sizes", "260, 40")
    settle(qtbot, session)
    assert any("too large for any sheet: 60.0 mm over" in words for words in session.answers.cuts.open)
    told: list[str] = []
    session.refused.connect(told.append)
    put(qtbot, window, "Sizes", "260")
    assert "Type 2 sizes" in told[-1] and session.build.all(CutPiece)[0].sizes_mm == (260.0, 40.0)
    field = next(
        f for f in window.convert.forms["cutting"].findChildren(QLineEdit) if f.accessibleName() == "Blade takes"
    )
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "-1 mm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert len(told) > 1 and session.answers.cuts.kerf_mm == 0.3


def test_an_order_on_no_day_of_the_calendar_is_no_part_of_a_build() -> None:
    with pytest.raises(InvalidBuildError):
        kept_as_is(Order(id="o", name="lens", ordered_on="2026-02-31"))


def test_an_order_without_a_plan_says_so_and_one_that_came_is_done(qtbot: QtBot, gondola: Window) -> None:
    show_stage(gondola, "Convert")
    gondola.convert.turn_to("Orders")
    gondola.convert.orders.add.click()
    cells(gondola, 0, order="brass props", days="5, 30")
    (order,) = gondola.session.build.all(Order)
    assert (order.usual_days, order.worst_days) == (5, 30)
    settle(qtbot, gondola.session)
    model = gondola.convert.orders.table.rows_model
    due = next(n for n, c in enumerate(model.columns) if c.title == "order by")
    assert model.index(0, due).data() == "when it is needed is not planned yet"
    cells(gondola, 0, came="today")
    gondola.convert.refresh()
    assert str(model.index(0, due).data()).startswith("✓ came on")


def test_stock_outlasts_the_build(with_pieces: Window, opened: Callable[[Path], Window], tmp_path: Path) -> None:
    with_pieces.convert.turn_to("Stock")
    with_pieces.convert.stock.outward.click()
    other = opened(tmp_path / "other.chalkreel")
    show_stage(other, "Convert")
    other.convert.turn_to("Stock")
    for _ in range(2):
        other.convert.stock.inward.click()
    (plate,) = other.session.build.all(StockPiece)
    assert (plate.name, plate.thick_mm, plate.long_mm, plate.count) == ("plate", 0.5, 200.0, 1)


def test_a_part_gets_its_photograph_and_a_feature_its_order(qtbot: QtBot, gondola: Window, tmp_path: Path) -> None:
    window, session = gondola, gondola.session
    view = in_box(window)
    type_ranges(qtbot, window, "A1-3")
    qtbot.keyClicks(view, "2m")
    Image.new("RGB", (640, 480), (120, 110, 90)).save(tmp_path / "part.png")
    window.convert.box.put_photograph(tmp_path / "part.png")
    qtbot.waitUntil(lambda: bool(session.build.all(KitPart)[1].photo), timeout=20_000)
    qtbot.waitUntil(window.convert.box.picture.isVisible, timeout=20_000)
    settle(qtbot, session)
    window.convert.make_jobs(session.answers.conversion.offers)
    (feature,) = session.build.all(Feature)
    session.edit("way", feature, way="order")
    settle(qtbot, session)
    (job,) = session.answers.conversion.rows
    assert job.operation.material == "the ordered part"
    window.convert.turn_to("Orders")
    make = next(b for b in window.convert.card.findChildren(QPushButton) if b.text() == "Make the orders")
    make.click()
    (order,) = session.build.all(Order)
    assert (order.name, order.feature_id, order.source) == ("A2", feature.id, "order")
    settle(qtbot, session)
    window.convert.turn_to("Jobs")
    assert waits_for(session.build, job) == "A2: not ordered"
    assert holds_up(job) == "before primer: holds up the primer of Hull"


def test_further_sizes_of_a_feature_are_named_and_told(qtbot: QtBot, demo_window: Window) -> None:
    session = demo_window.session
    feature = session.build.get(Feature, "feature-6")
    assert feature is not None
    ids = further_from(session.build, "Louvre width; fin height, PORT")
    session.edit("more sizes", feature, other_dimension_ids=ids)
    named = session.build.get(Feature, "feature-6")
    assert named is not None and further_words(session.build, named) == "Louvre width; Fin height, port"
    settle(qtbot, session)
    row = next(r for r in session.answers.conversion.rows if r.feature_id == "feature-6")
    assert [i for i, _ in row.further] == list(ids) and all(20 < size.mm < 60 for _, size in row.further)
    with pytest.raises(RefusedError, match="no size “keel”"):
        further_from(session.build, "keel")
    session.commit("size removed", removal(session.build, ids[0]))
    assert session.build.get(Feature, "feature-6").other_dimension_ids == ids[1:]


def test_a_click_on_the_drawing_chooses_the_job_there(qtbot: QtBot, demo_window: Window) -> None:
    show_stage(demo_window, "Convert")
    jobs = demo_window.convert.jobs
    demo_window.convert.turn_to("Jobs")
    demo_window.convert.refresh()
    assert jobs._sheet is not None
    mark = next(w for w in jobs._sheet.words if w.words == "7")
    qtbot.mouseClick(jobs.drawing, Qt.MouseButton.LeftButton, pos=jobs.drawing.to_screen(*mark.at).toPoint())
    assert jobs.row is not None and jobs.row.operation.feature == "fan shrouds"
    form, id_ = demo_window.convert.forms["Jobs"], jobs.row.feature_id
    place = next(box for box in form.findChildren(QComboBox) if box.accessibleName() == "Sits at")
    landmark = demo_window.session.build.all(Landmark)[0]
    place.setCurrentText(landmark.name)
    place.activated.emit(place.currentIndex())
    assert demo_window.session.build.get(Feature, id_).landmark_id == landmark.id
    demo_window.session.undo()
    demo_window.convert.turn_to("Versions")
    versions = demo_window.convert.versions
    versions.table.choose("feature-2")
    kit, built = versions.stills.views
    assert kit.still is not None and built.still is not None and (kit.still.number, built.still.number) == (5, 2)
    before = built.zoom
    built.zoom_by(2.0)
    assert built.zoom == pytest.approx(2 * before) and kit.zoom < 2 * before
