"""View-model of the box (no Qt): runners with their parts, what is not right, what the keys do."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

from chalkreel.core.convert.kinds import PartState
from chalkreel.core.convert.runners import part_name, place_of
from chalkreel.document.entities import KitPart
from chalkreel.document.snapshot import Build

Form = Literal["plain", "slope", "round", "long", "words"]
# How a part is sketched, by words of its name.
_FORMS: Final[tuple[tuple[tuple[str, ...], Form], ...]] = (
    (("fin", "wing", "rudder", "tail"), "slope"), (("shroud", "ring", "wheel", "lens", "fan", "dome"), "round"),
    (("hull", "deck", "skirt", "mast", "beam"), "long"),
)  # fmt: skip
SIGNS: Final[dict[str, str]] = {"present": "", "missing": "✗ "}
CELL_W, CELL_H, GAP, HEAD, PAD = 44.0, 34.0, 6.0, 30.0, 12.0
SMALL: Final = 0.72
# More parts than this on a runner are drawn smaller.
MANY: Final = 36
WORDS_W: Final = 190.0


@dataclass(frozen=True)
class Cell:
    """One number on a runner: the part there, how it is sketched, and where (x, y, width, height in px)."""

    words: str
    part_id: str
    state: PartState
    form: Form
    box: tuple[float, float, float, float]


@dataclass(frozen=True)
class Runner:
    """A runner as a frame with its cells; `told` is its state in words."""

    name: str
    told: str
    state: Literal["good", "warn", "bad"]
    box: tuple[float, float, float, float]
    cells: tuple[Cell, ...]


def sign(state: PartState) -> str:
    """A state's sign: never by colour alone."""
    return SIGNS.get(state, "△ ")


def runners(build: Build, width: float) -> tuple[tuple[Runner, ...], float]:
    """All runners laid out in rows that wide, and the height they take."""
    by_runner: dict[str, list[tuple[int, KitPart]]] = {}
    others: list[KitPart] = []
    for part in build.all(KitPart):
        place = place_of(part.name)
        if place is None:
            others.append(part)
        else:
            by_runner.setdefault(place.runner, []).extend((number, part) for number in place.numbers or (0,))
    found: list[Runner] = []
    x = y = row = 0.0
    for name, parts in sorted(by_runner.items()):
        box, cells = _laid(name, sorted(parts, key=lambda one: one[0]), width)
        x, y, row = _next_place(x, y, row, box, width)
        found.append(_runner(name, parts, (x, y, *box), cells))
        x, row = x + box[0] + PAD, max(row, box[1])
    if others:
        each = [(n, part) for n, part in enumerate(others)]
        columns = max(1, int((width - 2 * PAD) // (WORDS_W + GAP)))
        cells = tuple(
            Cell(part.name, part.id, part.state, "words",
                 (PAD + n % columns * (WORDS_W + GAP), HEAD + n // columns * (CELL_H + GAP), WORDS_W, CELL_H))
            for n, part in each
        )  # fmt: skip
        box = (
            2 * PAD + min(columns, len(each)) * (WORDS_W + GAP),
            HEAD + math.ceil(len(each) / columns) * (CELL_H + GAP),
        )
        x, y, row = _next_place(x, y, row, box, width)
        found.append(_runner("beside", each, (x, y, *box), cells))
        row = max(row, box[1])
    return tuple(found), y + row


def _next_place(x: float, y: float, row: float, box: tuple[float, float], width: float) -> tuple[float, float, float]:
    """Beside the last frame, or at the beginning of the next row."""
    return (x, y, row) if x == 0 or x + box[0] <= width else (0.0, y + row + PAD, 0.0)


def _laid(name: str, parts: list[tuple[int, KitPart]], width: float) -> tuple[tuple[float, float], tuple[Cell, ...]]:
    """Cells in rows, all of one size, so that numbers are found where one looks for them."""
    scale = SMALL if len(parts) > MANY else 1.0
    w, h = CELL_W * scale, CELL_H * scale
    across = max(3, min(math.ceil(math.sqrt(len(parts) * 2.4)), int((width - 2 * PAD) // (w + GAP))))
    cells = tuple(
        Cell(
            str(number) if number else part_name(name, 0)[:-1] or "all", part.id, part.state, _form(part),
            (PAD + n % across * (w + GAP), HEAD + n // across * (h + GAP), w, h),
        )
        for n, (number, part) in enumerate(parts)
    )  # fmt: skip
    rows = math.ceil(len(parts) / across)
    wide = 2 * PAD + min(across, max(len(parts), 3)) * (w + GAP) - GAP
    return (max(wide, 190.0), HEAD + rows * (h + GAP) + PAD - GAP), cells


def _form(part: KitPart) -> Form:
    words = part.name.lower().split()
    return next((form for names, form in _FORMS if any(w.rstrip("s") in names for w in words)), "plain")


def _runner(
    name: str, parts: list[tuple[int, KitPart]], box: tuple[float, float, float, float], cells: tuple[Cell, ...]
) -> Runner:
    gone = sum(part.state == "missing" for _, part in parts)
    wrong = sum(part.state not in ("present", "missing") for _, part in parts)
    told = [f"{gone} missing"] * bool(gone) + [f"{wrong} not right"] * bool(wrong)
    if gone == len(parts):
        told = ["not in the box"]
    numbers = [number for number, _ in parts if number]
    span = f"{min(numbers)}–{max(numbers)}  " if len(numbers) > 1 and name != "beside" else ""
    moved = tuple(
        Cell(c.words, c.part_id, c.state, c.form, (c.box[0] + box[0], c.box[1] + box[1], c.box[2], c.box[3]))
        for c in cells
    )
    state: Literal["good", "warn", "bad"] = "bad" if gone else "warn" if wrong else "good"
    return Runner(name, span + (", ".join(told) or "all here"), state, box, moved)


def counted(build: Build) -> tuple[int, int]:
    """How many parts are right, and how many there should be: an entry that spans numbers counts each."""
    right = total = 0
    for part in build.all(KitPart):
        place = place_of(part.name)
        many = part.count * max(1, len(place.numbers) if place is not None else 1)
        total += many
        right += many * (part.state == "present")
    return right, total


def part_of_number(build: Build, runner: str, number: int) -> str:
    """The part at a number of a runner; "" where there is none."""
    for part in build.all(KitPart):
        place = place_of(part.name)
        if place is not None and place.runner == runner and number in place.numbers:
            return part.id
    return ""


def runner_names(build: Build) -> tuple[str, ...]:
    """The runners, in order."""
    places = (place_of(part.name) for part in build.all(KitPart))
    return tuple(sorted({place.runner for place in places if place is not None}))
