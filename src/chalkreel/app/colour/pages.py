"""The pages of the Colour stage and the buttons that bring them to the front."""

from __future__ import annotations

from typing import Final, Literal

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

Page = Literal["Stills", "Mix", "Layers", "Pots", "Shelf"]
PAGES: Final[tuple[Page, ...]] = ("Stills", "Mix", "Layers", "Pots", "Shelf")


class PageSwitch(QWidget):
    """Which page is in front.

    Signals
    -------
    changed(): another page was chosen.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.page: Page = "Stills"
        self.buttons = {page: QPushButton(page) for page in PAGES}
        group = QButtonGroup(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        for page, button in self.buttons.items():
            button.setObjectName("tool")
            button.setCheckable(True)
            group.addButton(button)
            row.addWidget(button)
            button.clicked.connect(lambda _, page=page: self.show_page(page))
        row.addStretch(1)
        self.show_page("Stills")

    def show_page(self, page: Page) -> None:
        """Bring a page to the front."""
        self.page = page
        self.buttons[page].setChecked(True)
        self.changed.emit()
