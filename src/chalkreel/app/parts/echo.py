"""What was understood of the words in a field, or why not, on a small label right under it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtWidgets import QLineEdit

from chalkreel.app.parts.plain import PlainLabel
from chalkreel.core.errors import RefusedError

Understand = Callable[[str], str]
GAP = 2


class Echo(QObject):
    """Follows one field: speaks while words are typed, keeps a refusal until they are changed, and leaves with them."""

    def __init__(self, field: QLineEdit, understand: Understand | None = None) -> None:
        super().__init__(field)
        self._field, self._understand = field, understand
        self.label: PlainLabel | None = None
        field.textEdited.connect(self._heard)
        field.installEventFilter(self)

    @property
    def words(self) -> str:
        """What is being said; empty for nothing."""
        return self.label.text() if self.label is not None and not self.label.isHidden() else ""

    def say(self, words: str, state: str = "plain") -> None:
        """Say something under the field; no words hide it."""
        if not words:
            self.hush()
            return
        if self.label is None or self.label.parent() is not self._field.window():
            self.label = PlainLabel()
            self.label.setParent(self._field.window())
            self.label.setObjectName("echo")
            # A cell's field lives as long as its edit; the label hangs on the window.
            self._field.destroyed.connect(self.label.deleteLater)
            self.label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.label.setText(words)
        self.label.set_state(state)
        self.label.setWordWrap(False)
        self._place(self.label)
        self._field.setAccessibleDescription(words)

    def hush(self) -> None:
        """Say nothing more."""
        if self.label is not None:
            self.label.hide()
        self._field.setAccessibleDescription("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.FocusOut, QEvent.Type.Hide):
            self.hush()
        return super().eventFilter(watched, event)

    def _heard(self, text: str) -> None:
        if self._understand is None or not text.strip():
            self.hush()
            return
        try:
            self.say(self._understand(text))
        except RefusedError as refusal:
            self.say(f"✗ {refusal}", "bad")

    def _place(self, label: PlainLabel) -> None:
        window = self._field.window()
        label.adjustSize()
        if label.width() > window.width() // 2:
            label.setWordWrap(True)
            label.resize(window.width() // 2, label.heightForWidth(window.width() // 2))
        below = self._field.mapTo(window, QPoint(0, self._field.height() + GAP))
        if below.y() + label.height() > window.height():
            below.setY(self._field.mapTo(window, QPoint(0, 0)).y() - label.height() - GAP)
        below.setX(max(0, min(below.x(), window.width() - label.width() - 4)))
        label.move(below)
        label.raise_()
        label.show()
