"""Open matters of each stage, in words: what the chalk line counts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from chalkreel.answers.behind import Behind, behind_words
from chalkreel.answers.colours import Colours
from chalkreel.answers.comparing import Comparing
from chalkreel.answers.conversion import Conversion
from chalkreel.answers.coverage import Coverage
from chalkreel.answers.cuts import Cuts
from chalkreel.answers.finding_words import finding_title, finding_words
from chalkreel.answers.light_words import light_problems
from chalkreel.answers.lighting import Lighting
from chalkreel.answers.sequence import Sequence
from chalkreel.answers.sizes import Sizes
from chalkreel.answers.traced import plane_now
from chalkreel.answers.wording import fault_words, lack_words, missed_words, size_name, untied_words
from chalkreel.core.colour.rescue import TOLERANCE
from chalkreel.core.lengths import rough_length
from chalkreel.document.bench_entities import ReplicaPhoto
from chalkreel.document.entities import Outline, Still
from chalkreel.document.snapshot import Build

POOR_SHARE: Final = 0.03
# From here on templates of a squared-up still no longer have the size that the rulers give now.
OTHER_SCALE: Final = 0.005


def gather_matters(coverage: Coverage) -> tuple[str, ...]:
    """Bare sides and parts that need care."""
    words = [f"No still shows the {side}" for side in coverage.bare_sides]
    words += [f"{part.name} is missing from the kit" for part in coverage.missing]
    return (*words, *(f"{part.name} is {part.state}" for part in coverage.faulty))


def measure_matters(build: Build, sizes: Sizes, hidden: Mapping[str, Behind]) -> tuple[str, ...]:
    """Sizes not known, poorly known, or resting on rulers that disagree."""
    words = [
        f"{size_name(build, row)}: {lack_words(build, row.lack)}"
        for row in sizes.rows
        if row.replica is None and row.angle is None
    ]
    words += [
        f"{size_name(build, row)} is known only to ± {196 * row.replica.sigma_mm / row.replica.mm:.0f} %"
        for row in sizes.rows
        if row.replica is not None and row.replica.sigma_mm / row.replica.mm > POOR_SHARE
    ]
    words += [fault_words(build, fault) for fault in sizes.reel.faults]
    words += [untied_words(build, untied) for untied in sizes.reel.untied]
    for plane in sizes.planes:
        words += [f"The ruler “{a.name}” disagrees with the others" for a in plane.agreement if a.disagrees]
    for still in build.all(Still):
        lies = plane_now(sizes.reel, still)
        if lies is not None and still.squared is not None:
            grown = lies.mm_per_px / still.squared.mm_per_px - 1
            if abs(grown) > OTHER_SCALE:
                words.append(
                    f"Still {still.number} was squared up when the model measured {abs(100 * grown):.1f} % "
                    f"{'less' if grown > 0 else 'more'}: square it up again, and what is on it goes along"
                )
    told = (behind_words(build, one, hidden.get(one.id, Behind())) for one in build.all(Outline))
    words += [line for line in told if line]
    if sizes.fit is not None and not sizes.fit.fits:
        words.append(f"The replica is {rough_length(-sizes.fit.room_mm, build.info.unit)} too long for its space")
    return tuple(words)


def convert_matters(conversion: Conversion, cuts: Cuts | None) -> tuple[str, ...]:
    """Features that no still decides, and pieces that cannot be cut."""
    doubtful = [f"{row.operation.feature}: find a still that decides it"
                for row in conversion.rows if row.operation.verb == "check"]  # fmt: skip
    bare = (f"{name} rests on no still" for name in conversion.without_evidence)
    return (*doubtful, *bare, *(cuts.open if cuts is not None else ()))


def light_matters(build: Build, lighting: Lighting) -> tuple[str, ...]:
    """What keeps it from lighting well; nothing where it is to stay dark."""
    if build.info.dark:
        return ()
    return light_problems(lighting)


def colour_matters(colours: Colours) -> tuple[str, ...]:
    """Surfaces without anything to aim at, or without a close recipe."""
    words = [f"{row.name}: {row.problem}" for row in colours.surfaces if row.mixes.target is None]
    for row in colours.surfaces:
        if row.best is not None and row.best[0].delta_e > 2.0:
            words.append(f"{row.name} is out of the shelf’s reach by ΔE {row.best[0].delta_e:.1f}")
        words += [vote.odd for vote in row.votes if vote.odd]
        for pot in row.mixes.pots:
            if pot.rescue is not None and pot.rescue.now > TOLERANCE:
                words.append(f"{pot.pot.label} is off by ΔE {pot.rescue.now:.1f}: see Pots for what to add")
    return tuple(words)


def finish_matters(sequence: Sequence) -> tuple[str, ...]:
    """Broken rules and missed latest starts."""
    words = list(dict.fromkeys(f"{v.rule.capitalize()}: {v.reason}" for v in sequence.broken))
    if sequence.timetable is not None:
        titles = {step.id: step.title for step in sequence.steps}
        words += [missed_words(m, titles) for m in sequence.timetable.missed]
    return (*words, sequence.problem) if sequence.problem else tuple(words)


def bench_matters(build: Build, found: Comparing) -> tuple[str, ...]:
    """What is out of true on the replica, and photographs that are not laid."""
    words = [f"{finding_title(f)}: {finding_words(build, f)}" for f in found.last.open]
    names = {photo.id: photo.title for photo in build.all(ReplicaPhoto)}
    words += [f"{names[i]}: {laid.problem}" for i, laid in found.laid.items() if laid.problem and i in names]
    return (*words, found.problem) if found.problem else tuple(words)
