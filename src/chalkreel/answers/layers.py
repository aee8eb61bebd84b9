"""What may lie over the picture of a side, by name; the window opens without computing any of it."""

from __future__ import annotations

from typing import Final, Literal

Layer = Literal["picture", "lines", "sizes", "landmarks", "marks", "which still"]
LAYERS: Final[tuple[Layer, ...]] = ("picture", "lines", "sizes", "landmarks", "marks", "which still")
