"""What test swatches teach about the paints in them.

Strengths first: the logarithm of each paint's strength is refitted to all swatches at once, held to what its source
allows (Gauss–Newton with a prior; ridge after Hoerl & Kennard 1970). What a swatch still shows beyond that becomes a
correction of K/S that reaches neighbouring mixes only. Nothing is overwritten: without its swatch a lesson is gone.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.mixing import Correction, Mixer, lab_slope, metric_at, pot_of
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.spectra import tristimulus_weights
from chalkreel.core.colour.surface_terms import seen

# A swatch tells its colour this well, model and reading together (ΔE00, 1 σ).
SWATCH_SIGMA: Final = 0.7
ROUNDS: Final = 8
WARPS: Final = 12
# How smooth the correction of K/S is held along the spectrum.
SMOOTH: Final = 30.0


@dataclass(frozen=True, eq=False)
class DrySwatch:
    """Drops by paint name that were mixed, and the colour of their opaque dry coat."""

    drops: tuple[tuple[str, int], ...]
    lab: Lab


@dataclass(frozen=True, eq=False)
class Lessons:
    """The shelf as the swatches teach it, the factor of each paint's strength, corrections of like mixes."""

    shelf: tuple[Paint, ...]
    strengths: dict[str, float]
    corrections: tuple[Correction, ...]


def learn(shelf: tuple[Paint, ...], swatches: tuple[DrySwatch, ...]) -> Lessons:
    """Refit strengths to the swatches, then correct what is left; swatches with unknown paints teach nothing."""
    names = {p.name for p in shelf}
    known = tuple(s for s in swatches if s.drops and all(name in names for name, _ in s.drops))
    taught = shelf
    for _ in range(ROUNDS if known else 0):
        taught = _refitted(shelf, taught, known)
    before = {p.name: p for p in shelf}
    used = {name for s in known for name, _ in s.drops}
    strengths = {p.name: float(p.scattering.sum() / before[p.name].scattering.sum()) for p in taught if p.name in used}
    corrections = tuple(Correction(_shares(s), _beyond(taught, s)) for s in known)
    return Lessons(taught, strengths, corrections)


def warped(ratio: Array, lab: Array, surface: float) -> Array:
    """Factors (36,) on K/S (36,), as small and smooth as can be, that give the mix this L*a*b* (3,)."""
    bend = np.diff(np.eye(len(ratio)), n=2, axis=0)
    shape = np.linalg.inv(np.eye(len(ratio)) + SMOOTH * bend.T @ bend)
    weights = tristimulus_weights()
    logs = np.zeros_like(ratio)
    for _ in range(WARPS):
        present = ratio * np.exp(logs)
        step = 1e-4
        inner = seen(reflectance_of(present), surface)
        slope = (seen(reflectance_of(present * np.exp(step)), surface) - inner) / step
        xyz = inner @ weights
        sides = lab_slope(xyz) @ (slope[:, None] * weights).T
        residual = lab_of_xyz(xyz) - lab
        spread = sides @ shape @ sides.T
        move = -shape @ sides.T @ np.linalg.solve(spread + 1e-6 * np.trace(spread) * np.eye(3), residual)
        logs = np.clip(logs + np.clip(move, -1.0, 1.0), -3.0, 3.0)
        if np.abs(residual).max() < 1e-3:
            break
    return np.asarray(np.exp(logs))


def _refitted(
    shelf: tuple[Paint, ...], taught: tuple[Paint, ...], swatches: tuple[DrySwatch, ...]
) -> tuple[Paint, ...]:
    """One Gauss–Newton step on the logarithms of all strengths."""
    at = {p.name: i for i, p in enumerate(shelf)}
    prior = np.array([1.0 / p.strength_sigma**2 for p in shelf])
    present = np.log([t.scattering.sum() / p.scattering.sum() for t, p in zip(taught, shelf, strict=True)])
    normal, pull = np.diag(prior), -prior * present
    for swatch in swatches:
        rows = np.array([at[name] for name, _ in swatch.drops])
        mixer = Mixer(tuple(taught[i] for i in rows))
        counts = np.array([[float(n) for _, n in swatch.drops]])
        lab, jacobian = mixer.lab_and_jacobian(np.arange(len(rows))[None], counts)
        metric = metric_at(np.array(swatch.lab)) / SWATCH_SIGMA
        sides, residual = metric @ jacobian[0], metric @ (lab[0] - swatch.lab)
        normal[np.ix_(rows, rows)] += sides.T @ sides
        pull[rows] -= sides.T @ residual
    step = np.clip(np.linalg.solve(normal, pull), -0.7, 0.7)
    factors = np.exp(present + step)
    return tuple(
        replace(p, absorption=p.absorption * f, scattering=p.scattering * f)
        for p, f in zip(shelf, factors, strict=True)
    )


def _shares(swatch: DrySwatch) -> dict[str, float]:
    total = sum(count for _, count in swatch.drops)
    return {name: count / total for name, count in swatch.drops}


def _beyond(shelf: tuple[Paint, ...], swatch: DrySwatch) -> Array:
    pot = pot_of(swatch.drops, shelf)
    return warped(pot.absorption / pot.scattering, np.array(swatch.lab), pot.surface)
