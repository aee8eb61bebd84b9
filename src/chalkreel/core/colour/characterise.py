"""K and S of a paint from metered swatches of it: its masstone and its tints with the shelf's white.

The masstone gives K/S, each tint in a known proportion gives S relative to the white's (two-constant method:
Duncan 1940; Walowit, McCarthy & Berns, *Color Research & Application* 13 (1988), 358: least squares over several
tints). Surface terms are taken out first (Saunderson 1942).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.kubelka_munk import ratio_of, reflectance_of
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import BANDS
from chalkreel.core.colour.surface_terms import INSIDE, OUTSIDE, internal, seen
from chalkreel.core.errors import RefusedError

# How far S is trusted to be what paints of such a colour have, before any tint was seen (1 σ of its logarithm).
BELIEF: Final = 0.5
# A metered reflectance is good to this share of itself, and to this much for what is not known of the surface.
READING_SHARE: Final = 0.01
READING_LEAST: Final = 0.002
# How sharply log K and log S may bend from band to band (1 σ of the second difference).
KINK_K, KINK_S = 0.6, 0.15
# K/S of the blackest masstones that paints have lies between 20 and 60. A typed colour knows no better: taking the
# surface's own reflection off a dark one leaves next to nothing, which would be a pigment a thousand times as strong.
BLACKEST: Final = 40.0
# Where the fit starts for a masstone as black as its surface lets it be.
DARKEST: Final = 0.01
ROUNDS: Final = 40


@dataclass(frozen=True, eq=False)
class Tint:
    """A swatch of `share` (0..1, by drops) of the paint in white, its reflectance (36,) as metered."""

    share: float
    reflectance: Array


@dataclass(frozen=True, eq=False)
class Constants:
    """K and S (36,), and what the dry surface scatters into the eye."""

    absorption: Array
    scattering: Array
    surface: float

    def as_pair(self) -> tuple[Array, Array]:
        """Both."""
        return self.absorption, self.scattering


def white_constants(masstone: Array, surface: float) -> Constants:
    """The shelf's white: S is 1 at every band, K follows from its masstone (36,)."""
    return Constants(ratio_of(internal(_checked(masstone), surface)), np.ones(BANDS), surface)


def characterise(masstone: Array, tints: tuple[Tint, ...], white: Constants, surface: float) -> Constants:
    """K and S (36,) of a paint from its masstone (36,) and any number of tints.

    The surface of a tint lies between the paint's and the white's, by their shares.

    log K and log S of all bands are fitted together to the reflectances as metered, held to be smooth along the
    spectrum, and S near what such colours usually have (Gauss–Newton). Where a masstone is nearly black its
    surface hides what is below, and the tints decide.

    Raises
    ------
    RefusedError
        A reflectance outside 0..1.2 or a tint's share outside 0..1.
    """
    if any(not 0.0 < tint.share < 1.0 for tint in tints):
        raise RefusedError("A tint's share of paint lies between 0 and 1: say 1 drop in 10 as 0.1.")
    swatches = ((1.0, _checked(masstone)), *((t.share, _checked(t.reflectance)) for t in tints))
    inner = internal(swatches[0][1], surface)
    usual = np.log(usual_scattering(inner))
    log_k, log_s = np.log(ratio_of(np.maximum(inner, DARKEST))) + usual, usual.copy()
    bend = np.diff(np.eye(BANDS), n=2, axis=0)
    smooth = bend.T @ bend
    shape_k, shape_s = smooth / KINK_K**2, smooth / KINK_S**2 + np.eye(BANDS) / BELIEF**2
    for _ in range(ROUNDS):
        normal, pull = np.zeros((2 * BANDS, 2 * BANDS)), np.zeros(2 * BANDS)
        normal[:BANDS, :BANDS], normal[BANDS:, BANDS:] = shape_k, shape_s
        pull[:BANDS], pull[BANDS:] = -shape_k @ log_k, -shape_s @ (log_s - usual)
        for share, reflectance in swatches:
            seen_now, by_k, by_s = _jacobian(share, np.exp(log_k), np.exp(log_s), white, surface)
            weight = 1.0 / (READING_LEAST**2 + (READING_SHARE * reflectance) ** 2)
            residual = reflectance - seen_now
            for place, jacobian in ((slice(None, BANDS), by_k), (slice(BANDS, None), by_s)):
                pull[place] += weight * jacobian * residual
                for other, second in ((slice(None, BANDS), by_k), (slice(BANDS, None), by_s)):
                    normal[place, other] += np.diag(weight * jacobian * second)
        step = np.linalg.solve(normal + 1e-3 * np.eye(2 * BANDS), pull)
        step *= min(1.0, 1.5 / max(1e-12, float(np.abs(step).max())))
        log_k, log_s = log_k + step[:BANDS], log_s + step[BANDS:]
        if np.abs(step).max() < 1e-5:
            break
    return Constants(np.exp(np.clip(log_k, -12.0, 5.0)), np.exp(np.clip(log_s, -7.0, 1.5)), surface)


def _jacobian(share: float, k: Array, s: Array, white: Constants, surface: float) -> tuple[Array, Array, Array]:
    """Seen reflectance (36,) of a tint and its change per unit of log K and of log S of the paint in it."""
    under = share * s + (1.0 - share) * white.scattering
    ratio = (share * k + (1.0 - share) * white.absorption) / under
    inner = reflectance_of(ratio)
    through = (1.0 - OUTSIDE) * (1.0 - INSIDE) / (1.0 - INSIDE * inner) ** 2
    fall = -through * inner / np.sqrt(ratio * (ratio + 2.0))
    between = share * surface + (1.0 - share) * white.surface
    return seen(inner, between), fall * share * k / under, -fall * ratio * share * s / under


def guessed(lab: Array, surface: float) -> Constants:
    """K and S (36,) of a paint known by the colour of its masstone only: a guess to be replaced.

    Raises
    ------
    RefusedError
        A colour that no paint can have.
    """
    return guessed_from(smooth_spectrum(lab), surface)


def guessed_from(masstone: Array, surface: float) -> Constants:
    """The same from the reflectance (36,) of the masstone."""
    return Constants(*guessed_again(ratio_of(internal(masstone, surface))), surface)


def guessed_again(ratio: Array) -> tuple[Array, Array]:
    """K and S (36,) of a paint of which only their ratio (36,) is known."""
    inner = np.maximum(reflectance_of(ratio), reflectance_of(np.array(BLACKEST)))
    scattering = usual_scattering(inner)
    return ratio_of(inner) * scattering, scattering


def usual_scattering(inner: Array) -> Array:
    """S (36,) that paints of such a masstone usually have, the white's being 1: light ones hold much white, dark and
    vivid ones little."""
    level = float(inner.mean())
    return np.asarray(0.084 + 0.7 * level + 0.168 * inner)


def _checked(reflectance: Array) -> Array:
    values = np.asarray(reflectance, float)
    if values.shape != (BANDS,) or not np.isfinite(values).all() or values.min() < -0.02 or values.max() > 1.2:
        raise RefusedError("A reflectance needs 36 bands from 380 to 730 nm, each between 0 and 1.")
    return np.asarray(np.clip(values, 0.0, 1.0))
