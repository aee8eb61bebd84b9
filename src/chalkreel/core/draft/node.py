"""The points of an outline."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

NodeKind = Literal["corner", "arc", "smooth"]


@dataclass(frozen=True)
class Node:
    """A point of an outline in mm: a corner, a point that an arc passes through, or one of a smooth run."""

    x: float
    y: float
    bend: NodeKind = "corner"
