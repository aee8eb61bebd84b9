"""Other scales, worked out by hand."""

from __future__ import annotations

import pytest

from chalkreel.core.scale import ScaleChain
from chalkreel.core.scale_effects import derived_ratio, scale_effects

CHAIN = ScaleChain(18_600.0, 775.0, 387.5)


def test_common_scales_round_the_chosen_one():
    rows = scale_effects(CHAIN, 420.0)
    assert [r.ratio for r in rows if r.chosen] == [48.0]
    assert min(r.ratio for r in rows) == 16.0 and max(r.ratio for r in rows) == 144.0
    row = next(r for r in rows if r.ratio == 72.0)
    assert row.length_mm == pytest.approx(258.33, abs=0.01)
    assert row.figure_mm == pytest.approx(24.31, abs=0.01)
    assert (row.finest_in_story_mm, row.lamp_in_story_mm) == pytest.approx((18.0, 129.6))
    assert row.room_mm == pytest.approx(420 - 10 - 258.33, abs=0.01)
    assert [r.ratio for r in rows if r.room_mm is not None and r.room_mm < 0] == [16.0, 20.0, 24.0, 32.0, 35.0, 43.0]


def test_an_uncommon_scale_stands_among_the_common_ones():
    rows = scale_effects(ScaleChain(18_600.0, 775.0, 300.0), None)
    assert [r.ratio for r in rows if r.chosen] == [62.0]
    assert all(r.room_mm is None for r in rows)


def test_rulers_on_two_links_tell_the_ratio():
    found = derived_ratio(((0.02, 0.005),), ((0.0, 0.005),), 24.0)
    assert found is not None
    assert found.ratio == pytest.approx(24.48) and found.disagrees
    assert found.sigma == pytest.approx(24.48 * 0.005 * 2**0.5)
    agreed = derived_ratio(((0.002, 0.004), (-0.002, 0.004)), ((0.001, 0.003),), 24.0)
    assert agreed is not None and not agreed.disagrees
    assert derived_ratio((), ((0.0, 0.1),), 24.0) is None
