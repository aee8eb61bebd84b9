"""A smooth reflectance that has a given colour.

Reference: Burns, "Numerical methods for smoothly constructing reflectances", *Color Research & Application* 45
(2020), 8–21: least slope of the hyperbolic arc tangent, so that every band stays between 0 and 1.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import xyz_of_lab
from chalkreel.core.colour.spectra import BANDS, tristimulus_weights
from chalkreel.core.errors import RefusedError

ROUNDS: Final = 60
CLOSE: Final = 1e-7


def smooth_spectrum(lab: Array) -> Array:
    """Reflectance (36,) with this L*a*b* (3,) under D65, as smooth as it can be.

    Raises
    ------
    RefusedError
        No surface that gives off no light of its own can have this colour.
    """
    target = xyz_of_lab(np.asarray(lab, float))
    weights = tristimulus_weights()
    slope = np.diff(np.eye(BANDS), axis=0)
    bend = 2.0 * slope.T @ slope
    level = float(np.clip(target[1], 0.003, 0.995))
    z, multipliers = np.full(BANDS, np.arctanh(2.0 * level - 1.0)), np.zeros(3)
    for _ in range(ROUNDS):
        tanh = np.tanh(z)
        jacobian = (1.0 - tanh**2) / 2.0
        pull = weights @ multipliers
        residual = weights.T @ ((tanh + 1.0) / 2.0) - target
        gradient = np.concatenate([bend @ z + jacobian * pull, residual])
        if np.abs(gradient).max() < CLOSE:
            return np.asarray((tanh + 1.0) / 2.0)
        sides = jacobian[:, None] * weights
        system = np.block([[bend + np.diag(-2.0 * tanh * jacobian * pull), sides], [sides.T, np.zeros((3, 3))]])
        try:
            step = np.linalg.solve(system, -gradient)
        except np.linalg.LinAlgError:
            break
        step *= min(1.0, 2.0 / max(1e-12, float(np.abs(step[:BANDS]).max())))
        z, multipliers = z + step[:BANDS], multipliers + step[BANDS:]
    raise RefusedError("No painted surface can have this colour: it is too bright or too vivid for its lightness.")
