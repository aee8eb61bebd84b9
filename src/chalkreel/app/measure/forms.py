"""Short forms for what is chosen on a still or in the table: a mark, a landmark, a ruler, a size; and for the still."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from PySide6.QtWidgets import QPushButton

from chalkreel.answers.pose import pose_words
from chalkreel.answers.wording import name_of
from chalkreel.app.measure import faces, model
from chalkreel.app.measure.outline_form import outline_form
from chalkreel.app.measure.pending import LINKS
from chalkreel.app.parts.fields import Form, attempt
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.lengths import both_units, format_length, parse_length, small_length, understood
from chalkreel.core.measure.axis import AXES
from chalkreel.document.entities import (
    BUILD_ID,
    Dimension,
    FlatSet,
    KitPart,
    KnownLength,
    Landmark,
    LandmarkMark,
    Outline,
    Plane,
    Reading,
    RimMark,
    RoundShape,
    RulerMark,
)
from chalkreel.document.entity import Entity
from chalkreel.edits.circles import diameter_known, diameter_unknown, diameter_wanted, known_diameter
from chalkreel.edits.marking import mirrored_with

E = TypeVar("E", bound=Entity)
MOST_STEPS = 500


class ChosenForms:
    """One form for each kind of thing that can be chosen; `show` brings up those that suit."""

    def __init__(
        self, session: Session, remove: Callable[[], object], square_up: Callable[[str, bool], object]
    ) -> None:
        self._session, self._square_up = session, square_up
        self.mark, self.landmark, self.size, self.ruler, self.flat = (
            self._mark_form(), self._landmark_form(), self._size_form(), self._ruler_form(), self._flat_form(),
        )  # fmt: skip
        self.circle, self.outline = self._circle_form(), outline_form(session)
        self.all = (self.landmark, self.ruler, self.size, self.flat, self.circle, self.outline, self.mark)
        for form in self.all:
            button = QPushButton("Remove (Del)")
            button.clicked.connect(remove)
            form.layout().addRow("", button)  # type: ignore[union-attr]

    def show(self) -> None:
        """Show the forms of what is chosen."""
        chosen = self._session.build.entities.get(self._session.selection)
        suits = {
            self.mark: isinstance(chosen, (Plane, RulerMark, Reading)),
            self.landmark: isinstance(chosen, (Landmark, LandmarkMark)),
            self.size: isinstance(chosen, Dimension),
            self.ruler: isinstance(chosen, KnownLength),
            self.flat: isinstance(chosen, FlatSet),
            self.circle: isinstance(chosen, (RoundShape, RimMark)),
            self.outline: isinstance(chosen, Outline),
        }
        for form, shown in suits.items():
            form.setVisible(shown)
            if shown:
                form.refresh()

    def _chosen(self, kind: type[E]) -> E:
        found = self._session.build.entities[self._session.selection]
        assert isinstance(found, kind)
        return found

    def _dimension(self) -> Dimension:
        found = self._session.build.entities[self._session.selection]
        if isinstance(found, Reading):
            found = self._session.build.entities[found.dimension_id]
        assert isinstance(found, Dimension)
        return found

    def _landmark(self) -> Landmark:
        found = self._session.build.entities[self._session.selection]
        if isinstance(found, LandmarkMark):
            found = self._session.build.entities[found.landmark_id]
        assert isinstance(found, Landmark)
        return found

    def _circle(self) -> RoundShape:
        found = self._session.build.entities[self._session.selection]
        if isinstance(found, RimMark):
            found = self._session.build.entities[found.circle_id]
        assert isinstance(found, RoundShape)
        return found

    def _parts(self) -> list[tuple[str, str]]:
        return [("", "none"), *((p.id, p.name) for p in self._session.build.all(KitPart))]

    def _landmark_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def rename(text: str) -> None:
            if text.strip():
                session.edit("name of a landmark", self._landmark(), name=text.strip())

        def twins() -> list[tuple[str, str]]:
            own = self._landmark()
            others = [(m.id, m.name) for m in session.build.all(Landmark) if m.id != own.id]
            return [("", "none"), (own.id, "itself: on the centre line"), *others]

        def put_twin(key: str) -> None:
            session.commit("mirror image", mirrored_with(session.build, self._landmark(), key))

        form.heading(lambda: f"Landmark: {self._landmark().name}")
        form.text("Name", lambda: self._landmark().name, rename)
        form.choice("Mirror image", twins, lambda: self._landmark().mirror_id, put_twin)
        place = form.text("Place on a plan", self._place_words, self._put_place)
        place.setPlaceholderText("bow; port; up ± 0.5")
        form.choice(
            "Plan is", lambda: LINKS, lambda: self._landmark().link,
            lambda key: session.edit("what a plan is of", self._landmark(), link=key),
        )  # fmt: skip
        return form

    def _place_words(self) -> str:
        return model.place_words(self._landmark(), self._session.build.info.unit)

    def _put_place(self, text: str) -> None:
        place, sigma = model.parse_place(text, self._session.build.info.unit)
        self._session.edit("place on a plan", self._landmark(), place_mm=place, place_sigma_mm=sigma)

    def _size_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def put_steps(text: str) -> None:
            steps = parse_number(text)
            if steps != int(steps) or not 1 <= steps <= MOST_STEPS:
                raise RefusedError(f"Equal steps are a whole number from 1 to {MOST_STEPS}.")
            session.edit("equal steps", self._dimension(), steps=int(steps))

        def put_along(key: str) -> None:
            dimension = self._dimension()
            if not dimension.a_id or dimension.corner_id:
                raise RefusedError("Only a size between two landmarks can count along an axis.")
            session.edit("direction of a size", dimension, along=key or None)

        form.heading(lambda: f"Size: {self._dimension().name}")
        form.choice(
            "Counts",
            lambda: [("", "straight across"), *((axis, f"along the {axis}") for axis in AXES)],
            lambda: self._dimension().along or "",
            put_along,
        )
        form.text("Equal steps", lambda: str(self._dimension().steps), put_steps)
        form.choice(
            "Kit part",
            self._parts,
            lambda: self._dimension().part_id,
            lambda key: session.edit("kit part of a size", self._dimension(), part_id=key),
        )
        return form

    def _ruler_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def put_length(text: str) -> None:
            known = self._chosen(KnownLength)
            mm, sigma = _length(session, text, known)
            session.edit("ruler length", known, length_mm=mm, sigma_mm=sigma)

        def words() -> str:
            known = self._chosen(KnownLength)
            return _length_words(session, known)

        form.heading(lambda: f"Ruler of the reel: {self._chosen(KnownLength).name}")

        def understood_length(text: str) -> str:
            return _understood(session, text, self._chosen(KnownLength))

        form.text("Length ± (1 σ)", words, put_length, understood_length)
        form.choice(
            "Length is", lambda: LINKS, lambda: self._chosen(KnownLength).link,
            lambda key: session.edit("what a ruler is of", self._chosen(KnownLength), link=key),
        )  # fmt: skip
        form.choice(
            "Counts",
            lambda: [("", "straight across"), *((axis, f"along the {axis}") for axis in AXES)],
            lambda: self._chosen(KnownLength).along or "",
            lambda key: session.edit("direction of a ruler", self._chosen(KnownLength), along=key or None),
        )
        return form

    def _circle_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def words() -> str:
            known = known_diameter(session.build, self._circle())
            return _length_words(session, known) if known is not None else ""

        def length(text: str) -> tuple[float, float]:
            mm, _, plus_minus = text.partition("±")
            known = known_diameter(session.build, self._circle())
            link = known.link if known is not None else "miniature"
            return model.length_and_sigma(mm, plus_minus, link, session.build.info.unit)

        def put_known(text: str) -> None:
            circle = self._circle()
            if text.strip():
                session.commit(f"diameter of {circle.name}", diameter_known(session.build, circle, *length(text)))
            else:
                session.commit(f"{circle.name} is no ruler", diameter_unknown(session.build, circle))

        def understood_length(text: str) -> str:
            mm, sigma = length(text)
            return f"= {both_units(mm)} ± {small_length(sigma, session.build.info.unit)}"

        def ask_size() -> None:
            made = diameter_wanted(session.build, self._circle())
            if session.commit("size of a circle", made.edits):
                session.select(made.entity_id)

        form.heading(lambda: f"Circle: {self._circle().name}")
        form.choice(
            "Square to the",
            lambda: [("", "any direction"), *((axis, axis) for axis in AXES)],
            lambda: self._circle().across or "",
            lambda key: session.edit("direction of a circle", self._circle(), across=key or None),
        )
        known = form.text("Known diameter", words, put_known, understood_length)
        known.setPlaceholderText("25 mm ± 0.1 mm: a ruler")
        button = QPushButton("Make its diameter a size")
        button.clicked.connect(ask_size)
        form.layout().addRow("", button)  # type: ignore[union-attr]
        form.choice(
            "Make a face", lambda: faces.round_choices(session.build, self._circle()), lambda: "",
            lambda key: faces.round_with(session, self._circle(), key),
        )  # fmt: skip
        return form

    def _flat_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def rename(text: str) -> None:
            if text.strip():
                session.edit("name of a flat", self._chosen(FlatSet), name=text.strip())

        form.heading(lambda: f"Flat: {self._chosen(FlatSet).name}, {len(self._chosen(FlatSet).landmark_ids)} landmarks")
        form.text("Name", lambda: self._chosen(FlatSet).name, rename)
        form.choice(
            "Square to the",
            lambda: [("", "any direction"), *((axis, axis) for axis in AXES)],
            lambda: self._chosen(FlatSet).across or "",
            lambda key: session.edit("direction of a flat", self._chosen(FlatSet), across=key or None),
        )
        button = QPushButton("Make it a face")
        button.clicked.connect(lambda: attempt(session, lambda: faces.made_of_flat(session, self._chosen(FlatSet))))
        form.layout().addRow("", button)  # type: ignore[union-attr]
        for words, blend in (("Square it up", False), ("… from several stills", True)):
            self._square_button(form, words, blend)
        return form

    def _square_button(self, form: Form, words: str, blend: bool) -> None:
        button = QPushButton(words)
        button.clicked.connect(lambda: attempt(self._session, lambda: self._square_up(self._session.selection, blend)))
        form.layout().addRow("", button)  # type: ignore[union-attr]

    def _mark_form(self) -> Form:
        session, form = self._session, Form(self._session)

        def entity() -> Plane | RulerMark | Reading:
            found = session.build.entities[session.selection]
            assert isinstance(found, (Plane, RulerMark, Reading))
            return found

        def rename(text: str) -> None:
            found = entity()
            target = self._dimension() if isinstance(found, Reading) else found
            if text.strip():
                session.edit("name", target, name=text.strip())

        def put_length(text: str) -> None:
            found = entity()
            if not isinstance(found, RulerMark):
                raise RefusedError("Only a ruler has a known length. Remove this mark and place it anew.")
            mm, sigma = _length(session, text, found)
            session.edit("ruler length", found, length_mm=mm, sigma_mm=sigma)

        def length() -> str:
            found = entity()
            if not isinstance(found, RulerMark):
                return "—"
            return _length_words(session, found)

        def understood_length(text: str) -> str:
            found = entity()
            return _understood(session, text, found) if isinstance(found, RulerMark) else ""

        def link() -> str:
            found = entity()
            return found.link if isinstance(found, RulerMark) else "miniature"

        def put_link(key: str) -> None:
            if isinstance(entity(), RulerMark):
                session.edit("what a ruler is of", entity(), link=key)

        def part() -> str:
            return self._dimension().part_id if isinstance(entity(), Reading) else ""

        def put_part(key: str) -> None:
            if isinstance(entity(), Reading):
                session.edit("kit part of a size", self._dimension(), part_id=key)

        form.heading(lambda: f"Chosen: {name_of(session.build, session.selection)}")
        form.text("Name", lambda: name_of(session.build, session.selection), rename)
        form.text("Length ±", length, put_length, understood_length)
        form.choice("Length is", lambda: LINKS, link, put_link)
        form.choice("Kit part", self._parts, part, put_part)
        self._square_button(form, "Square this rectangle up", False)
        return form


def _length(session: Session, text: str, ruler: KnownLength | RulerMark) -> tuple[float, float]:
    """A retyped length; its ± stays the same share where none is typed."""
    length, _, plus_minus = text.partition("±")
    keep = plus_minus or f"{100 * ruler.sigma_mm / ruler.length_mm:.6f} %"
    return model.length_and_sigma(length, keep, ruler.link, session.build.info.unit)


def _understood(session: Session, text: str, ruler: KnownLength | RulerMark) -> str:
    mm, sigma = _length(session, text, ruler)
    return f"= {both_units(mm)} ± {small_length(sigma, session.build.info.unit)}"


def _length_words(session: Session, ruler: KnownLength | RulerMark) -> str:
    unit = session.build.info.unit
    return f"{format_length(ruler.length_mm, unit)} ± {format_length(ruler.sigma_mm, unit)}"


def still_form(session: Session) -> Form:
    """What is believed of the still, and the space for the finished model."""
    form = Form(session)

    def put_tilt(text: str) -> None:
        value = parse_number(text.replace("°", "")) / 2
        if not 0.05 <= value <= 15:
            raise RefusedError("Square on means within 0.1° to 30°. Beyond that mark a squared-up plane.")
        if session.still is not None:
            session.edit(f"tilt of still {session.still.number}", session.still, tilt_sigma_deg=value)

    def put_lens(text: str) -> None:
        if session.still is not None:
            session.edit(f"lens of still {session.still.number}", session.still, lens=text.strip())

    def put_space(text: str) -> None:
        mm = parse_length(text, session.build.info.unit) if text.strip() else None
        session.edit("space", session.build.info, space_mm=mm)

    def space() -> str:
        mm = session.build.info.space_mm
        return format_length(mm, session.build.info.unit) if mm else ""

    def pose() -> str:
        sizes = session.answers.sizes if session.answers else None
        return pose_words(session.build, sizes.reel, session.still) if sizes and session.still else ""

    form.heading(pose)
    form.text(
        "Square on within ± °", lambda: f"{2 * session.still.tilt_sigma_deg:g}" if session.still else "", put_tilt
    )
    lens = form.text("Lens", lambda: session.still.lens if session.still else "", put_lens)
    lens.setPlaceholderText("same name, same camera and zoom")
    form.text(
        "Space for it",
        lambda: session.build.info.space_name,
        lambda text: session.edit("space", session.build.entities[BUILD_ID], space_name=text.strip()),
    )
    form.text("its length", space, put_space, lambda text: understood(text, session.build.info.unit))
    return form
