"""The steps of a finishing sequence, and what each kind of step takes and leaves on the surface."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Final, Literal

import msgspec

from chalkreel.core.finish.drying import CABINET_SHARE, DRYING, UNHEATED, Room, State, waits

# A fact of a coat of paint that dries to a gloss by itself.
SHINY: Final = "shiny"
# A fact of a coat that is sprayed without tape, its edge left soft.
FREEHAND: Final = "freehand"
# A fact of a stripe that was to come before the colour round it, and cannot.
NOT_FIRST: Final = "not first"
Tool = Literal["spray", "hand", "once", "look"]
Lays = Literal[
    "", "inside", "sealer", "primer", "shade", "undercoat", "medium", "colour", "tape", "edge", "detail", "varnish",
    "decal", "wash", "mark", "shine", "powder",
]  # fmt: skip
# Steps that touch what is still soft on purpose, and those that touch nothing.
_TOUCHES_SOFT: Final = frozenset({"unmask", "unmask bright", "wipe", "chip", "compare"})


class StepKind(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Title, hands-on minutes, tool, the layer it lays and how that dries, materials and cautions."""

    title: str
    minutes: int
    tool: Tool
    lays: Lays = ""
    material: str = ""
    colour: str = ""
    materials: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


class _StepBook(msgspec.Struct, frozen=True):
    kinds: dict[str, StepKind]
    cautions: dict[str, str]


@cache
def _book() -> _StepBook:
    data = files("chalkreel.core.finish").joinpath("data/steps.toml").read_bytes()
    return msgspec.toml.decode(data, type=_StepBook)


def step_kinds() -> dict[str, StepKind]:
    """All kinds, in the order of the usual stack."""
    return _book().kinds


def caution_words(kind: str) -> tuple[str, ...]:
    """The cautions that go with a kind of step."""
    return tuple(_book().cautions[name] for name in step_kinds()[kind].cautions)


@dataclass(frozen=True)
class Step:
    """One step; `zone` is empty where it concerns the whole assembly.

    `medium` is what it leaves to dry, as drying.py names it (empty for nothing), `colour` what is in the cup; `coat` of
    `coats` for those that take several. `facts` is what is known of the surface it works on.
    """

    id: str
    kind: str
    assembly: str
    zone: str
    title: str
    minutes: int
    materials: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    medium: str = ""
    colour: str = ""
    lightness: float | None = None
    coat: int = 1
    coats: int = 1
    facts: tuple[str, ...] = ()

    @property
    def spray(self) -> bool:
        """It needs the airbrush."""
        return step_kinds()[self.kind].tool == "spray"

    @property
    def split(self) -> bool:
        """It may be left and taken up again another evening."""
        return step_kinds()[self.kind].tool == "hand"

    @property
    def touches_soft(self) -> bool:
        """It works on paint that is still soft, as tape is taken off, or only looks."""
        return self.kind in _TOUCHES_SOFT

    @property
    def leaves_wet(self) -> bool:
        """It leaves something that marks until it is touch-dry."""
        return bool(self.medium) and step_kinds()[self.kind].lays not in ("", "tape", "powder")

    @property
    def spares_own_zone(self) -> bool:
        """It sprays one zone, and may do so while that is only flashed off."""
        return self.spray and bool(self.zone)

    @property
    def handles_all(self) -> bool:
        """It takes every assembly in the hand."""
        return self.kind == "join"

    def dries(self, state: State, room: Room) -> tuple[float, float]:
        """Low and high hours from its end until what it leaves has reached a state."""
        if not self.medium:
            return 0.0, 0.0
        low, high = waits(self.medium, state, room)
        warm = room.cabinet and DRYING[self.medium].carrier != "moisture" and not UNHEATED & set(self.facts)
        return (low * CABINET_SHARE, high * CABINET_SHARE) if warm else (low, high)
