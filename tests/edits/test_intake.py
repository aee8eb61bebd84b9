"""Lists as people paste them."""

from __future__ import annotations

from types import MappingProxyType

import pytest
from tests.builds import empty_build

from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import AnyEntity, KitPart
from chalkreel.document.snapshot import Build
from chalkreel.edits.intake import taken_in


def build(*more: AnyEntity) -> Build:
    return Build(0, MappingProxyType({**empty_build("Own"), **{e.id: e for e in more}}))


def told(text: str, *more: AnyEntity) -> list[tuple[str, str, int, str]]:
    edits = taken_in(build(*more), text).edits.values()
    return [(p.name, p.state, p.count, p.fit_note) for p in edits if isinstance(p, KitPart)]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [("A1\tport hull half\nA2\tstarboard hull half\tmissing", [("A1 port hull half", "present", 1, ""),
                                                            ("A2 starboard hull half", "missing", 1, "")]),
     ("part;count;state;fit\nB1 wheel;4;sunk;loose", [("B1 wheel", "sunk", 4, "loose")]),
     ("A1, damaged\nA2, warp, 2", [("A1", "damaged", 1, ""), ("A2", "warped", 2, "")])],
)  # fmt: skip
def test_lists_are_read_with_and_without_headings(text: str, wanted: list) -> None:
    assert told(text) == wanted


@pytest.mark.parametrize(
    ("text", "said"),
    [("part;state\nA1;broken", "“broken” is no state"), ("part;state\nA1;s", "“s” is no state"),
     ("part;count\nA1;many", "no number"), ("A1\n;;\n", "Line 2 is no part"), ("x\n" * 2_001, "2000 parts")],
)  # fmt: skip
def test_what_a_list_does_not_say_clearly_is_refused(text: str, said: str) -> None:
    with pytest.raises(RefusedError, match=said):
        taken_in(build(), text)


def test_what_is_known_of_a_part_stays() -> None:
    fin = KitPart(id="f", name="C2 port tail fin", calliper_mm=44.1, fit_note="tight")
    (edit,) = taken_in(build(fin), "C2, C3 less C2").edits.keys() & {"f"}
    changed = taken_in(build(fin), "C1-3, less C2").edits
    assert len(changed) == 3 and edit == "f"
    known = changed["f"]
    assert isinstance(known, KitPart)
    assert (known.name, known.state, known.calliper_mm, known.fit_note) == (fin.name, "missing", 44.1, "tight")
