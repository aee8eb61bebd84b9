"""Layout of the wiring: parts as they lie in the hand, supply at the left, one column a branch, + above, − below."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Final, Literal

from chalkreel.core.light.cells import Cell, Supply
from chalkreel.core.light.circuit import Branch, Circuit, StepUp, Strand
from chalkreel.core.light.finding import Finding
from chalkreel.core.light.lamps import VISIBLE_MA
from chalkreel.core.light.lit import LampState, Lit
from chalkreel.core.light.resistors import ohm_words

PartKind = Literal["cell", "plug", "module", "switch", "fuse", "resistor", "dome", "chip", "strip", "driver"]
Polarity = Literal["plus", "minus", "between"]
TextRole = Literal["name", "figure", "quiet", "bad", "plus", "minus"]

TOP: Final = 62.0
COLUMN: Final = 152.0
STRAND: Final = 46.0
LAMP: Final = 64.0
MOST_STRANDS, MOST_IN_ROW = 4, 4
_FIRST: Final = 44.0


@dataclass(frozen=True)
class Line:
    """A straight wire; `broken` where nothing flows."""

    x0: float
    y0: float
    x1: float
    y1: float
    polarity: Polarity = "between"
    broken: bool = False


@dataclass(frozen=True)
class Part:
    """A part centred at a point, its plus above (below where `turned`); `ringed` is the culprit."""

    kind: PartKind
    x: float
    y: float
    colour: str = ""
    lit: bool = True
    turned: bool = False
    ringed: bool = False
    words: str = ""


@dataclass(frozen=True)
class Text:
    """Words that begin at a point (baseline)."""

    x: float
    y: float
    words: str
    role: TextRole = "quiet"


@dataclass(frozen=True)
class Frame:
    """A dashed frame round a branch that is there so many times."""

    x: float
    y: float
    width: float
    height: float
    badge: str


@dataclass(frozen=True)
class Place:
    """Where a branch or one of its lamps is drawn, to be clicked: `strand` −1 is the branch."""

    branch: int
    strand: int
    place: int
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Wiring:
    """The whole drawing in its own units (about a px)."""

    width: float
    height: float
    lines: tuple[Line, ...] = ()
    parts: tuple[Part, ...] = ()
    texts: tuple[Text, ...] = ()
    frames: tuple[Frame, ...] = ()
    places: tuple[Place, ...] = ()


@dataclass
class _Sheet:
    lines: list[Line] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)
    frames: list[Frame] = field(default_factory=list)
    places: list[Place] = field(default_factory=list)


def draw_wiring(circuit: Circuit, found: Lit, wrong: tuple[Finding, ...], only: frozenset[int] | None = None) -> Wiring:
    """Lay out every supply with its branches (or `only` some), one supply after the other."""
    sheet = _Sheet()
    deepest = max((min(len(s.lamps), MOST_IN_ROW) for b in circuit.branches for s in b.strands), default=1)
    bottom = TOP + 118 + deepest * LAMP
    at = 8.0
    for key, supply in circuit.supplies:
        numbers = [
            i for i, b in enumerate(circuit.branches)
            if circuit.supply_of(b)[0] == key and (only is None or i in only)
        ]  # fmt: skip
        if not numbers and (only is not None or isinstance(supply, StepUp)):
            continue
        at = _island(sheet, circuit, found, wrong, supply, numbers, at, bottom) + 26
    return Wiring(
        at, bottom + 26, tuple(sheet.lines), tuple(sheet.parts), tuple(sheet.texts), tuple(sheet.frames),
        tuple(sheet.places),
    )  # fmt: skip


def _island(
    sheet: _Sheet, circuit: Circuit, found: Lit, wrong: tuple[Finding, ...], supply: Supply | StepUp,
    numbers: list[int], left: float, bottom: float,
) -> float:  # fmt: skip
    """One supply with its rails and branches; where it ends."""
    x, begin = left + _FIRST, left + 128
    cells = min(supply.cells, 6) if isinstance(supply, Supply) and isinstance(supply.source, Cell) else 1
    kind: PartKind = "module" if isinstance(supply, StepUp) else "cell" if supply.runs_down else "plug"
    middle = (TOP + bottom) / 2
    first = middle - (cells - 1) * 17
    for n in range(cells):
        sheet.parts.append(Part(kind, x, first + 34 * n))
    name = f"step-up to {supply.volts:g} V" if isinstance(supply, StepUp) else supply.name
    sheet.texts += [Text(left, 20, name, "name"), Text(left, 37, f"{supply.volts:.1f} V {_when(supply)}")]
    last = first + 34 * (cells - 1)
    sheet.lines += [Line(x, TOP, x, first - 15, "plus"), Line(x, last + 15, x, bottom, "minus")]
    sheet.lines += [Line(x, TOP, begin - 46, TOP, "plus"), Line(x, bottom, begin, bottom, "minus")]
    if isinstance(supply, Supply) and supply.fuse_ma:
        sheet.parts.append(Part("fuse", x, (TOP + first - 15) / 2))
        sheet.texts.append(Text(x + 12, (TOP + first - 15) / 2 + 4, f"{supply.fuse_ma:.0f} mA"))
    sheet.parts.append(Part("switch", begin - 32, TOP))
    sheet.texts += [Text(x + 6, TOP - 6, "+", "plus"), Text(x + 6, bottom - 6, "−", "minus")]
    at, end = begin, begin
    for number in numbers:
        width = _branch(sheet, circuit, found, wrong, number, at, bottom)
        end = at + 14 + STRAND * (min(len(circuit.branches[number].strands), MOST_STRANDS) - 1)
        at += width
    sheet.lines += [Line(begin - 18, TOP, end, TOP, "plus"), Line(begin, bottom, end, bottom, "minus")]
    return at


def _when(supply: Supply | StepUp) -> str:
    return "fresh" if isinstance(supply, Supply) and supply.runs_down else ""


def _branch(
    sheet: _Sheet, circuit: Circuit, found: Lit, wrong: tuple[Finding, ...], number: int, left: float, bottom: float
) -> float:
    """One branch; its width."""
    branch = circuit.branches[number]
    lamps = found.of_branch(number)
    shown = branch.strands[:MOST_STRANDS]
    dark = bool(lamps) and all(a.ma < VISIBLE_MA for a in lamps)
    culprits = {(f.strand, f.place) for f in wrong if f.branch == number and f.weight == "bad"}
    x, spread = left + 14, STRAND * (len(shown) - 1)
    after = TOP + 18
    driver = circuit.driver_of(branch)
    if driver is not None:
        sheet.parts.append(Part("driver", x, TOP + 24, words=driver.name))
        sheet.texts.append(Text(x + 15, TOP + 28, f"{driver.kind} {driver.pin}".strip()))
        after = TOP + 38
    sheet.lines.append(Line(x, TOP, x, TOP + 14 if driver is not None else after, "plus"))
    sheet.texts.append(Text(x + 4, TOP + 13, "+", "plus")) if driver is None else None
    joint = after + 44
    if branch.ohm:
        sheet.parts.append(Part("resistor", x, after + 20))
        sheet.texts.append(Text(x + 13, after + 24, ohm_words(branch.ohm), "name"))
    sheet.lines.append(Line(x, after + (40 if branch.ohm else 0), x, joint, "between", dark))
    if spread:
        sheet.lines += [Line(x, joint, x + spread, joint, "between", dark)]
        sheet.lines += [Line(x, bottom - 14, x + spread, bottom - 14, "between", dark)]
    for s, strand in enumerate(shown):
        at = x + STRAND * s
        floor = bottom - 14 if spread else bottom
        _strand(sheet, circuit, strand, (number, s), lamps, culprits, at, joint, floor)
    if spread:
        sheet.lines.append(Line(x, bottom - 14, x, bottom, "minus"))
    width = COLUMN + spread
    _words(sheet, circuit, branch, lamps, x + spread, joint, len(branch.strands) - len(shown), dark)
    sheet.places.append(Place(number, -1, -1, left - 6, TOP + 6, width - 4, bottom - TOP - 12))
    if branch.times > 1:
        sheet.frames.append(Frame(left - 6, TOP + 8, width - 6, bottom - TOP - 16, f"× {branch.times}"))
    return width


def _strand(
    sheet: _Sheet, circuit: Circuit, strand: Strand, where: tuple[int, int], lamps: tuple[LampState, ...],
    culprits: set[tuple[int, int]], x: float, top: float, floor: float,
) -> None:  # fmt: skip
    states = {a.place: a for a in lamps if a.strand == where[1]}
    broken = all(a.ma < VISIBLE_MA for a in states.values())
    at = top
    if strand.ohm:
        sheet.parts.append(Part("resistor", x, at + 22))
        sheet.texts.append(Text(x + 12, at + 26, ohm_words(strand.ohm)))
        sheet.lines.append(Line(x, at, x, at + 2, "between", broken))
        at += 42
    shown = strand.lamps[:MOST_IN_ROW]
    step = (floor - at) / len(shown) if strand.ohm else LAMP
    for p, use in enumerate(shown):
        kind = circuit.kind(use.kind)
        y = at + min(step, LAMP) / 2
        state = states.get(p, next(iter(states.values()), None))
        sort: PartKind = "strip" if kind.strip else "dome" if kind.package in ("3 mm", "5 mm") else "chip"
        ringed = (where[1], p) in culprits
        sheet.parts.append(
            Part(sort, x, y, kind.colour, state is not None and state.ma >= VISIBLE_MA, use.turned, ringed)
        )
        above, below = ("−", "+") if use.turned else ("+", "−")
        signs: dict[str, TextRole] = {"+": "plus", "−": "minus"}
        sheet.texts += [Text(x + 11, y - 14, above, signs[above]), Text(x + 11, y + 24, below, signs[below])]
        sheet.lines.append(Line(x, at, x, y - 15, "between", broken))
        sheet.places.append(Place(*where, p, x - 16, y - 26, 32, 52))
        at = y + 15
    sheet.lines.append(Line(x, at, x, floor, "between", broken))
    if len(strand.lamps) > len(shown):
        sheet.texts.append(Text(x + 12, floor - 22, f"… {len(strand.lamps)} in a row"))


def _words(
    sheet: _Sheet, circuit: Circuit, branch: Branch, lamps: tuple[LampState, ...], x: float, y: float, more: int,
    dark: bool,
) -> None:  # fmt: skip
    """Name, mA and what it is made of, right of a branch."""
    at = y + 22
    for line in _wrapped(branch.name):
        sheet.texts.append(Text(x + 28, at, line, "name"))
        at += 16
    lines: list[tuple[str, TextRole]] = []
    kinds = list(dict.fromkeys(a.kind for a in lamps))
    for key in kinds[:2]:
        kind = circuit.kind(key)
        own = [a for a in lamps if a.kind == key]
        least, most = min(own, key=lambda a: a.ma), max(own, key=lambda a: a.ma)
        if most.ma < VISIBLE_MA:
            lines += [("0 mA", "bad"), (f"not {kind.wanted_ma:g}", "quiet")]
        elif least.ma < 0.9 * most.ma:
            lines.append((f"{least.ma:.1f} to {most.ma:.1f} mA", "figure"))
        else:
            lines.append((f"{most.ma:.1f} ± {2 * most.sigma_ma:.1f} mA", "bad" if dark else "figure"))
        made = f"{kind.package} {kind.colour}"
        lines += [(made, "quiet")] if len(made) <= 13 else [(kind.package, "quiet"), (kind.colour, "quiet")]
        if kind.flashing:
            lines.append(("flashes", "quiet"))
    if more > 0:
        lines.append((f"and {more} strands more", "quiet"))
    if branch.pitch_mm:
        lines.append((f"ladder, every {branch.pitch_mm:g} mm", "quiet"))
    for words, role in lines:
        sheet.texts.append(Text(x + 28, at, words, role))
        at += 16


def _wrapped(name: str, room: int = 16) -> list[str]:
    """A name on at most two lines."""
    lines = [""]
    for word in name.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > room and len(lines) < 2:
            lines.append(word)
        else:
            lines[-1] = f"{lines[-1]} {word}".strip()
    return [line if len(line) <= room + 2 else f"{line[:room]}…" for line in lines]
