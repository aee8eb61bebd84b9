"""How sure the currents are: sheets of lamps nobody modelled, and made copies of whole circuits."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.light.cells import supply
from chalkreel.core.light.design import filled
from chalkreel.core.light.doubt import doubt
from chalkreel.core.light.island import Island, island
from chalkreel.core.light.lamps import THERMAL_V, Point, fit
from chalkreel.core.light.network import LampInRow, Network, Row, Source, Values, shape_of, values_of
from chalkreel.core.light.operating import solve
from tests.core.light.hidden_lamps import HiddenLamp, strangers, usual_lamps
from tests.core.light.made_circuits import branch, circuit, row


def told(lamp: HiddenLamp, points: tuple[Point, ...], volts: float, ohm: float) -> tuple[float, float]:
    """The current that sheet points lead to, and its σ, mA."""
    made = Network(1, (Row(1, 0, ohm, (LampInRow(fit(lamp.colour, "0603", points)),)),), (Source(1, volts, 1e-3),))
    found = solve(made)
    sure = doubt(made, shape_of(made), found, np.zeros(1), 0.0)
    return 1000 * float(found.row_a[0, 0]), 1000 * float(sure.row_a[0])


@pytest.mark.parametrize(("ohm", "over"), [(68, 0.7), (150, 1.2), (330, 3.0)])
def test_three_points_of_a_sheet_tell_the_current_behind_a_resistor(ohm: float, over: float) -> None:
    off = []
    for lamp in usual_lamps(40, 60):
        volts = lamp.v20 + over
        found, _ = told(lamp, (lamp.point(1), lamp.point(5), lamp.point(20)), volts, ohm)
        off.append(abs(found / lamp.current_ma(volts, ohm) - 1))
    assert np.median(off) < 0.003 and np.percentile(off, 95) < 0.01


@pytest.mark.parametrize(("ohm", "over"), [(1, -0.15), (22, 0.25), (68, 0.7), (150, 1.7), (330, 3.0)])
def test_intervals_hold_for_lamps_of_no_family_that_differ_from_their_sheet(ohm: float, over: float) -> None:
    rng = np.random.default_rng(5)
    held = []
    for lamp in strangers(41, 150):
        sheet = replace(lamp, v20=3.1 if lamp.colour == "white" else 2.0)
        spread = 0.1 if lamp.colour == "white" else 0.06
        true = replace(sheet, v20=sheet.v20 + rng.normal(0, spread)).current_ma(sheet.v20 + over, ohm)
        found, sigma = told(sheet, (sheet.point(20),), sheet.v20 + over, ohm)
        # Where it is hardly known, it is known by its ratio.
        off = abs(np.log(true / found)) / (sigma / found) if sigma > 0.25 * found else abs(true - found) / sigma
        held.append(off < 1.96)
    assert np.mean(held) >= 0.9


def test_a_reading_at_the_bench_makes_that_lamp_surer_and_moves_it() -> None:
    sheet = Point(3.1, 20.0)
    before, sigma = told(HiddenLamp("white", 3.1, 2.2, 2.2, 1.0, 12.0), (sheet,), 3.3, 22.0)
    curve = fit("white", "0603", (sheet, Point(3.0, 3.1, bench=True)))
    assert curve.volts_at(3.1) == pytest.approx(3.0, abs=0.02)
    assert curve.covariance[0][0] < 0.2 * fit("white", "0603", (sheet,)).covariance[0][0]
    assert sigma > 0.1 * before  # and it was worth reading


@pytest.mark.parametrize(
    ("points", "words"),
    [((), "voltage at one"), ((Point(2.0, 20),), "leaf green"), ((Point(3.1, 20), Point(3.2, 5)), "misread"),
     ((Point(float("nan"), 20),), "current"), ((Point(3.1, 0),), "current")],
)  # fmt: skip
def test_nonsense_on_a_sheet_is_refused(points: tuple[Point, ...], words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        fit("green", "0603", points)


def copies_of(part: Island, sigma_v: float, count: int, rng: np.random.Generator) -> Values:
    """Made copies: every lamp, resistor and supply drawn within its tolerance."""
    base = values_of(part.network)
    lamps = [lamp for r in part.network.rows for lamp in r.lamps]
    volts, n, ohm = (np.zeros((count, len(lamps))) for _ in range(3))
    for curve in dict.fromkeys(lamp.curve for lamp in lamps):
        bag = rng.multivariate_normal((0, 0, 0), np.array(curve.covariance), count)
        for j, lamp in enumerate(lamps):
            if lamp.curve == curve:
                volts[:, j] = curve.volts + bag[:, 0] + rng.normal(0, curve.own_v, count)
                n[:, j], ohm[:, j] = np.maximum(curve.n + bag[:, 1], 0.8), curve.ohm * np.exp(bag[:, 2])
    amp = np.array([lamp.curve.ma for lamp in lamps]) / 1000
    saturation = amp / np.expm1(np.maximum(volts - amp * ohm, 0.6) / (n * THERMAL_V))
    return Values(
        saturation, n, ohm, base.row_ohm * np.exp(rng.normal(0, 0.025, (count, base.row_ohm.shape[1]))),
        base.volts + rng.normal(0, sigma_v, (count, 1)), base.source_ohm * np.exp(rng.normal(0, 0.15, (count, 1))),
    )  # fmt: skip


@pytest.mark.parametrize("kind", ["AA cells", "USB 5 V"])
def test_the_plus_minus_is_as_wide_as_made_copies_spread(kind: str) -> None:
    made = filled(
        circuit(
            branch(row("white"), times=3, key="a"), branch(row("red", "red"), key="c"),
            branch(*(row("white", ohm=220.0) for _ in range(12)), ohm=0.0, key="d", wire="hair 0.1", wire_mm=200.0,
                   pitch_mm=40.0),
            branch(row("red"), row("red"), key="e"), kind=kind,  # type: ignore[arg-type]
        )
    )  # fmt: skip
    part = island(made, "main")
    sigma_v = supply(kind, 3).sigma_v  # type: ignore[arg-type]
    said = doubt(part.network, part.shape, solve(part.network), np.array([sigma_v]), 0.025)
    drawn = solve(part.network, copies_of(part, sigma_v, 500, np.random.default_rng(8))).row_a
    width = np.percentile(drawn, 95, axis=0) - np.percentile(drawn, 5, axis=0)
    with_lamps = [r for r, each in enumerate(part.network.rows) if each.lamps]
    ratio = (2 * 1.645 * said.row_a / width)[with_lamps]
    assert ratio.min() > 0.75 and ratio.max() < 1.3, ratio
