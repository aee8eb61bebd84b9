import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.convert.flat import bent, box, scored, wrapped
from chalkreel.core.convert.orders import order_day, substitute
from chalkreel.core.convert.runners import parse_ranges, place_of, ranges_words
from chalkreel.core.errors import RefusedError


def test_a_bend_is_as_long_as_the_handbook_has_it() -> None:
    # 1 mm sheet over a 1 mm radius, a right angle, legs of 30 and 20 mm outside.
    flat = bent((30.0, 20.0), 1.0, 1.0, 90.0)
    assert flat.mm == pytest.approx(48.2, abs=0.05) and 0.2 <= flat.doubt_mm < 0.3
    # No radius and next to no thickness: the legs as they are.
    assert bent((30.0, 20.0), 0.0, 0.01, 90.0).mm == pytest.approx(50.0, abs=0.02)
    with pytest.raises(RefusedError):
        bent((1.0, 20.0), 5.0, 1.0, 90.0)
    assert "0.85 mm deep and 1.70 mm wide" in scored(1.0, 90.0)


def test_a_wrap_goes_round_outside_and_breaks_into_layers_where_it_must() -> None:
    (one,) = wrapped(70.0, 1.0)
    assert one.mm == pytest.approx(math.pi * 71.0) and one.way == "cold"
    assert wrapped(10.0, 1.0)[0].way.startswith("warm")
    layers = wrapped(2.0, 1.0)
    # Strain of the outer fibre, layer by layer, stays within what warm strip bears.
    each = 1.0 / len(layers)
    assert len(layers) > 1 and each / (2.0 + each) <= 0.2
    assert [n.mm for n in layers] == pytest.approx(
        [math.pi * (2.0 + (2 * i - 1) * each) for i in range(1, len(layers) + 1)]
    )


@pytest.mark.parametrize(("corner", "long", "end"), [("butt", 60.0, 38.0), ("lap", 59.0, 39.0), ("mitre", 60.0, 40.0)])
def test_the_walls_of_a_box_close(corner, long: float, end: float) -> None:
    walls = {w.name.split(",")[0]: w for w in box(60.0, 40.0, 20.0, 1.0, corner)}
    assert (walls["top and bottom"].length_mm, walls["top and bottom"].height_mm) == (60.0, 40.0)
    assert (walls["long wall"].length_mm, walls["end"].length_mm) == (long, end)
    assert all(w.height_mm == 18.0 for n, w in walls.items() if n != "top and bottom")
    with pytest.raises(RefusedError):
        box(60.0, 40.0, 2.0, 1.0, corner)


@pytest.mark.parametrize(
    ("text", "parts", "missing"),
    [("A1–34, B1–22, less B7", 56, {("B", 7)}), ("a1-17 b1-16; C1–12 less C2, D1–4, less E1–9", 58,
      {("C", 2), *(("E", n) for n in range(1, 10))}), ("A1 to A3, 5, 7", 5, set()), ("1-12", 12, set()),
     ("A1-9 less A2, A4 and A6, B1-2", 11, {("A", 2), ("A", 4), ("A", 6)}), ("B7 x2", 1, set())],
)  # fmt: skip
def test_ranges_are_read_as_people_write_them(text: str, parts: int, missing: set) -> None:
    found = parse_ranges(text)
    assert (len(found.parts), found.missing) == (parts, missing)


@pytest.mark.parametrize(
    ("text", "said"),
    [("B22–1", "runs backwards: type B1–22"), ("A1–B4", "one runner to another"), ("A1–999, B1–999, C1–999", "2000"),
     ("Call me what you like, it was a dark and stormy night", "“Call” is no part"), ("", "Type what"),
     ("x" * 30_000, "too much text"), ("A1-34b", "is no part"), ("A1–34, ?", "“\\?” is no part")],
)  # fmt: skip
def test_what_is_no_list_is_said_and_nothing_guessed(text: str, said: str) -> None:
    with pytest.raises(RefusedError, match=said):
        parse_ranges(text)


@given(st.sets(st.tuples(st.sampled_from(["A", "B", "CC"]), st.integers(1, 60)), min_size=1))
def test_ranges_are_told_as_they_are_read(parts: set[tuple[str, int]]) -> None:
    assert set(parse_ranges(ranges_words(parts)).parts) == parts


def test_names_say_where_parts_hang() -> None:
    assert place_of("A1–A2 hull halves") == place_of("A1-2 hull halves")
    assert place_of("C2 port tail fin").numbers == (2,) and place_of("C2 port tail fin").called == "port tail fin"
    assert place_of("E clear runner").numbers == () and place_of("Decal sheet") is None


def test_an_order_is_due_its_worst_days_and_two_before_it_is_needed() -> None:
    from datetime import date

    found = order_day(date(2027, 1, 20), 21, date(2027, 1, 1))
    # 20 January less 23 days is 28 December, four days ago.
    assert (found.latest, found.days_left, found.may_come) == (date(2026, 12, 28), -4, date(2027, 1, 22))
    assert order_day(date(2027, 1, 20), 21, date(2027, 1, 1), date(2026, 12, 20)).may_come == date(2027, 1, 10)
    assert "food-box" in substitute("windows") and substitute("hull clamp") == ""
