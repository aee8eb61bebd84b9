"""Where a film cuts from one scene to the next.

Neighbouring key frames are compared first; only between those that differ every frame is decoded and the jump
looked for. Dissolves and fades are not found: they have no jump.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import StoppedError

if TYPE_CHECKING:
    from chalkreel.core.media.clip import Clip

SMALL = (32, 18)
# Mean difference of small pictures, of 1. Below it two pictures count as of one scene.
LEAST_JUMP = 0.05
# A cut stands out from the steps before and after it; a pan does not, and a flash of light has two alike.
TIMES_NEIGHBOURS = 2.0
# Key frames closer than this are not compared one by one.
STRIDE_S = 0.4


def scene_starts(clip: Clip, progress: Callable[[float], bool] = lambda _: True) -> tuple[int, ...]:
    """Numbers of the frames with which a new scene begins, the first of the film among them.

    Raises
    ------
    RefusedError
        A frame is damaged.
    StoppedError
        `progress` returned False.
    """
    anchors = _anchors(clip)
    starts = [0]
    before = _small(clip, anchors[0])
    for n, (first, last) in enumerate(itertools.pairwise(anchors)):
        after = _small(clip, last)
        if _difference(before, after) >= LEAST_JUMP:
            starts += _jumps(clip, first, last)
        before = after
        if not progress((n + 1) / (len(anchors) - 1)):
            raise StoppedError
    return tuple(starts)


def _anchors(clip: Clip) -> list[int]:
    """Key frames at least a stride apart, and the last frame."""
    chosen = [0]
    for key in clip.index.keys:
        if clip.index.seconds(key) - clip.index.seconds(chosen[-1]) >= STRIDE_S:
            chosen.append(key)
    last = clip.info.frames - 1
    return chosen if chosen[-1] == last else [*chosen, last]


def _jumps(clip: Clip, first: int, last: int) -> list[int]:
    pictures = [_small(clip, n) for n in range(first, last + 1)]
    steps = np.array([_difference(a, b) for a, b in itertools.pairwise(pictures)])
    padded = np.concatenate([[0.0], steps, [0.0]])
    around = np.maximum(padded[:-2], padded[2:])
    return [first + 1 + int(n) for n in np.flatnonzero((steps >= LEAST_JUMP) & (steps >= TIMES_NEIGHBOURS * around))]


def _small(clip: Clip, number: int) -> Array:
    return np.asarray(clip.small(number, *SMALL) / 255.0)


def _difference(a: Array, b: Array) -> float:
    return float(np.mean(np.abs(a - b)))
