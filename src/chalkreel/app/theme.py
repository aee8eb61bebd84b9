"""Colours named once, the two themes, the shipped fonts."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files
from typing import Final, Literal

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

ThemeName = Literal["slate", "daylight"]
# The second has the signs that the first lacks.
FAMILIES: Final = ("Open Sans", "Chalk Signs")

# Behind stills and patches: L* = 50 exactly neutral, in both themes.
JUDGING_GREY: Final = "#777777"


@dataclass(frozen=True)
class Theme:
    """Surfaces are exactly neutral; chalk colours are for marks and states only.

    `edge` parts areas, `border` outlines what can be worked, `chosen` lies under chosen rows.
    """

    name: ThemeName
    board: str
    panel: str
    raised: str
    edge: str
    border: str
    chosen: str
    text: str
    quiet: str
    yellow: str
    coral: str
    mint: str
    sky: str
    lilac: str
    on_yellow: str

    def state(self, state: str) -> str:
        """The colour of a state: good, warn, bad, or plain text."""
        return {"good": self.mint, "warn": self.yellow, "bad": self.coral, "quiet": self.quiet}.get(state, self.text)


SLATE: Final = Theme(
    "slate",
    "#1b1b1b",
    "#262626",
    "#333333",
    "#555555",
    "#828282",
    "#3b3b3b",
    "#f4f4f4",
    "#c4c4c4",
    "#f2d06b",
    "#f2917f",
    "#8ed7a8",
    "#8fc4f2",
    "#c9aeea",
    "#1b1b1b",
)
DAYLIGHT: Final = Theme(
    "daylight",
    "#d6d6d6",
    "#e9e9e9",
    "#f8f8f8",
    "#a0a0a0",
    "#6e6e6e",
    "#dcdcdc",
    "#161616",
    "#474747",
    "#745300",
    "#a3301d",
    "#17633a",
    "#14568c",
    "#5f3d8c",
    "#ffffff",
)
# Drawn over pictures, always with a dark halo, the same in both themes.
CHALK: Final = {
    "yellow": "#f2d06b",
    "coral": "#f2917f",
    "mint": "#8ed7a8",
    "sky": "#8fc4f2",
    "lilac": "#c9aeea",
    "white": "#f4f4f4",
    "halo": "#101010",
}

_current: Theme = SLATE


def current() -> Theme:
    """The theme in force."""
    return _current


def chalk(name: str) -> QColor:
    """A chalk colour for drawing over a picture."""
    return QColor(CHALK[name])


def load_fonts() -> None:
    """Make the shipped families known; falls back to the system's where a file cannot be read."""
    for name in ("OpenSans-Regular", "OpenSans-Semibold", "OpenSans-Bold", "ChalkSigns"):
        data = files("chalkreel.fonts").joinpath(f"{name}.ttf").read_bytes()
        QFontDatabase.addApplicationFontFromData(data)


def font(size_px: int, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """The shipped family; its figures are tabular."""
    made = QFont(FAMILIES)
    made.setPixelSize(size_px)
    made.setWeight(weight)
    return made


def apply(app: QApplication, name: ThemeName) -> None:
    """Put a theme's colours and font in force; windows get its style sheet from `dress`."""
    global _current  # noqa: PLW0603 - one theme for the whole process, like Qt's own palette
    _current = t = SLATE if name == "slate" else DAYLIGHT
    app.setStyle("Fusion")
    app.setFont(font(13))
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.panel),
        (QPalette.ColorRole.Base, t.raised),
        (QPalette.ColorRole.Text, t.text),
        (QPalette.ColorRole.WindowText, t.text),
        (QPalette.ColorRole.Button, t.raised),
        (QPalette.ColorRole.ButtonText, t.text),
        (QPalette.ColorRole.Highlight, t.yellow),
        (QPalette.ColorRole.HighlightedText, t.on_yellow),
        (QPalette.ColorRole.PlaceholderText, t.quiet),
        (QPalette.ColorRole.ToolTipBase, t.raised),
        (QPalette.ColorRole.ToolTipText, t.text),
        (QPalette.ColorRole.AlternateBase, t.panel),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)


def dress(app: QApplication) -> None:
    """Lay the present theme's style sheet over all windows: cheapest once they are assembled."""
    app.setStyleSheet(_sheet(_current))


def undress(app: QApplication) -> None:
    """Take the style sheet off, so that a window to be built is not styled widget by widget."""
    app.setStyleSheet("")


def _tick(t: Theme) -> str:
    """The tick in a checked box, drawn for the theme."""
    return str(files("chalkreel.marks").joinpath(f"tick-{t.name}.svg")).replace("\\", "/")


def _sheet(t: Theme) -> str:
    return f"""
    QWidget {{ color: {t.text}; }}
    QLabel[state="quiet"] {{ color: {t.quiet}; }}
    QLabel[state="good"] {{ color: {t.mint}; }}
    QLabel[state="warn"] {{ color: {t.yellow}; }}
    QLabel[state="bad"] {{ color: {t.coral}; }}
    #rule {{ background: {t.edge}; }}
    QToolTip {{ color: {t.text}; background: {t.raised}; border: 1px solid {t.edge}; padding: 3px; }}
    #board, #reel, #film, #prompt, #slate {{ background: {t.board}; }}
    #chalkline {{ background: {t.panel}; }}
    #card {{ background: {t.panel}; border-left: 1px solid {t.edge}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QPushButton, QToolButton {{ background: {t.raised}; border: 1px solid {t.border}; border-radius: 4px;
        padding: 4px 10px; }}
    QPushButton#tool {{ padding: 4px 3px; }}
    QPushButton#tool:focus {{ padding: 3px 2px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.text}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.yellow}; padding: 3px 9px; }}
    QToolButton#toggle {{ padding: 4px 6px; }}
    QToolButton#toggle:focus {{ padding: 3px 5px; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.yellow}; color: {t.on_yellow}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.edge}; border-color: {t.raised}; }}
    QPushButton#folded {{ border: none; border-top: 1px solid {t.edge}; border-radius: 0; text-align: left; }}
    QPushButton#folded:focus {{ border: 2px solid {t.yellow}; }}
    QPushButton#primary {{ background: {t.yellow}; color: {t.on_yellow}; font-weight: 600; border-color: {t.yellow}; }}
    QPushButton#primary:focus {{ border: 2px solid {t.text}; }}
    QLineEdit, QComboBox, QPlainTextEdit {{ background: {t.raised}; border: 1px solid {t.border}; border-radius: 3px;
        padding: 2px 5px; selection-background-color: {t.yellow}; selection-color: {t.on_yellow}; }}
    QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus {{ border: 2px solid {t.yellow}; padding: 1px 4px; }}
    QLineEdit[state="bad"], QLineEdit[state="bad"]:focus {{ border: 2px solid {t.coral}; padding: 1px 4px; }}
    #over {{ background: {t.panel}; border: 1px solid {t.border}; border-radius: 5px; }}
    #echo {{ background: {t.raised}; border: 1px solid {t.edge}; border-radius: 3px; padding: 2px 6px; }}
    QLineEdit:read-only {{ color: {t.quiet}; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; border: 1px solid {t.edge};
        selection-background-color: {t.yellow}; selection-color: {t.on_yellow}; }}
    QTableView {{ background: {t.panel}; alternate-background-color: {t.raised}; border: 1px solid {t.edge};
        gridline-color: {t.edge}; selection-background-color: {t.chosen}; selection-color: {t.text}; }}
    QTableView::item:selected {{ border-top: 1px solid {t.yellow}; border-bottom: 1px solid {t.yellow}; }}
    QTableView::item {{ padding: 0 6px; }}
    QTableView:focus {{ border: 1px solid {t.yellow}; }}
    QHeaderView {{ background: {t.board}; }}
    QHeaderView::section {{ background: {t.board}; color: {t.quiet}; border: none; border-right: 1px solid {t.edge};
        padding: 3px 6px; }}
    QMenu {{ background: {t.raised}; border: 1px solid {t.edge}; padding: 4px; }}
    QMenu::item {{ padding: 4px 18px; }}
    QMenu::item:selected {{ background: {t.yellow}; color: {t.on_yellow}; }}
    QMenu::item:disabled {{ color: {t.edge}; }}
    QCheckBox::indicator, QTableView::indicator {{ width: 14px; height: 14px; border: 1px solid {t.border};
        border-radius: 3px; background: {t.raised}; }}
    QCheckBox::indicator:checked, QTableView::indicator:checked {{ background: {t.yellow}; border-color: {t.yellow};
        image: url({_tick(t)}); }}
    QCheckBox:focus {{ border: 1px solid {t.yellow}; border-radius: 3px; }}
    QTextBrowser {{ background: {t.panel}; border: none; }}
    QListWidget {{ background: transparent; border: none; outline: none; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; }}
    QScrollBar::handle {{ background: {t.border}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QSplitter::handle {{ background: {t.edge}; }}
    """
