"""Entities of the conversion: stock, pieces to cut, orders, and what the kit was worth."""

from __future__ import annotations

from typing import Annotated, Final, Literal

from msgspec import Meta

from chalkreel.core.convert.kinds import Corner, SourceKind, StockForm
from chalkreel.document.entity import Amount, Count, Day, Entity, Length, Name

PieceShape = Literal["rectangle", "disc", "ring", "length", "box", "bend", "wrap", "template"]
Score = Annotated[int, Meta(ge=0, le=10)]
Days = Annotated[int, Meta(ge=0, le=1000)]
Many = Annotated[int, Meta(ge=0, le=10_000)]

PIECE_SHAPES: Final[tuple[PieceShape, ...]] = (
    "rectangle", "disc", "ring", "length", "box", "bend", "wrap", "template",
)  # fmt: skip
# What the sizes of a shape are, in their order, mm of the replica (°, where it says so).
SHAPE_SIZES: Final[dict[PieceShape, tuple[str, ...]]] = {
    "rectangle": ("long", "wide"), "disc": ("Ø",), "ring": ("Ø", "inner Ø"), "length": ("long", "section wide"),
    "box": ("long", "wide", "high"), "bend": ("leg", "leg", "wide", "inner radius", "angle °"),
    "wrap": ("Ø", "wide"), "template": (),
}  # fmt: skip
KIT_ID: Final = "kit-record"
CUTTING_ID: Final = "cutting"


class StockPiece(Entity, tag="stock", frozen=True, kw_only=True):
    """Sheet, strip, rod or tube that is owned: sizes in mm as measured, how many are left, the price of one.

    A strip is `thick_mm` by `wide_mm`, a rod or tube `thick_mm` across. `corners` is an offcut that is no rectangle.
    """

    name: Name
    form: StockForm = "sheet"
    material: Name = "styrene"
    thick_mm: Length
    wide_mm: Length
    long_mm: Length
    count: Many = 1
    offcut: bool = False
    corners: tuple[tuple[float, float], ...] = ()
    grained: bool = False
    one_face: bool = False
    price: Amount = 0.0
    where: Name = ""


class CutPiece(Entity, tag="cut piece", frozen=True, kw_only=True):
    """Something to cut, in sizes of its shape (`SHAPE_SIZES`); `mirrored` adds the mirror image of each.

    `thick_mm` None means that nobody has said yet. `source_id` is the outline, face or collar of a template. What is
    `cut` is on the list no longer.
    """

    name: Name
    shape: PieceShape = "rectangle"
    sizes_mm: tuple[Amount, ...] = ()
    form: StockForm = "sheet"
    material: Name = "styrene"
    thick_mm: Length | None = None
    count: Count = 1
    mirrored: bool = False
    along_grain: bool = False
    corner: Corner = "butt"
    source_id: str = ""
    feature_id: str = ""
    cut: bool = False


class Cutting(Entity, tag="cutting", frozen=True, kw_only=True):
    """How pieces are cut: what the blade takes away, whether only by cuts from edge to edge, how long to look for less
    waste."""

    kerf_mm: Annotated[float, Meta(ge=0, le=10)] = 0.3
    straight: bool = False
    patient: bool = False


class Order(Entity, tag="order", frozen=True, kw_only=True):
    """Something to be had from elsewhere: usual and worst days, price, and when it was ordered and came."""

    name: Name
    source: SourceKind = "order"
    feature_id: str = ""
    usual_days: Days = 7
    worst_days: Days = 21
    price: Amount = 0.0
    seller: Name = ""
    ordered_on: Day = ""
    came_on: Day = ""


class KitRecord(Entity, tag="kit record", frozen=True, kw_only=True):
    """What was paid for the kit and where, and its score of five things, 0 to 10, for the next purchase."""

    price: Amount = 0.0
    bought_at: Name = ""
    value: Score | None = None
    assembly: Score | None = None
    accuracy: Score | None = None
    quality: Score | None = None
    appeal: Score | None = None
