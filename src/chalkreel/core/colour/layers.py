"""How a surface looks after every layer, from primer to matte coat.

Films of finite thickness over each other (Kubelka 1948), the topmost one's surface over all (Saunderson 1942).
A mirror-like metal is no scattering body: clear films over it only absorb, in and out (Beer–Lambert).
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Final, Literal

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.colour.cielab import as_lab, lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import film_over
from chalkreel.core.colour.mixing import Pot, pot_lab
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import BANDS, WAVELENGTHS_NM, xyz_of_reflectance
from chalkreel.core.colour.surface_terms import SURFACE, internal, seen
from chalkreel.core.errors import RefusedError
from chalkreel.core.materials import Sheen

LayerKind = Literal["primer", "metal", "pre-shade", "coat", "clear tint", "varnish", "wash", "wiped wash", "filter"]

# A sprayed shade is about a third of a coat; of a wash on a flat face a twelfth of a coat dries where it is not
# wiped and a fortieth where it is; a filter is about as thin as a wiped wash, and even.
THICKNESS: Final[dict[LayerKind, float]] = {"pre-shade": 0.35, "wash": 0.12, "wiped wash": 0.03, "filter": 0.03}
MOST_COATS: Final = 12
# What varnishes of each sheen are taken to scatter into the eye until chips tell better: a matte one is not as rough
# as a matte paint.
VARNISH_SURFACE: Final[dict[Sheen, float]] = {"matte": 0.03, "satin": 0.012, "gloss": 0.0}
# One coat of clear varnish: a trace of yellow, and a matte one's flatting agent scatters a little.
_YELLOW: Final = 0.004 / (1.0 + np.exp((WAVELENGTHS_NM - 440.0) / 15.0))
MILK: Final[dict[Sheen, float]] = {"gloss": 0.0, "satin": 0.004, "matte": 0.012}
AIMS: Final = 12
# K counts diffuse light, whose way through a film is twice its thickness; what comes in at 45° and goes out at 0°
# crosses a clear film nearly straight (1.13 and 1.0 thicknesses inside n = 1.5). The share of K·X to give back.
STRAIGHT: Final = 2.0 - (1.13 + 1.0) / 2.0
_SEE_THROUGH: Final = frozenset({"clear tint", "wash", "wiped wash", "filter"})


@dataclass(frozen=True, eq=False)
class Layer:
    """One layer. `paint` is what is in its cup; primer and metal are given by their own seen colour instead.

    `sheen` is a varnish's, a primer's or a metal's; a coat of paint dries to its own surface. A `surface` that is known
    better stands before the sheen's, and so does a varnish's `milk`, what one coat of it scatters. `left` is how much
    of a usual thickness a wash leaves.
    """

    name: str
    kind: LayerKind
    paint: Pot | None = None
    lab: Lab | None = None
    sheen: Sheen | None = None
    coats: int = 1
    surface: float | None = None
    milk: float | None = None
    left: float = 1.0


@dataclass(frozen=True, eq=False)
class Look:
    """The colour after a layer, its ΔE00 to the target where there is one."""

    name: str
    lab: Lab
    delta_e: float | None


@dataclass(frozen=True, eq=False)
class Ground:
    """What is there so far, seen from inside the topmost film; `straight` (36,) is what light that crosses it
    straight keeps over diffuse light."""

    inside: Array
    surface: float | Array
    straight: Array = field(default_factory=lambda: np.ones(BANDS))
    mirror: bool = False


def looks(layers: tuple[Layer, ...], target_lab: Lab | None = None) -> tuple[Look, ...]:
    """The look after each layer, in order.

    Raises
    ------
    RefusedError
        The first layer is neither a primer nor a metal, or a layer has no paint or colour.
    """
    if not layers or layers[0].lab is None:
        raise RefusedError("Layers begin with a primer or a metal whose colour is known.")
    found, ground = [], Ground(np.zeros(BANDS), SURFACE["matte"])
    for layer in layers:
        laid = _laid(ground, layer)
        # A wash is looked at before it is wiped; what stays of it is a layer of its own.
        ground = ground if layer.kind == "wash" else laid
        lab = lab_of_xyz(xyz_of_reflectance(_seen(laid)))
        error = None if target_lab is None else float(delta_e_2000(lab, np.array(target_lab)))
        found.append(Look(layer.name, as_lab(lab), error))
    return tuple(found)


def ground_for(layer: Layer) -> Ground:
    """A primer or a metal as what lies over it sees it."""
    return _laid(Ground(np.zeros(BANDS), SURFACE["matte"]), layer)


def seen_through(
    ground: Ground, absorption: Array, scattering: Array, surface: Array, over: tuple[Layer, ...] = ()
) -> Array:
    """Reflectance (N, 36) of clear films with K·X and S·X (N, 36) over a ground, with layers over each of them.

    `surface` (N,) is the films' own.
    """
    laid = replace(_clear_film(ground, absorption, scattering), surface=surface[:, None])
    for layer in over:
        laid = laid if layer.kind == "wash" else _laid(laid, layer)
    return _seen(laid)


def aim_through(target_lab: Lab, over: tuple[Layer, ...], surface: float) -> Lab:
    """The base colour, drying to a surface of its own, that has the target's look once the layers of `over` lie on it.

    Fixed-point iteration in L*a*b*; the base is taken as opaque, with a smooth spectrum.

    Raises
    ------
    RefusedError
        No paint under these layers can look like the target.
    """
    if not over:
        return target_lab
    target, aim = np.array(target_lab), np.array(target_lab)
    residual = np.zeros(3)
    for _ in range(AIMS):
        base = Layer("base", "primer", lab=as_lab(aim), surface=surface)
        residual = target - np.array(looks((base, *over))[-1].lab)
        if np.abs(residual).max() < 0.02:
            break
        aim = aim + residual
        aim[0] = np.clip(aim[0], 2.0, 98.5)
    if np.abs(residual).max() > 1.0:
        raise RefusedError("No base colour reaches this target under these layers: they darken or grey it too much.")
    return as_lab(aim)


def coats_to_hide(paint: Pot, grounds: tuple[Lab, ...], tolerance: float) -> int | None:
    """How many thin coats until every ground (primer, pre-shade) looks like the full colour within a tolerance."""
    full = pot_lab(paint)
    for coats in range(1, MOST_COATS + 1):
        left = [left_showing(paint, ground, coats, full) for ground in grounds]
        if max(left, default=0.0) <= tolerance:
            return coats
    return None


def left_showing(paint: Pot, ground: Lab, coats: int, full: Array | None = None) -> float:
    """ΔE00 between the full colour and so many coats of it over a ground."""
    start = Layer("ground", "primer", lab=ground, sheen="matte")
    lab = looks((start, Layer("coats", "coat", paint, coats=coats)))[-1].lab
    return float(delta_e_2000(np.array(lab), pot_lab(paint) if full is None else full))


def shown_through(paint: Pot, primer: Lab, shade: Pot, coats: int) -> float:
    """ΔE00 between where a pre-shade lies below and where it does not, after so many coats."""
    base = Layer("primer", "primer", lab=primer, sheen="matte")
    over = Layer("coats", "coat", paint, coats=coats)
    plain = looks((base, over))[-1].lab
    shaded = looks((base, Layer("shade", "pre-shade", shade), over))[-1].lab
    return float(delta_e_2000(np.array(plain), np.array(shaded)))


def _laid(ground: Ground, layer: Layer) -> Ground:
    paint = layer.paint
    if layer.lab is not None:
        surface = SURFACE[layer.sheen or "matte"] if layer.surface is None else layer.surface
        spectrum = smooth_spectrum(np.array(layer.lab))
        if layer.kind == "metal":
            return Ground(spectrum, surface, mirror=True)
        return Ground(internal(spectrum, surface), surface)
    if layer.kind == "varnish":
        sheen = layer.sheen or "gloss"
        milk = np.full(BANDS, MILK[sheen] if layer.milk is None else layer.milk)
        surface = VARNISH_SURFACE[sheen] if layer.surface is None else layer.surface
        return replace(_film(ground, _YELLOW, milk, float(layer.coats)), surface=surface)
    if paint is None or paint.drops <= 0:
        raise RefusedError(f"“{layer.name}” has no paint in it yet.")
    thickness = paint.coat * THICKNESS.get(layer.kind, 1.0) * layer.coats * layer.left
    k, s = paint.absorption / paint.drops, paint.scattering / paint.drops
    see_through = layer.kind in _SEE_THROUGH
    laid = _clear_film(ground, k * thickness, s * thickness) if see_through else _film(ground, k, s, thickness)
    # A thin film does not change the surface; a coat of paint does.
    return replace(laid, surface=paint.surface) if layer.kind in ("coat", "clear tint") else laid


def _clear_film(ground: Ground, k: Array, s: Array) -> Ground:
    """A film of thickness 1 that light crosses nearly straight; what it sends up itself was never straight."""
    laid = _film(ground, k, s, 1.0)
    own = film_over(np.zeros(BANDS), k, s, 1.0)
    crossed = np.clip(1.0 - own / np.maximum(laid.inside, 1e-12), 0.0, 1.0)
    gain = np.exp(STRAIGHT * k * np.exp(-s))
    return replace(laid, straight=laid.straight * (1.0 + crossed * (gain - 1.0)))


def _film(ground: Ground, k: Array, s: Array, thickness: float) -> Ground:
    if ground.mirror:
        # Seen through: what little the film scatters is added as from a body of its own over black.
        through = np.exp(-((2.0 - STRAIGHT) * k + 2.0 * s) * thickness)
        return replace(ground, inside=ground.inside * through + film_over(np.zeros(BANDS), k, s, thickness))
    # Where a film scatters, light loses its straight way.
    kept = 1.0 + (ground.straight - 1.0) * np.exp(-2.0 * s * thickness)
    return replace(ground, inside=film_over(ground.inside, k, s, thickness), straight=kept)


def _seen(ground: Ground) -> Array:
    # What a mirror throws back leaves through the surface at once and is not caught inside again.
    if ground.mirror:
        return ground.inside
    return ground.surface + (seen(ground.inside, ground.surface) - ground.surface) * ground.straight
