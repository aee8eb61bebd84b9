"""Work in a process of its own: its results, refusals and progress come back, it stops, and it may die."""

import os
from functools import partial
from pathlib import Path

import pytest
from tests.work_apart import counted, deaf, dying_apart_from, refused, waiting, where

from chalkreel.answers.apart import apart
from chalkreel.core.errors import RefusedError, StoppedError


def test_it_is_done_elsewhere_by_one_process_after_the_other_and_says_how_far_it_is() -> None:
    shares: list[float] = []
    process = apart(where, lambda _: True)
    assert process != os.getpid() and apart(where, lambda _: True) == process
    assert apart(partial(counted, 4), lambda share: share < 0 or shares.append(share) is None) == 4
    assert shares == [0.0, 0.25, 0.5, 0.75]
    with pytest.raises(RefusedError, match="No bench evening"):
        apart(refused, lambda _: True)
    # A refusal ends no helper.
    assert apart(where, lambda _: True) == process


def test_what_is_stopped_stops_and_what_does_not_is_ended(monkeypatch: pytest.MonkeyPatch) -> None:
    process = apart(where, lambda _: True)
    with pytest.raises(StoppedError):
        apart(waiting, lambda _: False)
    assert apart(where, lambda _: True) == process
    monkeypatch.setattr("chalkreel.answers.apart.STOPS_WITHIN", 0.1)
    with pytest.raises(StoppedError):
        apart(deaf, lambda _: False)
    assert apart(where, lambda _: True) != process
    assert not Path(f"/proc/{process}").exists()


def test_where_the_helper_dies_the_work_is_done_here(caplog: pytest.LogCaptureFixture) -> None:
    assert apart(partial(dying_apart_from, os.getpid()), lambda _: True) == "done here"
    assert "helper process is gone" in caplog.text
    assert apart(where, lambda _: True) != os.getpid()
