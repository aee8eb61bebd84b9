import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.errors import RefusedError
from chalkreel.core.scale import ScaleChain, edit_link, fit_in_space, parse_ratio
from chalkreel.core.units import format_pm, nearest_fraction, parse_length, parse_side_ratio

TENDER = ScaleChain(18_600.0, 775.0, 387.5)


@pytest.mark.parametrize(
    ("text", "mm"),
    [("387.5", 387.5), ("387,5 mm", 387.5), ("18.6 m", 18_600), ("1 3/16 in", 30.1625), ('3/16"', 4.7625),
     ("2 ft 3 in", 685.8), ("2'3\"", 685.8), ("1.5cm", 15.0), (".5 inch", 12.7)],
)  # fmt: skip
def test_lengths_as_people_type_them(text: str, mm: float) -> None:
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "abc", "-3", "0", "1/0", "12 parsec", "1e9 m", "3 mm x", "nan", "inf m"])
def test_nonsense_lengths_are_refused(text: str) -> None:
    with pytest.raises(RefusedError):
        parse_length(text)


@given(st.floats(0.01, 9_999, allow_nan=False))
def test_a_typed_length_means_itself(mm: float) -> None:
    assert parse_length(f"{mm:.6f}") == pytest.approx(mm, abs=1e-6)


@pytest.mark.parametrize(("mm", "words"), [(30.16, "1 3/16 in"), (25.4, "1 in"), (3.175, "1/8 in")])
def test_nearest_fraction(mm: float, words: str) -> None:
    assert nearest_fraction(mm) == words


@pytest.mark.parametrize(
    ("value", "half", "words"),
    [(61.337, 0.52, "61.34 ± 0.52 mm"), (387.96, 4.12, "388.0 ± 4.1 mm"), (174.3, 17.6, "174 ± 18 mm")],
)
def test_digits_follow_the_error(value: float, half: float, words: str) -> None:
    assert format_pm(value, half, "mm") == words


def test_the_chain_carries_lengths_between_its_links() -> None:
    assert TENDER.replica_ratio == pytest.approx(48)
    assert TENDER.convert(21.4, "miniature", "replica") == pytest.approx(10.7)
    assert TENDER.convert(1150, "story", "miniature") == pytest.approx(1150 / 24)


def test_editing_a_link_takes_a_ratio_or_a_length() -> None:
    assert edit_link(TENDER, "replica", "1:72").replica_mm == pytest.approx(18_600 / 72)
    assert edit_link(TENDER, "replica", "400").replica_mm == 400
    assert edit_link(TENDER, "story", "20").story_mm == 20_000
    with pytest.raises(RefusedError):
        edit_link(TENDER, "replica", "1:0")


def test_ratios() -> None:
    assert parse_ratio("1/48") == 48
    assert parse_side_ratio("3:2") == pytest.approx(1.5)
    for text in ("3", "1:0", "1:400", "a:b"):
        with pytest.raises(RefusedError):
            parse_side_ratio(text)


def test_does_it_fit() -> None:
    roomy = fit_in_space(TENDER, 420, clearance_mm=10)
    assert roomy.fits and roomy.room_mm == pytest.approx(22.5)
    tight = fit_in_space(TENDER, 300, clearance_mm=10)
    assert not tight.fits
    # At the ratio it names, the model fills the space exactly.
    assert 18_600 / tight.largest_ratio == pytest.approx(290)
