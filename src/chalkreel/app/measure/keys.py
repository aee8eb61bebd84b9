"""Which key takes up which tool in Measure."""

from __future__ import annotations

from chalkreel.app.stills.tools import (
    ANGLE,
    EDGE,
    FACE,
    FLAT,
    LANDMARK,
    OUTLINE,
    RECTANGLE,
    REPEAT,
    RIM,
    RULER,
    SIZE,
    SPOT,
    STRAIGHT,
    ToolKind,
)

KEYS: tuple[tuple[ToolKind, str], ...] = (
    (LANDMARK, "L"), (EDGE, "E"), (RIM, "O"), (REPEAT, "N"), (FLAT, "F"), (FACE, "W"), (STRAIGHT, "I"),
    (OUTLINE, "T"), (SPOT, "M"), (RULER, "R"), (SIZE, "S"), (ANGLE, "A"), (RECTANGLE, "P"),
)  # fmt: skip
