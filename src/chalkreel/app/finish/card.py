"""The card of Finish: is the order right, when is it finished, which windows are tight, the chosen step."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from chalkreel.answers.plan import closings
from chalkreel.answers.sequence import Sequence
from chalkreel.answers.tonight_words import setting_words
from chalkreel.answers.wording import broken_words, hours_words, missed_words
from chalkreel.app.finish import model
from chalkreel.app.finish.plan_search import NOTHING

if TYPE_CHECKING:
    from chalkreel.app.finish.stage import FinishStage

MOST_TOLD, MOST_WINDOWS = 4, 3


def write_card(stage: FinishStage, found: Sequence | None) -> None:
    """Rewrite the card from the present plan."""
    card = stage.card.answers
    card.clear(stage.session.stale)
    stage.next_step()
    if found is None:
        card.sentence("Ordering the steps…", "quiet")
        return
    _write_broken(stage, found)
    _write_finish(stage, found)
    if stage.switch.page in ("Plan", "Tonight"):
        _write_step(stage, found)
        _write_windows(stage, found)
        _write_risks(stage, found)
    if found.problem:
        card.sentence(found.problem, "bad")


def _write_broken(stage: FinishStage, found: Sequence) -> None:
    card = stage.card.answers
    card.heading("Order and times")
    titles = {s.id: s.title for s in found.steps}
    missed = found.timetable.missed if found.timetable else ()
    words, state = model.rules_words(found)
    card.sentence(words, state)
    told = [(missed_words(one, titles), "") for one in missed]
    told += [(broken_words(v, titles), v.reason) for v in model.each_pair_once(found)]
    for wrong, reason in told[:MOST_TOLD]:
        card.sentence(wrong, "bad")
        if reason:
            card.sentence(reason)
    if len(told) > MOST_TOLD:
        card.sentence(f"… and {len(told) - MOST_TOLD} more", "quiet")
    if any(one.least is None for one in missed):
        card.button("What would help?", stage.ask_for_help)


def _write_finish(stage: FinishStage, found: Sequence) -> None:
    card, table = stage.card.answers, found.timetable
    if table is None or table.finish is None:
        card.sentence("Nothing left to do." if table else "No evening planned.", "quiet")
        return
    card.heading("Finished")
    likely = found.likely
    if likely is not None:
        card.figure("", _day(likely.half), note="as likely as not")
        if model.holds_back(found):
            words = "four times in five, if you go on whenever you are at the bench; by the days of this plan"
            card.sentence(f"{_day(likely.four_in_five)}, {words} {_day(table.finish)}.")
        else:
            # Runs may go on sooner than the plan's own days: then it is no best case.
            best = "if all goes by the plan" if table.finish <= likely.half else "by the plan's own days"
            card.sentence(f"{_day(likely.four_in_five)}, four times in five; {_day(table.finish)} {best}.")
    room = f"at {found.room.celsius:g} °C, {found.room.humidity * 100:.0f} %"
    card.sentence(f"{room}; {table.cleanings} cleanings of the airbrush.", "quiet")
    for material, factor in found.room.own:
        card.sentence(f"By your log {material} is given {factor:.1f} times the usual hours to dry.", "quiet")
    if table.bound is not None:
        card.sentence(f"No plan ends before {_day(table.bound)}.", "quiet")
    if likely is not None and likely.in_time is not None and any(step.leaves_wet for step in found.steps):
        share = round(100 * likely.in_time)
        state = "good" if share >= 80 else "warn" if share >= 50 else "bad"
        card.sentence(f"Dry in time for the deadline in {share} of 100 tries.", state)
    titles = {s.id: s.title for s in found.steps}
    for one in found.uncured[:1]:
        has, needs = hours_words(max(one.hours, 0.0)), hours_words(one.least or 0.0)
        words = f"By the plan “{titles[one.first]}” has {has} to cure before the deadline, {needs} are needed."
        card.sentence(f"{words} {one.reason}", "bad")
    _write_offer(stage, found)


def _write_offer(stage: FinishStage, found: Sequence) -> None:
    """A better plan where one is known, and the way to one."""
    card, search = stage.card.answers, stage.search
    offer = model.better_words(search.offered(found))
    if offer:
        card.heading("A better plan is ready")
        card.sentence(offer, "good")
        card.button("Take it", stage.take_better)
    if search.running:
        card.sentence("Searching for a better one…", "quiet")
    elif search.nothing_found(found):
        card.sentence(NOTHING, "quiet")
    elif stage.switch.page == "Plan":
        card.button("Search for a minute", stage.search_plan)


def _write_step(stage: FinishStage, found: Sequence) -> None:
    card, step = stage.card.answers, model.selected_step(stage.session.answers, stage.session.selection)
    if step is None:
        return
    card.heading("Chosen step")
    card.figure(step.title, f"{step.minutes} min", "at the bench, curing not counted")
    for words in step.materials:
        card.sentence(words)
    begin = setting_words(step, stage.session.build.info.unit)
    if begin:
        card.sentence(begin)
    if step.medium and step.leaves_wet:
        touch, over = (step.dries(state, found.room) for state in ("touch", "over"))
        card.sentence(f"touch-dry after {_range(touch)}, ready for another layer after {_range(over)}", "quiet")
    for words in step.cautions:
        card.sentence(words, "warn")
    if step.cautions or begin:
        card.sentence("The label and safety data sheet of your own product decide.", "quiet")


def _write_windows(stage: FinishStage, found: Sequence) -> None:
    tight = closings(found)[:MOST_WINDOWS]
    if not tight:
        return
    card = stage.card.answers
    card.heading("Windows with least room")
    for one in tight:
        spare = one.spare.total_seconds() / 3600
        words = f"{hours_words(spare)} spare" if spare >= 0 else f"{hours_words(-spare)} too late"
        card.sentence(f"{one.then.title}: by {one.closes:%a %H:%M}, {words}", "warn" if spare < 1 else "plain")


def _write_risks(stage: FinishStage, found: Sequence) -> None:
    """On tonight's sheet those of the evening, else the first few of the plan."""
    sheet = stage.session.answers.tonight if stage.session.answers else None
    tonight = sheet.window if sheet is not None and stage.switch.page == "Tonight" else None
    told = [r for r in found.risks if tonight is None or r.evening in (None, tonight)]
    if not told:
        return
    card = stage.card.answers
    card.heading("Look out")
    for risk in told[:MOST_TOLD]:
        when = f"{_day(risk.evening.start)}: " if risk.evening is not None and tonight is None else ""
        card.sentence(f"{when}{risk.words} {risk.remedy}", "warn")
    if len(told) > MOST_TOLD:
        card.sentence(f"… and {len(told) - MOST_TOLD} more", "quiet")


def _range(hours: tuple[float, float]) -> str:
    low, high = hours_words(hours[0]), hours_words(hours[1])
    return low if low == high else f"{low} to {high}"


def _day(at: datetime) -> str:
    return f"{at:%a} {at.day} {at:%b %Y}"
