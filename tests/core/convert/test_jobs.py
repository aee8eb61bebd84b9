import pytest

from chalkreel.core.convert.operations import Difference, FeatureState, operations_for
from chalkreel.core.convert.stock import nearest_stock
from chalkreel.core.errors import RefusedError

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
