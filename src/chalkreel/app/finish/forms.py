"""The short forms of Finish: room and dates on the page of evenings, schools on the page of zones."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from PySide6.QtWidgets import QVBoxLayout, QWidget

from chalkreel.app.finish import model
from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.finish.stacks import FILLERS, ROLES, WEARS
from chalkreel.core.finish.steps import Step
from chalkreel.core.materials import SHEENS
from chalkreel.document.entities import BUILD_ID
from chalkreel.document.paint_entities import Zone


def evening_form(session: Session) -> Form:
    """From when, by when, without which days, and in what air."""

    def put(label: str, **fields: object) -> None:
        session.edit(label, session.build.entities[BUILD_ID], **fields)

    form = Form(session)
    form.text(
        "From day", lambda: session.build.info.first_bench_day,
        lambda text: put("first day", first_bench_day=model.day_from(text)),
    ).setPlaceholderText("today")  # fmt: skip
    form.text(
        "Deadline", lambda: session.build.info.deadline, lambda text: put("deadline", deadline=model.day_from(text))
    ).setPlaceholderText("none")
    form.text(
        "Days off", lambda: model.days_off_words(session.build.info.days_off),
        lambda text: put("days off", days_off=model.days_off_from(text)),
    ).setPlaceholderText("2026-12-24 to 2027-01-01")  # fmt: skip
    form.text(
        "Room, °C", lambda: f"{session.build.info.room_c:g}",
        lambda text: put("room", room_c=model.number_between(text, -30, 60, "The room in °C")),
    )  # fmt: skip
    form.text(
        "Humidity, %", lambda: f"{session.build.info.room_humidity:g}",
        lambda text: put("humidity", room_humidity=model.number_between(text, 0, 100, "Humidity in %")),
    )  # fmt: skip
    form.check("Dries in a warm cabinet", lambda: session.build.info.cabinet, lambda on: put("cabinet", cabinet=on))
    return form


def step_form(session: Session, chosen: Callable[[], Step | None]) -> Form:
    """How much of the chosen step is left, where it was broken off."""

    def put(text: str) -> None:
        step = chosen()
        if step is None:
            raise RefusedError("Choose a step first.")
        kept = tuple(pair for pair in session.build.info.minutes_left if pair[0] != step.id)
        if text.strip():
            kept = (*kept, (step.id, int(model.number_between(text, 1, 6000, "Minutes left"))))
        session.edit(f"minutes left of “{step.title}”", session.build.entities[BUILD_ID], minutes_left=kept)

    def get() -> str:
        step = chosen()
        return str(dict(session.build.info.minutes_left).get(step.id, "")) if step is not None else ""

    form = Form(session)
    form.text("Half done: min left", get, put).setPlaceholderText("of the chosen step")
    return form


class ZoneForm(QWidget):
    """What the finish of the chosen zone is made of, kept under a name of its own; and the schools of the build."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.zone, self.schools = self._zone_form(), _school_form(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.zone)
        column.addWidget(self.schools)

    def refresh(self) -> None:
        """Show the zone that is chosen now."""
        self.zone.setVisible(self._chosen() is not None)
        if self._chosen() is not None:
            self.zone.refresh()
        self.schools.refresh()

    def _chosen(self) -> Zone | None:
        return self._session.build.get(Zone, self._session.selection)

    def _zone_form(self) -> Form:
        form = Form(self._session)
        form.heading(lambda: f"Finish of {zone.name}" if (zone := self._chosen()) else "")
        form.choice("Painted as", lambda: tuple((r, r) for r in ROLES), lambda: self._of("role", "base"),
                    lambda role: self._put("role", role=role))  # fmt: skip
        form.choice("Last sheen", lambda: tuple((s, s) for s in SHEENS), lambda: self._of("sheen", "matte"),
                    lambda sheen: self._put("sheen", sheen=sheen))  # fmt: skip
        form.toggles(
            "Wear", (WEARS[::2], WEARS[1::2]), lambda: zone.wear if (zone := self._chosen()) else (), self._wear
        )
        form.text(
            "Decals", lambda: model.decal_words(zone) if (zone := self._chosen()) else "", self._decals
        ).setPlaceholderText("9; tally, under a part")
        form.text("Keep it as", lambda: "", self._keep).setPlaceholderText("a name for other zones")
        return form

    def _of(self, field: str, usual: str) -> str:
        zone = self._chosen()
        return str(getattr(zone, field)) if zone is not None else usual

    def _put(self, label: str, **fields: object) -> None:
        zone = self._chosen()
        if zone is not None:
            self._session.edit(f"{label} of {zone.name}", zone, **fields)

    def _wear(self, word: str, on: bool) -> None:
        zone = self._chosen()
        if zone is not None:
            self._put("wear", wear=tuple(w for w in WEARS if (w in zone.wear and w != word) or (w == word and on)))

    def _decals(self, text: str) -> None:
        named = model.decals_from(text)
        self._put("decals", decal_list=named, decals=bool(named))

    def _keep(self, name: str) -> None:
        zone = self._chosen()
        if zone is not None and name.strip():
            kept = model.kept_as(self._session.build, zone, name.strip())
            self._session.commit(f"finish “{kept.name}” kept", {kept.id: kept})


def _school_form(session: Session) -> Form:
    """What is done where practitioners differ."""
    form = Form(session)
    form.heading(lambda: "Where practitioners differ")
    for name, field, words in SCHOOLS:
        form.choice(
            name, partial(list, words.items()), partial(_followed, session, field), partial(_follow, session, field)
        )
    return form


def _followed(session: Session, field: str) -> str:
    return str(getattr(session.build.info, field))


def _follow(session: Session, field: str, school: str) -> None:
    session.edit(field, session.build.entities[BUILD_ID], **{field: school})


# Each with the field of the build that keeps it, and what its choices are called.
SCHOOLS: Final[tuple[tuple[str, str, dict[str, str]], ...]] = (
    ("Chipping", "chipping", {
        "medium": "medium and water", "salt": "salt", "liquid mask": "liquid mask",
        "sponge": "sponge and pencil, afterwards",
    }),
    ("Seams filled with", "filler", {filler: filler for filler in FILLERS}),
    ("Powders", "powders", {"left": "left as they are, last of all", "sealed": "sealed under a mist of matte"}),
    ("Clear parts", "canopy", {"last": "set in last", "masked": "set in before painting, masked"}),
    ("Decals on", "gloss", {"always": "gloss, always", "on matte paint": "glossy paint, else gloss"}),
    ("Washes of", "wash", {"enamel": "enamel, wiped", "oil": "oil, wiped", "acrylic": "acrylic, which stays"}),
)  # fmt: skip
