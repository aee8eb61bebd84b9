"""Lengths as people write them: understood one way only, or refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import (
    INCH_MM,
    LengthUnit,
    format_length,
    length_or_none,
    length_words,
    parse_length,
    parse_offset,
    rough_length,
)

# What is typed, and what it is in mm in a build of millimetres and in one of inches; None where it must be refused.
SPELLINGS = {
    "387.5": (387.5, 387.5 * 25.4), "387,5 mm": (387.5, 387.5), "18.6 m": (18_600, 18_600), "1.5cm": (15, 15),
    "1 3/16 in": (30.1625, 30.1625), '3/16"': (4.7625, 4.7625), "2 ft 3 in": (685.8, 685.8), "2'3\"": (685.8, 685.8),
    ".5 inch": (12.7, 12.7), "1'-10\"": (558.8, 558.8), '21-3/4"': (552.45, 552.45), "21¾″": (552.45, 552.45),
    "¾": (0.75, 19.05), "1’ 3”": (381, 381), "22in.": (558.8, 558.8), "22 IN": (558.8, 558.8), "1''": (25.4, 25.4),
    "1 ft 10": (558.8, 558.8), "1 ft 10 1/2": (571.5, 571.5), "1'6": (457.2, 457.2), "2 m 35": (2350, 2350),
    "20 thou": (0.508, 0.508), "1,250.5 mm": (1250.5, 1250.5), "1,250,000 mm": (1_250_000, 1_250_000),
    "0,250": (0.25, 6.35), "1-1/2": (1.5, 38.1), "2 ft-3 in": (685.8, 685.8), "12 ½ mm": (12.5, 12.5),
    "1,250 mm": None, "3 16 in": None, "1 250": None, "12-15 mm": None, "5 in 3": None, "3 mm 2 ft": None,
    "2 in 1 ft": None, "1 in 2 in": None, "": None, "abc": None, "-3": None, "0": None, "1/0": None, "mm": None,
    "12 parsec": None, "1e9 m": None, "3 mm x": None, "nan": None, "inf m": None, "1,2,3": None, "22 in 5 thou 3": None,
}  # fmt: skip


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("text", SPELLINGS)
def test_lengths_as_people_write_them(text: str, unit: str) -> None:
    wanted = SPELLINGS[text]
    if wanted is None:
        with pytest.raises(RefusedError):
            parse_length(text, unit)  # type: ignore[arg-type]
    else:
        assert parse_length(text, unit) == pytest.approx(wanted[unit == "inch"])  # type: ignore[arg-type]


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_length_may_be_nothing_or_lie_on_either_side(unit: LengthUnit) -> None:
    for text, wanted in SPELLINGS.items():
        if text in ("", "0", "-3"):
            continue
        for read, sign in ((length_or_none, ""), (parse_offset, ""), (parse_offset, "-"), (parse_offset, "−")):
            if wanted is None:
                with pytest.raises(RefusedError):
                    read(sign + text, unit)
            else:
                assert read(sign + text, unit) == pytest.approx((-1 if sign else 1) * wanted[unit == "inch"])
    for nothing in ("", " ", "0", "0.0", ",0", "0 mm", '0"', "0 in."):
        assert length_or_none(nothing, unit) == parse_offset(nothing, unit) == 0.0
    for wrong in ("-3", "0 x", ".", "mm"):
        with pytest.raises(RefusedError):
            length_or_none(wrong, unit)


def test_a_bare_number_is_refused_where_it_could_be_anything() -> None:
    assert parse_length("61 ft", None) == pytest.approx(61 * 12 * INCH_MM)
    with pytest.raises(RefusedError, match="unit"):
        parse_length("18.6", None)


@given(st.floats(0.01, 9_999, allow_nan=False))
def test_a_typed_length_means_itself(mm: float) -> None:
    assert parse_length(f"{mm:.6f}") == pytest.approx(mm, abs=1e-6)


@given(st.floats(0.2, 9e4), st.sampled_from(["mm", "inch"]))
def test_a_length_that_is_shown_can_be_typed_back(mm: float, unit: str) -> None:
    """Into a build of either unit: what is shown names its own."""
    for other in ("mm", "inch"):
        back = parse_length(format_length(mm, unit), other)  # type: ignore[arg-type]
        assert back == pytest.approx(mm, abs=max(0.051, 5.1 if mm >= 2000 else 0.0) if unit == "mm" else 3.2)


@pytest.mark.parametrize(
    ("mm", "half_mm", "words"),
    [(30.16, 0.5, "1 3/16 in ± 0.020 in"), (30.16, 3.0, "1 1/8 in ± 0.12 in"), (30.16, 0.05, "1.187 in ± 0.002 in"),
     (18_600, 40, "61 ft ± 1.6 in"), (558.8, 0.5, "22 in ± 0.020 in"), (4.76, 40, "1/8 in ± 1.6 in")],
)  # fmt: skip
def test_the_fraction_is_as_fine_as_the_error(mm: float, half_mm: float, words: str) -> None:
    assert length_words(mm, half_mm, "inch") == words


@given(st.floats(1, 5e4), st.floats(0.06, 30))
def test_a_fraction_never_leaves_its_interval(mm: float, half_mm: float) -> None:
    value = length_words(mm, half_mm, "inch").split(" ±")[0]
    assert abs(parse_length(value) - mm) <= max(half_mm, INCH_MM / 64) + 1e-6


@pytest.mark.parametrize(
    ("mm", "unit", "words"),
    [(-7.4, "mm", "−7 mm"), (22.5, "inch", "7/8 in"), (-5, "inch", "−0.197 in"), (18_600, "mm", "18.60 m")],
)
def test_rough_lengths(mm: float, unit: str, words: str) -> None:
    assert rough_length(mm, unit) == words  # type: ignore[arg-type]
