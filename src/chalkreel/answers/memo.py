"""Results remembered by their inputs, a few deep, so that undo and redo find them again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Memo(Generic[K, V]):
    """The last `depth` results of one pure function. What raises is not remembered."""

    def __init__(self, depth: int) -> None:
        self._depth = depth
        self._kept: list[tuple[K, V]] = []

    def get(self, inputs: K, compute: Callable[[], V]) -> V:
        """The result for these inputs, computed if it is not among those kept."""
        found = self.find(inputs)
        if found is None:
            return self.put(inputs, compute())
        return found

    def find(self, inputs: K) -> V | None:
        """The result kept for these inputs."""
        for number, (known, value) in enumerate(self._kept):
            # Inputs are tuples of mostly the same objects: equality costs a walk over identities.
            if known == inputs:
                self._kept.insert(0, self._kept.pop(number))
                return value
        return None

    def put(self, inputs: K, value: V) -> V:
        """Keep a result; the one unused longest goes."""
        self._kept.insert(0, (inputs, value))
        del self._kept[self._depth :]
        return value
