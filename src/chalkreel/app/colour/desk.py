"""The Stills page: a still with its patches, the tools that take them, and what each still says."""

from __future__ import annotations

from functools import partial
from typing import Final

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLineEdit, QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.answers.colours import SurfaceRow
from chalkreel.app.colour import glows, model
from chalkreel.app.colour.evidence import EvidencePlot
from chalkreel.app.parts.fields import attempt, fill
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.tools import BRUSH, GLOW, KNOWN, NEUTRAL, PATCH, POLYGON, Points, ToolKind
from chalkreel.app.stills.view import StillView
from chalkreel.core.colour.glow import Glow
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.kinds import LedColour
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Still
from chalkreel.document.gallery import picture_name
from chalkreel.document.paint_entities import ColourPatch, Surface
from chalkreel.edits import painting

NAMES: Final = {
    PATCH: "Patch (P)", POLYGON: "Polygon (O)", BRUSH: "Brush (B)", NEUTRAL: "Neutral (N)", KNOWN: "Known (K)",
    GLOW: "Glow (G)",
}  # fmt: skip
KNOWN_WORDS: Final = "reflects %, or L* a* b*"


class SamplingDesk(QWidget):
    """Tools, still and votes."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self.view, self.plot = StillView(session, images), EvidencePlot()
        self.surface, self.known, self.facet = QComboBox(), QLineEdit(), QLineEdit()
        self.to_light = QCheckBox("held to the light")
        self.to_light.setToolTip(
            "Tick it where the card was turned to the light: panels beside it catch about a sixth less, and are taken "
            "to be so much lighter. Without it they are taken to catch as much."
        )
        self.surface.setEditable(True)
        self.surface.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self._typed, self._unnamed = "", ""
        self.tools = {kind: QPushButton(words) for kind, words in NAMES.items()}
        self.next, self.traced, self.clear = QPushButton("To next still"), QPushButton("Traced"), QPushButton("Clear")
        self.odd = QPushButton("Leave out")
        self._row: SurfaceRow | None = None
        self._vote = ""
        self._lay_out()
        for kind, button in self.tools.items():
            button.setObjectName("tool")
            button.setCheckable(True)
            button.clicked.connect(lambda _, kind=kind: self.use(kind))
        for button, act in (
            (self.next, self.carry), (self.traced, self._take_traced), (self.clear, self._clear_still),
            (self.odd, self._leave_out),
        ):  # fmt: skip
            button.setObjectName("tool")
            button.clicked.connect(lambda _, act=act: attempt(session, act))
        self.to_light.clicked.connect(self._hold_to_light)
        self.surface.activated.connect(self._choose_surface)
        self.surface.lineEdit().textEdited.connect(self._type_surface)  # type: ignore[union-attr]
        self.surface.lineEdit().returnPressed.connect(self._name_surface)  # type: ignore[union-attr]
        self.view.tool_ended.connect(self._tool_ended)
        self.plot.vote_chosen.connect(self.choose_vote)

    def show_row(self, row: SurfaceRow | None) -> None:
        """Show the chosen surface on the still in front."""
        session, self._row = self._session, row
        self._fill_surfaces()
        still = session.still
        strokes = model.strokes_of(session.build, still, row.surface_id if row else "") if still else ()
        self.view.set_marks(strokes, ())
        self.view.set_masks(model.masks_of(row, session.still_id))
        self.plot.show_row(row, session.still_id)
        cards = model.cards_on(session.build, still)
        if cards:
            self.to_light.setChecked(all(card.to_light for card in cards))
        patch = session.build.get(ColourPatch, self._vote)
        self.odd.setEnabled(patch is not None)
        self.odd.setText("Count again" if patch is not None and patch.left_out else "Leave out")

    def use(self, kind: ToolKind) -> None:
        """Take up a tool."""
        if self._session.still is None:
            self._session.refused.emit("There is no still to sample. Add one in Gather.")
            return
        for other, button in self.tools.items():
            button.setChecked(other is kind)
        self.known.setPlaceholderText("white? if known" if kind is GLOW else KNOWN_WORDS)
        self.view.use_tool(kind, lambda points: attempt(self._session, partial(self._placed, kind, points)))

    def choose_vote(self, patch_id: str) -> None:
        """Bring a vote's still to the front, so that its patch can be looked at or left out."""
        patch = self._session.build.get(ColourPatch, patch_id)
        if patch is not None:
            self._vote = patch_id
            self._session.choose_still(patch.still_id)
            self.show_row(self._row)

    def carry(self) -> None:
        """Put the chosen surface's patch of this still on the next one that has none, by way of the solved model."""
        session, build = self._session, self._session.build
        still, row = session.still, model.chosen_row(session.answers, session.selection)
        mine = [p for p in build.all(ColourPatch) if row is not None and p.surface_id == row.surface_id]
        here = [p for p in mine if still is not None and p.still_id == still.id]
        sizes = session.answers.sizes if session.answers else None
        if not here or sizes is None:
            raise RefusedError("Sample the surface on this still first; then its patch can be found on the next.")
        patch, target, problems = painting.carried_to_next(build, sizes.reel, here[-1], {p.still_id for p in mine})
        if patch is None or target is None:
            raise RefusedError(problems or "Every still that is tied in has a patch of this surface.")
        session.commit(f"patch carried to still {target.number}", {patch.id: patch})
        session.choose_still(target.id)

    def _lay_out(self) -> None:
        self.surface.setAccessibleName("Surface")
        self.surface.lineEdit().setPlaceholderText("name a surface")  # type: ignore[union-attr]
        self.surface.setMinimumWidth(130)
        self.known.setAccessibleName("Reflectance of the neutral in percent, or known colour")
        self.known.setPlaceholderText(KNOWN_WORDS)
        self.facet.setAccessibleName("Facet: patches with the same word catch the same light")
        self.facet.setPlaceholderText("facet")
        self.facet.setToolTip("Patches of one still with the same word here lie on one face and catch the same light.")
        self.facet.setFixedWidth(64)
        first, second = QHBoxLayout(), FlowLayout()
        for widget in (self.surface, self.tools[PATCH], self.tools[POLYGON], self.tools[BRUSH], self.traced, self.next,
                       self.facet):  # fmt: skip
            first.addWidget(widget)
        first.addStretch(1)
        second.addWidget(PlainLabel("Light:"))
        light: tuple[QWidget, ...] = (
            self.tools[NEUTRAL], self.tools[KNOWN], self.known, self.to_light, self.tools[GLOW],
        )  # fmt: skip
        for part in light:
            second.addWidget(part)
        second.addWidget(self.odd)
        second.addWidget(self.clear)
        self.known.setMinimumWidth(150)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.plot)
        split.setStretchFactor(0, 1)
        split.setSizes([460, 196])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(split, 1)

    def _type_surface(self, words: str) -> None:
        self._typed = words.strip()

    def _choose_surface(self) -> None:
        self._typed = ""
        self._session.select(self.surface.currentData() or "")

    def _ask_name(self, surface_id: str, name: str) -> None:
        """The patch is taken; what is its surface called?"""
        self._unnamed, self._typed = surface_id, name
        self.surface.setEditText(name)
        self.surface.setFocus()
        self.surface.lineEdit().selectAll()  # type: ignore[union-attr]
        self._session.prompted.emit("Type the surface's name, then Enter.")

    def _name_surface(self) -> None:
        """Enter keeps a name that is typed: a known surface is chosen, the patch of a new one is taken next."""
        name = self.surface.currentText().strip()
        unnamed, self._unnamed = self._session.build.get(Surface, self._unnamed), ""
        if unnamed is not None and name:
            self._typed = ""
            self._session.edit(f"name of {name}", unnamed, name=name)
            self.view.setFocus()
            return
        known = next((s for s in self._session.build.all(Surface) if s.name == name), None)
        if known is not None:
            self._typed = ""
            self._session.select(known.id)
        elif name:
            self.use(PATCH)
            if self._session.still is not None:
                self._session.prompted.emit(f"“{name}” is new: drag over an even part of it. O or B for other shapes.")
                self.view.setFocus()

    def _fill_surfaces(self) -> None:
        box, surfaces = self.surface, self._session.build.all(Surface)
        if self._typed in {s.name for s in surfaces}:
            self._typed = ""
        if box.count() != len(surfaces):
            fill(box, [(s.id, s.name) for s in surfaces])
        if self._typed:
            # Typed by the user and not taken yet: nothing chosen elsewhere writes over it.
            if box.currentText().strip() != self._typed:
                box.setEditText(self._typed)
            return
        at = box.findData(self._row.surface_id if self._row else "")
        if at >= 0 and not box.lineEdit().hasFocus():  # type: ignore[union-attr]
            box.setCurrentIndex(at)
            box.lineEdit().setCursorPosition(0)  # type: ignore[union-attr]

    def _placed(self, kind: ToolKind, points: Points) -> None:
        still = self._session.still
        assert still is not None
        if kind is GLOW:
            self._sample_glow(points)
            return
        name = self.surface.currentText().strip()
        fresh = not name and kind not in (NEUTRAL, KNOWN)
        name = name or f"Surface {len(self._session.build.all(Surface)) + 1}"
        edits, surface_id = model.tool_edits(
            self._session.build,
            still,
            kind,
            points,
            name,
            self.known.text(),
            self.facet.text().strip(),
            self.to_light.isChecked(),
        )
        label = f"patch of {name}" if surface_id else "known colour" if kind is KNOWN else "neutral"
        if self._session.commit(label, edits) and surface_id:
            self._session.select(surface_id)
            if fresh:
                self._ask_name(surface_id, name)

    def _hold_to_light(self, held: bool) -> None:
        """Say of the cards on this still how they were held; without one, of the next."""
        session = self._session
        with session.gesture("how the card was held"):
            for card in model.cards_on(session.build, session.still):
                session.edit("how the card was held", card, to_light=held)

    def _sample_glow(self, points: Points) -> None:
        """A lamp's colour from its halo, read in the worker: handed to Light, or kept where it is known."""
        session, still, led = self._session, self._session.still, glows.led_from(self.known.text())
        assert still is not None
        known = None if led is not None else glows.known_lamp(session.build, still)
        session.run(
            "reading the halo",
            lambda _: glows.read_glow(session.gallery, picture_name(still), points, known),
            lambda found: self._keep_lamp(still, points, led, found) if led else self._take_glow(still, found),
        )

    def _keep_lamp(self, still: Still, points: Points, led: LedColour, found: object) -> None:
        assert isinstance(found, Glow)
        patch = msgspec.structs.replace(painting.box_patch(still, "", points), lamp=led)
        if self._session.commit(f"known lamp on still {still.number}", {patch.id: patch}):
            self.known.clear()
            self._session.prompted.emit(glows.known_lamp_words(found, led))

    def _take_glow(self, still: Still, found: object) -> None:
        assert isinstance(found, Glow)
        lamp = glows.lamp_from(found, still)
        self._session.commit(f"lamp from still {still.number}", {lamp.id: lamp})
        self._session.prompted.emit(glows.glow_words(found) + ". It is in Light now, as “" + lamp.name + "”.")

    def _take_traced(self) -> None:
        session, still = self._session, self._session.still
        if still is None:
            raise RefusedError("There is no still to sample. Add one in Gather.")
        surface = painting.surface_named(session.build, self.surface.currentText())
        patch = painting.patch_from_outline(session.build, still, surface.id)
        session.commit(f"patch of {surface.name}", {surface.id: surface, patch.id: patch})
        session.select(surface.id)

    def _leave_out(self) -> None:
        patch = self._session.build.get(ColourPatch, self._vote)
        if patch is not None:
            changed = msgspec.structs.replace(patch, left_out=not patch.left_out)
            self._session.commit("vote left out" if changed.left_out else "vote counts", {patch.id: changed})

    def _clear_still(self) -> None:
        edits: Edits = {
            p.id: None for p in self._session.build.all(ColourPatch) if p.still_id == self._session.still_id
        }
        self._session.commit("patches taken off", edits)

    def _tool_ended(self) -> None:
        for button in self.tools.values():
            button.setChecked(False)
