"""What one gesture on the cut list changes: a template's thickness, pieces cut, what is left put into stock."""

from __future__ import annotations

import math
from typing import Final

import msgspec

from chalkreel.answers.cut_pieces import entry_of, listed_pieces
from chalkreel.answers.cuts import KEPT_MM, KEPT_STRIP_MM, CutGroup, Cuts
from chalkreel.core.convert.nest.cuts import Box
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.document.changes import Edits
from chalkreel.document.convert_entities import CutPiece, StockPiece
from chalkreel.document.entity import new_id
from chalkreel.document.snapshot import Build

DISC_CORNERS: Final = 36


def told_piece(build: Build, piece_id: str) -> CutPiece | None:
    """A piece of the list; a template of which nothing was told becomes one of its own."""
    known = next((piece for piece in listed_pieces(build) if piece.id == piece_id), None)
    return msgspec.structs.replace(known, id=new_id()) if known is not None and known.id == known.source_id else known


def put(build: Build, piece_id: str, **fields: object) -> Edits:
    """Say something of a piece."""
    piece = told_piece(build, piece_id)
    if piece is None:
        return {}
    made = msgspec.structs.replace(piece, **fields)
    return {made.id: made}


def all_templates_told(build: Build, piece_ids: tuple[str, ...], thick_mm: float) -> Edits:
    """One thickness for several pieces at once."""
    edits: Edits = {}
    for piece_id in piece_ids:
        edits |= put(build, piece_id, thick_mm=thick_mm)
    return edits


def cut_now(build: Build, found: Cuts, group: CutGroup) -> Edits:
    """All pieces of a group are cut: its stock is used up, what stays whole becomes an offcut.

    A piece goes off the list only where all its layers are cut: those that are cut from other groups too are told by
    the layers that are left.

    Raises
    ------
    RefusedError
        Some of its pieces have no place yet.
    """
    lost = (group.layout.unplaced if group.layout else ()) + (group.bars.unplaced if group.bars else ())
    if lost:
        many = plural(len(lost), "piece has", "pieces have")
        raise RefusedError(f"{many} no place yet: enter more stock, or take it off the list.")
    edits: Edits = {}
    for laid, sheet in zip(group.layout.laid if group.layout else (), group.sheets, strict=True):
        _take(build, laid.sheet.key, edits)
        for box in sheet.stays:
            _keep(build, laid.sheet.key, box, edits)
        for placed in laid.placed:
            _keep_disc(build, laid.sheet.key, entry_of(placed.piece), edits)
    for bar in group.bars.bars if group.bars else ():
        _take(build, bar.bar.key, edits)
        if bar.left_mm >= KEPT_STRIP_MM:
            _keep(build, bar.bar.key, (0.0, 0.0, bar.left_mm, 0.0), edits)
    laid_out = _entries(group)
    for row in found.rows:
        if row.piece_id in laid_out:
            rest = [mm for mm in row.layers_mm if mm != group.thick_mm]
            edits |= put(build, row.piece_id, **({"thick_mm": sum(rest)} if rest else {"cut": True}))
    return edits


def _entries(group: CutGroup) -> set[str]:
    """The entries of the list that something of this group belongs to."""
    keys = [p.piece for laid in (group.layout.laid if group.layout else ()) for p in laid.placed]
    keys += [key for bar in (group.bars.bars if group.bars else ()) for key, _ in bar.lengths]
    return {entry_of(key) for key in keys}


def _take(build: Build, stock_id: str, edits: Edits) -> None:
    """One of a stock less; an offcut that is used up is there no longer."""
    present = edits.get(stock_id, build.get(StockPiece, stock_id))
    if isinstance(present, StockPiece):
        less = msgspec.structs.replace(present, count=max(0, present.count - 1))
        edits[stock_id] = None if less.offcut and not less.count else less


def _keep(build: Build, stock_id: str, box: Box, edits: Edits) -> None:
    source = build.get(StockPiece, stock_id)
    if source is not None:
        wide = box[3] - box[1] or source.wide_mm
        kept = msgspec.structs.replace(
            source, id=new_id(), long_mm=round(box[2] - box[0], 1), wide_mm=round(wide, 1), count=1, offcut=True,
            corners=(), price=0.0,
        )  # fmt: skip
        edits[kept.id] = kept


def _keep_disc(build: Build, stock_id: str, piece_id: str, edits: Edits) -> None:
    """What falls out of a ring is an offcut too, drawn a little smaller than it is."""
    piece, source = told_piece(build, piece_id), build.get(StockPiece, stock_id)
    across = piece.sizes_mm[1] if piece is not None and piece.shape == "ring" else 0.0
    if source is None or piece is None or across < KEPT_MM:
        return
    turns = (2 * math.pi * n / DISC_CORNERS for n in range(DISC_CORNERS))
    corners = tuple((across / 2 * (1 + math.cos(t)), across / 2 * (1 + math.sin(t))) for t in turns)
    kept = msgspec.structs.replace(
        source, id=new_id(), name=f"disc out of {piece.name}", long_mm=across, wide_mm=across, count=1, offcut=True,
        corners=corners, price=0.0,
    )  # fmt: skip
    edits[kept.id] = kept
