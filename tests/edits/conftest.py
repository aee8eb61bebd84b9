"""A copy of the demo to edit, without a window."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from chalkreel.demo.ninepin import create_demo
from chalkreel.document.store import Store


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    opened = create_demo(tmp_path / "demo.chalkreel")
    yield opened
    opened.close()
