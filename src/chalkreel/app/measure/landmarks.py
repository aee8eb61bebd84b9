"""View-model of landmarks on a still (no Qt): strokes, ghosts, residuals, and what a click on them means."""

from __future__ import annotations

import math

import msgspec

from chalkreel.answers.answers import Answers
from chalkreel.answers.faces import check_corners, check_on_face
from chalkreel.answers.reel import Effect, ReelAnswer
from chalkreel.answers.wording import name_of, short_words
from chalkreel.app.measure.squared import solved_strokes
from chalkreel.app.stills.strokes import Handle, Stroke
from chalkreel.app.stills.tools import Points
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.lengths import signed_length
from chalkreel.core.measure.ghosts import Ghost
from chalkreel.core.measure.marks import Mark, click_sigma_px
from chalkreel.document.changes import Edits
from chalkreel.document.entities import (
    Dimension,
    EdgeMark,
    Landmark,
    LandmarkMark,
    Outline,
    RepeatedParts,
    RimMark,
    RoundShape,
    SkinFace,
    Spot,
    Still,
    StraightEdge,
    Tie,
    reel_place,
)
from chalkreel.document.snapshot import Build
from chalkreel.edits.made import Made
from chalkreel.edits.marking import mark_landmark, mark_on

# A ghost taken over without being moved is evidence only where it was seen at this zoom.
CONFIRMING_ZOOM = 2.0
# Residuals are drawn so many times longer than they are, from this length on.
STRETCH, LEAST_SHOWN_PX, LONGEST_STROKE_PX = 12.0, 0.25, 30.0
NEAR_SCREEN_PX = 9.0
FAR_FROM_GHOST = 5.0
STIRRED_PX = 0.1


def reel_of(answers: Answers | None) -> ReelAnswer | None:
    """The solved reel, if there is one yet."""
    return answers.sizes.reel if answers is not None and answers.sizes is not None else None


def landmark_strokes(
    build: Build, still: Still, answers: Answers | None, selection: str, names: bool
) -> tuple[list[Stroke], list[Handle]]:
    """Marks, edges, rims, residuals and ghosts of one still."""
    strokes, handles = _edges_and_rims(build, still, selection)
    reel = reel_of(answers)
    chosen = _chosen_landmarks(build, selection)
    wrong_here = [f for f in reel.faults if still.id in (f.view, *f.elsewhere)] if reel else []
    faulty = {landmark for f in wrong_here for landmark in f.landmarks}
    for mark in build.all(LandmarkMark):
        if mark.still_id != still.id:
            continue
        landmark = build.get(Landmark, mark.landmark_id)
        name = landmark.name if landmark else ""
        point = (mark.mark.x_px, mark.mark.y_px)
        strong = mark.id == selection or mark.landmark_id in chosen
        wrong = mark.landmark_id in faulty
        label, spare = name, not (strong or names or wrong)
        if mark.unconfirmed:
            label = f"{name}: not looked at yet" if strong else label
            strokes.append(Stroke((point,), "white", label, strong=strong, spare=spare))
        else:
            colour = "coral" if wrong else "mint"
            strokes.append(Stroke((point,), colour, label, strong=strong or wrong, spare=spare))
        strokes += _residual(reel, still, mark)
        handles.append(Handle(mark.id, 0, *point))
    strokes += solved_strokes(build, still, answers, chosen)
    strokes += _chosen_size(build, still, answers, selection)
    hidden = answers.faces.hidden_on(reel, still.id) if answers is not None and reel is not None else frozenset()
    ghost_strokes, ghost_handles = _ghosts(build, still, reel, chosen, names, hidden)
    return strokes + ghost_strokes, handles + ghost_handles


def _chosen_landmarks(build: Build, selection: str) -> set[str]:
    entity = build.entities.get(selection)
    if isinstance(entity, LandmarkMark):
        return {entity.landmark_id}
    if isinstance(entity, Landmark):
        return {entity.id}
    ends = [getattr(entity, field, "") for field in ("a_id", "b_id", "corner_id")]
    return {end for end in ends if end}


def _edges_and_rims(build: Build, still: Still, selection: str) -> tuple[list[Stroke], list[Handle]]:
    strokes, handles = [], []
    for edge in build.all(EdgeMark):
        if edge.still_id == still.id:
            points = ((edge.a.x_px, edge.a.y_px), (edge.b.x_px, edge.b.y_px))
            strong = edge.id == selection
            strokes.append(Stroke(points, "lilac", edge.direction if strong else "", dashed=True, strong=strong))
            handles += [Handle(edge.id, i, *point) for i, point in enumerate(points)]
    for rim in build.all(RimMark):
        if rim.still_id == still.id:
            circle = build.get(RoundShape, rim.circle_id)
            strong = selection in (rim.id, rim.circle_id)
            outline = tuple((m.x_px, m.y_px) for m in rim.marks)
            label = (circle.name if circle else "") if strong else ""
            strokes.append(Stroke(outline, "mint", label, closed=True, dashed=True, crosses=strong, strong=strong))
            handles += [Handle(rim.id, i, *point) for i, point in enumerate(outline)]
    for edge_line in build.all(StraightEdge):
        if edge_line.still_id == still.id:
            along = tuple((m.x_px, m.y_px) for m in edge_line.marks)
            strong = edge_line.id == selection
            strokes.append(Stroke(along, "lilac", "straight in truth" if strong else "", strong=strong))
            handles += [Handle(edge_line.id, i, *point) for i, point in enumerate(along)]
    for tie in build.all(Tie):
        a, b = mark_on(build, still.id, tie.a_id), mark_on(build, still.id, tie.b_id)
        if a is not None and b is not None:
            ends = ((a.mark.x_px, a.mark.y_px), (b.mark.x_px, b.mark.y_px))
            strokes.append(Stroke(ends, "lilac", tie.direction if tie.id == selection else "", crosses=False))
    return strokes, handles


def _chosen_size(build: Build, still: Still, answers: Answers | None, selection: str) -> list[Stroke]:
    """The chosen size as a line between its landmarks, where both are marked here."""
    dimension = build.get(Dimension, selection)
    ends = [mark_on(build, still.id, i) for i in (dimension.a_id, dimension.b_id)] if dimension is not None else []
    if dimension is None or not all(ends) or answers is None or answers.sizes is None:
        return []
    row = next((r for r in answers.sizes.rows if r.dimension_id == dimension.id), None)
    value = f" {short_words(row.replica, build.info.unit)}" if row is not None and row.replica is not None else ""
    points = tuple((e.mark.x_px, e.mark.y_px) for e in ends if e is not None)
    return [Stroke(points, "sky", f"{dimension.name}{value}", crosses=False, strong=True)]


def _residual(reel: ReelAnswer | None, still: Still, mark: LandmarkMark) -> list[Stroke]:
    """A short stroke towards where the solution has it, stretched to be seen."""
    if reel is None or reel.solution is None:
        return []
    gap = reel.residuals.get((still.id, mark.landmark_id))
    if gap is None or math.hypot(*gap) < LEAST_SHOWN_PX:
        return []
    x, y = mark.mark.x_px, mark.mark.y_px
    length = math.hypot(*gap)
    bad = length > 3 * mark.mark.sigma_px
    # A blunder's stroke ends where the mark should be; small ones are stretched to be seen, within reason.
    stretch = min(STRETCH, max(1.0, LONGEST_STROKE_PX / length))
    end = (x - stretch * gap[0], y - stretch * gap[1])
    return [Stroke(((x, y), end), "coral" if bad else "yellow", crosses=False)]


def _ghosts(
    build: Build, still: Still, reel: ReelAnswer | None, chosen: set[str], names: bool, hidden: frozenset[str]
) -> tuple[list[Stroke], list[Handle]]:
    strokes: list[Stroke] = []
    handles: list[Handle] = []
    if reel is None:
        return strokes, handles
    marked = {m.landmark_id for m in build.all(LandmarkMark) if m.still_id == still.id}
    for ghost in reel.ghosts_on(still.id):
        landmark = build.get(Landmark, ghost.landmark)
        if landmark is None or landmark.id in marked:
            continue
        strong = landmark.id in chosen
        if landmark.id in hidden and not strong:
            # Behind a face: a dot says so, and nothing can be taken hold of.
            strokes.append(Stroke(((ghost.x_px, ghost.y_px),) * 2, "white", crosses=False))
            continue
        label = f"{landmark.name}?" if strong or names else ""
        strokes.append(Stroke(ghost.outline(), "white", label, closed=True, dashed=True, crosses=False, strong=strong))
        handles.append(Handle(landmark.id, 0, ghost.x_px, ghost.y_px, ghost=True))
    for landmark_id, line in reel.lines_on(still.id).items():
        words = f"{name_of(build, landmark_id)} lies on this line"
        strokes.append(Stroke(line, "white", words, dashed=True, crosses=False))
    return strokes, handles


def best_companion(build: Build, still_id: str) -> str:
    """The other still that has most landmarks in common with one; of like ones, the first on the reel."""
    on: dict[str, set[str]] = {}
    for mark in build.all(LandmarkMark):
        on.setdefault(mark.still_id, set()).add(mark.landmark_id)
    here = on.get(still_id, set())
    others = [s for s in sorted(build.all(Still), key=reel_place) if s.id != still_id]
    return max(others, key=lambda s: len(on.get(s.id, set()) & here)).id if others else ""


def ghost_of(answers: Answers | None, still: Still, landmark_id: str) -> Ghost | None:
    """Where a landmark is expected on a still."""
    reel = reel_of(answers)
    if reel is None:
        return None
    return next((g for g in reel.ghosts_on(still.id) if g.landmark == landmark_id), None)


def meant(build: Build, answers: Answers | None, still: Still, mark: Mark) -> str:
    """The landmark that an unnamed click is for: the nearest expected here and not marked yet; empty for a new one."""
    here = {m.landmark_id for m in build.all(LandmarkMark) if m.still_id == still.id}
    found = [(ghost_of(answers, still, m.id), m.name) for m in build.all(Landmark) if m.id not in here]
    near = [(ghost.distance(mark), name) for ghost, name in found if ghost is not None]
    return min((pair for pair in near if pair[0] <= FAR_FROM_GHOST), default=(0.0, ""))[1]


def far_from_ghost(answers: Answers | None, still: Still, landmark: Landmark | None, mark: Mark) -> str:
    """A question where a click lies far from where its landmark is expected; empty where it does not."""
    ghost = ghost_of(answers, still, landmark.id) if landmark is not None else None
    if ghost is None or landmark is None or ghost.distance(mark) <= FAR_FROM_GHOST:
        return ""
    px = math.hypot(mark.x_px - ghost.x_px, mark.y_px - ghost.y_px)
    return f"“{landmark.name}” is expected {px:.0f} px from here. Keep this mark all the same?"


def accepted_ghost(build: Build, still: Still, answers: Answers | None, handle: Handle, zoom: float) -> Made | None:
    """The mark that a ghost becomes; left where it was expected and seen from afar, it is no evidence yet."""
    landmark = build.get(Landmark, handle.entity_id)
    if landmark is None:
        return None
    ghost = ghost_of(answers, still, landmark.id)
    moved = ghost is None or math.hypot(handle.x_px - ghost.x_px, handle.y_px - ghost.y_px) > STIRRED_PX
    mark = Mark(handle.x_px, handle.y_px, click_sigma_px(zoom))
    return mark_landmark(build, still, landmark.name, mark, unconfirmed=not moved and zoom < CONFIRMING_ZOOM)


def landmarks_at(build: Build, still: Still, points: Points, zoom: float) -> tuple[str, ...]:
    """For each point the landmark marked within reach of it, empty where there is none."""
    found = []
    for x, y in points:

        def distance(mark: LandmarkMark, x: float = x, y: float = y) -> float:
            return zoom * math.hypot((mark.mark.x_px - x) * still.pixel_aspect, mark.mark.y_px - y)

        marks = [m for m in build.all(LandmarkMark) if m.still_id == still.id]
        nearest = min(marks, key=distance, default=None)
        near = nearest is not None and distance(nearest) <= NEAR_SCREEN_PX
        found.append(nearest.landmark_id if nearest is not None and near else "")
    return tuple(found)


def landmarks_or_ghosts_at(
    build: Build, still: Still, answers: Answers | None, points: Points, zoom: float
) -> tuple[str, ...]:
    """For each point the landmark marked or expected within reach of it, empty where there is none."""
    found = list(landmarks_at(build, still, points, zoom))
    reel = reel_of(answers)
    for n, (x, y) in enumerate(points):
        if not found[n] and reel is not None:
            gaps = {g.landmark: zoom * math.hypot((g.x_px - x) * still.pixel_aspect, g.y_px - y)
                    for g in reel.ghosts_on(still.id) if build.get(Landmark, g.landmark) is not None}  # fmt: skip
            nearest = min(gaps, key=lambda key: gaps[key], default="")
            found[n] = nearest if nearest and gaps[nearest] <= NEAR_SCREEN_PX else ""
    return tuple(found)


def check_face(answers: Answers | None, landmark_ids: tuple[str, ...]) -> None:
    """Refuse a face whose solved corners make none.

    Raises
    ------
    RefusedError
        They lie on one line, or its sides cross.
    """
    reel = reel_of(answers)
    if reel is not None and reel.solution is not None:
        check_corners(reel, landmark_ids)


def check_landing(answers: Answers | None, still: Still, marks: tuple[Mark, Mark]) -> None:
    """Refuse a mark on an ordinary still that lies on no face; before there are answers it is taken as it is.

    Raises
    ------
    RefusedError
        The still is not tied in, or the ends do not lie on one face.
    """
    reel = reel_of(answers)
    if still.squared is None and answers is not None and reel is not None:
        check_on_face(answers.faces, reel, still.id, marks)


def face_strokes(build: Build, still: Still, answers: Answers | None, selection: str) -> list[Stroke]:
    """Faces whose corners are all on a still, marked or expected; those turned away or hidden only when chosen."""
    reel = reel_of(answers)
    if reel is None or answers is None:
        return []
    places = {m.landmark_id: (m.mark.x_px, m.mark.y_px) for m in build.all(LandmarkMark) if m.still_id == still.id}
    for ghost in reel.ghosts_on(still.id):
        places.setdefault(ghost.landmark, (ghost.x_px, ghost.y_px))
    hidden = answers.faces.hidden_on(reel, still.id)
    wrong = {row.id for row in answers.faces.rows if row.problem or row.twisted}
    strokes = []
    for face in build.all(SkinFace):
        strong = face.id == selection
        # Round ones are told by their rims.
        known = bool(face.landmark_ids) and all(i in places for i in face.landmark_ids)
        if known and (strong or not any(i in hidden for i in face.landmark_ids)):
            outline = tuple(places[i] for i in face.landmark_ids)
            colour = "coral" if face.id in wrong else "sky"
            label = face.name if strong or face.id in wrong else ""
            strokes.append(Stroke(outline, colour, label, closed=True, crosses=False, strong=strong))
    return strokes


def offered(build: Build, still: Still | None) -> tuple[str, ...]:
    """Landmark names, those not yet marked on this still first."""
    here = {m.landmark_id for m in build.all(LandmarkMark) if still is not None and m.still_id == still.id}
    landmarks = build.all(Landmark)
    return tuple(m.name for m in sorted(landmarks, key=lambda m: m.id in here))


def next_still_without(build: Build, still: Still, landmark_id: str) -> str:
    """The next still round the reel on which a landmark is not marked yet; empty when it is on all."""
    stills = build.all(Still)
    ids = [s.id for s in stills]
    at = ids.index(still.id) if still.id in ids else 0
    for other in (*stills[at + 1 :], *stills[:at]):
        if mark_on(build, other.id, landmark_id) is None:
            return other.id
    return ""


def moved_reel_mark(build: Build, handle: Handle, zoom: float) -> Edits | None:
    """The landmark, edge or rim mark of a handle at its new place; None for other kinds.

    Raises
    ------
    RefusedError
        A ghost's mark is to count though nobody has looked at it closely.
    """
    mark = Mark(handle.x_px, handle.y_px, click_sigma_px(zoom))
    entity = build.entities.get(handle.entity_id)
    if isinstance(entity, LandmarkMark):
        if entity.unconfirmed and zoom < CONFIRMING_ZOOM and _same_place(entity.mark, mark):
            raise RefusedError("Zoom in to 2:1 or closer and look at it, or move it: until then it is no evidence.")
        return {entity.id: msgspec.structs.replace(entity, mark=mark, unconfirmed=False)}
    if isinstance(entity, (EdgeMark, Spot)):
        return {entity.id: msgspec.structs.replace(entity, **{"ab"[handle.index]: mark})}
    if isinstance(entity, Outline):
        points = tuple(mark if i == handle.index else old for i, old in enumerate(entity.points))
        return {entity.id: msgspec.structs.replace(entity, points=points)}
    if isinstance(entity, (RimMark, StraightEdge, RepeatedParts)):
        marks = tuple(mark if i == handle.index else old for i, old in enumerate(entity.marks))
        return {entity.id: msgspec.structs.replace(entity, marks=marks)}
    return None


def _same_place(a: Mark, b: Mark) -> bool:
    return math.hypot(a.x_px - b.x_px, a.y_px - b.y_px) <= STIRRED_PX


def effect_words(build: Build, effect: Effect | None, factor: float) -> str:
    """What a repair would do to the sizes on the replica."""
    if effect is None or not effect.changes:
        return "It would change no size yet."
    dimension_id, change = effect.changes[0]
    name = name_of(build, dimension_id)
    count = sum(abs(mm) * factor >= 0.005 for _, mm in effect.changes)
    if count == 0:
        return "It would change no size on the replica by as much as anyone sees."
    most = signed_length(change * factor, build.info.unit)
    return f"It would change {plural(count, 'size')}; most of all {name}, by {most} on the replica."
