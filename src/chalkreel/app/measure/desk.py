"""The still page of Measure: one still with chalk marks, the tools, and what each tool asks."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import msgspec
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.answers.wording import name_of
from chalkreel.app.jobs import Progress
from chalkreel.app.measure import landmarks, model
from chalkreel.app.measure.beside import Beside
from chalkreel.app.measure.context import Context
from chalkreel.app.measure.face_tool import corners_meant, face_made
from chalkreel.app.measure.keys import KEYS
from chalkreel.app.measure.pending import PendingForm
from chalkreel.app.measure.squared import meant
from chalkreel.app.measure.traced import traced_strokes
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.room import Room
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.strokes import Handle
from chalkreel.app.stills.tools import (
    ANGLE,
    EDGE,
    FACE,
    FLAT,
    LANDMARK,
    OUTLINE,
    RECTANGLE,
    REPEAT,
    RIM,
    RULER,
    SIZE,
    SPOT,
    STRAIGHT,
    Points,
    ToolKind,
)
from chalkreel.app.stills.view import StillView
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.marks import Mark
from chalkreel.document.entities import FlatSet, KnownLength, Landmark, LandmarkMark, Outline, Still
from chalkreel.document.entity import new_id
from chalkreel.edits.made import Made
from chalkreel.edits.marking import (
    landmark_named,
    mark_edge,
    mark_flat,
    mark_landmark,
    mark_repeats,
    mark_rim,
    mark_spot,
    mark_straight,
    span,
    trace,
    turned_bend,
)
from chalkreel.edits.squaring import square_up

# These stay in the hand after each use, until Esc or another is taken up.
STAYING = (LANDMARK, EDGE, FACE, SIZE, ANGLE, SPOT)
# Tools for ordinary stills, and those for squared-up ones; the others serve both.
ORDINARY, SQUARED = (LANDMARK, EDGE, RIM, FLAT, FACE, STRAIGHT, ANGLE, RECTANGLE), (OUTLINE,)


class MarkingDesk(QWidget):
    """Marks are placed here.

    Signals
    -------
    placed(): marks were committed.
    """

    placed = Signal()

    def __init__(self, session: Session, images: Images, pending: PendingForm) -> None:
        super().__init__()
        self.session, self.pending = session, pending
        self.view = StillView(session, images)
        self.beside = Beside(session, images)
        self.tools = {kind: QPushButton(f"{kind.name} {key}") for kind, key in KEYS}
        # The tools stand in the stage's own row, beside its pages.
        self.bar = QWidget()
        self.context = Context()
        self.names, self.snap, self.two = QCheckBox("Names"), QCheckBox("Snap"), QPushButton("Two 2")
        self.two.setObjectName("tool")
        self.two.setCheckable(True)
        self.two.setToolTip("A second still beside this one")
        self.snap.setChecked(True)
        self._lay_out()
        for kind, button in self.tools.items():
            button.setObjectName("tool")
            button.setCheckable(True)
            button.clicked.connect(lambda _, kind=kind: self.use(kind))
        self.view.describe = lambda handle: name_of(session.build, handle.entity_id)
        self.view.tool_ended.connect(self._tool_ended)
        self.view.mark_moved.connect(self.take)
        self.view.mark_accepted.connect(self.take)
        self.view.mark_chosen.connect(session.select)
        self.names.clicked.connect(self.refresh)
        self.two.clicked.connect(self.turn_beside)
        self.beside.exchange.clicked.connect(self.view.setFocus)
        self.view.pointed.connect(self.beside.follow)
        self.context.flat.activated.connect(self._choose_flat)
        self.snap.clicked.connect(self._set_snap)
        self._set_snap()

    def refresh(self) -> None:
        """Draw what is marked, offer what can be chosen."""
        session = self.session
        still = session.still
        if still is None:
            self.view.set_marks((), ())
        else:
            strokes, handles = model.marks_of(session.build, still, session.answers, session.selection)
            more, points = landmarks.landmark_strokes(
                session.build, still, session.answers, session.selection, self.names.isChecked()
            )
            traced, corners = traced_strokes(session.build, still, session.answers, session.selection)
            faces = landmarks.face_strokes(session.build, still, session.answers, session.selection)
            self.view.set_marks((*faces, *traced, *more, *strokes), (*handles, *points, *corners))
        flat = still is not None and still.squared is not None
        for kind, button in self.tools.items():
            button.setVisible(kind not in (ORDINARY if flat else SQUARED))
        self.beside.refresh(self.names.isChecked())
        self.context.refresh(self.session.build, self.session.still)

    def set_room(self, room: Room) -> None:
        """Where one row must hold all tools, the second still goes without its button, and then they without keys."""
        self.two.setVisible(room == "wide")
        for kind, key in KEYS:
            self.tools[kind].setText(kind.name if room == "close" else f"{kind.name} {key}")

    def turn_beside(self) -> None:
        """Show or hide a second still."""
        self.beside.turn()
        self.two.setChecked(self.beside.isVisible())

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        if self.session.still is None:
            self.session.refused.emit("There is no still to mark. Add one in Gather.")
            return
        self.pending.hide()
        self._take_up(kind)

    def _take_up(self, kind: ToolKind) -> None:
        self.view.covered_px = self.context.show_for(kind)
        for other, button in self.tools.items():
            button.setChecked(other is kind)
        meant = (lambda so_far, at: corners_meant(self.session, self.view.zoom, so_far, at)) if kind is FACE else None
        self.view.use_tool(kind, lambda points: self._placed(kind, points), meant)

    def mark_next(self, name: str) -> None:
        """Take up the landmark tool for one landmark."""
        self.context.landmark.setEditText(name)
        self.use(LANDMARK)

    def take(self, handle: Handle) -> None:
        """A mark was moved, or a ghost accepted."""
        attempt(self.session, lambda: self._take(handle))

    def _take(self, handle: Handle) -> None:
        session, still = self.session, self.session.still
        if still is None:
            return
        if handle.ghost:
            made = landmarks.accepted_ghost(session.build, still, session.answers, handle, self.view.zoom)
            if made is not None:
                self._commit("landmark accepted", made)
            return
        name = name_of(session.build, handle.entity_id)
        moved = landmarks.moved_reel_mark(session.build, handle, self.view.zoom)
        edits = model.moved_mark(session.build, handle, self.view.zoom) if moved is None else moved
        session.commit(f"mark of {name}", edits)

    def _placed(self, kind: ToolKind, points: Points) -> None:
        still = self.session.still
        assert still is not None
        marks = tuple(model.mark_at(p, self.view.zoom) for p in points)
        acts: dict[ToolKind, Callable[[], object]] = {
            LANDMARK: lambda: self._place_landmark(still, marks[0]),
            EDGE: lambda: self._place_edge(still, marks, points),
            RIM: lambda: self._place_rim(still, marks),
            RULER: lambda: self._place_ruler(still, points),
            SIZE: lambda: self._place_size(still, points),
            ANGLE: lambda: self._place_angle(still, points),
            RECTANGLE: lambda: self._ask_plane(still, points),
            FLAT: lambda: self._place_flat(still, points),
            OUTLINE: lambda: self._place_outline(still, marks),
            REPEAT: lambda: self._place_repeats(still, marks),
            SPOT: lambda: self._place_spot(still, (marks[0], marks[1])),
            STRAIGHT: lambda: self._place_straight(still, marks),
            FACE: lambda: self._place_face(still, points),
        }
        if not attempt(self.session, acts[kind]):
            self.view.refuse_at(*points[-1])
        elif kind in STAYING and not self.pending.isVisible() and not self.view.at_work:
            self._take_up(kind)

    def _place_landmark(self, still: Still, mark: Mark) -> None:
        name = self.context.landmark.currentText().strip()
        name = name or landmarks.meant(self.session.build, self.session.answers, still, mark)
        known = landmark_named(self.session.build, name)
        question = landmarks.far_from_ghost(self.session.answers, still, known, mark)
        if question:
            self.pending.confirm(question, lambda: self._keep_landmark(still, name, mark))
        else:
            self._keep_landmark(still, name, mark)

    def _keep_landmark(self, still: Still, name: str, mark: Mark) -> None:
        made = mark_landmark(self.session.build, still, name, mark)
        self._commit(f"landmark {name}".strip(), made)
        placed = self.session.build.get(LandmarkMark, made.entity_id)
        if self.context.advance.isChecked() and placed is not None:
            following = landmarks.next_still_without(self.session.build, still, placed.landmark_id)
            landmark = self.session.build.get(Landmark, placed.landmark_id)
            if following and landmark is not None:
                self.session.choose_still(following)
                self.mark_next(landmark.name)
        else:
            self.context.landmark.setEditText("")

    def _place_edge(self, still: Still, marks: tuple[Mark, ...], points: Points) -> None:
        a, b = landmarks.landmarks_at(self.session.build, still, points, self.view.zoom)
        made = mark_edge(still, (marks[0], marks[1]), self.context.direction.currentText(), (a, b))
        self._commit("edge", made)

    def _place_rim(self, still: Still, marks: tuple[Mark, ...]) -> None:
        made = mark_rim(
            self.session.build, still, self.context.circle.currentText(), marks, self.context.mirrored.isChecked()
        )
        self._commit("rim", made)

    def _place_ruler(self, still: Still, points: Points) -> None:
        a, b = landmarks.landmarks_at(self.session.build, still, points, self.view.zoom)
        if a and b and a != b:
            title = "How long is it between these landmarks, and how surely?"
            self.pending.ask(title, False, lambda: self._keep_known(a, b))
        else:
            plane_id = self.context.plane.currentData() or ""
            title = "How long is it, and how surely?"
            self.pending.ask(title, False, lambda: self._keep_ruler(still, plane_id, points))

    def _keep_known(self, a_id: str, b_id: str) -> None:
        name, length, plus_minus, link = self.pending.words()
        mm, sigma = model.length_and_sigma(length, plus_minus, link, self.session.build.info.unit)
        name = name.strip() or f"Ruler {len(self.session.build.all(KnownLength)) + 1}"
        known = KnownLength(id=new_id(), name=name, a_id=a_id, b_id=b_id, length_mm=mm, sigma_mm=sigma, link=link)
        self._commit("ruler", Made({known.id: known}, known.id))

    def _keep_ruler(self, still: Still, plane_id: str, points: Points) -> None:
        made = model.ruler_made(self.session.build, still, plane_id, points, self.view.zoom, self.pending.words())
        self._commit("ruler", made)

    def _place_size(self, still: Still, points: Points) -> None:
        build = self.session.build
        a, b = landmarks.landmarks_at(build, still, points, self.view.zoom)
        plane_id, dimension_id = self.context.plane.currentData() or "", self.context.dimension.currentData() or ""

        def keep_reading() -> None:
            self._commit("size", model.reading_made(build, still, plane_id, dimension_id, points, self.view.zoom))

        if a and b and a != b:
            self._commit("size", span(build, a, b))
        elif a or b:
            raise RefusedError("Only one end met a landmark. Click on two landmarks’ marks, or well away from both.")
        elif not plane_id and any(m.still_id == still.id for m in build.all(LandmarkMark)):
            # A missed landmark must not become a size in a plane by accident.
            self.pending.confirm(
                "No landmark was met. Read the size in one plane, square on to the camera?", keep_reading
            )
        else:
            keep_reading()

    def _place_angle(self, still: Still, points: Points) -> None:
        a, corner, b = landmarks.landmarks_at(self.session.build, still, points, self.view.zoom)
        if not (a and corner and b) or len({a, corner, b}) < 3:
            raise RefusedError("An angle needs three landmarks: click on their marks.")
        made = span(self.session.build, a, b, corner)
        self._commit("angle", made)

    def _place_flat(self, still: Still, points: Points) -> None:
        chosen = landmarks.landmarks_at(self.session.build, still, points, self.view.zoom)
        made = mark_flat(
            self.session.build, self.context.flat.currentText(), chosen, self.context.across.currentData() or None
        )
        self._commit("flat", made)

    def _place_face(self, still: Still, points: Points) -> None:
        name, template = self.context.face.currentText(), self.view.shifted
        made = face_made(self.session, still, self.view.zoom, points, name, template)
        self._commit("face to cut out" if template else "face", made)
        self.context.face.setEditText("")

    def _place_outline(self, still: Still, marks: tuple[Mark, ...]) -> None:
        made = trace(self.session.build, still, self.context.part.currentText(), marks, self.context.bend.currentData())
        self._commit("outline", made)
        self.context.part.setEditText("")

    def _place_spot(self, still: Still, marks: tuple[Mark, Mark]) -> None:
        landmarks.check_landing(self.session.answers, still, marks)
        made = mark_spot(self.session.build, still, self.context.part.currentText(), marks)
        self._commit("mark on a panel", made)

    def _place_repeats(self, still: Still, marks: tuple[Mark, ...]) -> None:
        circle, mirrored = self.context.circle.currentText(), self.context.mirrored.isChecked()
        made = mark_repeats(self.session.build, still, circle, marks, mirrored)
        self._commit("parts round a rim", made)

    def _place_straight(self, still: Still, marks: tuple[Mark, ...]) -> None:
        made = mark_straight(still, marks)
        self._commit("straight edge", made)

    def bend_chosen(self) -> None:
        """Change the bend of the outline's point that was walked to."""
        handle = self.view.active
        outline = self.session.build.get(Outline, handle.entity_id) if handle is not None else None
        if outline is None or handle is None:
            raise RefusedError("Walk to a point of an outline first (Tab), then B bends it.")
        self.session.commit("bend of an outline", {outline.id: turned_bend(outline, handle.index)})

    def square_up(self, plane_id: str, blend: bool) -> None:
        """Lay a flat or rectangle flat, in the worker, and put it on the reel."""
        session = self.session
        answers = session.answers
        if answers is None or answers.sizes is None:
            raise RefusedError("Sizes are still being computed. Try again in a moment.")
        # The answers' own build: a still added since is not among them yet.
        build, sizes = answers.build, answers.sizes

        def work(_: Progress) -> Iterator[object]:
            made = square_up(build, sizes, session.gallery, plane_id, blend)
            yield msgspec.structs.replace(made.still, blob=session.store.keep(made.png))

        session.run("squaring up", work, self._take_squared)

    def _take_squared(self, still: object) -> None:
        assert isinstance(still, Still)
        from chalkreel.edits.squaring import put_on_reel

        if self.session.commit("squared-up still", put_on_reel(self.session.build, still)):
            self.session.choose_still(still.id)

    def _ask_plane(self, still: Still, points: Points) -> None:
        title = "What is known of this rectangle? Width is the side from its first to its second corner."
        self.pending.ask(title, True, lambda: self._keep_plane(still, points))

    def _keep_plane(self, still: Still, points: Points) -> None:
        name, width, plus_minus, link = self.pending.words()
        words = (name, width, self.pending.height_field.text(), plus_minus, link)
        made = model.plane_made(self.session.build, still, points, self.view.zoom, words)
        self._commit("squared-up plane", made)
        self.context.refresh(self.session.build, self.session.still)
        self.context.plane.setCurrentIndex(max(0, self.context.plane.findData(made.entity_id)))

    def _commit(self, label: str, made: Made) -> None:
        if self.session.commit(label, made.edits):
            self.session.select(made.entity_id)
            self.placed.emit()

    def _tool_ended(self) -> None:
        for button in self.tools.values():
            button.setChecked(False)
        self.context.hide()
        self.view.covered_px = 0
        self.session.rest()

    def _choose_flat(self) -> None:
        """A flat picked from the list is chosen, so that the card can square it up."""
        name = self.context.flat.currentText()
        flat = next((f for f in self.session.build.all(FlatSet) if f.name == name), None)
        if flat is not None:
            self.view.drop_tool()
            self.session.select(flat.id)

    def _set_snap(self) -> None:
        def snap(x: float, y: float) -> tuple[float, float]:
            return meant(self.session, self.view.zoom, x, y)

        self.view.snap = snap if self.snap.isChecked() else None

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        tools = FlowLayout(self.bar, gap=3)
        for widget in (*self.tools.values(), self.names, self.snap, self.two):
            tools.addWidget(widget)
        both = QSplitter(Qt.Orientation.Horizontal)
        both.addWidget(self.view)
        both.addWidget(self.beside)
        both.setSizes([600, 400])
        both.setChildrenCollapsible(False)
        column.addWidget(both, 1)
        self.context.lie_over(both)
