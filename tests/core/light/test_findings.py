"""What is said of circuits as wired: fifty of them, each with what must be found, and nothing else."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, get_args

import pytest

from chalkreel.core.light.circuit import Circuit, Driver
from chalkreel.core.light.design import filled
from chalkreel.core.light.finding import Kind
from chalkreel.core.light.gates import after_closing, expected, judged
from chalkreel.core.light.lamps import VISIBLE_MA
from chalkreel.core.light.lit import lit
from tests.core.light.made_circuits import branch, circuit, found_in, kinds_found, lamp, row

PIN = Driver("p", "lamps", "pin", "3")
NPN = Driver("p", "lamps", "transistor", "3")
POWER = Driver("p", "lamps", "power transistor", "3")
HAIR: dict[str, Any] = {"wire": "hair 0.1", "wire_mm": 150.0}
# A bare circuit of a test names no fuse: told of by a test of its own.
ROUGH = {"fades", "dark before the end", "bank switches off", "no fuse"}

CASES: list[tuple[str, Circuit, set[str]]] = [
    ("one white", circuit(branch(row("white"))), set()),
    ("one red", circuit(branch(row("red"))), set()),
    ("six each alone", circuit(branch(row("white"), times=6)), set()),
    ("two reds in a row", circuit(branch(row("red", "red"))), set()),
    ("white on USB", circuit(branch(row("white"), times=30), kind="USB 5 V"), set()),
    ("three whites on 12 V", circuit(branch(row("white", "white", "white")), kind="plug pack 12 V"), set()),
    ("five reds on 12 V", circuit(branch(row("red", "red", "red", "red", "red")), kind="plug pack 12 V"), set()),
    ("red on a coin", circuit(branch(row("red"), ohm=330.0), kind="coin cell", cells=1), set()),
    ("strip on 12 V", circuit(branch(row("strip"), ohm=0.0), kind="plug pack 12 V"), set()),
    ("two colours each alone", circuit(branch(row("white")), branch(row("red"), key="c")), set()),
    ("blink alone", circuit(branch(row("blink"))), set()),
    ("blink beside another branch", circuit(branch(row("blink")), branch(row("white"), key="c")), set()),
    ("on a pin", circuit(branch(row("white"), driver="p"), drivers=(PIN,), kind="USB 5 V"), set()),
    ("behind a transistor", circuit(branch(row("red"), times=8, driver="p"), drivers=(NPN,)), set()),
    ("strip behind a power transistor", circuit(branch(row("strip"), ohm=0.0, driver="p"), drivers=(POWER,),
                                               kind="plug pack 12 V"), set()),
    ("dimmed to a quarter", circuit(branch(row("white"), driver="p"), drivers=(Driver("p", "x", "pin", "3", 0.25),)),
     set()),
    ("ladder with own resistors", circuit(branch(*(row("white", ohm=330.0) for _ in range(8)), ohm=0.0, pitch_mm=20.0,
                                                 **HAIR), fuse=200.0), set()),
    ("hair wire behind a fuse", circuit(branch(row("white"), **HAIR), fuse=100.0), set()),
    ("hair wire on a coin", circuit(branch(row("red"), ohm=220.0, **HAIR), kind="coin cell", cells=1), set()),
    ("two rows behind own resistors", circuit(branch(row("red", ohm=470.0), row("red", ohm=470.0), ohm=0.0)), set()),
    ("step-up for a strip", circuit(branch(row("strip"), ohm=0.0, supply="module"), cells=4, step_up=12.0), set()),
    # what is wrong
    ("turned alone", circuit(branch(row("-red"), ohm=330.0)), {"reversed"}),
    ("one of two turned", circuit(branch(row("red", "-red"), ohm=130.0)), {"reversed"}),
    ("one of three turned", circuit(branch(row("red", "-red", "red"), ohm=130.0), kind="9 V block", cells=1),
     {"reversed"}),
    ("turned on 12 V", circuit(branch(row("-white"), ohm=1000.0), kind="plug pack 12 V"), {"reversed"}),
    ("white on two fresh AA", circuit(branch(row("white")), cells=2), set()),
    ("two whites on 4.5 V", circuit(branch(row("white", "white"))), {"dark"}),
    ("three reds on 4.5 V", circuit(branch(row("red", "red", "red"))), {"glimmer"}),
    ("strip on 3 V", circuit(branch(row("strip"), ohm=0.0), cells=2), {"dark"}),
    ("strip on 4.5 V", circuit(branch(row("strip"), ohm=0.0), cells=3), {"dark"}),
    ("strip on 8 V", circuit(branch(row("strip"), ohm=0.0), cells=5), {"dim strip", "glimmer", "dark"}),
    ("white through 47 kΩ", circuit(branch(row("white"), ohm=47_000.0)), {"glimmer"}),
    ("white straight on 4.8 V", circuit(branch(row("white"), ohm=0.0)), {"over lamp"}),
    ("red through 10 Ω", circuit(branch(row("red"), ohm=10.0)), {"over lamp", "hot resistor"}),
    ("red through a pin", circuit(branch(row("red"), times=6, driver="p"), drivers=(PIN,), kind="USB 5 V"),
     {"over pin"}),
    ("whole board", circuit(*(branch(row("red"), ohm=130.0, key=f"b{i}", driver=f"p{i}") for i in range(14)),
                            kind="USB 5 V", drivers=tuple(Driver(f"p{i}", f"p{i}", "pin", str(i)) for i in range(14))),
     {"over board"}),
    ("too many on a coin", circuit(branch(row("red"), times=4, ohm=150.0), kind="coin cell", cells=1),
     {"over supply"}),
    ("too many on a small block", circuit(branch(row("white"), times=40), kind="9 V block", cells=1),
     {"over supply"}),
    ("hot resistor", circuit(branch(row("red"), ohm=680.0), kind="plug pack 12 V"), {"hot resistor"}),
    ("three reds behind one", circuit(branch(row("red"), row("red"), row("red"))), {"one resistor for several"}),
    ("three whites behind one", circuit(branch(row("white"), row("white"), row("white"))),
     {"one resistor for several"}),
    ("red beside white", circuit(branch(row("red"), row("white"), ohm=120.0)), {"unlike side by side"}),
    ("red beside white on a coin", circuit(branch(row("red"), row("white"), ohm=0.0), kind="coin cell", cells=1),
     {"unlike side by side", "over supply", "over lamp"}),
    ("blink in a row", circuit(branch(row("blink", "red"), ohm=68.0)), {"flashes along"}),
    ("blink sags the coin", circuit(branch(row("blink"), ohm=10.0), branch(row("red"), key="c", ohm=0.0),
                                    kind="coin cell", cells=1), {"over supply", "over lamp"}),
    ("thin wire without a fuse", circuit(branch(row("white"), **HAIR)), {"no fuse"}),
    ("thinnest wire on USB", circuit(branch(row("white"), times=30, wire="hair 0.05", wire_mm=100.0), kind="USB 5 V"),
     {"no fuse"}),
    ("module on spent small cells", circuit(branch(row("strip"), ohm=0.0, supply="module", times=8),
                                            kind="coin cell", cells=1, step_up=12.0), {"not fed", "over supply"}),
    ("lamps and strip apart", circuit(branch(row("white")), branch(row("strip"), ohm=0.0, key="c", supply="apart"),
                                      apart="plug pack 12 V", cells=4), {"two supplies"}),
    ("two packs", circuit(branch(row("white")), branch(row("red"), key="c", supply="apart"), apart="9 V block"),
     {"two supplies"}),
    ("held by hand", circuit(branch(row("white")), switch="press and hold"), {"held switch"}),
    ("white and red in a row on 4.5 V", circuit(branch(row("white", "red"))), {"dark before the end"}),
    ("twenty behind a transistor", circuit(branch(row("red"), times=20, driver="p"), drivers=(NPN,)),
     {"over transistor"}),
    ("bank", circuit(branch(row("white")), kind="USB 5 V"), {"bank switches off"}),
    ("twelve on a coin an evening", circuit(branch(row("red"), ohm=47.0), kind="coin 1220", cells=1),
     {"over supply", "fades"}),
]  # fmt: skip


@pytest.mark.parametrize(("made", "wanted"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_what_is_wrong_is_found_and_nothing_else(made: Circuit, wanted: set[str]) -> None:
    found = kinds_found(made)
    if {"dim strip", "dark"} <= wanted:
        assert found & wanted and found - ROUGH <= wanted
        return
    # How long it lasts may be remarked on besides; what is told of the wiring must be right to the letter.
    assert found - ROUGH == wanted - ROUGH and wanted & ROUGH <= found


def test_every_kind_of_finding_stands_among_them() -> None:
    assert {kind for _, _, wanted in CASES for kind in wanted} == set(get_args(Kind))


def test_every_cure_that_is_offered_cures_what_it_is_offered_for() -> None:
    offered = 0
    for name, made, _ in CASES:
        whole = filled(made)
        for finding in found_in(whole):
            if finding.cure is None:
                continue
            offered += 1
            after = found_in(finding.cure(whole))
            left = [f for f in after if (f.kind, f.branch) == (finding.kind, finding.branch)
                    and (f.branch >= 0 or f.title == finding.title)]  # fmt: skip
            assert not left, (name, finding.title, [f.words for f in after])
    assert offered > 20


def test_a_reversed_lamp_is_pointed_at_and_told_whether_it_is_hurt() -> None:
    (low,) = [f for f in found_in(circuit(branch(row("red", "-red"), ohm=130.0))) if f.kind == "reversed"]
    assert (low.strand, low.place) == (0, 1) and "not hurt" in low.words
    (high,) = found_in(circuit(branch(row("-red"), ohm=1000.0), kind="plug pack 12 V"))
    assert "may be dead" in high.words


def test_readings_are_judged_by_the_one_fault_that_explains_them() -> None:
    made = filled(
        circuit(
            branch(row("red", "red"), ohm=82.0), branch(row("red", ohm=330.0), row("red", ohm=330.0), key="c", ohm=0.0)
        )
    )
    want = {e.branch: e for e in expected(made)}
    for off in (0.0, 0.9, -0.9):
        assert judged(made, {0: want[0].ma + off * want[0].plus_minus})[0].verdict == "right"
    # Known from the wiring: a bridged lamp leaves one behind the resistor; a dark strand leaves the other.
    one = lit(circuit(branch(row("red"), ohm=82.0))).lamps[0].ma
    assert "bridged" in judged(made, {0: one})[0].words and "the wrong way round" in judged(made, {0: 0.0})[0].words
    alone = (
        lit(circuit(branch(row("red", "red"), ohm=82.0), branch(row("red", ohm=330.0), key="c", ohm=0.0))).lamps[-1].ma
    )
    assert "one strand is not lit" in judged(made, {0: want[0].ma, 1: alone})[1].words
    assert after_closing(9.8, 9.6).verdict == "right" and "pinched" in after_closing(9.8, 6.1).words


def test_lit_is_lit_and_dark_is_dark() -> None:
    shines = lit(circuit(branch(row("white"), ohm=47_000.0))).lamps[0]
    assert VISIBLE_MA < shines.ma < 0.1
    assert lit(circuit(branch(row("white", "white"), ohm=10.0), cells=3)).lamps[0].ma < VISIBLE_MA


def test_the_wire_that_is_planned_melts_like_the_one_that_is_named() -> None:
    plain, named = (found_in(circuit(branch(row("white"), **more))) for more in ({}, HAIR))
    (one,), (other,) = ([f.words for f in found if f.kind == "no fuse"] for found in (plain, named))
    assert one == other and "hair 0.1" in one
    assert not [f for f in found_in(circuit(branch(row("white")), fuse=100.0)) if f.kind == "no fuse"]


def test_what_asks_too_much_is_offered_no_resistor_and_a_supply_pulled_down_is_no_resistors_fault() -> None:
    hungry = replace(lamp("hungry", "white", 3.05, 60.0, "3 mm"), id="hungry")
    made = circuit(branch(row("hungry")), kind="USB 5 V")
    (over,) = [f for f in found_in(replace(made, kinds=(*made.kinds, hungry))) if f.kind == "over lamp"]
    assert over.cure is None and "30 mA or less" in over.cure_words
    drained = circuit(branch(row("red"), ohm=0.0), branch(row("white"), key="c", ohm=0.0), kind="coin cell", cells=1)
    pulled = [f for f in found_in(drained) if f.branch == 1]
    assert pulled and not any("resistor of 0" in f.words for f in pulled) and "pulls the volts down" in pulled[0].words
