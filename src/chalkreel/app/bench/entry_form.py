"""The chosen log entry on the card: everything that it says, to be put right later."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from chalkreel.app.bench import log_model as model
from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.document.bench_entities import LogEntry
from chalkreel.document.paint_entities import PaintPot


def entry_form(session: Session, chosen: Callable[[], LogEntry | None]) -> Form:
    """A form over the chosen entry; every field is one change."""
    form = Form(session)

    def entry() -> LogEntry:
        return chosen() or LogEntry(id="", at="2000-01-01T00:00", words="")

    def put(label: str, **fields: object) -> None:
        if entry().id:
            session.edit(f"{label} of the entry of {model.when_words(entry())}", entry(), **fields)

    def number(name: str, label: str, field: str, most: float, whole: bool = False) -> None:
        def get() -> str:
            value = getattr(entry(), field)
            return f"{value:g}" if value else ""

        def take(text: str) -> None:
            value = model.amount(text, most, f"“{name}”")
            put(label, **{field: round(value) if whole else value})

        form.text(name, get, take)

    def optional(name: str, label: str, field: str, least: float, most: float) -> None:
        def get() -> str:
            value = getattr(entry(), field)
            return "" if value is None else f"{value:g}"

        form.text(name, get, lambda text: put(label, **{field: model.optional(text, least, most)}))

    def put_words(text: str) -> None:
        if not text.strip():
            raise RefusedError("Write what happened first; Remove entry takes it off.")
        put("words", words=text.strip())

    def put_when(text: str) -> None:
        put("time", at=model.read_time(text))

    def put_step(step_id: str) -> None:
        put("step", step_id=step_id, step_kind=model.kind_of(session.answers, step_id))

    def pots() -> list[tuple[str, str]]:
        return [("", "none"), *((pot.id, pot.label) for pot in session.build.all(PaintPot))]

    form.heading(lambda: f"Entry of {model.when_words(entry())}")
    form.text("What", lambda: entry().words, put_words)
    form.text("When", lambda: datetime.fromisoformat(entry().at).strftime("%Y-%m-%d %H:%M"), put_when)
    form.choice("At step", lambda: model.steps_to_choose(session.answers), lambda: entry().step_id, put_step)
    number("Minutes", "minutes", "minutes", 6000, whole=True)
    number("Cost", "cost", "cost", 1e6)
    form.text("Mix", lambda: entry().mix, lambda text: put("mix", mix=text.strip()))
    form.choice("Pot", pots, lambda: entry().pot_id, lambda key: put("pot", pot_id=key))
    number("Coats", "coats", "coats", 50, whole=True)
    number("Bar", "pressure", "bar", 20)
    number("Needle", "needle", "needle_mm", 5)
    number("Thinner to 1", "thinner", "thinner_parts", 50)
    number("Touch-dry, h", "drying time", "dry_hours", 1000)
    optional("Room °C", "room", "room_c", -30, 60)
    optional("Humidity %", "humidity", "room_humidity", 0, 100)
    form.check("lesson", lambda: entry().lesson, lambda on: put("lesson", lesson=on))
    return form
