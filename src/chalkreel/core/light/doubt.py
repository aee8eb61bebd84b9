"""How surely the currents are known: every tolerance as a few volts in its row, carried through the circuit.

To first order a tolerance shifts the volts of its row: a lamp's V, I·R of a resistor, a supply's own. The slopes at the
operating point carry that to every row, so that a row alone on a supply gives the closed form
σI/I = √(σV² + σVf² + (I·R·σR)²) / D with its stiffness D = k·n·Vt + I·(k·Rs + R + Ri).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.light.cells import OHM_SIGMA
from chalkreel.core.light.lamps import THERMAL_V, LampCurve
from chalkreel.core.light.network import LampInRow, Network, Shape
from chalkreel.core.light.operating import Operating


@dataclass(frozen=True)
class Doubt:
    """1 σ of the current in each row (R,) and drawn from each source (S,), A.

    `by_tolerance` (R, P) is what each independent tolerance (1 σ) does to each row: what rows share, their sum shares.
    """

    row_a: Array
    source_a: Array
    by_tolerance: Array


def doubt(
    network: Network, shape: Shape, found: Operating, source_v: Array, resistor_sigma: float, copy: int = 0
) -> Doubt:
    """Doubt of one solved copy; `source_v` (S,) is 1 σ of each source's volts, `resistor_sigma` relative."""
    rows, slope = len(network.rows), found.slope_s[copy]
    through = shape.across @ np.linalg.solve(found.matrix[copy], shape.across.T * (slope * shape.times))
    carried = slope[:, None] * (through - np.eye(len(slope)))  # A per V in each element
    shifts = _shifts(network, shape, found, source_v, resistor_sigma, copy)
    by_tolerance = carried @ shifts
    sigma = np.sqrt((by_tolerance**2).sum(axis=1))
    return Doubt(sigma[:rows], sigma[rows:], by_tolerance[:rows])


def _shifts(
    network: Network, shape: Shape, found: Operating, source_v: Array, resistor_sigma: float, copy: int
) -> Array:
    """Volts that each independent tolerance (1 σ) puts into each element (E, P)."""
    elements = len(shape.times)
    rows = len(network.rows)
    amp = np.maximum(found.lamp_a[copy], 1e-12)
    columns: list[Array] = []
    lamps = [lamp for row in network.rows for lamp in row.lamps]
    for curve in dict.fromkeys(lamp.curve for lamp in lamps):
        columns += list(_of_type(curve, lamps, shape, amp, elements).T)
    diagonal = np.zeros(elements)
    own = np.array([lamp.curve.own_v**2 for lamp in lamps])
    if len(own):
        diagonal[:rows] = own @ shape.gather
    ohm = np.array([row.ohm for row in network.rows])
    diagonal[:rows] += (found.row_a[copy] * ohm * resistor_sigma) ** 2
    source_ohm = np.array([s.ohm for s in network.sources])
    diagonal[rows:] = source_v**2 + (found.source_a[copy] * source_ohm * OHM_SIGMA) ** 2
    return np.column_stack([*columns, np.diag(np.sqrt(diagonal))])


def _of_type(curve: LampCurve, lamps: list[LampInRow], shape: Shape, amp: Array, elements: int) -> Array:
    """What is not known of one type's curve (three independent ways) in every row that has such lamps (E, 3)."""
    mine = np.array([lamp.curve == curve for lamp in lamps])
    # Rs is known by its logarithm, and so may be larger than the fit by more than smaller: its upper 1 σ counts.
    sigma = math.sqrt(curve.covariance[2][2])
    ohm = curve.ohm * math.expm1(sigma) / sigma
    by = np.stack(
        [np.ones_like(amp), THERMAL_V * np.log(amp / (curve.ma / 1000)), (amp - curve.ma / 1000) * ohm], axis=1
    )
    by = by * (shape.sign * mine)[:, None]
    whole = np.zeros((elements, 3))
    whole[: shape.gather.shape[1]] = shape.gather.T @ by
    return whole @ np.linalg.cholesky(np.array(curve.covariance))
