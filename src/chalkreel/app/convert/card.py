"""What the card of Convert says on each of its pages."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from chalkreel.answers.conversion import JobOffer, middle_miss
from chalkreel.app.convert import cuts_model, model
from chalkreel.app.convert.box_model import counted
from chalkreel.app.parts.card import AnswerColumn
from chalkreel.core.figures import plural
from chalkreel.core.lengths import format_length, length_words, small_length
from chalkreel.document.convert_entities import KIT_ID, KitRecord, StockPiece
from chalkreel.document.entities import Dimension, Feature, KitPart

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.app.convert.stage import ConvertStage

MOST_LISTED = 12
CAUTION = "Fresh blade, metal ruler, cut away from the body. Wet-sand resin; never breathe its dust."


def write_card(stage: ConvertStage, answers: Answers) -> None:
    """Answers of the page in front."""
    card = stage.card.answers
    {"Box": _box, "Versions": _jobs, "Jobs": _jobs, "Cuts": _cuts, "Stock": _stock, "Orders": _orders}[
        stage.switch.page
    ](stage, answers, card)
    card.rule()


def _box(stage: ConvertStage, answers: Answers, card: AnswerColumn) -> None:
    build = stage.session.build
    right, total = counted(build)
    card.heading("The box")
    state = "plain" if not total else "good" if right == total else "warn"
    card.figure("", f"{right} of {total} parts right" if total else "no part yet", state="plain")
    offers = answers.conversion.offers if answers.conversion else ()
    if not offers:
        stage.next_step()
    if offers and not stage.session.stale:
        card.heading("Jobs that no feature has yet")
        for offer in offers[:MOST_LISTED]:
            card.sentence(_offer_words(stage, offer))
        words = "Make the job" if len(offers) == 1 else f"Make the {len(offers)} jobs"
        card.button(words, lambda: stage.make_jobs(offers), primary=True)
    wrong = [part for part in build.all(KitPart) if part.state != "present"]
    if wrong:
        card.heading("Not right")
    for part in wrong[:MOST_LISTED]:
        note = f", {part.fit_note}" if part.fit_note else ""
        card.sentence(f"{part.name}: {part.state}{note}", "bad" if part.state == "missing" else "warn")
    if len(wrong) > MOST_LISTED:
        card.sentence(f"and {len(wrong) - MOST_LISTED} more", "quiet")
    if total and not wrong:
        card.sentence("Every part that is listed is ticked as present.", state)
    _worth(stage, answers, card)


def _offer_words(stage: ConvertStage, offer: JobOffer) -> str:
    part = stage.session.build.get(KitPart, offer.part_id)
    return f"{part.name if part is not None else 'part'}: {offer.verb} ({offer.why})"


def _worth(stage: ConvertStage, answers: Answers, card: AnswerColumn) -> None:
    record = stage.session.build.get(KitRecord, KIT_ID)
    miss = middle_miss(answers.sizes) if answers.sizes is not None else None
    if record is None and miss is None:
        return
    card.heading("Worth it?")
    hours = answers.conversion.hours if answers.conversion else 0.0
    if record is not None and record.price:
        where = f", {record.bought_at}" if record.bought_at else ""
        card.sentence(f"{record.price:g} paid{where}; {hours:.1f} h to set right")
    if miss is not None:
        unit = stage.session.build.info.unit
        card.sentence(f"middle miss of {plural(miss[1], 'part')} measured: {small_length(miss[0], unit)}")


def _jobs(stage: ConvertStage, answers: Answers, card: AnswerColumn) -> None:
    found = answers.conversion
    stage.next_step()
    if found is None:
        card.sentence("Comparing versions…", "quiet")
        return
    card.heading("The conversion")
    learnt = f", at your pace of {found.pace:.2g} × the usual" if abs(found.pace - 1) > 0.05 else ""
    card.figure(
        "work at the bench", f"{found.hours:.1f} h", note=f"{plural(len(found.rows), 'job')}{learnt}", state="plain"
    )
    row = stage.jobs.row if stage.switch.page == "Jobs" else None
    sizes = {dimension.id: dimension.name for dimension in stage.session.build.all(Dimension)}
    if row is not None:
        card.heading(f"Chosen job: {row.operation.verb} {row.operation.feature}")
        card.sentence(row.operation.reason)
        for name, size in ((sizes.get(i, ""), size) for i, size in row.further):
            card.sentence(f"{name}: {length_words(size.mm, size.half_width_mm, stage.session.build.info.unit)}")
        card.sentence(model.holds_up(row), "quiet")
        if row.stock is not None:
            card.sentence(f"nearest stock: {model.stock_words(row, stage.session.build.info.unit)}")
    stage.matters()
    names = {feature.id: feature.name for feature in stage.session.build.all(Feature)}
    if found.notes:
        card.heading("Nothing to do")
    for feature_id, note in found.notes:
        card.sentence(f"{names.get(feature_id, '')}: {note.removeprefix('nothing to do: ')}", "quiet")
    holes = model.lamp_holes(stage.session.build) if stage.switch.page == "Jobs" else ()
    if holes:
        card.heading("Holes that Light asks for")
    for words in holes:
        card.sentence(words)
    if holes:
        card.sentence("before primer, as a step of Finish; the drills for their wires stand in Light, Routes", "quiet")
    card.heading("Materials to have ready")
    for words in found.shopping or ("nothing",):
        card.sentence(words)
    card.sentence(CAUTION, "warn")


def _cuts(stage: ConvertStage, answers: Answers, card: AnswerColumn) -> None:
    build, found = stage.session.build, answers.cuts
    if found is None:
        card.sentence("Laying the pieces out…", "quiet")
        return
    card.heading("Everything cut from")
    card.figure("", cuts_model.taken_words(found), state="plain")
    if found.waste is not None:
        card.sentence(f"{100 * found.waste:.0f} % of the sheet that is broken into becomes no piece")
    bars = cuts_model.bars_words(found)
    if bars:
        card.sentence(bars, "good" if bars.endswith("proved") else "plain")
    unsaid = tuple(row.piece_id for row in found.rows if row.problem == "say how thick")
    if unsaid:
        card.sentence(f"{plural(len(unsaid), 'template')} of Measure: nobody has said how thick.", "warn")
        usual = cuts_model.usual_sheet(build)
        if usual is not None:
            card.button(f"Cut them from {usual.name}", partial(stage.tell_templates, unsaid, usual.thick_mm))
    for words in found.open:
        if not words.endswith("say how thick"):
            card.sentence(words, "warn")
    number = stage.cuts.group()
    if number is not None and not stage.session.stale:
        group = found.groups[number]
        thick = format_length(group.thick_mm, build.info.unit)
        card.button(f"Cut now: {group.material} {group.form} {thick}", partial(stage.cut_now, number), primary=True)
        card.sentence("takes its pieces off the list and its stock; what stays whole becomes an offcut", "quiet")
    elif found.rows:
        card.sentence("Choose a piece to cut its sheets now, or to save them alone.", "quiet")
    card.sentence(CAUTION, "warn")


def _stock(stage: ConvertStage, _: Answers, card: AnswerColumn) -> None:
    stock = stage.session.build.all(StockPiece)
    card.heading("Stock")
    card.figure("", plural(sum(s.count for s in stock), "piece") if stock else "none told of yet", state="plain")
    worth = sum(s.count * s.price for s in stock)
    if worth:
        card.sentence(f"worth {worth:.2f} as paid; offcuts are not counted")
    for piece in stock:
        if not piece.count:
            card.sentence(f"{piece.name}: used up", "warn")
    if not stock:
        card.sentence("Sizes are rounded to what is commonly sold until you enter your own.", "quiet")


def _orders(stage: ConvertStage, answers: Answers, card: AnswerColumn) -> None:
    rows = stage.orders.rows
    late = [row for row in rows if row.late]
    chosen = stage.orders.table.current
    wanted = model.to_order(stage.session.build)
    if wanted:
        card.sentence(f"Parts to be had from elsewhere, without an order: {', '.join(f.name for f in wanted)}", "warn")
        card.button("Make the orders", partial(stage.make_orders, wanted), primary=True)
    card.heading("Orders")
    card.figure("", f"{plural(len(late), 'order')} late" if late else plural(len(rows), "order") if rows else "none",
                state="plain")  # fmt: skip
    for row in late:
        card.sentence(f"{row.order.name}: {model.due_words(row).removeprefix('✗ ')}", "bad")
    for row in (*late, *(r for r in rows if r.order is chosen and not r.late)):
        if row.instead:
            card.sentence(f"instead of {row.order.name}: {row.instead}")
    card.sentence(
        "The latest day is that of the first step of its job in Finish, less the worst days and two more.", "quiet"
    )
    jobs = answers.conversion.rows if answers.conversion else ()
    free = sum(not model.waits_for(stage.session.build, row) for row in jobs)
    if rows and jobs:
        card.sentence(f"{plural(free, 'job')} may go on without any of them.")
