"""What the pages of Light say under their tables (no Qt)."""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from chalkreel.core.figures import plural
from chalkreel.core.lengths import LengthUnit, small_length
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build

if TYPE_CHECKING:
    from chalkreel.answers.lighting import Solved
    from chalkreel.answers.routes import FibreLight, Routes
    from chalkreel.app.light.model import BranchRow
    from chalkreel.core.light.run_time import RunTime

NOTHING_FOUND: Final = (
    "Nothing wrong was found in the circuit as drawn: each lamp's current, direction and limit, resistors, pins, "
    "supply, the evening and, where its wire is named, the fuse were looked at. Solder is not: test each branch."
)
ROUTE_RULES: Final = (
    "Lengths are straight ways from the landmark where wires leave, × 1.3, with slack for opening and one new joint. "
    "Drill for a pair. Put holes and grooves in before paint; keep 1.5 holes from an edge, bend no tighter than five "
    "wires."
)
BEHIND_MM: Final = 20.0


Curve = tuple[tuple[float, float], ...]


def fade(found: Solved) -> tuple[Curve, tuple[tuple[float, str], ...], tuple[Curve, ...]]:
    """The curve of the main supply, cut a little behind its last event; its events; the curves to either side."""
    from chalkreel.core.light.finding import hours_words
    from chalkreel.core.light.lamps import VISIBLE_MA

    key = found.circuit.supplies[0][0]
    time = next((t for t in found.times if t.key == key), None)
    if time is None or not found.lit.lamps or max(a.ma for a in found.lit.lamps) < VISIBLE_MA:
        # What never lights fades never: no axis of centuries.
        return (), (), ()
    events = [
        (hours, f"{sign} {words} {hours_words(hours)}")
        for hours, sign, words in ((time.half, "◐", "half"), (time.dark, "○", "dark"))
        if hours is not None
    ]
    last = min(time.done, 1.4 * (time.dark or time.done))

    def curve(one: RunTime) -> Curve:
        return tuple((h, light) for h, light in zip(one.hours, one.light, strict=True) if h <= last)

    return curve(time), tuple(events), tuple(curve(one) for one in found.either)


def routes_words(build: Build, found: Routes | None) -> str:
    """Bundle, tube, light blocking and what can play the lamps."""
    if found is None:
        return ""
    unit = build.info.unit
    wires: dict[str, int] = {}
    for wire in found.bundle:
        wires[wire.name] = wires.get(wire.name, 0) + 1
    bundle = ", ".join(f"{count} × {name}" for name, count in wires.items())
    words = [
        f"Out of the hull: {bundle}, {small_length(found.across_mm, unit)} across; "
        f"it can be pulled through a tube of {small_length(found.tube_mm, unit)} inside."
    ]
    if found.passes is not None:
        sign = "✗" if found.passes == "will not" else "✓"
        plug = "and a small plug passes, too" if found.plug_passes else "but no plug: solder it on after threading"
        more = "" if found.passes == "will not" else f", {plug}"
        words.append(f"{sign} Through the tube you have it {_passes(found.passes)}{more}.")
    inside = f" Inside, paint {' then '.join(found.coats)}." if found.coats else " The bare shell is dense enough."
    words.append(
        f"Light-proof: at this room's light the shell needs density {found.density:.1f} "
        f"(a lamp of 5 mA, {small_length(BEHIND_MM, unit)} behind it).{inside}"
    )
    return "\n".join((*words, ROUTE_RULES))


def _passes(word: str) -> str:
    return {"will not": "will not pass", "one at a time with talc": "passes one wire at a time, with talc"}.get(
        word, word
    )


# Soldering and placing a lamp with its wires; wiring and testing a branch. A careful hand's usual times.
LAMP_MIN, BRANCH_MIN = 15, 10
DISPLAY_WORDS: Final = {
    "on a stand": "On a stand its wires run down the rod or tube: it cannot be lifted off or shown landed.",
    "landed": "Landed, cells or a plug must reach it from below or lie inside: keep a hatch for them.",
    "both": "For both, a plug between hull and stand must be hidden, and the cells lie in the hull or the base.",
}


def whether_words(build: Build, found: Solved | None) -> str:
    """What lighting it takes, before anything is bought."""
    if found is None or not found.circuit.branches:
        return "Unlit is respectable: a model without lamps needs no stand, no hatch and no light-proof hull."
    from chalkreel.app.light.model import light_plan
    from chalkreel.core.light.circuit import lamps_in
    from chalkreel.core.light.finding import hours_words

    lamps = sum(lamps_in(found.circuit, b) for b in found.circuit.branches)
    branches = sum(b.times for b in found.circuit.branches)
    hours = (LAMP_MIN * lamps + BRANCH_MIN * branches) / 60
    effort = (
        f"To buy: {plural(lamps, 'lamp')}, {plural(branches, 'branch', 'branches')} of wire and resistors. Soldering, "
        f"placing and testing takes about {hours_words(hours)}, and the hull is made light-proof first. "
        "Unlit is respectable."
    )
    return "\n".join((effort, DISPLAY_WORDS[light_plan(build).display], *emitter_words(build)))


def emitter_words(build: Build) -> tuple[str, ...]:
    """What can play each lamp of a known size."""
    from chalkreel.answers.routes import emitters_of, fibres_of

    unit = build.info.unit
    plays = tuple(
        f"{lamp.name} ({small_length(lamp.size_mm, unit)}): {found[0].name}, needs "
        f"{small_length(found[0].depth_mm, unit)} behind the skin."
        for lamp, found in emitters_of(build)
    )
    return (*plays, *(fibre_words(lamp, light, unit) for lamp, light in fibres_of(build)))


def fibre_words(lamp: Lamp, light: FibreLight, unit: LengthUnit) -> str:
    """How many fibres a lamp feeds, and what each gives."""
    words = f"{lamp.name} feeds up to {light.count} fibres of {small_length(lamp.fibre_mm, unit)}"
    if light.mcd is None:
        return f"{words}. Give its mcd and beam, and it is told what each gives."
    enough = "" if light.enough_ma is None else f"; {light.enough_ma:.1f} mA are enough for a porthole"
    return f"{words}: each gives about {light.mcd:.1f} mcd at {lamp.current_ma:g} mA{enough}."


def tests_words(rows: tuple[BranchRow, ...]) -> str:
    """What the readings tell, and how to take them."""
    told = [f"{row.name}: {row.judged}" for row in rows if row.judged]
    how = (
        "Fresh cells, meter in the + of one branch. Read after soldering, before each half is closed, within 48 h of "
        "closing while the glue can still be opened, and after half an hour on the stand."
    )
    return "\n".join((*told, how)) if told else how
