import pytest
from hypothesis import given
from hypothesis import strategies as st

from chalkreel.core.convert.operations import Difference, FeatureState, operations_for
from chalkreel.core.convert.stock import nearest_stock
from chalkreel.core.errors import RefusedError
from chalkreel.core.light.circuit import E24, LedString, design, next_standard_ohm
from chalkreel.core.light.supplies import supply
from chalkreel.core.light.wiring import draw_wiring

MAST = FeatureState(True, "lattice boom", "amidships")
NOTHING = FeatureState(False)


@pytest.mark.parametrize(
    ("kit", "wanted", "options", "verbs"),
    [(NOTHING, MAST, {}, ["add"]), (MAST, NOTHING, {}, ["remove"]), (MAST, MAST, {}, []), (NOTHING, NOTHING, {}, []),
     (MAST, FeatureState(True, "plain boom", "amidships"), {}, ["replace"]),
     (MAST, FeatureState(True, "plain boom", "amidships"), {"moulded_on": True}, ["reshape"]),
     (MAST, FeatureState(True, "lattice boom", "aft"), {}, ["move"]),
     (MAST, MAST, {"kit_part": "missing"}, ["add"]), (MAST, MAST, {"kit_part": "damaged"}, ["replace"]),
     (MAST, MAST, {"kit_part": "warped"}, ["reshape"]), (MAST, FeatureState(None), {}, ["check"]),
     (FeatureState(True, size_mm=50.0), FeatureState(True, size_mm=45.0), {}, ["shorten"]),
     (FeatureState(True, size_mm=50.0), FeatureState(True, size_mm=52.0), {}, ["reshape"]),
     (FeatureState(True, size_mm=50.0), FeatureState(True, size_mm=50.1), {}, []),
     (FeatureState(True, "", "fore", 50.0), FeatureState(True, "", "aft", 45.0), {}, ["move", "shorten"]),
     (FeatureState(True, "", "", 50.0, 0.04), FeatureState(True, "", "", 48.8, 1.3), {}, []),
     (FeatureState(True, "", "", 50.0, 0.04), FeatureState(True, "", "", 48.8, 1.1), {}, ["shorten"])],
)  # fmt: skip
def test_each_difference_gives_its_job(
    kit: FeatureState, wanted: FeatureState, options: dict, verbs: list[str]
) -> None:
    made = operations_for(Difference("mast", kit, wanted, **{"moulded_on": False, **options}))
    assert [op.verb for op in made] == verbs


@pytest.mark.parametrize(("wanted", "pieces"), [(1.02, (1.0,)), (0.63, (0.64,)), (1.22, (1.2,)), (5.6, None)])
def test_stock_is_rounded_to_what_is_sold(wanted: float, pieces: tuple[float, ...] | None) -> None:
    choice = nearest_stock(wanted, 48.0)
    assert choice is not None
    if pieces is not None:
        assert choice.pieces == pieces
    assert sum(choice.pieces) - wanted == pytest.approx(choice.error_mm)
    assert choice.error_story_mm == pytest.approx(48 * choice.error_mm)


def test_a_lamination_wins_where_no_sheet_comes_near() -> None:
    choice = nearest_stock(1.75, 48.0, form="sheet")
    assert choice is not None and len(choice.pieces) == 2 and choice.error_mm == pytest.approx(0.0)
    assert nearest_stock(120.0, 48.0) is None
    with pytest.raises(RefusedError):
        nearest_stock(0.0, 48.0)


def white(count: int, **more: object) -> LedString:
    return LedString("w", "white", count, 3.1, 10.0, **more)  # type: ignore[arg-type]


def test_hand_worked_resistors() -> None:
    # 9 V, two white LEDs in a row: (9 - 6.2) V / 10 mA = 280 Ω, next in E24 is 300 Ω, so 9.33 mA and 26 mW.
    found = design(supply("9 V block"), (white(2),))
    assert [(b.leds, b.resistor_ohm, b.rating_w) for b in found.branches] == [(2, 300.0, 0.125)]
    assert found.total_ma == pytest.approx(2.8 / 300 * 1000)
    assert found.hours == pytest.approx(0.8 * 500 / (2.8 / 300 * 1000))
    # 5 V, one red at 20 mA: 3.1 V / 20 mA = 155 Ω → 160 Ω; 3.1² / 160 = 60 mW, doubled is just under ⅛ W.
    red = design(supply("USB 5 V"), (LedString("r", "red", 1, 1.9, 20.0),))
    assert (red.branches[0].resistor_ohm, red.branches[0].rating_w, red.hours) == (160.0, 0.125, None)
    # At 30 mA: 110 Ω, 87 mW: one size up.
    assert design(supply("USB 5 V"), (LedString("r", "red", 1, 1.9, 30.0),)).branches[0].rating_w == 0.25


def test_leds_are_divided_into_rows_the_supply_can_carry() -> None:
    found = design(supply("9 V block"), (white(5),))
    assert [b.leds for b in found.branches] == [2, 2, 1]


@pytest.mark.parametrize(
    ("power", "string", "says"),
    [(supply("AA cells", 2), white(1), "falls short"), (supply("9 V block"), white(3, series=3), "falls short"),
     (supply("9 V block"), white(2, flashing=True, series=2), "flashing"),
     (supply("coin cell", 2), white(4), "overloaded")],
)  # fmt: skip
def test_warnings_in_plain_words(power: object, string: LedString, says: str) -> None:
    assert any(says in words for words in design(power, (string,)).warnings)  # type: ignore[arg-type]


def test_a_sound_circuit_has_no_warning_and_nonsense_is_refused() -> None:
    assert design(supply("AA cells", 3), (white(2),)).warnings == ()
    for wrong in (white(0), LedString("x", "red", 1, 99.0, 10.0), LedString("x", "red", 1, 2.0, -5.0)):
        with pytest.raises(RefusedError):
            design(supply("USB 5 V"), (wrong,))
    with pytest.raises(RefusedError):
        supply("AA cells", 0)


@given(st.floats(1.0, 9e5))
def test_standard_values_are_in_the_series_and_never_let_more_current_through(ohm: float) -> None:
    value = next_standard_ohm(ohm)
    assert ohm * (1 - 1e-6) <= value <= ohm * 1.155
    digits = f"{value:.1e}"
    assert round(float(digits.split("e", maxsplit=1)[0]) * 10) in E24


def test_the_diagram_closes_every_branch_from_plus_to_minus() -> None:
    power = supply("9 V block")
    circuit = design(power, (white(5),))
    wiring = draw_wiring(power, circuit)
    assert sum(s.kind == "led" for s in wiring.symbols) == 5
    columns = {s.x for s in wiring.symbols if s.kind == "resistor"}
    assert len(columns) == len(circuit.branches)
    for x in columns:
        ends = {w.polarity for w in wiring.wires if w.x0 == w.x1 == x}
        assert ends == {"plus", "between", "minus"}
    assert all(0 <= s.x <= wiring.width and 0 <= s.y <= wiring.height for s in wiring.symbols)
