"""Readings of callipers, and the stand-in that sends them."""

from __future__ import annotations

import statistics

import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.calliper import parse_reading
from chalkreel.demo.devices.calliper import TRUE_MM, Calliper


@pytest.mark.parametrize(
    ("line", "mm"),
    [("+0044.13mm\r\n", 44.13), ("44,13", 44.13), ("  1.5 in", 38.1), ("A+0012.70mm", 12.7), ("\x020.50\x03", 0.5)],
)
def test_readings_as_instruments_send_them(line, mm):
    assert parse_reading(line) == pytest.approx(mm)


@pytest.mark.parametrize("line", ["", "Err", "Err 4", "-0.02mm", "+0000.00mm", "9999.99", "1.2.3", "44.13 kg", "1e5"])
def test_what_is_no_reading_is_refused(line):
    with pytest.raises(RefusedError):
        parse_reading(line)


@given(st.floats(0.01, 1999.99))
def test_any_reading_survives_the_line(mm):
    assert parse_reading(f"+{mm:08.2f}mm\r\n") == pytest.approx(mm, abs=0.0051)


def test_the_stand_in_measures_as_a_hand_does():
    calliper = Calliper(3)
    readings = [parse_reading(calliper.line("A3 deck")) for _ in range(200)]
    assert statistics.mean(readings) == pytest.approx(TRUE_MM["A3 deck"], abs=0.005)
    assert 0.005 < statistics.stdev(readings) < 0.02
    assert "".join(calliper.keys("C9 louvres")).endswith("mm\r")
