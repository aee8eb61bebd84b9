"""Mixes as they were published, of paints known by nothing but a colour each."""

from __future__ import annotations

import numpy as np
import pytest

from chalkreel.core.colour.cielab import lab_of_xyz, rgb8_of_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.published_mix import WITHIN_DELTA_E, is_mix, mixed_lab, parse_mix, with_known
from chalkreel.core.colour.spectra import tristimulus_weights
from chalkreel.core.errors import RefusedError
from tests.core.colour.second_lab import SecondLab


def test_a_mix_is_read_as_people_write_it() -> None:
    rust, buff = (38.0, 32.0, 28.0), (82.0, 0.0, 3.0)
    for text in (
        "3 38 32 28 + 1 82 0 3",
        "60 % rust 38, 32, 28 + 20% buff 82,0,3",
        "3 parts of rust 38 32 28+1 part 82 0 3",
    ):
        first, second = parse_mix(text)
        assert (first[1], second[1]) == (rust, buff) and first[0] / second[0] == pytest.approx(3)
    coded = parse_mix("3 #8c3c28 + 1 drop off-white #f4f1ea")
    assert [amount for amount, _ in coded] == [3, 1] and coded[1][1][0] > 90
    # A sign is no plus between parts.
    assert not any(map(is_mix, ("62.5 +4 38", "62.5, +4, −38 D50", "#8c3c28"))) and is_mix("3 rust + 1 buff")


@pytest.mark.parametrize(
    ("text", "said"),
    [("3 #8c3c28", "2 to 8 parts"), ("3 rust + 1 #ffffff", "no part of a mix"), ("#8c3c28 + 1 #f4f1ea", "no part"),
     ("0 #8c3c28 + 1 #f4f1ea", "no part"), (" + ".join(["1 #808080"] * 9), "2 to 8"), ("1 #80 + 2 #808080", "no part"),
     ("1 150 3 3 + 1 #808080", "between 0 and 100")],
)  # fmt: skip
def test_what_is_no_mix_is_refused(text: str, said: str) -> None:
    with pytest.raises(RefusedError, match=said):
        parse_mix(text)


def test_it_is_darker_than_the_mean_of_its_colours_and_does_not_depend_on_the_whole() -> None:
    half = mixed_lab(parse_mix("1 #f4f1ea + 1 #202020"))
    # Paint is mixed by what it absorbs: half black is far darker than the mean.
    assert half[0] < 40
    assert mixed_lab(parse_mix("50 % #f4f1ea + 50 % #202020")) == pytest.approx(half)
    alone = mixed_lab(parse_mix("1 #8c3c28 + 1 #8c3c28"))
    assert rgb8_of_lab(alone) == pytest.approx((0x8C, 0x3C, 0x28), abs=3)


def test_most_mixes_of_another_laboratory_lie_within_what_is_said() -> None:
    """Paints whose physics the program does not know, each told by the screen colour of its masstone alone."""
    misses = []
    for seed in range(2000, 2005):
        lab, rng = SecondLab(seed, 12, ("matte", "satin", "gloss")), np.random.default_rng(seed)
        for _ in range(40):
            names = [str(name) for name in rng.choice(list(lab.bottles), int(rng.integers(2, 4)), replace=False)]
            drops = {name: float(rng.integers(1, 7)) for name in names}
            codes = {name: "#{:02x}{:02x}{:02x}".format(*rgb8_of_lab(_seen(lab, {name: 1.0}))) for name in names}
            told = " + ".join(f"{amount:g} {codes[name]}" for name, amount in drops.items())
            misses.append(float(delta_e_2000(np.array(mixed_lab(parse_mix(told))), _seen(lab, drops))))
    assert 0.9 <= np.mean(np.array(misses) < WITHIN_DELTA_E) <= 0.99 and np.mean(misses) < 7.0


def _seen(lab: SecondLab, drops: dict[str, float]) -> np.ndarray:
    return np.asarray(lab_of_xyz(lab.true(drops) @ tristimulus_weights()))


def test_a_part_that_is_only_named_takes_the_colour_known_by_that_name() -> None:
    known = {"Label rust": (38.0, 32.0, 28.0), "old white 2": (93.5, -1.0, 4.0)}
    text = with_known("3 parts of label rust + 25 % Old White 2 + 1 #f4f1ea", known)
    parts = parse_mix(text)
    assert [amount for amount, _ in parts] == [3, 25, 1]
    assert parts[0][1] == known["Label rust"] and parts[1][1] == known["old white 2"]
    # Read once, it needs the names no more; what is known by no name is refused as ever.
    assert with_known(text, {}) == text
    with pytest.raises(RefusedError, match="no part of a mix"):
        parse_mix(with_known("3 unheard of + 1 #f4f1ea", known))
