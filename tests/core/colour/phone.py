"""A telephone's camera whose sensitivities are not the eye's, and the shelves that it makes of painted sheets.

Its maker's matrix was fitted to other colours; fields are a little streaky, the lens scatters light, the window is not
quite D65. Sheets are of a paper and an ink that are not those which the program supposes.
"""

import numpy as np

from chalkreel.answers.mixes import paint_of
from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.drawdown import FIELDS, TINTS, CardReading
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.smooth_spectrum import smooth_spectrum
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, tristimulus_weights, xyz_of_reflectance
from chalkreel.core.colour.stripes import SheetReading, StripeReading
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, card_paint, guessed_paint, put_on_shelf, stripe_paints
from tests.core.colour.paint_lab import STREAMS, PaintLab, layer, seen_from_above

MATTE = 0.04 * 0.93


class Phone:
    """A camera."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed + 1000)
        nm, rng = WAVELENGTHS_NM, self.rng

        def bell(middle: float, wide: float) -> np.ndarray:
            return np.exp(-0.5 * ((nm - middle) / wide) ** 2)

        red = bell(600 + rng.normal(0, 6), 32) + rng.uniform(0, 0.08) * bell(450, 15) + 0.15 * bell(540, 30)
        green = bell(535 + rng.normal(0, 5), 38) + 0.1 * bell(610, 25)
        blue = bell(460 + rng.normal(0, 5), 26) + 0.08 * bell(530, 30)
        window = np.exp(rng.normal(0, 0.25) * (nm - 550) / 150)
        self.sees = np.stack([red, green, blue], axis=1) * window[:, None]
        self.sees /= self.sees.sum(axis=0)
        colours = np.column_stack([rng.uniform(35, 75, 40), rng.uniform(-20, 20, 40), rng.uniform(-22, 30, 40)])
        known = np.array([smooth_spectrum(c) for c in colours])
        known = np.clip(known + 0.03 * np.sin(nm / rng.uniform(20, 40, 40)[:, None]), 0.01, 0.98)
        xyz = known @ tristimulus_weights()
        weight = 1 / np.sqrt(xyz[:, 1:2])
        self.matrix = np.linalg.lstsq(known @ self.sees * weight, xyz * weight, rcond=None)[0]
        # Paper is the grey card.
        self.matrix *= tristimulus_weights().sum(axis=0) / (np.ones(36) @ self.sees @ self.matrix)

    def lab(self, reflectance: np.ndarray) -> np.ndarray:
        """What it makes of a field."""
        raw = reflectance @ self.sees * (1 + self.rng.normal(0, 0.012)) + 0.004
        xyz = raw / (1 + 0.004 / 0.86) @ self.matrix * (1 + self.rng.normal(0, 0.005, 3))
        return lab_of_xyz(np.maximum(xyz, 1e-4))


def film(lab: PaintLab, name: str, ground: float, thickness: float) -> np.ndarray:
    """Reflectance (36,) of one coat of a paint over an even ground."""
    reflect, transmit = layer(*lab.constants({name: 1}), thickness)
    # A ground is a thick layer that reflects so much.
    ratio = (1 - ground) ** 2 / (2 * ground)
    base = layer(np.full(36, 0.5 * ratio), np.full(36, 4 / 3), 400.0)[0]
    below = reflect + transmit @ base @ np.linalg.solve(np.eye(STREAMS) - reflect @ base, transmit)
    return lab.scale * seen_from_above(below) + getattr(lab, "mirrored", {}).get(name, MATTE)


def white_of(lab: PaintLab) -> str:
    return "white" if "white" in lab.bottles else "titanium white"


def names_of(lab: PaintLab) -> list[str]:
    """A dozen paints, the white first."""
    white = white_of(lab)
    return [white, *[n for n in lab.bottles if n != white][:11]]


def mixes_in(lab: PaintLab, count: int, seed: int) -> list[np.ndarray]:
    """Colours of random mixes of three of the dozen and white."""
    rng, (white, *names), found = np.random.default_rng(seed), names_of(lab), []
    for _ in range(count):
        drops = {
            str(n): int(k) for n, k in zip(rng.choice(names, 3, replace=False), rng.integers(1, 7, 3), strict=True)
        }
        found.append(lab_of_xyz(xyz_of_reflectance(lab.true({**drops, white: int(rng.integers(1, 10))}))))
    return found


def photographed_shelf(lab: PaintLab, phone: Phone, way: str, spread: float = 0.15) -> tuple[Paint, ...]:
    """The dozen as a modeller brings them in by card, by stripe or by plain colour."""
    rng = phone.rng
    paper, ink, coat = (
        rng.uniform(0.82, 0.9),
        rng.uniform(0.035, 0.06),
        rng.uniform(0.8, 1.6) if way == "card" else rng.uniform(0.3, 0.7),
    )
    white, *others = names_of(lab)
    build = Build(1, {})

    def put(paints: tuple[ShelfPaint, ...]) -> None:
        nonlocal build
        build = Build(1, {**build.entities, **put_on_shelf(build, paints)})  # type: ignore[dict-item]

    def stripe(name: str) -> StripeReading:
        thickness = coat * float(np.exp(rng.normal(0, spread)))
        seen = film(lab, name, paper, thickness), film(lab, name, ink, thickness), lab.true({name: 1})
        return StripeReading(*map(phone.lab, seen))

    if way == "stripe":
        sheet = SheetReading(1, {row: stripe(name) for row, name in enumerate((white, *others))}, ())
        put(stripe_paints(sheet, {row: (name, Dries()) for row, name in enumerate(others, start=1)}, build)[0])
    for name in (white, *others) if way != "stripe" else ():
        if way == "card":
            over = film(lab, name, ink, coat * float(np.exp(rng.normal(0, spread))))
            shown = [lab.true({name: 1}), over, *(lab.true({name: s, white: 1 - s}) for s in TINTS)]
            card = CardReading(dict(zip(FIELDS, map(phone.lab, shown), strict=True)), ())
            put((card_paint(name, card, build, Dries()),))
        else:
            seen = phone.lab(lab.true({name: 1}))
            put((guessed_paint(name, (float(np.clip(seen[0], 5, 96)), float(seen[1]), float(seen[2])), Dries()),))
    return tuple(
        Paint(**{**vars(paint_of(p)), "name": white}) if p.name == "white" else paint_of(p)
        for p in build.all(ShelfPaint)
    )
