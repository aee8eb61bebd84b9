"""A shelf in an evening, on an empty build by mouse and keys; undone, reopened, and with something missing."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QLabel
from pytestqt.qtbot import QtBot
from tools.painted_sheets import card, demo_colours, demo_stripes, stripes

from chalkreel.app.window import Window
from chalkreel.document.paint_entities import ShelfPaint, Stripe
from tests.app.conftest import in_front, settle, show_stage

NAMES = "marsh yellow\tfrom the tin\nbrick\nharbour teal; old\n\nslate\nnight blue\nnever opened\n"


def photographs(folder: Path) -> tuple[Path, Path, Path]:
    """Of the painted sheet, of a card, and of nothing."""
    paths = folder / "sheet 1.png", folder / "card.png", folder / "bench.png"
    pictures = stripes(1, demo_stripes()), card(demo_colours()), np.full((200, 300, 3), 90, np.uint8)
    for path, pixels in zip(paths, pictures, strict=True):
        Image.fromarray(pixels).save(path)
    return paths


def on_page(qtbot: QtBot, window: Window, page: str = "Stripes") -> None:
    show_stage(window, "Colour")
    qtbot.mouseClick(window.colour.switch.buttons[page], Qt.MouseButton.LeftButton)  # type: ignore[index]


def press(qtbot: QtBot, window: Window, words: str) -> None:
    qtbot.mouseClick(window.colour.stripes.buttons[words], Qt.MouseButton.LeftButton)
    settle(qtbot, window.session)


def card_words(window: Window) -> str:
    return "\n".join(label.text() for label in window.colour.card.answers.findChildren(QLabel))


def by_source(window: Window) -> dict[str, str]:
    return {p.name: p.source for p in window.session.build.all(ShelfPaint)}


def test_a_shelf_is_filled_from_names_and_one_photograph(
    qtbot: QtBot, opened: Callable[[Path], Window], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = opened(tmp_path / "own.chalkreel")
    on_page(qtbot, window)
    page, session = window.colour.stripes, window.session
    press(qtbot, window, "Print sheets…")
    assert "names of your bottles first" in window.prompt.words.text()
    press(qtbot, window, "All guesses of the shelf")
    assert "no row yet" in window.prompt.words.text()
    # Names as they are kept elsewhere, one by hand; the white has no bottle of its own on the list.
    QGuiApplication.clipboard().setText(NAMES)
    press(qtbot, window, "Paste names")
    page.medium.setCurrentText("enamel")
    page.name.setFocus()
    qtbot.keyClicks(page.name, "late grey")
    qtbot.keyClick(page.name, Qt.Key.Key_Return)
    settle(qtbot, session)
    assert [r.stripe.name for r in page.table.rows_model.rows][5:] == ["never opened", "late grey"]
    assert page.count.text() == "1 sheet: 7 to print" and page.name.text() == ""
    assert "Print 1 sheet" in card_words(window)
    path = tmp_path / "sheets.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    press(qtbot, window, "Print sheets…")
    words = PdfReader(path).pages[0].extract_text()
    assert all(name in words for name in ("marsh yellow", "late grey", "your white", "ventilation"))
    assert page.count.text() == "1 sheet: 7 to paint and photograph"
    # The painted sheet, beside two photographs that are none.
    paths = photographs(tmp_path)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(p) for p in paths], ""))
    press(qtbot, window, "Read photographs…")
    told = window.prompt.words.text()
    assert "6 paints read" in told and "card.png: This is a photograph of a drawdown card" in told and "more" in told
    assert by_source(window) == dict.fromkeys(
        ("white", "marsh yellow", "brick", "harbour teal", "slate", "night blue"), "stripe"
    )
    assert page.count.text() == "1 sheet: 2 to paint and photograph, 5 on the shelf"
    on_page(qtbot, window, "Shelf")
    assert "all by stripe" in card_words(window)
    assert {r.paint.medium for r in window.colour.shelf.table.rows_model.rows if r.name == "brick"} == {"water acrylic"}
    # Taken back in one step each, and brought back; kept in the file.
    session.undo()
    assert by_source(window) == {} and len(session.build.all(Stripe)) == 7
    while session.build.all(Stripe):
        session.undo()
    for _ in range(4):
        session.redo()
    assert len(by_source(window)) == 6
    settle(qtbot, session)
    again = opened(tmp_path / "own.chalkreel")
    on_page(qtbot, again)
    assert again.colour.stripes.count.text() == "1 sheet: 2 to paint and photograph, 5 on the shelf"


def test_rows_are_edited_taken_off_and_read_again(
    qtbot: QtBot, demo_window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, session = demo_window, demo_window.session
    on_page(qtbot, window)
    page = window.colour.stripes
    model = page.table.rows_model
    titles = [column.title for column in model.columns]

    def put(row: int, title: str, text: str) -> bool:
        return bool(model.setData(model.index(row, titles.index(title)), text))

    assert put(0, "bottle", "reed  yellow") and put(0, "dries", "satin") and put(0, "medium", "enamel")
    settle(qtbot, session)
    assert not put(1, "bottle", "slate") and not put(1, "bottle", " ")
    stripe = session.build.all(Stripe)[0]
    assert (stripe.name, stripe.medium, stripe.sheen) == ("reed yellow", "enamel", "satin")
    page.table.setCurrentIndex(model.index(4, titles.index("bottle")))
    in_front(qtbot, window)
    page.table.setFocus()
    qtbot.waitUntil(page.table.hasFocus)
    qtbot.keyClick(page.table, Qt.Key.Key_Delete)
    settle(qtbot, session)
    assert [s.name for s in session.build.all(Stripe)] == ["reed yellow", "brick", "harbour teal", "slate"]
    before = by_source(window)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(photographs(tmp_path)[0])], ""))
    press(qtbot, window, "Read photographs…")
    new = {name: source for name, source in by_source(window).items() if name not in before}
    assert new == dict.fromkeys(("reed yellow", "brick", "harbour teal", "slate"), "stripe")
    yellow = next(p for p in session.build.all(ShelfPaint) if p.name == "reed yellow")
    assert (yellow.medium, yellow.sheen) == ("enamel", "satin")
    # The shelf's own metered white stays as it was.
    assert {name: by_source(window)[name] for name in before} == before
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(tmp_path / "bench.png")], ""))
    press(qtbot, window, "Read photographs…")
    assert "0 of the stripes sheet’s four corner marks" in window.prompt.words.text()
