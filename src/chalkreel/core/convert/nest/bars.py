"""Lengths cut from strips, rods and tubes: the fewest, proved.

Patterns are made one after the other by their worth (Gilmore & Gomory 1961, "A linear programming approach to the
cutting stock problem") and then chosen as whole numbers.
"""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError

# Lengths are whole tenths of a mm.
UNIT: Final = 10
MOST_LENGTHS: Final = 2_000
MOST_PATTERNS: Final = 600
# With more sizes than this, nothing is proved: lists of models have fewer, and the search would take minutes.
MOST_SOLVED: Final = 150
# All fillings of a bar are looked through where so few sizes and steps do it.
MOST_SIZES, MOST_LOOKED = 40, 20_000
# An offcut costs next to nothing; a length left out more than any bar.
OFFCUT_COST: Final = 0.01
LEFT_OUT: Final = 100.0
LEAST: Final = 1e-7
# A search of whole numbers that has proved nothing by so many branches gives what it has; in work, not in time, so that
# the same list gives the same bars on any machine.
MOST_BRANCHES: Final = 60
# How often, and how many whole plans at a time, are looked for beside what broken bars call for.
SEARCHES: Final = 3
FILLINGS: Final = 5


@dataclass(frozen=True)
class Length:
    """A length (mm) to be cut `count` times."""

    key: str
    mm: float
    count: int = 1


@dataclass(frozen=True)
class Bar:
    """Strip, rod or tube in stock, so long (mm); `offcut` ones are used up first."""

    key: str
    mm: float
    count: int = 1
    offcut: bool = False


@dataclass(frozen=True)
class CutBar:
    """One bar with what is cut from it, the longest first, and what is left (mm)."""

    bar: Bar
    lengths: tuple[tuple[str, float], ...]
    left_mm: float


@dataclass(frozen=True)
class BarPlan:
    """All bars; `proved` says that none uses less new stock."""

    bars: tuple[CutBar, ...]
    unplaced: tuple[str, ...]
    proved: bool


def bars_for(lengths: tuple[Length, ...], stock: tuple[Bar, ...], kerf_mm: float) -> BarPlan:
    """Which length to cut from which bar.

    Raises
    ------
    RefusedError
        Lengths or a kerf that nothing has, or too many.
    """
    if not 0 <= kerf_mm <= 10 or any(not 0 < mm < 1e5 for mm in (*(n.mm for n in lengths), *(b.mm for b in stock))):
        raise RefusedError("A length to cut must be more than nothing, and a cut between 0 and 10 mm wide.")
    if sum(n.count for n in lengths) > MOST_LENGTHS:
        raise RefusedError(f"More than {MOST_LENGTHS} lengths cannot be laid out at once.")
    kerf = round(kerf_mm * UNIT)
    longest = max((b.mm for b in stock), default=0.0)
    fitting = [n for n in lengths if n.mm <= longest + LEAST]
    lost = [n.key for n in lengths if n.mm > longest + LEAST for _ in range(n.count)]
    if not fitting:
        return BarPlan((), tuple(lost), True)
    sizes = sorted({math.ceil(n.mm * UNIT - LEAST) + kerf for n in fitting}, reverse=True)
    asked = np.zeros(len(sizes), int)
    for n in fitting:
        asked[sizes.index(math.ceil(n.mm * UNIT - LEAST) + kerf)] += n.count
    rooms = [math.floor(b.mm * UNIT + LEAST) + kerf for b in stock]
    chosen, proved = _chosen(np.array(sizes), asked, rooms, stock)
    chosen = _offcuts_used_up(np.array(sizes), asked, rooms, stock, chosen)
    return _told(chosen, fitting, sizes, stock, kerf, lost, proved)


def _chosen(
    sizes: Array, asked: Array, rooms: list[int], stock: tuple[Bar, ...]
) -> tuple[list[tuple[int, Array]], bool]:
    """Bars (by number in the stock) with how many of each size, and whether nothing is better."""
    if len(sizes) > MOST_SOLVED:
        return _first_fit(sizes, asked, rooms, stock), False
    one = np.eye(len(sizes), dtype=int)
    patterns = [(bar, one[n] * min(int(asked[n]), room // int(size)))
                for bar, room in enumerate(rooms) for n, size in enumerate(sizes) if size <= room]  # fmt: skip
    known = {(bar, tuple(counts)) for bar, counts in patterns}
    costs = np.array([OFFCUT_COST if b.offcut else float(room) for b, room in zip(stock, rooms, strict=True)])
    owned = np.array([b.count for b in stock])
    while True:
        worth, rent, bound = _broken(patterns, costs, asked, owned)
        fresh = []
        for bar, room in enumerate(rooms):
            counts = _worthiest(sizes, asked, worth, room)
            if float(counts @ worth) > costs[bar] - rent[bar] + 1e-6 and (bar, tuple(counts)) not in known:
                fresh.append((bar, counts))
        if not fresh or len(patterns) > MOST_PATTERNS:
            break
        patterns += fresh
        known |= {(bar, tuple(counts)) for bar, counts in fresh}
    # New stock comes in whole bars: what is less than one step above the bound of broken bars cannot be bettered.
    step = math.gcd(*(room for b, room in zip(stock, rooms, strict=True) if not b.offcut)) or 1
    enough = bound + step
    rng = np.random.default_rng(1)
    found: list[tuple[int, Array]] = []
    cost = math.inf
    for _ in range(SEARCHES):
        # Patterns that broken bars have no use for may be what whole ones need.
        for _ in range(FILLINGS):
            for bar, counts in _filled(sizes, asked, rooms, owned, rng):
                if (bar, tuple(counts)) not in known:
                    known.add((bar, tuple(counts)))
                    patterns.append((bar, counts))
        whole, price, _ = _whole(patterns, costs, asked, owned, enough)
        found, cost = min((found, cost), (whole, price), key=lambda one: one[1])
        if cost < enough - 1e-6:
            return found, not fresh
    # Where there are few ways to fill a bar, all of them are tried: the best is then proved though the bound is low.
    fillings = [_every_filling(sizes, asked, room) for room in rooms]
    if any(ways is None for ways in fillings):
        return found, False
    every = [(bar, counts) for bar, ways in enumerate(fillings) for counts in ways or ()]
    whole, price, optimal = _whole(every, costs, asked, owned, -math.inf)
    return min((found, cost), (whole, price), key=lambda one: one[1])[0], optimal


def _first_fit(sizes: Array, asked: Array, rooms: list[int], stock: tuple[Bar, ...]) -> list[tuple[int, Array]]:
    """The longest first, each on the first bar with room for it, offcuts before new ones: for very long lists."""
    bars = [
        bar for bar in sorted(range(len(stock)), key=lambda b: not stock[b].offcut) for _ in range(stock[bar].count)
    ]
    left, counts = [rooms[bar] for bar in bars], [np.zeros(len(sizes), int) for _ in bars]
    for n, size in enumerate(sizes):
        for _ in range(int(asked[n])):
            at = next((b for b, room in enumerate(left) if room >= size), None)
            if at is not None:
                left[at] -= int(size)
                counts[at][n] += 1
    return [(bar, many) for bar, many in zip(bars, counts, strict=True) if many.any()]


def _offcuts_used_up(
    sizes: Array, asked: Array, rooms: list[int], stock: tuple[Bar, ...], chosen: list[tuple[int, Array]]
) -> list[tuple[int, Array]]:
    """Offcuts that saved no bar take what they can from the new bar of which least is used: more of it stays whole."""
    left, exact = asked.copy(), []
    for bar, counts in chosen:
        exact.append((bar, np.minimum(counts, left)))
        left = left - exact[-1][1]
    used = Counter(bar for bar, _ in exact)
    spare = [at for at, bar in enumerate(stock) if bar.offcut for _ in range(bar.count - used[at])]
    new = [n for n, (bar, _) in enumerate(exact) if not stock[bar].offcut]
    for at in spare if new else ():
        last = min(new, key=lambda n: int(exact[n][1] @ sizes))
        moved = _worthiest(sizes, exact[last][1], sizes.astype(float), rooms[at])
        if moved.any():
            exact[last] = (exact[last][0], exact[last][1] - moved)
            exact.append((at, moved))
    return [one for one in exact if one[1].any()]


def _every_filling(sizes: Array, asked: Array, room: int) -> list[Array] | None:
    """All ways to fill one bar to which no piece can be added; None where there are too many to look through."""
    found: list[Array] = []
    counts, looked = np.zeros(len(sizes), int), 0

    def fill(at: int, left: int) -> bool:
        nonlocal looked
        looked += 1
        if looked > MOST_LOOKED:
            return False
        if at == len(sizes):
            if all(counts[n] >= asked[n] or sizes[n] > left for n in range(len(sizes))) and counts.any():
                found.append(counts.copy())
            return True
        for many in range(min(int(asked[at]), left // int(sizes[at])), -1, -1):
            counts[at] = many
            if not fill(at + 1, left - many * int(sizes[at])):
                return False
        counts[at] = 0
        return True

    return found if len(sizes) <= MOST_SIZES and fill(0, room) else None


def _filled(
    sizes: Array, asked: Array, rooms: list[int], owned: Array, rng: np.random.Generator
) -> list[tuple[int, Array]]:
    """One bar after another filled as full as it gets, long pieces a little sooner."""
    left, found = asked.copy(), []
    bars = [bar for bar in np.argsort(-np.array(rooms)) for _ in range(min(int(owned[bar]), int(asked.sum())))]
    for bar in bars:
        lean = 1 + 0.02 * rng.uniform(0, 1, len(sizes)) * sizes / sizes.max()
        counts = _worthiest(sizes, left, sizes * lean, rooms[bar])
        found.append((int(bar), counts))
        left = left - counts
        if not left.any():
            break
    return found


def _programme(
    patterns: list[tuple[int, Array]], costs: Array, asked: Array, owned: Array, enough: float | None
) -> tuple[Array, Array, float, bool]:
    """How often each pattern is cut, the worth of each row, the cost, and whether that is proved.

    Every length is cut at least as often as asked, or left out at a price above any bar's. With `enough`, in whole
    numbers, and a cost below it is good enough.
    """
    # Loaded with the first list: it is not needed to open a window.
    import highspy  # noqa: PLC0415

    rows, many = len(asked) + len(owned), len(patterns)
    matrix = np.zeros((rows, many + len(asked)))
    for n, (bar, counts) in enumerate(patterns):
        matrix[: len(asked), n] = counts
        matrix[len(asked) + bar, n] = 1.0
    matrix[: len(asked), many:] = np.eye(len(asked))
    price = np.concatenate([costs[[bar for bar, _ in patterns]], np.full(len(asked), LEFT_OUT * costs.max())])
    lp = highspy.HighsLp()
    lp.num_col_, lp.num_row_ = matrix.shape[1], rows
    lp.col_cost_, lp.col_lower_, lp.col_upper_ = price, np.zeros(len(price)), np.full(len(price), highspy.kHighsInf)
    lp.row_lower_ = np.concatenate([asked, np.full(len(owned), -highspy.kHighsInf)])
    lp.row_upper_ = np.concatenate([np.full(len(asked), highspy.kHighsInf), owned])
    columns, places = np.nonzero(matrix.T)
    lp.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    lp.a_matrix_.start_ = np.searchsorted(columns, np.arange(matrix.shape[1] + 1))
    lp.a_matrix_.index_, lp.a_matrix_.value_ = places, matrix.T[columns, places]
    if enough is not None:
        lp.integrality_ = [highspy.HighsVarType.kInteger] * matrix.shape[1]
    # Its base: the class itself prints a banner before anybody can tell it not to.
    solver: Any = highspy.highs._Highs()  # type: ignore[attr-defined]
    solver.setOptionValue("output_flag", False)
    solver.setOptionValue("threads", 1)
    solver.setOptionValue("mip_max_nodes", MOST_BRANCHES)
    if enough is not None:
        solver.setOptionValue("objective_target", enough - 1e-6)
        solver.setOptionValue("mip_rel_gap", 0.0)
    solver.passModel(lp)
    solver.run()
    found, optimal = solver.getSolution(), solver.getModelStatus() == highspy.HighsModelStatus.kOptimal
    return (
        np.array(found.col_value)[:many],
        np.array(found.row_dual),
        solver.getInfo().objective_function_value,
        optimal,
    )


def _broken(patterns: list[tuple[int, Array]], costs: Array, asked: Array, owned: Array) -> tuple[Array, Array, float]:
    """Were bars to be had in parts: what each length is worth, what each bar is worth, and the cost."""
    _, worth, cost, _ = _programme(patterns, costs, asked, owned, None)
    return worth[: len(asked)], worth[len(asked) :], cost


def _whole(
    patterns: list[tuple[int, Array]], costs: Array, asked: Array, owned: Array, enough: float
) -> tuple[list[tuple[int, Array]], float, bool]:
    """Whole bars, each with how many of each size, their cost, and whether these patterns give nothing better; nothing
    better is looked for than a cost below `enough`."""
    times, _, cost, optimal = _programme(patterns, costs, asked, owned, enough)
    return [p for p, n in zip(patterns, times, strict=True) for _ in range(round(float(n)))], cost, optimal


def _worthiest(sizes: Array, asked: Array, worth: Array, room: int) -> Array:
    """How many of each size make the most worth that one bar has room for (a bounded knapsack)."""
    parcels = [(n, many) for n, size in enumerate(sizes) for many in _doubling(min(int(asked[n]), room // int(size)))]
    best = np.zeros(room + 1)
    taken = np.zeros((len(parcels), room + 1), bool)
    for row, (n, many) in enumerate(parcels):
        weight = many * int(sizes[n])
        with_it = np.full(room + 1, -1.0)
        with_it[weight:] = best[: room + 1 - weight] + many * worth[n]
        taken[row] = with_it > best + LEAST
        best = np.where(taken[row], with_it, best)
    counts, left = np.zeros(len(sizes), int), room
    for row in range(len(parcels) - 1, -1, -1):
        if taken[row, left]:
            n, many = parcels[row]
            counts[n] += many
            left -= many * int(sizes[n])
    return counts


def _doubling(most: int) -> list[int]:
    """1, 2, 4 … and what is left: any number up to `most` is a sum of some of them."""
    found, step = [], 1
    while most > 0:
        found.append(min(step, most))
        most -= found[-1]
        step *= 2
    return found


def _told(
    chosen: list[tuple[int, Array]], lengths: list[Length], sizes: list[int], stock: tuple[Bar, ...], kerf: int,
    lost: list[str], proved: bool,
) -> BarPlan:  # fmt: skip
    """Names given to what was chosen; more than asked is not cut."""
    waiting: dict[int, list[Length]] = {size: [] for size in sizes}
    for n in lengths:
        waiting[math.ceil(n.mm * UNIT - LEAST) + kerf] += [n] * n.count
    bars = []
    for at, counts in sorted(chosen, key=lambda one: -int(np.asarray(one[1]) @ np.array(sizes))):
        cut = [waiting[size].pop(0) for size, many in zip(sizes, counts, strict=True)
               for _ in range(min(int(many), len(waiting[size])))]  # fmt: skip
        if cut:
            used = sum(n.mm + kerf / UNIT for n in cut)
            left = max(0.0, stock[at].mm - used)
            bars.append(CutBar(stock[at], tuple((n.key, n.mm) for n in cut), left))
    lost += [n.key for left_over in waiting.values() for n in left_over]
    bars.sort(key=lambda bar: not bar.bar.offcut)
    return BarPlan(tuple(bars), tuple(lost), proved and not lost)
