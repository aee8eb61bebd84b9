import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import format_pm, parse_number, parse_side_ratio
from chalkreel.core.scale import ScaleChain, edit_link, fit_in_space, parse_ratio

TENDER = ScaleChain(18_600.0, 775.0, 387.5)


@pytest.mark.parametrize(("text", "value"), [("12,5", 12.5), ("1 3/16", 1.1875), ("1-1/2", 1.5), ("-1 1/2", -1.5),
                                             ("¾", 0.75), ("1,250.5", 1250.5), ("1e3", 1000.0)])  # fmt: skip
def test_numbers_as_people_type_them(text: str, value: float) -> None:
    assert parse_number(text) == pytest.approx(value)


def test_a_comma_before_three_digits_is_asked_about() -> None:
    with pytest.raises(RefusedError, match=r"1250 or 1\.250"):
        parse_number("1,250")


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
    assert edit_link(TENDER, "replica", "22", "inch").replica_mm == pytest.approx(558.8)
    assert edit_link(TENDER, "story", "20 m").story_mm == 20_000
    with pytest.raises(RefusedError, match="unit"):
        edit_link(TENDER, "story", "20")
    with pytest.raises(RefusedError):
        edit_link(TENDER, "replica", "1:0")


@pytest.mark.parametrize("text", ["same", "Studio scale", "1:1", "1 : 1", "same as the miniature"])
def test_studio_scale_is_as_long_as_the_miniature(text: str) -> None:
    chain = edit_link(TENDER, "replica", text)
    assert chain.replica_mm == 775 and chain.studio_scale and not TENDER.studio_scale
    # For the miniature itself, 1:1 is the size in the story.
    assert edit_link(TENDER, "miniature", "1:1").miniature_mm == 18_600


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
