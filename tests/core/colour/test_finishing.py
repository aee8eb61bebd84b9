"""Chips teach this hand's varnishes and washes, in a laboratory where every hand's are its own."""

import numpy as np

from chalkreel.answers.mixes import finishing_of, paint_of
from chalkreel.core.colour.cielab import as_lab, lab_of_xyz
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.finishing import USUAL, Chip, Finishing, taught_by
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.layers import Layer, looks
from chalkreel.core.colour.mixing import pot_of
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, xyz_of_reflectance
from chalkreel.core.materials import SHEENS
from chalkreel.document.paint_entities import FinishChip
from tests.core.colour.paint_lab import STREAMS, layer, seen_from_above
from tests.core.colour.second_lab import SecondLab

Step = tuple[str, object]
WASH = {"black": 1, "paint 0": 2}


class Hand:
    """One modeller: varnishes that mirror, scatter and yellow as they happen to, and a way of wiping a wash."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.lab = SecondLab(seed, 14)
        rng = self.rng
        self.mirrors = {"gloss": rng.uniform(0, 0.004), "satin": rng.uniform(0.006, 0.02),
                        "matte": rng.uniform(0.02, 0.04)}  # fmt: skip
        self.milk = {"gloss": 1e-6, "satin": rng.uniform(0.001, 0.01), "matte": rng.uniform(0.004, 0.03)}
        self.yellow, self.left = rng.uniform(0.001, 0.01), 0.04 * np.exp(rng.normal(0, 0.6))

    def finished(self, base: dict[str, int], *steps: Step) -> Lab:
        """The colour of a base with varnishes, two coats each, and wiped washes over it, as a meter reads it."""
        below = layer(*self.lab.constants(base), 60.0)[0]
        surface = sum(n / sum(base.values()) * self.lab.mirrored[name] for name, n in base.items())
        for what, of in steps:
            if what == "varnish":
                k = 1e-4 + self.yellow / (1 + np.exp((WAVELENGTHS_NM - 440) / 15))
                s, thick, surface = np.full(36, self.milk[of] * 4 / 3), 2.0, self.mirrors[of]  # type: ignore[index]
            else:
                (k, s), thick = self.lab.constants(of), self.left  # type: ignore[arg-type]
            r, t = layer(k, s, thick)
            below = r + t @ below @ np.linalg.solve(np.eye(STREAMS) - r @ below, t)
        read = lab_of_xyz(xyz_of_reflectance(self.lab.scale * seen_from_above(below) + surface))
        return as_lab(read + self.rng.normal(0, 0.2, 3))


def errors(seed: int) -> tuple[list[float], list[float]]:
    """ΔE00 of the finished look of five bases under four finishes, as usual and as one chip of each taught."""
    hand = Hand(seed)
    shelf = tuple(paint_of(p) for p in hand.lab.shelf())
    wash = pot_of(tuple(WASH.items()), shelf)
    chips = [
        Chip(hand.finished({"black": 1}), hand.finished({"black": 1}, ("varnish", sheen)), 0.026, sheen, 2)
        for sheen in SHEENS
    ]
    glossy: tuple[Step, ...] = (("varnish", "gloss"),)
    light = {"white": 4, "paint 1": 1}
    chips.append(Chip(hand.finished(light, *glossy), hand.finished(light, *glossy, ("wash", WASH)), 0.0, wash=wash))
    taught = taught_by(tuple(chips))
    found: tuple[list[float], list[float]] = [], []
    for number in range(5):
        base = {f"paint {2 + number}": 2, "white": 1 + 2 * number}
        bare = Layer("base", "primer", lab=hand.finished(base), surface=pot_of(tuple(base.items()), shelf).surface)

        def over(by: Finishing, sheen: str, washed: bool) -> tuple[Layer, ...]:
            varnish = by.varnish("last", sheen, 2)  # type: ignore[arg-type]
            return (by.varnish("gloss", "gloss", 2), by.wiped_wash("wash", wash), varnish) if washed else (varnish,)

        for sheen in ("satin", "matte"):
            for washed in (False, True):
                under: tuple[Step, ...] = (*glossy, ("wash", WASH)) if washed else ()
                true = hand.finished(base, *under, ("varnish", sheen))
                for errors_of, by in zip(found, (USUAL, taught), strict=True):
                    look = looks((bare, *over(by, sheen, washed)))[-1].lab
                    errors_of.append(float(delta_e_2000(np.array(look), np.array(true))))
    return found


def test_one_chip_of_each_foretells_the_finished_look() -> None:
    usual, taught = (np.concatenate(both) for both in zip(*(errors(seed) for seed in range(600, 604)), strict=True))
    assert usual.mean() < 1.7
    assert taught.mean() < 0.9 and taught.mean() < 0.6 * usual.mean()
    assert np.quantile(taught, 0.95) < np.quantile(usual, 0.95)


def test_what_no_chip_tells_stays_as_usual_and_a_chip_taken_away_is_gone() -> None:
    black = (20.0, 0.0, 0.0)
    foretold = looks((Layer("b", "primer", lab=black, surface=0.04), USUAL.varnish("m", "matte", 1)))[-1].lab
    # A chip that comes out as foretold changes nothing, one that is lighter means a rougher varnish.
    same = taught_by((Chip(black, foretold, 0.04, "matte"),))
    assert abs(same.surface["matte"] - USUAL.surface["matte"]) < 1e-4 and same.varnish_chips == {"matte": 1}
    lighter = taught_by((Chip(black, (foretold[0] + 4, *foretold[1:]), 0.04, "matte"),))
    assert lighter.surface["matte"] > USUAL.surface["matte"] + 0.003
    assert lighter.surface["satin"] == USUAL.surface["satin"] and lighter.wiped == 1.0
    assert taught_by(()) == USUAL


def test_chips_that_are_not_read_or_of_strange_paints_teach_nothing() -> None:
    shelf = tuple(paint_of(p) for p in SecondLab(1, 6).shelf())
    chips = (
        FinishChip(id="a", layer="matte varnish", before=(20.0, 0.0, 0.0)),
        FinishChip(id="b", layer="wash", before=(60.0, 0.0, 0.0), after=(50.0, 0.0, 0.0)),
        FinishChip(id="c", layer="wash", before=(60.0, 0.0, 0.0), after=(50.0, 0.0, 0.0), wash=(("nobody's", 1),)),
    )
    assert finishing_of(chips, shelf) == USUAL
    known = FinishChip(id="d", layer="wash", before=(60.0, 0.0, 0.0), after=(50.0, 0.0, 0.0), wash=(("black", 1),))
    assert finishing_of((*chips, known), shelf).wash_chips == 1
