"""The best of all ways to lay pieces out, checked before it is shown."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace

from chalkreel.core.convert.nest import outlines, rectangles
from chalkreel.core.convert.nest.check import faults
from chalkreel.core.convert.nest.pieces import Layout, Piece, StockSheet, checked
from chalkreel.core.errors import StoppedError

Progress = Callable[[float], bool]
# Work of the first answer and of a longer search, in rounds times pieces: about one second and ten on a small machine.
QUICK, LONG = 6_000, 60_000
# So many rounds a piece try all that a short list has to offer.
ROUNDS_A_PIECE = 40
# A round by outlines takes as long as so many by frames.
OUTLINE_ROUNDS = 30


def nested(
    pieces: tuple[Piece, ...], sheets: tuple[StockSheet, ...], kerf_mm: float, straight: bool = False,
    work: int = QUICK, progress: Progress = lambda _: True,
) -> Layout:  # fmt: skip
    """Pieces laid out on sheets of one kind: offcuts first, then the least new sheet.

    With `straight` only by cuts from edge to edge; a piece that is no rectangle is then cut out of its frame.

    Raises
    ------
    RefusedError
        Something that cannot be laid out (`pieces.checked`).
    StoppedError
        `progress` said to stop.
    """
    checked(pieces, sheets, kerf_mm)
    many = max(1, sum(piece.count for piece in pieces))
    # No more sheets than pieces are ever needed, however many are owned.
    fewer = (replace(sheet, count=min(sheet.count, many)) for sheet in sheets)
    sheets = tuple(sorted(fewer, key=lambda s: (not s.offcut, s.size[0] * s.size[1])))
    odd = tuple(sheet for sheet in sheets if not sheet.is_rectangle)
    if straight and odd:
        # What is no rectangle cannot be cut from edge to edge: it is used up by outlines, and the rest cut straight.
        first = nested(pieces, odd, kerf_mm, False, work, progress)
        even = tuple(sheet for sheet in sheets if sheet.is_rectangle)
        rest = nested(_left(pieces, first.unplaced), even, kerf_mm, True, work, progress)
        return Layout((*first.laid, *rest.laid), rest.unplaced)
    by_frames = rectangles.layouts(pieces, sheets, kerf_mm, straight)
    most = ROUNDS_A_PIECE * many
    found = [*_rounds(by_frames, max(4, min(work // many, most)), progress)]
    if not straight and not (all(p.is_rectangle for p in pieces) and not odd):
        rounds = max(2, min(work // many // OUTLINE_ROUNDS, most))
        found += _rounds(outlines.layouts(pieces, sheets, kerf_mm), rounds, progress)
    nothing = Layout((), tuple(piece.key for piece in pieces for _ in range(piece.count)))
    best_first = sorted(found, key=lambda one: one.price)
    return next((one for one in best_first if not faults(pieces, sheets, one, kerf_mm)), nothing)


def _left(pieces: tuple[Piece, ...], unplaced: tuple[str, ...]) -> tuple[Piece, ...]:
    counts = Counter(unplaced)
    return tuple(replace(piece, count=counts[piece.key]) for piece in pieces if counts[piece.key])


def _rounds(layouts: Iterator[Layout], rounds: int, progress: Progress) -> Iterator[Layout]:
    """The layouts of so many rounds, each once."""
    last = None
    for number, layout in zip(range(rounds), layouts, strict=False):
        if not progress(number / rounds):
            raise StoppedError
        if layout is not last:
            yield layout
        last = layout
