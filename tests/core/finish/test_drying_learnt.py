"""Drying times that a workshop's own log teaches."""

from __future__ import annotations

import pytest

from chalkreel.core.finish.drying import Dried, Room, learnt, waits


def test_what_dried_slowly_here_is_waited_for_and_what_the_cold_explains_is_not() -> None:
    cold = Room(12.0, 0.5)
    slow, quick = Dried("enamel", 16.0), Dried("enamel", 2.0)
    # The slow end of the table is 8 h: twice as long, read three times, counts for 2 ** (3 / 5).
    assert dict(learnt([slow] * 3)) == pytest.approx({"enamel": 2 ** (3 / 5)})
    assert learnt([quick] * 5) == () and learnt([slow, quick]) == ()
    assert learnt([Dried("enamel", waits("enamel", "touch", cold)[1], cold)] * 9) == ()
    # A slip of the pen, a thing that nobody knows, and air in which nothing dries as it should.
    assert learnt([Dried("enamel", 900.0), Dried("", 3.0), Dried("enamel", 99.0, Room(2.0, 0.5))]) == ()
    here = Room(own=learnt([slow] * 3))
    assert waits("enamel", "over", here)[1] == pytest.approx(72 * 2 ** (3 / 5))
    assert waits("lacquer", "over", here) == waits("lacquer", "over")
