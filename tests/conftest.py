"""Isolation and the shared demo build: no test touches the user's home, settings or network."""

from __future__ import annotations

import json
import os
import socket
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# As the program itself sets it: more threads only fight over the two cores.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
# How long an example takes says more of what else the machine does than of the program.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="kills, broken files and undo as often as the yardsticks say")


@pytest.fixture(autouse=True, scope="session")
def own_home(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    home = tmp_path_factory.mktemp("home")
    kept = dict(os.environ)
    os.environ |= {"HOME": str(home), "XDG_CONFIG_HOME": str(home / "config"), "XDG_STATE_HOME": str(home / "state"),
                   "XDG_DATA_HOME": str(home / "data")}  # fmt: skip
    yield
    os.environ.clear()
    os.environ |= kept


@pytest.fixture(autouse=True)
def no_network(monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(self: socket.socket, address: Any) -> None:
        if self.family != socket.AF_UNIX:
            raise AssertionError(f"something tried to reach {address}")

    monkeypatch.setattr(socket.socket, "connect", refuse)


@pytest.fixture(scope="session")
def truth() -> dict[str, Any]:
    """True sizes and spectra of the rendered demo; the program never sees them."""
    found: dict[str, Any] = json.loads((Path(__file__).parent / "data/truth.json").read_text())
    return found


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    from chalkreel.demo.ninepin import create_demo

    path = tmp_path_factory.mktemp("demo") / "ninepin.chalkreel"
    create_demo(path).close()
    return path


@pytest.fixture(scope="session")
def demo_solved(demo_file: Path) -> tuple[Any, Any]:
    """An answerer that has answered the demo, and the answers."""
    from chalkreel.answers.answers import Answerer
    from chalkreel.document.gallery import Gallery
    from chalkreel.document.store import Store

    store = Store.open(demo_file)
    answerer = Answerer(Gallery(store.blob))
    *_, answers = answerer.answer(store.build, now=datetime(2026, 11, 23, 12))
    store.close()
    return answerer, answers


@pytest.fixture(scope="session")
def demo_answers(demo_solved: tuple[Any, Any]) -> Any:
    return demo_solved[1]
