"""Currents and hours against an independent circuit simulator; its netlists and results lie in tests/data."""

from __future__ import annotations

import time

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import supply
from chalkreel.core.light.circuit import Branch, Circuit, LampKind, LampUse, Strand
from chalkreel.core.light.lit import lit
from chalkreel.core.light.network import LampInRow, Network, Row, Source, Values, values_of
from chalkreel.core.light.operating import solve
from chalkreel.core.light.run_time import run_times
from tests.core.light.made_circuits import branch, circuit, row
from tests.core.light.netlists import curve, network, stored


def test_sixty_circuits_agree_with_the_simulator_to_a_thousandth() -> None:
    for case in stored("operating"):
        wanted = np.array(case["lamp_a"])
        found = solve(network(case["netlist"])[0]).lamp_a[0]
        bright = np.abs(wanted) > 2e-5
        assert found[bright] == pytest.approx(wanted[bright], rel=1e-3)
        assert np.abs(found - wanted)[~bright].max(initial=0.0) < 1e-7


@pytest.mark.parametrize("case", stored("run_time"), ids=lambda c: f"{c['kind']} {c['cells']}")
def test_hours_agree_with_a_discharge_through_time(case: dict) -> None:
    kinds, branches = [], []
    for k, (lamps, ohm, at20, n, rs) in enumerate(case["rows"]):
        saturation = 0.02 / np.expm1((at20 - 0.02 * rs) / (n * 0.025693))
        kinds.append(LampKind(str(k), "", "red", "0603", curve(saturation, n, rs), 10.0))
        branches.append(Branch(str(k), "", (Strand((LampUse(str(k)),) * int(lamps)),), ohm))
    made = Circuit((("main", supply(case["kind"], case["cells"])),), tuple(kinds), tuple(branches))
    time_ = run_times(made)[0]
    found = case["found"]
    # These lamps' light is as their current.
    assert time_.half == pytest.approx(min(v for k, v in found.items() if k.startswith("half")), rel=0.01)
    assert time_.done == pytest.approx(found["done"], rel=0.01)
    dark = [v for k, v in found.items() if k.startswith("dark") and v < found["done"]]
    assert (time_.dark is not None) == bool(dark)
    if dark:
        assert time_.dark == pytest.approx(min(dark), rel=0.01)


def test_a_module_takes_its_power_from_the_cells_or_fails() -> None:
    def at(watt: float) -> tuple[float, bool]:
        from chalkreel.core.light.network import Draw

        found = solve(Network(1, (Row(1, 0, 1e6),), (Source(1, 3.0, 1.0),), (), (Draw(1, watt),)))
        return float(found.joint_v[0, 0]), bool(found.fed[0])

    # V² − 3 V + P = 0, the upper root; beyond 3²/4 W there is none.
    volts, fed = at(1.25)
    assert fed and volts == pytest.approx((3 + 4.0**0.5) / 2, rel=1e-4)
    assert not at(2.3)[1]


def test_cells_that_tire_can_no_longer_feed_a_module() -> None:
    # Two AAA give the module's watts when fresh; at eight tenths used they have 2.4 V behind two ohms and more.
    made = circuit(branch(row("strip"), ohm=0.0, supply="module", times=2), kind="AAA cells", cells=2, step_up=12.0)
    found = lit(made)
    assert found.supplies[0].fed and found.lamps[0].ma > 10 and found.lamps[0].used_ma == 0
    time_ = run_times(made)[0]
    assert time_.dark is not None and time_.dark_used < 0.8


def test_copies_are_solved_together_and_fifty_lamps_take_no_time() -> None:
    lamp = LampInRow(curve(1e-20, 2.0, 10.0))
    made = Network(1, tuple(Row(1, 0, 100.0 + i, (lamp, lamp)) for i in range(50)), (Source(1, 9.0, 1.7),))
    base = values_of(made)
    many = Values(
        base.saturation, base.n, base.lamp_ohm, base.row_ohm, np.linspace(5, 9, 300)[:, None], base.source_ohm
    )
    begun = time.perf_counter()
    together = solve(made, many).row_a
    assert time.perf_counter() - begun < 1.5  # a tenth of that here; the figure is in docs
    alone = solve(Network(1, made.rows, (Source(1, float(many.volts[7, 0]), 1.7),))).row_a[0]
    assert together[7] == pytest.approx(alone, rel=1e-6)


@pytest.mark.parametrize(
    ("made", "words"),
    [
        (Circuit((), (), (Branch("b", "b", (row("white"),)),)), "no supply"),
        (circuit(branch(row("strip", "white"))), "stands alone"),
        (circuit(branch(row("white"), times=2000)), "more than 1000"),
        (circuit(branch(row("white"), ohm=1e9)), "10 MΩ"),
        (circuit(branch(row("gone"))), "no longer there"),
        (circuit(branch(*(row("white"),) * 500, pitch_mm=20.0)), "more than 80 rungs"),
    ],
)
def test_what_no_wiring_can_be_is_refused_in_words(made: Circuit, words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        lit(made)


def test_a_loop_of_wire_is_told_or_solved_and_never_hangs() -> None:
    with pytest.raises(RefusedError, match="closes a loop"):
        solve(Network(1, (Row(1, 0, 0.0),), (Source(1, 4.5, 0.0),)))
