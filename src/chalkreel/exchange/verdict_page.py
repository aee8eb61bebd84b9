"""The verdict on the replica for the book: still and photograph from one camera, and what is out of true."""

from __future__ import annotations

from collections.abc import Callable

from PIL import Image, ImageDraw

from chalkreel.answers.answers import Answers
from chalkreel.answers.comparing import Comparing
from chalkreel.answers.finding_words import (
    finding_title,
    finding_words,
    headline,
    state_words,
    whole_words,
    within_words,
)
from chalkreel.answers.look import Look, look
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture
from chalkreel.document.bench_entities import ReplicaPhoto
from chalkreel.document.entities import Still

# The arrows on paper: three times what they show, said beside them.
TIMES = 3
ARROW, GAP_PX = (214, 92, 78), 12


def verdict_words(answers: Answers) -> tuple[str, ...]:
    """The verdict in sentences, with what was looked at."""
    found, unit = answers.comparing.last, answers.build.info.unit
    words = [f"{headline(found, unit)[0]}.", *whole_words(found, answers.comparing.scale)]
    within = within_words(found, unit)
    if within:
        words.append(within)
    if found.untested:
        words.append(f"Not judged, since nothing was clicked on them at this stage: {', '.join(found.untested)}.")
    return tuple(words)


def verdict_rows(answers: Answers) -> list[tuple[str, str, str]]:
    """Findings: which, what, and what became of it."""
    build, unit = answers.build, answers.build.info.unit
    return [(finding_title(f), finding_words(build, f), state_words(f, unit)) for f in answers.comparing.last.findings]


def verdict_pictures(answers: Answers, picture: Callable[[str], Picture]) -> list[tuple[str, Image.Image]]:
    """For each photograph of the last stage that lies on a still: both beside each other, with what they are."""
    build, found = answers.build, answers.comparing
    if found.subject is None:
        return []
    made = []
    for photo in build.all(ReplicaPhoto):
        still = build.get(Still, photo.still_id)
        if photo.stage != found.last.name or still is None:
            continue
        try:
            seen = look(build, found.subject, found, photo, picture)
        except RefusedError:
            continue
        words = f"Still {still.number}, and the replica ({photo.stage or photo.title}) in the same camera"
        made.append((f"{words}; arrows show {TIMES} times how it must go.", _beside(seen, found)))
    return made


def _beside(seen: Look, found: Comparing) -> Image.Image:
    still, photo = Image.fromarray(seen.still), Image.fromarray(seen.photo)
    draw = ImageDraw.Draw(photo)
    still_open = {f.group.key for f in found.last.open}
    for key, (at, to) in seen.arrows:
        tip = (at[0] + TIMES * (to[0] - at[0]), at[1] + TIMES * (to[1] - at[1]))
        if key in still_open and (abs(tip[0] - at[0]) > 1 or abs(tip[1] - at[1]) > 1):
            draw.line([at, tip], fill=ARROW, width=4)
            draw.ellipse([at[0] - 6, at[1] - 6, at[0] + 6, at[1] + 6], outline=ARROW, width=3)
    both = Image.new("RGB", (still.width + GAP_PX + photo.width, still.height), "white")
    both.paste(still, (0, 0))
    both.paste(photo, (still.width + GAP_PX, 0))
    return both
