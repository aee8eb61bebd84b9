"""The card of the Bench: the verdict, the findings as the list of what is to be done, and what was not judged."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from chalkreel.app.bench import compare_model as model
from chalkreel.core.figures import plural
from chalkreel.document.bench_entities import ReplicaPhoto

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.app.bench.stage import BenchStage

Acts = tuple[tuple[str, Callable[[], object]], ...]


def write_compare(stage: BenchStage, answers: Answers) -> None:
    """What photographs of the replica say."""
    from chalkreel.answers.comparing import next_photograph
    from chalkreel.answers.finding_words import headline, whole_words, within_words

    card, found, build = stage.card.answers, answers.comparing, answers.build
    if not found.laid:
        stage.next_step()
        if found.problem:
            card.sentence(found.problem, "warn")
        return
    shown = stage.compare.shown
    at = found.stage(shown.stage) if shown is not None else found.last
    card.sentence(*headline(at, build.info.unit))
    for sentence in whole_words(at, found.scale):
        card.sentence(sentence, "warn" if at.wholes else "quiet")
    if found.leaning:
        card.sentence("Nothing says what is level: up, down, fore and aft are only roughly meant.", "warn")
    rows = model.finding_rows(build, at)
    for row in rows:
        card.rule()
        number = f"{row.number}  " if row.number else ""
        card.button(f"{number}{row.title}", partial(stage.choose_finding, row.key))
        card.sentence(row.words, row.state)
        if row.note:
            card.sentence(row.note, "quiet")
        if row.key == stage.compare.finding:
            _write_acts(stage, row)
            where = next_photograph(build, answers.sizes.reel, row.finding, found.laid) if answers.sizes else ""
            if where:
                card.sentence(where, "quiet")
    card.rule()
    within = within_words(at, build.info.unit)
    if within:
        card.sentence(within, "quiet")
    if at.untested:
        card.heading("Not judged: no clicks at this stage")
        card.sentence(", ".join(at.untested), "quiet")
    gone = sorted({name for photo in build.all(ReplicaPhoto) for name in photo.not_built})
    if gone:
        card.heading("Not built yet, so not counted")
        card.sentence(", ".join(gone), "quiet")


def _write_acts(stage: BenchStage, row: model.FindingRow) -> None:
    card = stage.card.answers
    decided = row.finding.decision
    if row.finding.click:
        card.button("Show the click", stage.show_click, primary=True)
        return
    if decided is not None:
        card.button("Take it up again", stage.take_up_again)
    if row.is_open and (decided is None or decided.decision != "job"):
        card.button("Make it a job (J)", stage.make_job, primary=True)
    if row.is_open and (decided is None or decided.decision != "step") and stage.steps_to_redo(row.finding):
        card.button("Do a step again…", stage.offer_steps)
    if row.is_open and row.state != "bad":
        card.button("Nobody sees it (A)", stage.accept)
    card.button("Write it in the log", stage.write_finding)


def write_log(stage: BenchStage, answers: Answers, exports: Acts) -> None:
    """Hours and money so far, lessons ahead, what can be taken along."""
    card = stage.card.answers
    card.heading("So far")
    hours = answers.spent.minutes / 60
    card.figure("time at the bench", f"{hours:.1f} h", "in " + plural(answers.spent.entries, "entry", "entries"))
    card.figure("money spent", f"{answers.spent.cost:.2f}", "in your currency")
    card.heading("Lessons for the steps ahead")
    found = answers.sequence.reminders if answers.sequence else ()
    for reminder in found:
        card.sentence(f"At “{reminder.step_title}”", "warn")
        card.sentence(reminder.words)
    if not found:
        card.sentence("No lesson of yours concerns a step ahead.", "quiet")
    if stage.diary.log.chosen() is not None:
        # The entry in hand stands below: it comes before what is taken along.
        return
    card.heading("Take it with you")
    for number, (words, act) in enumerate(exports):
        card.button(words, act, primary=number == 0)
