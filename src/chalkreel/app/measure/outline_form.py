"""The short form of a traced outline: its name, whether it closes, and what face it makes."""

from __future__ import annotations

from chalkreel.app.measure import faces
from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.document.entities import Outline


def outline_form(session: Session) -> Form:
    """The form of the outline that is chosen."""
    form = Form(session)

    def outline() -> Outline:
        found = session.build.entities[session.selection]
        assert isinstance(found, Outline)
        return found

    def rename(text: str) -> None:
        if text.strip():
            session.edit("name of an outline", outline(), name=text.strip())

    form.heading(lambda: f"Outline: {outline().name}")
    form.text("Name", lambda: outline().name, rename)
    form.choice(
        "Its ends", lambda: [("yes", "meet: it is closed"), ("", "stay apart: it is open")],
        lambda: "yes" if outline().closed else "",
        lambda key: session.edit("ends of an outline", outline(), closed=bool(key)),
    )  # fmt: skip
    form.choice(
        "Make a face", lambda: faces.traced_choices(session.build, outline()), lambda: "",
        lambda key: faces.traced_with(session, outline(), key),
    )  # fmt: skip
    return form
