from typing import Any

import pytest

from chalkreel.core.convert.operations import Difference, FeatureState, judged
from chalkreel.core.convert.stock import lamination, nearest_stock, sold
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.combine import Size

MAST = FeatureState(True, "lattice boom", "amidships")
NOTHING = FeatureState(False)


def sized(mm: float, sigma: float = 0.02, form: str = "", place: str = "") -> FeatureState:
    return FeatureState(True, form, place, Size(mm, sigma))


@pytest.mark.parametrize(
    ("kit", "wanted", "options", "verbs"),
    [(NOTHING, MAST, {}, ["add"]), (MAST, NOTHING, {}, ["remove"]), (MAST, MAST, {}, []), (NOTHING, NOTHING, {}, []),
     (MAST, NOTHING, {"kit_part": "missing"}, []),
     (MAST, FeatureState(True, "plain boom", "amidships"), {}, ["replace"]),
     (MAST, FeatureState(True, "plain boom", "amidships"), {"moulded_on": True}, ["reshape"]),
     (MAST, FeatureState(True, "lattice boom", "aft"), {}, ["move"]),
     (MAST, MAST, {"kit_part": "missing"}, ["add"]), (MAST, MAST, {"kit_part": "damaged"}, ["repair"]),
     (MAST, MAST, {"kit_part": "warped"}, ["straighten"]), (MAST, MAST, {"kit_part": "sunk"}, ["repair"]),
     (MAST, FeatureState(None), {}, ["check"]), (NOTHING, MAST, {"way": "swap"}, ["swap"]),
     (MAST, MAST, {"kit_part": "missing", "way": "mould"}, ["mould"]), (MAST, MAST, {"way": "print"}, ["print"]),
     (MAST, MAST, {"fit_note": "deck joints shallow"}, ["scribe"]), (MAST, MAST, {"also": ("pin",)}, ["pin"]),
     (NOTHING, NOTHING, {"also": ("pin",)}, []),
     (sized(50.0), sized(45.0), {}, ["shorten"]), (sized(50.0), sized(52.0), {}, ["lengthen"]),
     (sized(50.0), sized(40.0), {}, ["replace"]), (sized(50.0), sized(40.0), {"moulded_on": True}, ["reshape"]),
     (sized(50.0), sized(50.1), {}, []), (sized(50.0), sized(48.8, 0.65), {}, []),
     (sized(50.0), sized(48.8, 0.5), {}, ["shorten"]),
     # All that apply: moved and too long, warped and too long, both of another form.
     (sized(50.0, place="fore"), sized(45.0, place="aft"), {}, ["move", "shorten"]),
     (sized(50.0), sized(45.0), {"kit_part": "warped"}, ["straighten", "shorten"]),
     (sized(50.0, form="flat"), sized(45.0, form="ribbed"), {"moulded_on": True, "kit_part": "warped"},
      ["straighten", "reshape", "shorten"])],
)  # fmt: skip
def test_each_difference_gives_all_its_jobs(
    kit: FeatureState, wanted: FeatureState, options: dict, verbs: list[str]
) -> None:
    found = judged(Difference("mast", kit, wanted, **options)).operations
    assert [op.verb for op in found] == verbs
    assert all(op.reason and op.material and op.hours > 0 for op in found)


def test_sizes_are_told_with_their_doubt_and_doubt_alone_is_no_job() -> None:
    done = judged(Difference("fin", sized(44.1), sized(45.2, 0.15)))
    # σ 0.02 and 0.15 together, 95 %: 0.297.
    assert done.operations[0].reason == "1.1 mm ± 0.3 mm too short"
    assert done.operations[0].size_words == "45.20 ± 0.29 mm"
    inside = judged(Difference("fin", sized(44.1), sized(45.0, 0.6)))
    assert inside.operations == () and inside.note == "nothing to do: 0.9 mm too short lies within its ± 1.2 mm"


def test_larger_work_takes_longer_and_a_told_time_stands() -> None:
    small, large = (
        judged(Difference("fin", FeatureState(False), sized(mm))).operations[0].hours for mm in (20.0, 80.0)
    )
    assert large == pytest.approx(2 * small)
    told = judged(Difference("fin", MAST, MAST, kit_part="warped", also=("pin",), hours=3.0, material="jig"))
    assert [(op.hours, op.material == "jig") for op in told.operations] == [(3.0, True), (0.5, False)]


@pytest.mark.parametrize(("wanted", "layers"), [(1.02, (1.0,)), (0.63, (0.64,)), (1.22, (1.2,)), (6.3, (6.35,))])
def test_stock_is_rounded_to_what_is_sold(wanted: float, layers: tuple[float, ...]) -> None:
    choice = nearest_stock(wanted, 48.0, sold("mm"))
    assert choice is not None and choice.pieces_mm == layers
    assert choice.error_mm == pytest.approx(sum(layers) - wanted) and choice.error_story_mm == 48 * choice.error_mm


def test_sheets_one_owns_are_laminated_and_no_further_than_they_are_known() -> None:
    owned: Any = (("sheet", 0.76), ("sheet", 0.5), ("sheet", 0.26), ("strip", 1.55))
    choice = nearest_stock(1.53, 48.0, owned, form="sheet")
    assert choice is not None and choice.pieces_mm == (0.76, 0.76)
    # Two layers: σ 0.02 each, one joint of 0 to 0.02 mm.
    assert choice.doubt_mm == pytest.approx(1.96 * (2 * 0.02**2 + 0.02**2 / 12) ** 0.5, rel=1e-4)
    assert lamination((0.5, 0.26))[0] == pytest.approx(0.77)
    # Three layers (0.5 + 0.5 + 0.5 = 1.52) would be nearer by 0.01 mm: less than anybody knows.
    assert nearest_stock(1.53, 48.0, owned[1:2], form="sheet").pieces_mm == (0.5, 0.5, 0.5)
    assert nearest_stock(1.53, 48.0, ()) is None and nearest_stock(120.0, 48.0, owned) is None
    with pytest.raises(RefusedError):
        nearest_stock(0.0, 48.0, owned)
