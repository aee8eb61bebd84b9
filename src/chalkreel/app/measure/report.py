"""What the card of Measure says: the size that is chosen, faults with their repair, doubts with their cure."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING

from chalkreel.answers.behind import Behind, behind_words
from chalkreel.answers.reel import ReelAnswer
from chalkreel.answers.sizes import SizeRow, Sizes
from chalkreel.answers.wording import (
    advice_words,
    basis_words,
    capital,
    fault_words,
    lack_words,
    name_of,
    names_of,
    plane_name,
    size_name,
    unplaced_words,
    untied_words,
)
from chalkreel.app.measure import landmarks, model
from chalkreel.app.session import Session
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import rough_length
from chalkreel.core.scale_effects import DerivedRatio
from chalkreel.document.entities import Outline, Reading
from chalkreel.edits.repairing import repairs

if TYPE_CHECKING:
    from chalkreel.app.measure.stage import MeasureStage

MOST_FAULTS, MOST_SIZES = 3, 4


class Report:
    """Writes the card's answers."""

    def __init__(self, session: Session, stage: MeasureStage) -> None:
        self._session, self._stage = session, stage
        self._card, self._more = stage.card.answers, stage.more

    def write(self) -> None:
        """Everything, from the present answers."""
        session, card = self._session, self._card
        card.clear(session.stale)
        self._more.clear(session.stale)
        self._stage.next_step()
        answers = session.answers
        if answers is None or answers.sizes is None:
            card.sentence("Measuring…", "quiet")
            return
        sizes = answers.sizes
        self._faults(sizes.reel)
        chosen = self._chosen_row(sizes)
        if chosen is not None:
            self._one(chosen)
        else:
            self._summary(sizes)
        self._traced(answers.behind)
        self._reel(sizes.reel)
        self._ratio(sizes.ratio)
        self._doubt(sizes)
        self._fit(sizes)
        self._more.rule()

    def _traced(self, hidden: Mapping[str, Behind]) -> None:
        """What is hidden of the outline that is chosen."""
        outline = self._session.build.get(Outline, self._session.selection)
        if outline is not None and outline.id in hidden:
            words = behind_words(self._session.build, outline, hidden[outline.id])
            if words:
                self._card.sentence(f"{words}.", "warn")

    def _chosen_row(self, sizes: Sizes) -> SizeRow | None:
        entity = self._session.build.entities.get(self._session.selection)
        dimension_id = entity.dimension_id if isinstance(entity, Reading) else self._session.selection
        return next((r for r in sizes.rows if r.dimension_id == dimension_id), None)

    def _faults(self, reel: ReelAnswer) -> None:
        card = self._card
        session = self._session
        if not reel.faults:
            return
        card.heading("Something is wrong")
        factor = self._session.build.chain.convert(1.0, "miniature", "replica")
        for fault in reel.faults[:MOST_FAULTS]:
            card.sentence(fault_words(session.build, fault), "bad")
            if reel.effect is not None and reel.effect.fault == fault:
                card.sentence(landmarks.effect_words(session.build, reel.effect, factor), "quiet")
            for repair in repairs(session.build, fault):
                card.button(repair.words, partial(session.commit, repair.words.lower(), repair.edits))

    def _one(self, row: SizeRow) -> None:
        """The chosen size in a large figure, and what it rests on."""
        card, unit = self._card, self._session.build.info.unit
        card.heading(f"{size_name(self._session.build, row)} at 1:{self._session.build.chain.replica_ratio:.4g}")
        more = self._more
        if row.replica is not None:
            value, plus_minus = model.size_figure(row.replica, unit)
            card.figure("", value, plus_minus, row.verdict.words, model.STATES[row.verdict.action])
            more.heading(f"What {size_name(self._session.build, row)} rests on")
            more.sentence(
                f"± {100 * NORMAL_95 * row.clicks_share:.1f} % as a share of the rulers, "
                f"± {100 * NORMAL_95 * row.rulers_share:.1f} % from the rulers, "
                "shared by all sizes. ± holds 19 times in 20.",
                "quiet",
            )
        elif row.angle is not None:
            card.figure("", *model.angle_figure(row.angle))
        build = self._session.build
        for words in basis_words(build, row.basis):
            more.sentence(capital(words))
        if row.lack is not None:
            card.sentence(lack_words(build, row.lack))

    def _summary(self, sizes: Sizes) -> None:
        """How many sizes are known, how well, and those read off this still alone."""
        card, session = self._card, self._session
        known = [row for row in sizes.rows if row.replica is not None or row.angle is not None]
        if not sizes.rows:
            card.sentence("No size yet. Mark landmarks (L) on two stills or more, make one known length a ruler (R), "
                          "then click the sizes you want (S).", "warn")  # fmt: skip
            return
        card.heading(f"Sizes at 1:{session.build.chain.replica_ratio:.4g}")
        card.figure("found", f"{len(known)} of {len(sizes.rows)}", "")
        middle = model.middle_share(sizes)
        if middle is not None:
            card.figure("middle ±", f"{middle:.1f} %", "of a size, 19 times in 20")
        for plane in sizes.planes:
            if plane.still_id == session.still_id and model.plane_state(plane) == "warn":
                card.sentence(f"{plane_name(session.build, plane)}: {model.plane_words(plane)}", "warn")
        here = {r.dimension_id for r in session.build.all(Reading) if r.still_id == session.still_id}
        for row in [r for r in sizes.rows if r.dimension_id in here and r.replica is not None][:MOST_SIZES]:
            assert row.replica is not None
            value, plus_minus = model.size_figure(row.replica, session.build.info.unit)
            card.figure(
                size_name(session.build, row), value, plus_minus, row.verdict.words, model.STATES[row.verdict.action]
            )

    def _reel(self, reel: ReelAnswer) -> None:
        card, build = self._more, self._session.build
        if reel.problem:
            card.sentence(reel.problem, "quiet")
            return
        if reel.solution is None:
            return
        card.sentence(f"{len(reel.solution.scene.views)} stills tied together by landmarks", "good")
        for untied in reel.untied:
            card.sentence(untied_words(build, untied), "warn")
        for words in unplaced_words(build, reel.unplaced, MOST_SIZES):
            card.sentence(words, "warn")
        if reel.doubt is not None and reel.doubt.open:
            views = names_of(build, reel.doubt.views)
            card.sentence(f"The marks say nothing of the focal length of {views}: sizes in depth are open.", "warn")

    def _ratio(self, found: DerivedRatio | None) -> None:
        """What rulers in the story and on the miniature say of the scale between them."""
        if found is None:
            return
        words = f"Rulers put the miniature at 1:{found.ratio:.2f} ± {NORMAL_95 * found.sigma:.2f}"
        if found.disagrees:
            self._more.sentence(f"{words}; the chain above says 1:{found.stated:.2f}. Check the lengths there.", "warn")
        else:
            self._more.sentence(f"{words}, which agrees with the chain above", "good")

    def _doubt(self, sizes: Sizes) -> None:
        card, reel = self._more, sizes.reel
        doubt = model.doubt_advice(self._session.answers)
        if doubt is None:
            return
        card.heading("Largest doubt")
        card.sentence(doubt.words, "warn")
        dimension_id, advice = reel.advice
        build = self._session.build
        if advice and dimension_id == doubt.dimension_id:
            for one in advice[:2]:
                card.sentence(advice_words(build, one))
            first = next((a for a in advice if a.kind == "mark"), None)
            if first is not None:
                card.button(
                    f"Mark it on {name_of(build, first.view)}", partial(self._go, first.view, first.landmarks[0])
                )
        else:
            card.sentence(doubt.cure)

    def _go(self, still_id: str, landmark_id: str) -> None:
        self._session.choose_still(still_id)
        self._stage.desk.mark_next(name_of(self._session.build, landmark_id))

    def _fit(self, sizes: Sizes) -> None:
        info, card, fit = self._session.build.info, self._more, sizes.fit
        card.heading("Does it fit?")
        if fit is None:
            card.sentence("Name a space below and its length.", "quiet")
        elif fit.fits:
            card.sentence(f"{info.space_name}: fits with {rough_length(fit.room_mm, info.unit)} to spare", "good")
        else:
            lacking = rough_length(-fit.room_mm, info.unit)
            card.sentence(f"{info.space_name}: {lacking} too short for it; 1:{fit.largest_ratio:.0f} would fit", "bad")
