"""What is painted on a widget, handed to assistive tools thing by thing: each has its words and its place."""

from __future__ import annotations

from typing import Protocol, runtime_checkable

import shiboken6
from PySide6.QtCore import QObject, QPoint, QPointF, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleEvent, QAccessibleInterface, QWindow
from PySide6.QtWidgets import QAccessibleWidget, QWidget

# A thing: what it is in words, and where it is painted.
Thing = tuple[str, QRectF]
ROLE = QAccessible.Role


def spot(words: str, at: QPointF, reach: float) -> Thing:
    """A thing that is a point, as large as the reach within which it is met."""
    corner = QPointF(reach, reach)
    return words, QRectF(at - corner, at + corner)


@runtime_checkable
class Painted(Protocol):
    """A widget that paints things of which each can be spoken."""

    def things(self) -> tuple[Thing, ...]:
        """What is painted now."""


class _PaintedThing(QAccessibleInterface):
    """One thing of a widget, by its place in the list; it follows what the widget paints."""

    def __init__(self, widget: QWidget, index: int) -> None:
        super().__init__()
        self._widget, self._index = widget, index

    def _thing(self) -> Thing | None:
        if not shiboken6.isValid(self._widget) or not isinstance(self._widget, Painted):
            return None
        things = self._widget.things()
        return things[self._index] if self._index < len(things) else None

    def isValid(self) -> bool:
        return self._thing() is not None

    def object(self) -> QObject | None:  # type: ignore[override]  # a thing that is painted has none
        return None

    def window(self) -> QWindow | None:  # type: ignore[override]  # none where the widget is gone
        return self._widget.window().windowHandle() if shiboken6.isValid(self._widget) else None

    def parent(self) -> QAccessibleInterface | None:  # type: ignore[override]  # none where the widget is gone
        return QAccessible.queryAccessibleInterface(self._widget) if shiboken6.isValid(self._widget) else None

    def child(self, _: int) -> QAccessibleInterface | None:  # type: ignore[override]  # it has no parts
        return None

    def childAt(self, _x: int, _y: int) -> QAccessibleInterface | None:  # type: ignore[override]  # it has no parts
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, _: QAccessibleInterface) -> int:
        return -1

    def rect(self) -> QRect:
        found = self._thing()
        if found is None:
            return QRect()
        place = found[1].toAlignedRect()
        return QRect(self._widget.mapToGlobal(place.topLeft()), place.size())

    def role(self) -> QAccessible.Role:
        return ROLE.ListItem

    def state(self) -> QAccessible.State:
        return QAccessible.State()

    def text(self, kind: QAccessible.Text) -> str:
        found = self._thing()
        return found[0] if found is not None and kind == QAccessible.Text.Name else ""

    def setText(self, _: QAccessible.Text, _words: str) -> None:
        """What is painted is not edited here."""


class _PaintedWidget(QAccessibleWidget):
    """A painted widget as the list of its things."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget, ROLE.List, widget.accessibleName())
        self._widget = widget
        self._known: list[_PaintedThing] = []

    def childCount(self) -> int:
        return len(self._widget.things()) if isinstance(self._widget, Painted) else 0

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]  # none beyond the last
        if not 0 <= index < self.childCount():
            return None
        while len(self._known) <= index:
            thing = _PaintedThing(self._widget, len(self._known))
            QAccessible.registerAccessibleInterface(thing)
            self._known.append(thing)
        return self._known[index]

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]  # none on bare ground
        at = self._widget.mapFromGlobal(QPoint(x, y)).toPointF()
        things = self._widget.things() if isinstance(self._widget, Painted) else ()
        # What is painted last lies on top.
        hit = (index for index in reversed(range(len(things))) if things[index][1].contains(at))
        return self.child(next(hit, -1))

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((n for n, thing in enumerate(self._known) if thing is child), -1)

    def forget(self) -> None:
        """Give the things back; the widget is gone."""
        for thing in self._known:
            QAccessible.deleteAccessibleInterface(QAccessible.uniqueId(thing))
        self._known.clear()


# The toolkit holds what is handed to it, but not its Python side; kept for as long as the widget lives.
_interfaces: dict[int, _PaintedWidget] = {}


def _made(_: str, thing: QObject) -> QAccessibleInterface | None:
    """The interface of a painted widget, for the toolkit; of any other it makes its own."""
    if not isinstance(thing, QWidget) or not isinstance(thing, Painted):
        return None
    made, key = _PaintedWidget(thing), id(thing)
    _interfaces[key] = made
    thing.destroyed.connect(lambda: _interfaces.pop(key).forget() if key in _interfaces else None)
    return made


def speak_of_things() -> None:
    """Hand painted widgets to assistive tools thing by thing, from now on."""
    QAccessible.installFactory(_made)


def announce(widget: QWidget, words: str, thing: int = -1) -> None:
    """Tell assistive tools what is at hand now: in words, and which of the widget's things it is."""
    widget.setAccessibleDescription(words)
    QAccessible.updateAccessibility(QAccessibleEvent(widget, QAccessible.Event.DescriptionChanged))
    if thing >= 0:
        at = QAccessibleEvent(widget, QAccessible.Event.Focus)
        at.setChild(thing)
        QAccessible.updateAccessibility(at)
