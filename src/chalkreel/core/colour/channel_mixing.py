"""What a still's camera and print mix between its channels, as patches of known colour tell.

Beyond gains, which greys tell, a camera whose sensitivities are not the eye's mixes the cone responses a little. With
known colours on a still that mixing is fitted near the identity (ridge; Hoerl & Kennard 1970), by chroma and hue, since
every patch has a shading of its own, and taken out of all patches of the still. Even one known colour beside a grey
brings the others nearer.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.joint_values import AXES

# How far cameras mix one cone's response into another's (1 σ); a patch's own scatter in brightness and in chroma.
MIXING_SIGMA: Final = 0.05
LEVEL_SIGMA, CHROMA_SIGMA = 0.22, 0.03
# A known patch further from grey than this, in a chromatic axis, tells of mixing.
COLOURED: Final = 0.08
DARKEST: Final = 2e-4
ROUNDS: Final = 15
STEP: Final = 1e-5
_OFF: Final = ~np.eye(3, dtype=bool)


def tells_mixing(true: Array, grey: Array) -> bool:
    """Whether patches of known cone responses (N, 3) tell mixing: two of them, and one that is no grey (3,)."""
    apart = np.abs((np.log(true) - np.log(grey)) @ AXES[1:].T).max(axis=1)
    return len(true) > 1 and bool(apart.max() > COLOURED)


def unmixed(cones: Array, seen: Array, true: Array) -> Array:
    """Cone responses (M, 3) of a still as a camera would give them that mixes nothing; its gains stay.

    `seen` and `true` (N, 3) are those of its patches of known colour.
    """
    gains, mixing = _fitted(seen, true)
    level = cones * gains
    return np.asarray(np.maximum(level + level @ mixing.T, DARKEST) / gains)


def _fitted(seen: Array, true: Array) -> tuple[Array, Array]:
    """Gains (3,) and the mixing of the scaled responses (3, 3), nothing on its diagonal; Gauss–Newton."""
    weigh = AXES / np.array([LEVEL_SIGMA, CHROMA_SIGMA, CHROMA_SIGMA])[:, None]
    values = np.zeros(9)
    values[:3] = np.log(true / seen).mean(axis=0)
    precision = np.concatenate([np.full(3, 1e-6), np.full(6, MIXING_SIGMA**-2.0)])

    def residual(at: Array) -> Array:
        level = seen * np.exp(at[:3])
        mixed = np.maximum(level + level @ _matrix(at).T, DARKEST)
        return np.asarray(((np.log(mixed) - np.log(true)) @ weigh.T).ravel())

    for _ in range(ROUNDS):
        now = residual(values)
        sides = np.stack([(residual(values + move) - now) / STEP for move in STEP * np.eye(9)], axis=1)
        step = np.linalg.solve(sides.T @ sides + np.diag(precision), -sides.T @ now - precision * values)
        values = values + np.clip(step, -0.3, 0.3)
        if np.abs(step).max() < STEP:
            break
    return np.exp(values[:3]), _matrix(values)


def _matrix(values: Array) -> Array:
    mixing = np.zeros((3, 3))
    mixing[_OFF] = values[3:]
    return mixing
