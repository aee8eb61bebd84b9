"""The row over the top of the still: what the tool in hand wants to know besides clicks."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QCompleter, QHBoxLayout, QStackedWidget, QWidget

from chalkreel.app.measure import landmarks
from chalkreel.app.parts.fields import fill
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.stills.tools import EDGE, FACE, FLAT, LANDMARK, OUTLINE, REPEAT, RIM, RULER, SIZE, SPOT, ToolKind
from chalkreel.core.measure.axis import AXES
from chalkreel.document.entities import Dimension, FlatSet, Outline, Plane, RoundShape, Still
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build

# Which row each tool needs; the others ask nothing.
ROWS = {LANDMARK: 0, EDGE: 1, RIM: 2, SIZE: 3, RULER: 3, FLAT: 4, REPEAT: 2, OUTLINE: 5, SPOT: 5, FACE: 6}
HEIGHT = 34


class Context(QStackedWidget):
    """Names and choices for the tools; typed names stay while lists change."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("over")
        self._picture: QWidget | None = None
        self.landmark, self.direction, self.circle = _names("landmark"), _names("direction"), _names("circle")
        self.flat, self.part, self.face = _names("flat"), _names("part"), _names("face")
        self.plane, self.dimension = _choice("plane"), _choice("size of")
        self.across, self.bend = _choice("square to the"), _choice("lines are")
        self.mirrored, self.advance = QCheckBox("on the other side"), QCheckBox("then the next still")
        fill(self.across, [("", "any direction"), *((axis, axis) for axis in AXES)])
        fill(self.bend, [("corner", "straight"), ("smooth", "smooth")])
        rows: tuple[tuple[tuple[str, QWidget], ...], ...] = (
            (("landmark", self.landmark), ("", self.advance)),
            (("edge runs along the", self.direction),),
            (("circle", self.circle), ("", self.mirrored)),
            (("plane", self.plane), ("size of", self.dimension)),
            (("flat", self.flat), ("square to the", self.across)),
            (("name", self.part), ("lines are", self.bend)),
            (("name", self.face),),
        )
        for row in rows:
            self.addWidget(_row(row))
        self.hide()

    def lie_over(self, picture: QWidget) -> None:
        """Lie over the top of a picture, which stays where it is when a tool is taken up."""
        self._picture = picture
        self.setParent(picture.parentWidget())
        picture.installEventFilter(self)
        self._place()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._picture and event.type() in (QEvent.Type.Resize, QEvent.Type.Move):
            self._place()
        return False

    def _place(self) -> None:
        picture, parent = self._picture, self.parentWidget()
        if picture is not None and parent is not None:
            self.setGeometry(QRect(picture.mapTo(parent, QPoint()), QSize(picture.width(), HEIGHT)))
            self.raise_()

    def show_for(self, kind: ToolKind) -> int:
        """Bring up the row of a tool, where it has one; how much of the picture it covers, in pixels."""
        self.setCurrentIndex(ROWS.get(kind, 0))
        self.setVisible(kind in ROWS)
        self._place()
        return HEIGHT if kind in ROWS else 0

    def refresh(self, build: Build, still: Still | None) -> None:
        """Offer what the build holds now."""
        still_id = still.id if still else ""
        planes = [("", "square on to the camera")]
        planes += [(p.id, p.name) for p in build.all(Plane) if p.still_id == still_id]
        fill(self.plane, planes)
        fill(self.dimension, [("", "a new size")] + [(d.id, d.name) for d in build.all(Dimension)])
        _offer(self.landmark, landmarks.offered(build, still))
        _offer(self.circle, tuple(c.name for c in build.all(RoundShape)))
        _offer(self.direction, AXES, AXES[0])
        _offer(self.flat, tuple(f.name for f in build.all(FlatSet)))
        _offer(self.face, ())
        lamps = tuple(a.name for a in build.all(Lamp) if len(a.places) < a.count)
        _offer(self.part, (*(o.name for o in build.all(Outline) if o.still_id == still_id), *lamps))


def _offer(box: QComboBox, names: tuple[str, ...], first: str = "") -> None:
    if [box.itemText(i) for i in range(box.count())] != list(names):
        typed = box.currentText()
        box.clear()
        box.addItems(list(names))
        box.setEditText(typed or first)


def _names(name: str) -> QComboBox:
    box = QComboBox()
    box.setEditable(True)
    box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
    # Typing any part of a name filters the list.
    completer = box.completer()
    assert completer is not None
    completer.setFilterMode(Qt.MatchFlag.MatchContains)
    completer.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
    box.setMinimumContentsLength(16)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setAccessibleName(name)
    return box


def _choice(name: str) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    box.setMinimumContentsLength(7)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return box


def _row(parts: tuple[tuple[str, QWidget], ...]) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(6, 2, 6, 2)
    for words, widget in parts:
        if words:
            row.addWidget(PlainLabel(words))
        row.addWidget(widget, 0 if isinstance(widget, QCheckBox) else 1)
    return holder
