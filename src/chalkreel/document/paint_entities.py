"""Entities of colour and paint: surfaces, patches, paints, pots, zones."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from chalkreel.core.colour.kinds import COAT, DROP_ML, Lab, Mode, Source
from chalkreel.core.finish.stacks import Role, Wear
from chalkreel.core.light.kinds import LedColour
from chalkreel.core.materials import Medium, Sheen
from chalkreel.document.entity import Amount, Bands, Count, Entity, Name, Positive, Share, Text

Join = Literal["nothing", "sides", "sides and versions"]
Primer = Literal["white", "grey", "black", "silver"]
Drops = tuple[tuple[str, int], ...]
Coats = Annotated[int, Meta(ge=0, le=100)]

ChipLayer = Literal["gloss varnish", "satin varnish", "matte varnish", "wash"]
CHIP_LAYERS: tuple[ChipLayer, ...] = ("gloss varnish", "satin varnish", "matte varnish", "wash")
JOINS: tuple[Join, ...] = ("nothing", "sides", "sides and versions")
PRIMERS: tuple[Primer, ...] = ("white", "grey", "black", "silver")


class Surface(Entity, tag="surface", frozen=True, kw_only=True):
    """A painted surface of the subject; `drops` is the recipe settled on, if any.

    `mode` says what a mix is to look like, `known_lab` is its colour where the user knows it, `lighten` the share
    of air before it, `through` whether the mix aims through the varnish and wash planned over it. Votes of other
    sides and versions count as `join` allows. `published` is the mix, in words, that `free_lab` was computed from.
    `clear_over` is the ground that clear coats of it lie on, white, silver or a metallic paint by name; empty where its
    paint hides what is below. The recipe settled on is then for `clear_coats`.
    """

    name: Name
    drops: Drops = ()
    mode: Mode = "object"
    free_lab: Lab | None = None
    known_lab: Lab | None = None
    lighten: Share = 0.0
    through: bool = False
    join: Join = "sides"
    most_paints: Count = 4
    most_drops: Count = 24
    without: tuple[str, ...] = ()
    tolerance: Amount = 2.0
    published: Text = ""
    clear_over: Text = ""
    clear_coats: Coats = 0


class ColourPatch(Entity, tag="patch", frozen=True, kw_only=True):
    """A patch on a still: a surface's colour, or (no surface) a known neutral or colour, or a lit lamp of known colour.

    The rectangle holds it; `outline` is the polygon within, or with `brush_px` the path of a brush of that radius.
    Patches of one still on the same `facet` catch the same light; one of known colour `to_light` was turned to it, as a
    card is held up.
    """

    still_id: str
    surface_id: str
    x_px: float
    y_px: float
    width_px: Positive
    height_px: Positive
    reflectance: Share | None = None
    known_lab: Lab | None = None
    outline: tuple[tuple[float, float], ...] = ()
    brush_px: Amount = 0.0
    facet: str = ""
    to_light: bool = False
    left_out: bool = False
    lamp: LedColour | None = None


class Drawdown(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A swatch of a paint as it was read: opaque with `share` of paint in the shelf's white (1 for all of it).

    With `black` it is one coat over printed black instead, with `paper` one over bare paper; a `share` of 0 is the
    white's own coat on the same sheet.
    """

    share: Share
    reflectance: Bands
    black: bool = False
    paper: bool = False


class ShelfPaint(Entity, tag="paint", frozen=True, kw_only=True):
    """A paint's K and S at the 36 bands, relative to the shelf's white, and what is in its bottle.

    `drawdowns` are what K and S were found from, where that is known: another sheen or white finds them anew.
    `surface` is the share of light that the dry paint's surface scatters into the eye, as usual for its sheen where
    nothing told it.
    """

    name: Name
    medium: Medium
    absorption: Bands
    scattering: Bands
    sheen: Sheen = "matte"
    source: Source = "metered"
    clear: bool = False
    metallic: bool = False
    drop_ml: Positive = DROP_ML
    price_per_ml: Amount = 0.0
    ml_left: Amount | None = None
    coat: Positive = COAT
    note: Text = ""
    drawdowns: tuple[Drawdown, ...] = ()
    surface: Share | None = None


class Stripe(Entity, tag="stripe", frozen=True, kw_only=True):
    """A paint's row on a stripes sheet, printed or not yet; its reading makes a paint of the shelf by its name."""

    name: Name
    sheet: Annotated[int, Meta(ge=1, le=70)]
    row: Annotated[int, Meta(ge=1, le=11)]
    medium: Medium = "water acrylic"
    sheen: Sheen = "matte"
    printed: bool = False


class FinishChip(Entity, tag="chip", frozen=True, kw_only=True):
    """A dry swatch read before and after a layer was laid over it: so this hand's varnish, or wiped wash, comes out.

    `over` is the sheen of what lay below, paint under a varnish, varnish under a wash.
    """

    layer: ChipLayer
    over: Sheen = "matte"
    coats: Count = 1
    wash: Drops = ()
    before: Lab | None = None
    after: Lab | None = None


class PotStep(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Drops that went into a pot, and the colour of the dry test swatch made then, if one was.

    A swatch of a clear mix has so many `coats` over a ground, named as `Surface.clear_over`.
    """

    at: str
    drops: Drops
    swatch_lab: Lab | None = None
    clear_over: Text = ""
    coats: Coats = 0


class PaintPot(Entity, tag="pot", frozen=True, kw_only=True):
    """A cup of paint mixed for a surface: its history, and the remainder kept for touch-up.

    What its swatches show of the paints counts while `teaches`.
    """

    surface_id: str
    label: Name
    cup_ml: Positive
    steps: tuple[PotStep, ...] = ()
    kept_ml: Amount = 0.0
    teaches: bool = True


class ZoneDecal(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A decal on a zone, by name; `under` where a detail part is fitted over it."""

    name: Name
    under: bool = False


class Zone(Entity, tag="zone", frozen=True, kw_only=True):
    """An area of one assembly that gets one finish.

    Where `length_id` and `height_id` name measured sizes, its area is `faces` rectangles of those, else `area_cm2`.
    Its `decals` go on one by one where there is a `decal_list`.
    """

    name: Name
    assembly: str
    surface_id: str
    medium: Medium = "water acrylic"
    sheen: Sheen = "matte"
    role: Role = "base"
    wear: tuple[Wear, ...] = ()
    decals: bool = False
    decal_list: Annotated[tuple[ZoneDecal, ...], Meta(max_length=200)] = ()
    coats: Coats = 2
    area_cm2: Amount = 50.0
    primer: Primer = "grey"
    wash: Drops = ()
    filter_drops: Drops = ()
    length_id: str = ""
    height_id: str = ""
    faces: Count = 1
