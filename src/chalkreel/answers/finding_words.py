"""Findings on the replica, said to people."""

from __future__ import annotations

from chalkreel.answers.comparing import Amount, Finding, Scale, StageVerdict, landmark_name
from chalkreel.answers.photographs import Laid
from chalkreel.core.bench.ways import OPPOSITE
from chalkreel.core.figures import format_pm, plural
from chalkreel.core.lengths import LengthUnit, length_words, small_length
from chalkreel.document.snapshot import Build

# What share of the lines has an edge at them where a photograph lies right; wrong poses in clutter reach half.
GOOD_SCORE, FAIR_SCORE = 0.65, 0.55
# Photographs that would have hidden more than this (mm of the replica) along some direction earn no tick.
TICK_MM = 3.0
# Beyond this a bound is no figure for a bench.
BLIND_MM = 10.0
# Clicks less sure than this, in pixels of the photograph, were made from too far off.
LOOSE_PX = 1.2


def finding_title(finding: Finding) -> str:
    """'Wheelhouse' or 'Fin, port'."""
    name = finding.group.called
    return name[:1].upper() + name[1:]


def amount_words(amount: Amount, unit: LengthUnit) -> str:
    """'1.6 ± 0.3 mm aft'."""
    way = amount.way if amount.mm > 0 else OPPOSITE[amount.way]
    return f"{length_words(abs(amount.mm), amount.half_mm, unit)} {way}"


def finding_words(build: Build, finding: Finding) -> str:
    """What is wrong, and how else it might be read."""
    unit = build.info.unit
    if finding.state == "missing":
        return "missing"
    if finding.click:
        return f"look at the click on {landmark_name(build, finding.click)} first: it alone is off"
    if finding.state == "fixed":
        return _fixed_words(finding, unit)
    if finding.state == "perhaps" and finding.amounts:
        told = amount_words(finding.amounts[0], unit)
        return f"perhaps {told}: zoom in and click on it again, or photograph it from farther round"
    if not finding.amounts:
        few = "off, but too few other clicks to say how far: click on more of the rest"
        return "was missing; not looked at since" if finding.state == "not seen" else few
    words = amount_words(finding.amounts[0], unit)
    others = [amount_words(a, unit) for a in finding.amounts[1:3]]
    if others:
        words += ", or " + ", or ".join(others)
    return f"was {words}; not looked at since" if finding.state == "not seen" else words


def _fixed_words(finding: Finding, unit: LengthUnit) -> str:
    if finding.within_mm is None or finding.was_mm is None:
        return "there now"
    return f"now within {small_length(finding.within_mm, unit)}, was {small_length(abs(finding.was_mm), unit)} off"


def state_words(finding: Finding, unit: LengthUnit) -> str:
    """What has become of it since the stage before, and what was decided."""
    told = {"worse": "worse than before", "better": "better than before", "same": "as before",
            "accepted": "accepted: nobody sees it"}  # fmt: skip
    words = [told[finding.state]] if finding.state in told else []
    if finding.state in ("worse", "better", "same") and finding.was_mm is not None:
        words[0] += f" ({small_length(abs(finding.was_mm), unit)})"
    decided = finding.decision
    if decided is not None and finding.is_open:
        words += ["is a job in Convert"] * (decided.decision == "job")
        words += [f"to be mended by doing “{decided.again}” again"] * (decided.decision == "step")
    return "; ".join(words)


def headline(stage: StageVerdict, unit: LengthUnit) -> tuple[str, str]:
    """The verdict in a line with its state: nothing is promised beyond what was looked at and would have shown."""
    at = f", stage “{stage.name}”" if stage.name else ""
    if stage.problem:
        return stage.problem, "warn"
    sure = sum(finding.state != "perhaps" for finding in stage.open)
    if sure:
        return f"{plural(sure, 'thing', 'things')} to look at{at}", "bad"
    if stage.open:
        return f"Nothing certain, {plural(len(stage.open), 'thing', 'things')} in doubt{at}", "warn"
    if not stage.tested or stage.unseen_mm is None:
        return "Nothing judged yet", "quiet"
    return _clear_words(stage.unseen_mm, at, unit)


def _clear_words(unseen_mm: float, at: str, unit: LengthUnit) -> tuple[str, str]:
    """Nothing is named: how small a fault would have shown."""
    limit = small_length(unseen_mm, unit)
    if unseen_mm <= TICK_MM:
        return f"Nothing out of true by more than {limit}{at}", "good"
    hidden = f"up to {limit} would not have shown" if unseen_mm <= BLIND_MM else "hardly anything would have shown"
    return f"Nothing found out of true{at}; along one direction {hidden}", "quiet"


def within_words(stage: StageVerdict, unit: LengthUnit) -> str:
    """What the photographs could see of all that is not named."""
    if stage.within_mm is None or not stage.tested:
        return ""
    limit = small_length(stage.within_mm, unit)
    words = f"{', '.join(stage.tested)}: within {limit} of where they belong along the axis that shows each best"
    if stage.unseen_mm is None or stage.unseen_mm > BLIND_MM:
        blind = "along the direction that shows them worst hardly anything would have shown"
        return f"{words} (95 %); {blind}. A photograph from 40° or more farther round does."
    words += f", within {small_length(stage.unseen_mm, unit)} along the direction that shows them worst (95 %)."
    if stage.unseen_mm <= TICK_MM:
        return words
    return f"{words} A photograph from 40° or more farther round shows that direction."


def whole_words(stage: StageVerdict, scale: Scale | None) -> tuple[str, ...]:
    """The replica as a whole."""
    words = []
    for whole in stage.wholes:
        way = whole.way if whole.percent > 0 else OPPOSITE[whole.way]
        words.append(f"The whole is {format_pm(abs(whole.percent), whole.half, '%')} {way} for its other measures.")
    if scale is not None:
        way = "larger" if scale.percent > 0 else "smaller"
        if abs(scale.percent) > scale.half:
            words.append(f"By calliper it is {format_pm(abs(scale.percent), scale.half, '%')} {way} than drawn.")
        else:
            words.append(f"By calliper its scale is right within {scale.half:.1f} %.")
    return tuple(words)


def laid_words(laid: Laid, ratio: float) -> tuple[str, ...]:
    """How well a photograph lies. `ratio` is replica mm for one of the miniature."""
    if laid.camera is None:
        return ()
    found = []
    if laid.clicks:
        found.append(f"{plural(laid.clicks, 'click')}, {laid.off_px:.1f} px off in the median")
    if laid.click_px > LOOSE_PX:
        found.append(f"clicked at ± {laid.click_px:.1f} px, as far out as it was shown: zoom in, and click them again")
    if laid.score is not None:
        fit = "good" if laid.score >= GOOD_SCORE else "fair" if laid.score >= FAIR_SCORE else "poor: look at the lines"
        found.append(f"{laid.score:.0%} of the lines have an edge at them: {fit}")
    found.append(f"{laid.px_per_mm / ratio:.1f} px to a millimetre of the replica")
    how = {"lines": "laid by its lines, without a click"}.get(laid.how, f"laid by {laid.how}")
    return (*found, how)
