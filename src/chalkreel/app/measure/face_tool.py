"""The tool that makes faces: corner by corner, or by one click inside a flat piece that is known as such."""

from __future__ import annotations

from chalkreel.app.measure import landmarks
from chalkreel.app.session import Session
from chalkreel.app.stills.tools import Points
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import FlatSet, LandmarkMark, Still
from chalkreel.edits.made import Made
from chalkreel.edits.marking import mark_face


def corners_meant(session: Session, zoom: float, so_far: Points, at: tuple[float, float]) -> Points:
    """A click as corners: the landmark it met, or, first of all, those of the flat piece it lies in.

    Raises
    ------
    RefusedError
        It met neither.
    """
    build, answers, still = session.build, session.answers, session.still
    assert still is not None
    (met,) = landmarks.landmarks_or_ghosts_at(build, still, answers, (at,), zoom)
    if met:
        return (at,)
    if answers is not None and answers.sizes is not None and not so_far:
        # Not before answers have been computed: it loads what computes.
        from chalkreel.answers.flat_behind import flat_behind

        reel = answers.sizes.reel
        ring = flat_behind(build, answers.faces, reel, still.id, at)
        places = {m.landmark_id: (m.mark.x_px, m.mark.y_px) for m in build.all(LandmarkMark) if m.still_id == still.id}
        if ring:
            places = {g.landmark: (g.x_px, g.y_px) for g in reel.ghosts_on(still.id)} | places
        if ring and all(key in places for key in ring):
            return tuple(places[key] for key in ring)
    raise RefusedError("No landmark here, and no flat or face round it. Click on landmarks, in order round the piece.")


def face_made(session: Session, still: Still, zoom: float, points: Points, name: str, template: bool) -> Made:
    """A face of the corners gathered; with `template` to be cut out, and one that is there already becomes that.

    Raises
    ------
    RefusedError
        They make no face, or there is one already and no template is asked for.
    """
    build, answers = session.build, session.answers
    chosen = landmarks.landmarks_or_ghosts_at(build, still, answers, points, zoom)
    flat = next((f.name for f in build.all(FlatSet) if set(chosen) <= set(f.landmark_ids)), "")
    made = mark_face(build, name.strip() or flat, chosen, template)
    landmarks.check_face(answers, chosen)
    return made
