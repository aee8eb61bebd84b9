"""View-model of faces (no Qt): their table, and what is said of a view."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass
from typing import TYPE_CHECKING

from chalkreel.answers.enclosed import ring_name
from chalkreel.answers.faces import pieces_of, round_the_middle
from chalkreel.answers.wording import still_list
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.lengths import INCH_MM, LengthUnit, format_length
from chalkreel.document.changes import Edits
from chalkreel.document.entities import FlatSet, Outline, RoundShape, SkinFace, Still
from chalkreel.document.gallery import picture_name
from chalkreel.document.paint_entities import Zone
from chalkreel.document.snapshot import Build
from chalkreel.edits.marking import mark_face, round_face, traced_face

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.answers.faces import FaceRow
    from chalkreel.answers.orthographic import DrawnView

MOST_GAPS = 2
# The choice of a wall from an outline to its own mirror image.
ACROSS = "across"
# Corners no farther off one plane, mm of the miniature: what pairs across the middle make flat by themselves.
FLAT_MM = 0.01


@dataclass(frozen=True)
class Row:
    """A face in words."""

    id: str
    name: str
    area: str
    corners: str
    flatness: str
    state: str
    twin: bool
    template: bool
    zone: str


def face_rows(build: Build, answers: Answers | None) -> tuple[Row, ...]:
    """All faces, as far as they are known."""
    known = {row.id: row for row in answers.faces.rows} if answers is not None else {}
    return tuple(_row(build, face, known.get(face.id)) for face in build.all(SkinFace))


def view_key(answers: Answers) -> object:
    """All that the picture of a view depends on: the same again need not be painted again."""
    info = answers.build.info
    stills = tuple((s.id, picture_name(s), s.version_id, s.still_kind) for s in answers.build.all(Still))
    return answers.faces, answers.build.chain, info.version_id, info.name, info.unit, stills


def area_words(mm2: float, unit: LengthUnit) -> str:
    """An area in cm² or square inches."""
    return f"{mm2 / 100:.1f} cm²" if unit == "mm" else f"{mm2 / INCH_MM**2:.2f} in²"


def share_words(view: DrawnView) -> str:
    """How much of a view some still shows; not 100 % while anything is hatched."""
    return f"{math.floor(100 * view.share)} %"


def view_words(view: DrawnView) -> str:
    """How much of a view is seen, from which stills, and what is not."""
    unit = view.sheet.unit
    made = f"from {still_list(view.stills)} at {view.dots_per_inch:.0f} dots an inch" if view.stills else ""
    seen = f"{share_words(view)} seen"
    gaps = ", ".join(f"{name} {area_words(mm2, unit)}" for name, mm2 in view.gaps[:MOST_GAPS])
    more = f" and {len(view.gaps) - MOST_GAPS} more" if len(view.gaps) > MOST_GAPS else ""
    level = "△ nothing says which way is level: mark an edge along the length (E)" if view.leaning else ""
    return "; ".join(
        filter(None, (level, f"{seen} {made}".strip(), f"hatched, seen by none: {gaps}{more}" if gaps else ""))
    )


def made_of_flat(session: Session, flat: FlatSet) -> None:
    """Make a face of the outermost landmarks of a flat.

    Raises
    ------
    RefusedError
        There are no answers yet, or it makes no face.
    """
    answers = session.answers
    if answers is None or answers.sizes is None:
        raise RefusedError("Sizes are still being computed. Try again in a moment.")
    made = mark_face(session.build, flat.name, round_the_middle(answers.sizes.reel, flat.landmark_ids))
    if session.commit(f"face {flat.name}", made.edits):
        session.select(made.entity_id)


def offer_words(answers: Answers | None) -> str:
    """The button that takes what joined landmarks enclose; empty where there is nothing to take."""
    count = len(answers.offered) if answers is not None else 0
    return f"Make {plural(count, 'face')} of joined landmarks" if count else ""


def take_offered(session: Session) -> None:
    """Make faces of all that joined landmarks enclose, as one edit."""
    answers = session.answers
    build, names = session.build, Counter[str]()
    edits: Edits = {}
    for ring in answers.offered if answers is not None else ():
        common = ring_name(build, ring) or "face"
        names[common] += 1
        made = mark_face(build, f"{common} {names[common]}" if names[common] > 1 else common, ring)
        edits |= made.edits
    if edits:
        session.commit(f"{plural(len(edits), 'face')} of joined landmarks", edits)


def round_choices(build: Build, circle: RoundShape) -> list[tuple[str, str]]:
    """What a circle can be made a face of: key and words."""
    others = [(c.id, f"the wall to {c.name}") for c in build.all(RoundShape) if c.id != circle.id]
    return [("", "no"), (circle.id, "the disc within its rim"), *others]


def round_with(session: Session, circle: RoundShape, other_id: str) -> None:
    """Make a face of a circle: its disc, or the wall between it and another; nothing where no choice was made.

    Raises
    ------
    RefusedError
        There is one already.
    """
    if not other_id:
        return
    other = session.build.get(RoundShape, other_id) if other_id != circle.id else None
    made = round_face(session.build, circle, other)
    if session.commit(f"round face of {circle.name}", made.edits):
        session.select(made.entity_id)


def traced_choices(build: Build, outline: Outline) -> list[tuple[str, str]]:
    """What a traced outline can be made a face of: key and words; walls lie between two of a kind."""
    others = [(o.id, f"the wall to {o.name}") for o in build.all(Outline)
              if o.id != outline.id and o.closed == outline.closed]  # fmt: skip
    within = [(outline.id, "what lies within it")] if outline.closed else []
    return [("", "no"), *within, (ACROSS, "the wall across to its mirror image"), *others]


def traced_with(session: Session, outline: Outline, choice: str) -> None:
    """Make a face of a traced outline, as one of the choices has it; nothing where none was made.

    Raises
    ------
    RefusedError
        There is one already, or it makes none.
    """
    if not choice:
        return
    build, answers = session.build, session.answers
    other = build.get(Outline, choice) if choice != outline.id else None
    made = traced_face(build, outline, other, choice == ACROSS)
    if answers is not None and answers.sizes is not None:
        face = made.edits[made.entity_id]
        assert isinstance(face, SkinFace)
        pieces_of(build, face, answers.sizes.reel)
    if session.commit(f"face of {outline.name}", made.edits):
        session.select(made.entity_id)


def rename(session: Session, face: SkinFace, text: str) -> None:
    """Give a face another name.

    Raises
    ------
    RefusedError
        No name.
    """
    if not text.strip():
        raise RefusedError("A face needs a name.")
    session.edit(f"name of {face.name}", face, name=text.strip())


def zone_names(build: Build) -> tuple[str, ...]:
    """What a face can be painted as; the first is nothing."""
    return ("", *dict.fromkeys(zone.name for zone in build.all(Zone)))


def paint_as(session: Session, face: SkinFace, name: str) -> None:
    """Give a face to the zone of a name; its area counts there, with its twin's."""
    zone_id = next((zone.id for zone in session.build.all(Zone) if zone.name == name), "")
    session.edit(f"{face.name} painted as {name}" if zone_id else f"{face.name} in no zone", face, zone_id=zone_id)


def _row(build: Build, face: SkinFace, known: FaceRow | None) -> Row:
    zone = build.get(Zone, face.zone_id)
    painted = zone.name if zone is not None else ""
    corners = str(len(face.landmark_ids)) if face.landmark_ids else "round" if face.circle_ids else "traced"
    if known is None or known.problem:
        return Row(
            face.id, face.name, "", corners, known.problem if known else "", "bad", face.twin, face.template, painted
        )
    to_replica = build.chain.convert(1.0, "miniature", "replica")
    off = format_length(known.off_mm * to_replica, build.info.unit)
    # Three corners, or pairs across the middle, lie in one plane whatever was clicked: that is no finding.
    checked = known.off_mm > FLAT_MM
    flatness = f"within {off}" if checked else "nothing to tell by"
    if known.twisted:
        flatness = f"twisted by {off}: split it, or mark it again"
    area = area_words(known.area_mm2 * to_replica**2, build.info.unit)
    state = "warn" if known.twisted else "good" if checked else "plain"
    return Row(face.id, face.name, area, corners, flatness, state, face.twin, face.template, painted)
