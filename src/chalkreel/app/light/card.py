"""The card of Light: will it light, what it draws, for how long, does the stand take it, what to have ready."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from chalkreel.answers.lighting import Lighting, Solved
    from chalkreel.app.light.stage import LightStage


# Cells that nothing draws from any more last longer than anybody can promise.
A_YEAR_H = 8760


def write_card(stage: LightStage, lighting: Lighting | None) -> None:
    """Rewrite the card from the present circuit."""
    card = stage.card.answers
    card.clear(stage.session.stale)
    build = stage.session.build
    if build.info.dark:
        card.sentence("This model stays dark.")
        return
    stage.next_step()
    found = lighting.solved if lighting is not None else None
    if found is None or lighting is None:
        words = lighting.problem if lighting is not None else "Working out the circuit…"
        card.sentence(words, "bad" if lighting is not None else "quiet")
        return
    if not found.circuit.branches:
        return
    _write_verdict(stage, found)
    _write_hours(stage, found)
    _write_fit(stage, lighting)
    _write_ready(stage, found)
    _write_doubt(stage, found)
    from chalkreel.answers.light_words import cautions

    card.heading("Mind")
    for words in cautions(found):
        card.sentence(words, "warn")
    card.rule()


def _write_verdict(stage: LightStage, found: Solved) -> None:
    from chalkreel.answers.light_words import ma_words, verdict

    card = stage.card.answers
    card.heading("Will it light?")
    words, note, state = verdict(found)
    card.figure("", words, note=note, state=state)
    main = found.lit.supplies[0]
    figure, more = ma_words(main.ma, main.sigma_ma)
    limit = found.main.limit_ma
    over = main.ma > limit
    card.figure(
        "current, fresh cells" if _cells(found) else "current", figure, more, f"of about {limit:.0f} mA",
        "bad" if over else "good",
    )  # fmt: skip


def _cells(found: Solved) -> bool:
    return found.done is not None


def _write_hours(stage: LightStage, found: Solved) -> None:
    from chalkreel.answers.light_words import span_words

    card = stage.card.answers
    if found.done is None:
        card.sentence("As long as it is plugged in.")
        return
    card.heading("For how long")
    for hours, words in (
        (found.half, "to half the light"),
        (found.dark, "to the first dark lamp"),
        (found.done, "to the end of the cells"),
    ):
        if hours is None:
            if words == "to half the light":
                card.sentence("No lamp falls to half its light before the cells are used up.")
            continue
        if hours.hours > A_YEAR_H:
            card.sentence("The cells outlast the lamps.", "quiet")
            continue
        figure, span = span_words(hours)
        card.figure(words, figure, span)


def _write_fit(stage: LightStage, lighting: Lighting) -> None:
    from chalkreel.core.lengths import format_length

    card, unit = stage.card.answers, stage.session.build.info.unit
    lies = lighting.fit
    if lies is None:
        return
    card.heading("Does the stand take it?")
    sides = " × ".join(format_length(side, unit) for side in lies.box)
    if lies.fits and lies.comes_out:
        card.sentence(f"It lies in as {sides}.", "good")
    elif lies.fits:
        card.sentence(f"It lies in as {sides}, but does not pass the door.", "bad")
    else:
        short = format_length(-lies.spare, unit)
        card.sentence(f"The holder is {sides}: {short} too large.", "bad")


def _write_ready(stage: LightStage, found: Solved) -> None:
    from chalkreel.answers.light_words import have_ready

    card = stage.card.answers
    ready = have_ready(found)
    if ready:
        card.heading("Have ready")
    for what, rating in ready:
        card.sentence(f"{what}, {rating}")


def _write_doubt(stage: LightStage, found: Solved) -> None:
    from chalkreel.answers.light_words import doubt_words, widest

    lamp = widest(found)
    if lamp is not None:
        stage.card.answers.heading("Read one at the bench")
        stage.card.answers.sentence(doubt_words(found.circuit, lamp), "warn")
