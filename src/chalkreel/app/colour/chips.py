"""View-model of the chips on the Layers page (no Qt): what they are, what they lack, what they taught."""

from __future__ import annotations

from chalkreel.answers.colours import Colours
from chalkreel.app.session import Session
from chalkreel.core.colour.finishing import USUAL
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.materials import SHEENS
from chalkreel.document.entity import new_id
from chalkreel.document.paint_entities import FinishChip, ShelfPaint

MOST_COATS = 20


def added(session: Session) -> str:
    """A new chip like the last one, without its readings; its id."""
    chips = session.build.all(FinishChip)
    last = chips[-1] if chips else FinishChip(id="", layer="matte varnish")
    chip = FinishChip(id=new_id(), layer=last.layer, over=last.over, coats=last.coats, wash=last.wash)
    session.commit(f"chip of {chip.layer}", {chip.id: chip})
    return chip.id


def state(session: Session, chip: FinishChip) -> tuple[str, str]:
    """What a chip lacks, or that it teaches; and its state."""
    names = {p.name for p in session.build.all(ShelfPaint)}
    if chip.before is None:
        return "read the dry swatch before", "warn"
    if chip.after is None:
        return "read it after, dry", "warn"
    if chip.layer == "wash" and not chip.wash:
        return "give the wash's drops", "warn"
    lost = next((name for name, _ in chip.wash if name not in names), "") if chip.layer == "wash" else ""
    return (f"“{lost}” is not on the shelf", "warn") if lost else ("teaches", "plain")


def read_coats(text: str) -> int:
    """A number of coats."""
    value = parse_number(text.strip())
    if value != int(value) or not 1 <= value <= MOST_COATS:
        raise RefusedError(f"Give a whole number of coats, 1 to {MOST_COATS}.")
    return int(value)


def taught_words(colours: Colours | None) -> tuple[tuple[str, str], ...]:
    """What chips taught of this hand's varnishes and washes, and what none tells yet."""
    if colours is None:
        return ()
    hand = colours.finishing
    found = []
    for sheen in SHEENS:
        count = hand.varnish_chips.get(sheen, 0)
        if count:
            words = (
                f"Your {sheen} varnish scatters {100 * hand.surface[sheen]:.1f} % into the eye "
                f"(usual {100 * USUAL.surface[sheen]:.1f} %), by {plural(count, 'chip')}"
            )
            found.append((words, "plain"))
    if hand.wash_chips:
        words = f"Your wiped wash leaves {hand.wiped:.1f} times the usual, by {plural(hand.wash_chips, 'chip')}"
        found.append((words, "plain"))
    lacking = [f"{s} varnish" for s in SHEENS if s not in hand.varnish_chips] + ["wiped wash"] * (not hand.wash_chips)
    if lacking:
        found.append((f"As usual, no chip tells yet: {', '.join(lacking)}", "quiet"))
    return tuple(found)
