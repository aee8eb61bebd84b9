"""The drawn wiring: every lamp hangs between + and −, and nothing is drawn over another branch."""

from __future__ import annotations

import itertools

import pytest

from chalkreel.core.light.circuit import Circuit, Driver
from chalkreel.core.light.design import filled
from chalkreel.core.light.drawing import Wiring, draw_wiring
from chalkreel.core.light.findings import findings
from chalkreel.core.light.lit import lit
from chalkreel.core.light.run_time import run_times
from tests.core.light.made_circuits import branch, circuit, row

CIRCUITS = (
    circuit(branch(row("white")), branch(row("red", "red"), key="c", times=3)),
    circuit(branch(row("red"), row("red"), row("white", ohm=100.0), ohm=50.0)),
    circuit(branch(row("red", "-red", "red", "red", "red", "red"), ohm=0.0), kind="plug pack 12 V", fuse=200.0),
    circuit(branch(row("white"), driver="p"), branch(row("strip"), ohm=0.0, key="s", supply="module"), step_up=12.0,
            drivers=(Driver("p", "lamps", "transistor", "3"),), cells=4),
    circuit(branch(*(row("white", ohm=220.0) for _ in range(9)), ohm=0.0, pitch_mm=20.0)),
)  # fmt: skip


def drawn(made: Circuit) -> Wiring:
    whole = filled(made)
    return draw_wiring(whole, lit(whole), findings(whole, lit(whole), run_times(whole)))


def reached(wiring: Wiring, from_y: float) -> set[int]:
    """Numbers of lamps that wires and parts join to a rail at a height, each part joining its two ends."""
    # A part of the drawing is 44 px high at most; wires end within so much of it.
    ends = [((w.x0, w.y0), (w.x1, w.y1)) for w in wiring.lines]
    ends += [((p.x, p.y - 20), (p.x, p.y + 20)) for p in wiring.parts if p.kind not in ("cell", "plug", "module")]
    spots = {e for pair in ends for e in pair if abs(e[1] - from_y) < 1}
    grown = True
    while grown:
        grown = False
        for a, b in ends:
            for one, other in ((a, b), (b, a)):
                near = any(abs(one[0] - s[0]) < 1 and abs(one[1] - s[1]) < 8 for s in spots)
                along = any(_on(one, c, d) for c, d in ends if c in spots or d in spots)
                if (near or along) and other not in spots:
                    spots |= {one, other}
                    grown = True
    lamps = [p for p in wiring.parts if p.kind in ("dome", "chip", "strip")]
    return {n for n, p in enumerate(lamps) if any(abs(p.x - s[0]) < 1 and abs(p.y - s[1]) < 25 for s in spots)}


def _on(spot: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether a spot lies on a straight wire."""
    level = abs(a[1] - b[1]) < 1 and abs(spot[1] - a[1]) < 1 and min(a[0], b[0]) - 1 <= spot[0] <= max(a[0], b[0]) + 1
    upright = abs(a[0] - b[0]) < 1 and abs(spot[0] - a[0]) < 1 and min(a[1], b[1]) - 1 <= spot[1] <= max(a[1], b[1]) + 1
    return level or upright


@pytest.mark.parametrize("number", range(len(CIRCUITS)))
def test_every_lamp_hangs_between_the_rails_within_its_own_branch(number: int) -> None:
    wiring = drawn(CIRCUITS[number])
    lamps = [p for p in wiring.parts if p.kind in ("dome", "chip", "strip")]
    plus = next(w.y0 for w in wiring.lines if w.polarity == "plus" and w.y0 == w.y1)
    minus = next(w.y0 for w in wiring.lines if w.polarity == "minus" and w.y0 == w.y1)
    everything = set(range(len(lamps)))
    assert plus < minus and reached(wiring, plus) == everything and reached(wiring, minus) == everything
    branches = [p for p in wiring.places if p.strand < 0]
    for one, other in itertools.pairwise(branches):
        assert one.x + one.width <= other.x + 1
    assert all(0 <= p.x <= wiring.width and 0 <= p.y <= wiring.height for p in wiring.parts)
    for text in wiring.texts:
        assert text.x + 6.0 * len(text.words) <= wiring.width + 20, text.words


def test_each_end_of_a_lamp_has_its_sign_and_a_turned_one_is_upside_down_and_ringed() -> None:
    wiring = drawn(circuit(branch(row("red", "-red"), ohm=130.0)))
    right, turned = (p for p in wiring.parts if p.kind == "chip")
    assert not right.ringed and turned.ringed and turned.turned and not turned.lit
    for lamp, above in ((right, "+"), (turned, "−")):
        signs = sorted((t.y, t.words) for t in wiring.texts if abs(t.x - lamp.x - 11) < 1 and abs(t.y - lamp.y) < 30)
        assert next(s for _, s in signs if s in "+−") == above
    assert any(t.words == "0 mA" and t.role == "bad" for t in wiring.texts)
