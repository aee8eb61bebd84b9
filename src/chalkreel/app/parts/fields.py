"""Short forms: each field shows one value and commits it when the user is done with it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QGridLayout,
    QLineEdit,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from chalkreel.app.parts.echo import Echo, Understand
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError


class Form(QWidget):
    """Labelled fields. Refused words stay where they are, with the reason; the old ones come back with Esc."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layout = QFormLayout(self)
        self._layout.setContentsMargins(0, 0, 0, 0)
        self._layout.setVerticalSpacing(6)
        self._layout.setLabelAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self._layout.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        self._refreshers: list[Callable[[], None]] = []

    def heading(self, words: Callable[[], str]) -> None:
        """A line over the fields."""
        label = PlainLabel()
        label.setWordWrap(True)
        label.setStyleSheet("font-weight: 600;")
        self._layout.addRow(label)
        self._refreshers.append(lambda: label.setText(words()))

    def text(
        self, name: str, get: Callable[[], str], put: Callable[[str], object], understand: Understand | None = None
    ) -> TextField:
        """A line of text; `understand` says while it is typed what it is taken for."""
        field = TextField(get, put, self._session, understand)
        field.setAccessibleName(name)
        self._layout.addRow(name, field)
        self._refreshers.append(field.refresh)
        return field

    def choice(
        self,
        name: str,
        options: Callable[[], Sequence[tuple[str, str]]],
        get: Callable[[], str],
        put: Callable[[str], object],
    ) -> QComboBox:
        """One of several (key, words)."""
        box = QComboBox()
        box.setAccessibleName(name)
        box.setMinimumContentsLength(8)
        box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self._layout.addRow(name, box)

        box.activated.connect(lambda: attempt(self._session, lambda: put(box.currentData())))
        self._refreshers.append(lambda: fill(box, options(), get()))
        return box

    def check(self, words: str, get: Callable[[], bool], put: Callable[[bool], object]) -> QCheckBox:
        """Yes or no."""
        box = QCheckBox(words)
        self._layout.addRow("", box)
        box.clicked.connect(put)
        self._refreshers.append(lambda: box.setChecked(get()))
        return box

    def toggles(
        self,
        name: str,
        columns: Sequence[Sequence[str]],
        get: Callable[[], Collection[str]],
        put: Callable[[str, bool], object],
    ) -> dict[str, QToolButton]:
        """Words that hold or do not, each by itself; those that exclude each other stand in one column."""
        block = QWidget()
        grid = QGridLayout(block)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        buttons: dict[str, QToolButton] = {}
        for row, column, word in ((r, c, word) for c, words in enumerate(columns) for r, word in enumerate(words)):
            buttons[word] = button = QToolButton()
            button.setObjectName("toggle")
            button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            button.setText(word)
            button.setCheckable(True)
            button.setAccessibleName(f"{name}: {word}")
            button.clicked.connect(lambda on, word=word: attempt(self._session, lambda: put(word, on)))
            grid.addWidget(button, row, column)
        self._layout.addRow(name, block)

        def show() -> None:
            held = get()
            for word, button in buttons.items():
                button.setChecked(word in held)

        self._refreshers.append(show)
        return buttons

    def refresh(self) -> None:
        """Show the present values."""
        for refresher in self._refreshers:
            refresher()


class TextField(QLineEdit):
    """A line that commits on Enter or when left, and goes back with Esc; refused words stay, with the reason."""

    def __init__(
        self,
        get: Callable[[], str],
        put: Callable[[str], object],
        session: Session,
        understand: Understand | None = None,
    ) -> None:
        super().__init__()
        self._get, self._put, self._session = get, put, session
        self.echo = Echo(self, understand)
        self.editingFinished.connect(self._commit)

    def refresh(self) -> None:
        """Show the present value, unless other words are being typed or were refused."""
        if not self._held and not (self.hasFocus() and self.isModified()):
            self._show_present()

    @property
    def _held(self) -> bool:
        """Whether words stand here that were refused."""
        return bool(self.property("state") == "bad")

    def _show_present(self) -> None:
        self.setText(self._get())
        self.setCursorPosition(0)
        self._mark("")
        self.echo.hush()

    def _mark(self, state: str) -> None:
        if (self.property("state") or "") != state:
            self.setProperty("state", state)
            self.style().unpolish(self)
            self.style().polish(self)

    def keyPressEvent(self, event: object) -> None:
        if event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            self._show_present()
            return
        super().keyPressEvent(event)  # type: ignore[arg-type]

    def _commit(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            self._put(self.text())
        except RefusedError as refusal:
            self._mark("bad")
            self.echo.say(f"✗ {refusal}", "bad")
            self._session.refused.emit(str(refusal))
        else:
            self._show_present()


def fill(box: QComboBox, options: Sequence[tuple[str, str]], chosen: object = None) -> None:
    """Offer (key, words) in a box, keeping what was chosen, or choosing `chosen` where it is given."""
    present = [(box.itemData(i), box.itemText(i)) for i in range(box.count())]
    kept = box.currentData() if chosen is None else chosen
    if present != list(options):
        box.clear()
        for key, words in options:
            box.addItem(words, key)
    box.setCurrentIndex(max(0, box.findData(kept)))


def attempt(session: Session, act: Callable[[], object]) -> bool:
    """Do something the core may refuse; a refusal is announced where the eye is, in the prompt strip."""
    try:
        act()
    except RefusedError as refusal:
        session.refused.emit(str(refusal))
        return False
    return True
