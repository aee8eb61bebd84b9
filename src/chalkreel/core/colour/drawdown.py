"""The drawdown card: a sheet to print and paint on, and reading a photograph of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.arrays import Array
from chalkreel.core.colour.marked_sheet import CARD, Box, SheetPhotograph
from chalkreel.core.media.picture import Picture

FIELD_MM: Final = (30.0, 26.0)
# Shares of the paint in the tints, by drops: 1 in 2, 1 in 5, 1 in 17.
TINTS: Final = (0.5, 0.2, 1.0 / 17.0)
FIELDS: Final = (
    "masstone over white",
    "masstone over black",
    "1 drop + 1 white",
    "1 drop + 4 white",
    "1 drop + 16 white",
)
# Paint at a field's rim is uneven.
RIM_MM: Final = 6.0


@dataclass(frozen=True)
class Field:
    """A field of the card; `black` is printed black below the paint."""

    name: str
    box: Box
    black: bool = False


@dataclass(frozen=True, eq=False)
class CardReading:
    """L*a*b* (3,) of each field by name; `problems` says what is wrong with the photograph."""

    colours: dict[str, Array]
    problems: tuple[str, ...]


def fields() -> tuple[Field, ...]:
    """Two masstones above, three tints below."""
    width = FIELD_MM[0]
    return (
        Field(FIELDS[0], Box(35.0, 30.0, *FIELD_MM)),
        Field(FIELDS[1], Box(35.0 + width + 25.0, 30.0, *FIELD_MM), black=True),
        *(Field(name, Box(35.0 + n * (width + 15.0), 78.0, *FIELD_MM)) for n, name in enumerate(FIELDS[2:])),
    )


def read_card(picture: Picture) -> CardReading:
    """Find the card in a photograph and read its fields.

    Raises
    ------
    RefusedError
        Fewer than four corner marks are to be seen.
    """
    photograph = SheetPhotograph(picture)
    plane = photograph.plane(CARD)
    readings = {
        field.name: photograph.read(plane, field.box.inset(RIM_MM, RIM_MM), _paper_beside(field.box), field.name)
        for field in fields()
    }
    problems = dict.fromkeys(words for reading in readings.values() for words in reading.problems)
    return CardReading({name: reading.lab for name, reading in readings.items()}, tuple(problems))


def _paper_beside(box: Box) -> tuple[Box, Box]:
    """Strips of bare paper left and right of a field."""
    left = Box(box.x_mm - 6.5, box.y_mm, 4.5, box.height_mm)
    right = Box(box.x_mm + box.width_mm + 2.0, box.y_mm, 4.5, box.height_mm)
    return left.inset(0.5, 0.5), right.inset(0.5, 0.5)
