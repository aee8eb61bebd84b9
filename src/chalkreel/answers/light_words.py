"""Lighting in words: currents, hours, what is at hand to have ready."""

from __future__ import annotations

import math
from collections import Counter
from typing import Final

from chalkreel.answers.lighting import Hours, Lighting, Solved
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.light.cells import Supply
from chalkreel.core.light.circuit import Circuit, lamps_in
from chalkreel.core.light.finding import Finding, hours_words
from chalkreel.core.light.lit import LampState
from chalkreel.core.light.resistors import ohm_words, rating_w

# From such a relative σ on, a ± would reach below nothing.
HARDLY: Final = 0.25


def verdict(found: Solved) -> tuple[str, str, str]:
    """Will it light: the count, a note and its state. It speaks of the circuit as drawn, no more."""
    dark, branches = len(found.dark_branches()), len(found.circuit.branches)
    if dark:
        return f"{branches - dark} of {plural(branches, 'branch', 'branches')} lit", f"{dark} dark", "bad"
    lamps = sum(lamps_in(found.circuit, b) for b in found.circuit.branches)
    counted = f"{lamps} lamps light" if lamps > 1 else "1 lamp lights"
    bad = [f for f in found.findings if f.weight == "bad"]
    if bad:
        return counted, bad[0].title, "bad"
    return counted, "as drawn, fresh cells" if found.done is not None else "as drawn", "good"


def ma_words(ma: float, sigma: float) -> tuple[str, str]:
    """A current and its ± (95 %); where it is hardly known, from what to what, by its ratio."""
    digits = 0 if ma >= 100 else 1
    if sigma > HARDLY * ma > 0:
        spread = math.exp(2 * sigma / ma)
        return f"about {ma:.{digits}f} mA", f"{ma / spread:.{digits}f} to {ma * spread:.{digits}f} mA"
    return f"{ma:.{digits}f} mA", f"± {2 * sigma:.{digits}f} mA"


def span_words(found: Hours) -> tuple[str, str]:
    """Hours, and the least and most that tolerances give."""
    return hours_words(found.hours), f"{hours_words(found.least)} to {hours_words(found.most)}"


def cured_words(finding: Finding, before: Solved, after: Solved) -> str:
    """What a cure gives, in figures: the branch's current, the hours, and what it brings along."""
    words = []
    key = before.circuit.branches[finding.branch].id if finding.branch >= 0 else ""
    # What a cure makes of a branch is called after it.
    made = {n for n, b in enumerate(after.circuit.branches) if key and (b.id == key or b.id.startswith(f"{key}-"))}
    lamps = [a for a in after.lit.lamps if a.branch in made]
    if lamps:
        lamp = min(lamps, key=lambda a: a.ma)
        words.append(f"its weakest lamp gets {_ma(lamp)}")
    if before.half is not None and after.half is not None:
        words.append(f"half the light after {hours_words(after.half.hours)}, now {hours_words(before.half.hours)}")
    new = {f.title for f in after.findings} - {f.title for f in before.findings}
    if new:
        words.append(f"but then: {sorted(new)[0].lower()}")
    return f"Then {'; '.join(words)}." if words else ""


def _ma(lamp: LampState) -> str:
    figure, more = ma_words(lamp.ma, lamp.sigma_ma)
    return f"{figure} {more}"


def have_ready(found: Solved) -> tuple[tuple[str, str], ...]:
    """Resistors to lay out, with their rating: ('2 × 150 Ω', '⅛ W')."""
    counted: Counter[tuple[float, str]] = Counter()
    for branch, watt in zip(found.circuit.branches, found.lit.resistor_w, strict=True):
        for ohm in (branch.ohm or 0.0, *(s.ohm for s in branch.strands)):
            if ohm:
                counted[ohm, _rating(watt)] += branch.times
    return tuple((f"{count} × {ohm_words(ohm)}", rating) for (ohm, rating), count in sorted(counted.items()))


def _rating(watt: float) -> str:
    try:
        rating = rating_w(watt)
    except RefusedError:
        return "too hot"
    return {0.125: "⅛ W", 0.25: "¼ W", 0.5: "½ W"}.get(rating, f"{rating:g} W")


def widest(found: Solved) -> LampState | None:
    """The lamp whose current is least sure, where that is worth another reading: its 95 % ± above a quarter."""
    lit_ones = [a for a in found.lit.lamps if a.ma > 0.05]
    worst = max(lit_ones, key=lambda a: a.sigma_ma / a.ma, default=None)
    return worst if worst is not None and 2 * worst.sigma_ma > 0.25 * worst.ma else None


def doubt_words(circuit: Circuit, lamp: LampState) -> str:
    """What to read at the bench so that a current becomes surer."""
    kind = circuit.kind(lamp.kind)
    volts = round(kind.curve.volts_at(max(lamp.ma, 0.1)), 1)
    return (
        f"± is widest at {kind.name}: {lamp.ma:.1f} ± {2 * lamp.sigma_ma:.1f} mA. Put one on about {volts:.1f} V and "
        "read its mA: type both as a bench point under Lamps."
    )


def light_problems(lighting: Lighting) -> tuple[str, ...]:
    """What is wrong, a title each."""
    if lighting.solved is None:
        return (lighting.problem,) if lighting.problem else ()
    return tuple(f.title for f in lighting.solved.findings)


_SOLDER: Final = (
    "Solder with ventilation, eye protection and lead-free solder; mark + and − on every end; test each branch before "
    "the hull is closed."
)
_STORED: Final = "Cells out before storage and shipping: they leak."
_BANK: Final = (
    "A power bank is a lithium cell: a protected one, never sealed in, charged by its own charger and not left alone; "
    "none that is swollen or was dropped."
)
_LEFT_ALONE: Final = "Nothing that hangs on the wall or a bank stays lit while nobody is there."
_WARM: Final = "No lamp or resistor buried in resin, hot glue or foam: they run warm."
_EYES: Final = "No bright narrow lamp towards anybody's eyes."
_FLASHING: Final = "Flashing light harms some people: three flashes a second at most, and say so where others look on."


def cautions(found: Solved) -> tuple[str, ...]:
    """What to mind with the supplies, the lamps and the iron, as far as this circuit has them."""
    supplies = [s for _, s in found.circuit.supplies if isinstance(s, Supply)]
    lamps = [found.circuit.kind(a.kind) for a in found.lit.lamps]
    words = [s.caution for s in supplies]
    words += [_STORED] * any(s.runs_down for s in supplies)
    words += [_BANK] * any(s.kind == "USB 5 V" for s in supplies)
    words += [_LEFT_ALONE] * any(not s.runs_down for s in supplies)
    words += [_WARM] * bool(lamps)
    words += [_EYES] * any(kind.package in ("3 mm", "5 mm") for kind in lamps)
    words += [_FLASHING] * any(kind.flashing for kind in lamps)
    return (*dict.fromkeys(words), _SOLDER)


def expected_words(found: Solved) -> tuple[tuple[str, str], ...]:
    """For each branch the assembly of its first lamp and what its meter should show: 'Side lamps 8.0 ± 1.2 mA'."""
    told = []
    for wanted in found.expected:
        branch = found.circuit.branches[wanted.branch]
        kind = found.circuit.kind(branch.strands[0].lamps[0].kind)
        figure, more = ma_words(wanted.ma, wanted.plus_minus / 2)
        told.append((kind.assembly, f"{branch.name} {figure.removesuffix(' mA')} {more}"))
    return tuple(told)
