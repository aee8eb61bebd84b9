"""Designed circuits against an independent solution of the whole network by node voltages."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.light.circuit import FORWARD_VOLTS, LEAST_DROP_V, LedString, design
from chalkreel.core.light.supplies import Supply, supply

SUPPLIES = [supply("coin cell"), supply("AA cells", 3), supply("AA cells", 6), supply("9 V block"), supply("USB 5 V")]


def node_currents(volts: float, branches: list[tuple[float, float]]) -> np.ndarray:
    """Branch currents (A) of parallel rows (ohm, sum of forward volts) on a supply of tiny inner resistance.

    Modified nodal analysis: unknowns are the rail voltage and the current of each row, each row being a
    resistor in series with a constant voltage.
    """
    inner, n = 1e-9, len(branches)
    system, right = np.zeros((n + 1, n + 1)), np.zeros(n + 1)
    system[0, 0], system[0, 1:], right[0] = 1.0, inner, volts
    for row, (ohm, drop) in enumerate(branches, start=1):
        system[row, 0], system[row, row], right[row] = 1.0, -ohm, drop
    return np.linalg.solve(system, right)[1:]


string = st.builds(
    lambda colour, count, current: LedString(colour, colour, count, FORWARD_VOLTS[colour], current),
    st.sampled_from(sorted(FORWARD_VOLTS)), st.integers(1, 9), st.floats(1.0, 25.0),
)  # fmt: skip


@settings(max_examples=80, deadline=None)
@given(st.sampled_from(SUPPLIES), st.lists(string, min_size=1, max_size=4))
def test_currents_agree_with_the_network_and_stay_below_what_was_asked(power: Supply, strings: list[LedString]) -> None:
    found = design(power, tuple(strings))
    lit = [b for b in found.branches if b.lit]
    rows = [(b.resistor_ohm, b.leds * FORWARD_VOLTS[b.colour]) for b in lit]
    if rows:
        currents = 1000 * node_currents(power.volts, rows)
        assert [b.current_ma for b in lit] == pytest.approx(list(currents), rel=1e-4)
        assert found.total_ma == pytest.approx(float(currents.sum()), rel=1e-4)
    asked = {s.name: s.current_ma for s in strings}
    for b in lit:
        assert 0 < b.current_ma <= max(s.current_ma for s in strings if s.name == b.string) * (1 + 1e-9)
        assert power.volts - b.leds * FORWARD_VOLTS[b.colour] >= LEAST_DROP_V - 1e-9
        heat = (b.current_ma / 1000) ** 2 * b.resistor_ohm
        assert b.rating_w >= 2 * heat
    assert set(asked) == {b.string for b in found.branches}


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(SUPPLIES), st.lists(string, min_size=1, max_size=3))
def test_every_led_is_in_exactly_one_row_and_dark_ones_are_announced(power: Supply, strings: list[LedString]) -> None:
    named = [LedString(f"{n}", s.colour, s.count, s.forward_volts, s.current_ma) for n, s in enumerate(strings)]
    found = design(power, tuple(named))
    for s in named:
        rows = [b for b in found.branches if b.string == s.name]
        assert sum(b.leds for b in rows) == s.count
        dark = any(not b.lit for b in rows)
        assert dark == any(f"“{s.name}” falls short by the printed figures" in words for words in found.warnings)
    overloaded = found.total_ma > power.limit_ma
    assert overloaded == any("overloaded" in words for words in found.warnings)
