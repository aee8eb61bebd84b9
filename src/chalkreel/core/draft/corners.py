"""What becomes of the edges of a panel where it meets another: how far each is cut back, and how it is told."""

from __future__ import annotations

from typing import Final, Literal, get_args

from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import LengthUnit, format_length

# As drawn; over the neighbour's edge; behind the neighbour, which is some sheet; both bevelled.
EdgeCorner = Literal["as drawn", "over", "behind", "mitre"]
EDGE_CORNERS: Final[tuple[EdgeCorner, ...]] = get_args(EdgeCorner)


def cut_back_mm(corner: EdgeCorner, sheet_mm: float) -> float:
    """How much less than the outside is cut at an edge: an outline is traced round what is seen from outside.

    Raises
    ------
    RefusedError
        An edge behind a sheet of unknown thickness.
    """
    if corner != "behind":
        return 0.0
    if sheet_mm <= 0:
        raise RefusedError("Say how thick the sheet is that its edges stand behind.")
    return sheet_mm


def corner_words(corner: EdgeCorner, sheet_mm: float, edges: tuple[int, ...], unit: LengthUnit) -> str:
    """How the edges of a panel are made, to stand on its template; empty where they are cut as drawn."""
    where = f"{'edges' if len(edges) > 1 else 'edge'} {', '.join(map(str, edges))}" if edges else "all edges"
    return {
        "as drawn": "",
        "over": f"{where}: over the neighbour, not cut back",
        "behind": f"{where}: behind a sheet of {format_length(sheet_mm, unit)}, cut back by it",
        "mitre": f"{where}: bevel inside by half the corner's angle, 45° at a square one",
    }[corner]
