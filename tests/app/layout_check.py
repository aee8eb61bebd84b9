"""What is wrong with how a window is laid out, by the widgets' own metrics: clipped words, overlaps, things outside.

Run as a script it walks all pages at the scale factor and theme of its environment and prints what it finds.
"""

from __future__ import annotations

from itertools import combinations

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QWidget,
)

from chalkreel.app.parts.chalkline import Station
from chalkreel.app.parts.plain import ElidedLabel
from chalkreel.app.window import Window


def problems(window: QWidget) -> list[str]:
    """Everything that is wrong in the visible widgets of a window."""
    shown = [w for w in window.findChildren(QWidget) if w.isVisible() and w.window() is window]
    found = [f"“{words_of(w)}” needs {need} px and has {w.width()}" for w in shown if (need := needed(w)) > w.width()]
    found += [f"{name(w)} is outside the window" for w in shown if outside(w, window)]
    found += [f"{name(w)} is cut at its right edge" for w in shown if cut(w)]
    for parent in {w.parentWidget() for w in shown}:
        kids = [w for w in shown if w.parentWidget() is parent and w.objectName() != "echo"]
        if parent is None or parent.inherits("QSplitter") or parent.inherits("QStackedWidget"):
            continue
        for a, b in combinations(kids, 2):
            both = a.geometry().intersected(b.geometry())
            if both.width() > 1 and both.height() > 1 and is_content(a) and is_content(b):
                found.append(f"{name(a)} lies over {name(b)}")
    return found


def words_of(widget: QWidget) -> str:
    text = getattr(widget, "text", None)
    return str(text()) if callable(text) else widget.accessibleName()


def name(widget: QWidget) -> str:
    return f"{type(widget).__name__} “{words_of(widget) or widget.accessibleName()}”"


def needed(widget: QWidget) -> int:
    """How wide the words of a widget are."""
    metrics = widget.fontMetrics()
    if isinstance(widget, QLabel):
        whole = widget.wordWrap() or isinstance(widget, ElidedLabel) or "\n" in widget.text()
        longest = max(widget.text().split(), key=metrics.horizontalAdvance, default="") if whole else widget.text()
        return 0 if isinstance(widget, ElidedLabel) else metrics.horizontalAdvance(longest)
    if isinstance(widget, QCheckBox):
        return metrics.horizontalAdvance(widget.text()) + 18
    if isinstance(widget, QAbstractButton) and not isinstance(widget, Station) and widget.objectName() != "folded":
        return max((metrics.horizontalAdvance(line) for line in widget.text().split("\n")), default=0) + 6
    return 0


def is_content(widget: QWidget) -> bool:
    return isinstance(widget, (QLabel, QAbstractButton, QLineEdit, QComboBox, QAbstractScrollArea))


def outside(widget: QWidget, window: QWidget) -> bool:
    """Whether something lies outside the window that no scrolling brings in."""
    if not is_content(widget) or scrolls(widget):
        return False
    place = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())
    return not window.rect().contains(place)


def cut(area: QWidget) -> bool:
    """Whether what scrolls up and down only is wider than there is room for."""
    if not isinstance(area, QScrollArea) or area.widget() is None:
        return False
    off = area.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff
    return off and area.widget().width() > area.viewport().width()


def scrolls(widget: QWidget) -> bool:
    parent = widget.parentWidget()
    while parent is not None:
        if isinstance(parent, QAbstractScrollArea):
            return True
        parent = parent.parentWidget()
    return False


def pages(window: Window) -> list[tuple[str, str]]:
    """Every stage with each of its pages."""
    found: list[tuple[str, str]] = []
    for station in window.chalkline.stations:
        switch = window.stages[station.stage].page_switch()
        found += [(str(station.stage), page) for page in (switch.buttons if switch is not None else [""])]
    return found


def show(window: Window, stage: str, page: str) -> None:
    window.session.choose_stage(stage)  # type: ignore[arg-type]
    switch = window.stages[stage].page_switch()  # type: ignore[index]
    if switch is not None:
        switch.show_page(page)
    window.stages[stage].refresh()  # type: ignore[index]
    for _ in range(3):
        QApplication.processEvents()


def walk(window: Window, sizes: tuple[tuple[int, int], ...]) -> list[str]:
    """Problems of all pages at all sizes."""
    found = []
    for size in sizes:
        window.resize(*size)
        for stage, page in pages(window):
            show(window, stage, page)
            found += [f"{size[0]}×{size[1]}, {stage} {page}: {words}" for words in problems(window)]
            if (window.width(), window.height()) != size:
                found.append(f"{size[0]}×{size[1]}, {stage} {page}: the window is {window.width()}×{window.height()}")
    return found


if __name__ == "__main__":
    import os

    from chalkreel.app.application import Application
    from chalkreel.app.shots import settle

    app = Application(["chalk-reel"])
    app.open_demo()
    assert app.window is not None and app.session is not None
    settle(app.session)
    for line in walk(app.window, ((900, 500), (1280, 800))):
        print(line)  # noqa: T201 - what the test reads
    os._exit(0)
