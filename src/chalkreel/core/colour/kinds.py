"""The words of colour that need no arithmetic: what a document holds loads without NumPy."""

from __future__ import annotations

from typing import Final, Literal

# CIE L*, a*, b*, under D65 for the 2° observer.
Lab = tuple[float, float, float]
# Red, green and blue of the screen, 0 to 255 each.
Swatch = tuple[int, int, int]
# A meter's readings, a photographed drawdown card, a stripe on a photographed sheet, or no more than a colour.
Source = Literal["metered", "card", "stripe", "guess"]
Mode = Literal["object", "picture", "free"]
MODES: Final[tuple[Mode, ...]] = ("object", "picture", "free")
# One thin, even coat of the shelf's white halves what shows through it.
COAT: Final = 1.1
# A drop where nobody weighed their own: twenty to the millilitre.
DROP_ML: Final = 0.05
