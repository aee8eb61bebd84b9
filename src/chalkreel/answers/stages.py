"""The stages of the work, in their order."""

from __future__ import annotations

from typing import Final, Literal

StageName = Literal["Gather", "Measure", "Convert", "Light", "Colour", "Finish", "Bench"]
STAGES: Final[tuple[StageName, ...]] = ("Gather", "Measure", "Convert", "Light", "Colour", "Finish", "Bench")
