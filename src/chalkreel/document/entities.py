"""Everything a build consists of: immutable entities with stable ids.

Lengths are mm on the link of the scale chain that the entity names; pixels are stored pixels.
"""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from chalkreel.core.convert.kinds import PartState, Verb, Way, When
from chalkreel.core.draft.corners import EdgeCorner
from chalkreel.core.draft.node import NodeKind
from chalkreel.core.draft.sheet import LineLayer
from chalkreel.core.finish.stacks import Canopy, Chipping, Filler, Gloss, Powders, Wash
from chalkreel.core.lengths import LengthUnit
from chalkreel.core.measure.axis import Axis
from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.sides import SEVERAL
from chalkreel.core.scale import Link
from chalkreel.document.bench_entities import FindingDecision, LogEntry, ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.convert_entities import CutPiece, Cutting, KitRecord, Order, StockPiece
from chalkreel.document.entity import Amount, Count, Day, Entity, Length, Name, Positive, Text
from chalkreel.document.finish_entities import Assembly, Evening, KeptFinish, PlannedTime, WrongStep
from chalkreel.document.light_entities import BranchReading, Lamp, LightBranch, LightDriver, LightPlan, PowerSupply
from chalkreel.document.paint_entities import ColourPatch, FinishChip, PaintPot, ShelfPaint, Stripe, Surface, Zone

# One word, or words of several sides in this order: "port bow".
Side = Annotated[str, Meta(pattern=r"^(several|(?=[a-z])(port|starboard)?((?:^| )(bow|aft))?((?:^| )(top|bottom))?)$")]
StillKind = Literal["photo of the miniature", "screen frame", "exhibit", "print", "plan", "other"]
Trust = Literal["high", "fair", "low"]
Source = Literal["kit", "printed parts", "sheet and rod", "soft vinyl"]

STILL_KINDS: tuple[StillKind, ...] = ("photo of the miniature", "screen frame", "exhibit", "print", "plan", "other")
TRUSTS: tuple[Trust, ...] = ("high", "fair", "low")
SOURCES: tuple[Source, ...] = ("kit", "printed parts", "sheet and rod", "soft vinyl")
BUILD_ID = "build"


class BuildInfo(Entity, tag="build", frozen=True, kw_only=True):
    """Name, versions and scale chain; `order` is the user's wish for the sequence, `plan` one offered and taken.

    `done_at` is when steps were done, `minutes_left` what half done ones still take, `wrong` what is to be done again.
    `sources` is what it is built from; a `dark` model gets no lamps. `chipping` to `wash` are schools; `days_off` run
    from day to day; what bears it dries in a `cabinet`."""

    name: Name
    story_mm: Length
    miniature_mm: Length
    replica_mm: Length
    version_id: str = ""
    kit_version_id: str = ""
    unit: LengthUnit = "mm"
    first_bench_day: str = ""
    order: tuple[str, ...] = ()
    done: tuple[str, ...] = ()
    done_at: tuple[tuple[str, str], ...] = ()
    minutes_left: tuple[tuple[str, Count], ...] = ()
    wrong: tuple[WrongStep, ...] = ()
    plan: tuple[PlannedTime, ...] = ()
    space_name: str = ""
    space_mm: Length | None = None
    coverage_cm2_per_ml: Positive = 90.0
    loss_percent: Annotated[float, Meta(ge=0, lt=100)] = 30.0
    thinner_parts: Amount = 1.0
    touch_up_ml: Amount = 1.0
    sources: tuple[Source, ...] = ("kit",)
    dark: bool = False
    room_c: Annotated[float, Meta(ge=-30, le=60)] = 20.0
    room_humidity: Annotated[float, Meta(ge=0, le=100)] = 50.0
    cabinet: bool = False
    days_off: tuple[tuple[Day, Day], ...] = ()
    chipping: Chipping = "medium"
    filler: Filler = "putty"
    powders: Powders = "left"
    canopy: Canopy = "last"
    gloss: Gloss = "always"
    wash: Wash = "enamel"
    deadline: Day = ""


class Version(Entity, tag="version", frozen=True, kw_only=True):
    """One of the subject's versions."""

    name: Name


class SquaredPlane(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a squared-up still shows: so many mm of the miniature to a pixel, upper left corner and axes in the world.

    The corner is None where only the still, not the subject, is known. It is of the flat or rectangle `plane_id`, made
    from `source_ids`. Where it lies now follows from `anchors`, landmarks by id and where they are on it.
    """

    mm_per_px: Positive
    corner_mm: tuple[float, float, float] | None = None
    right: tuple[float, float, float] = (1.0, 0.0, 0.0)
    down: tuple[float, float, float] = (0.0, 1.0, 0.0)
    plane_id: str = ""
    anchors: tuple[tuple[str, float, float], ...] = ()
    source_ids: tuple[str, ...] = ()


class Still(Entity, tag="still", frozen=True, kw_only=True):
    """A reference picture and what it is worth; stills with the same `lens` share one.

    A `flopped` one was printed the wrong way round: it is shown, and all marks on it stand, turned left to right.
    """

    title: Name
    blob: str
    width_px: Count
    height_px: Count
    number: Count
    side: Side = SEVERAL
    version_id: str = ""
    still_kind: StillKind = "other"
    pixel_aspect: Annotated[float, Meta(ge=0.05, le=20)] = 1.0
    cropped: bool = False
    flopped: bool = False
    trust: Trust = "fair"
    note: Text = ""
    tilt_sigma_deg: Annotated[float, Meta(gt=0, le=45)] = 2.0
    lens: str = ""
    squared: SquaredPlane | None = None


def reel_place(still: Still) -> tuple[bool, int]:
    """Where a still stands on the reel: by its number, those that were squared up last."""
    return still.squared is not None, still.number


class KitPart(Entity, tag="kit part", frozen=True, kw_only=True):
    """A part of the kit as it came out of the box; its name says where it hangs ("C2 port tail fin").

    `count` is how many there should be, `colour` what it is moulded in or will be painted with, `photo` a picture.
    """

    name: Name
    state: PartState = "present"
    fit_note: Text = ""
    calliper_mm: Length | None = None
    count: Count = 1
    colour: Name = ""
    photo: str = ""


class Plane(Entity, tag="plane", frozen=True, kw_only=True):
    """Four corners of a rectangle on a still. With `height_mm` None, `width_mm` is the ratio of its sides."""

    still_id: str
    name: Name
    corners: tuple[Mark, Mark, Mark, Mark]
    width_mm: Length
    width_sigma_mm: Length
    height_mm: Length | None = None
    height_sigma_mm: Amount = 0.0
    link: Link = "miniature"


class RulerMark(Entity, tag="ruler", frozen=True, kw_only=True):
    """Two marks whose distance is known on one link of the scale chain."""

    still_id: str
    plane_id: str
    name: Name
    a: Mark
    b: Mark
    length_mm: Length
    sigma_mm: Length
    link: Link


class Landmark(Entity, tag="landmark", frozen=True, kw_only=True):
    """A named point of the subject. `mirror_id` is its twin across the centre line; its own id puts it on the line.

    `place_mm` is where a plan has it: towards the bow, to port, up, on the link named. `assembly` is what it moves with
    on the replica; empty for what its name says.
    """

    name: Name
    mirror_id: str = ""
    assembly: Text = ""
    place_mm: tuple[float, float, float] | None = None
    place_sigma_mm: Length = 0.5
    link: Link = "miniature"


class LandmarkMark(Entity, tag="landmark mark", frozen=True, kw_only=True):
    """A landmark marked on a still; `unconfirmed`, and no evidence, where it was taken over from where the program
    expected it, until somebody has moved it, snapped it or looked at it closely.
    """

    still_id: str
    landmark_id: str
    mark: Mark
    unconfirmed: bool = False


class EdgeMark(Entity, tag="edge", frozen=True, kw_only=True):
    """A straight edge marked on a still, along "length", "beam", "height" or a direction of any other name."""

    still_id: str
    a: Mark
    b: Mark
    direction: str


class StraightEdge(Entity, tag="straight edge", frozen=True, kw_only=True):
    """Points along an edge that is straight in truth: they show how the lens bends."""

    still_id: str
    marks: tuple[Mark, ...]


class Tie(Entity, tag="tie", frozen=True, kw_only=True):
    """The straight edge between two landmarks; it runs along a direction, where one is named."""

    a_id: str
    b_id: str
    direction: str


class FlatSet(Entity, tag="flat", frozen=True, kw_only=True):
    """Landmarks in one plane; `across` is the axis that it is square to, where that is known."""

    name: Name
    landmark_ids: tuple[str, ...]
    across: Axis | None = None


class SkinFace(Entity, tag="face", frozen=True, kw_only=True):
    """A piece of the subject's skin; with `twin`, on the other side too. With `template` it is drawn to be cut out.

    Flat between landmarks, in order round it; or within one circle or traced outline, or the wall between two, or
    `across` from one outline to its mirror image. It is painted with a zone.
    """

    name: Name
    landmark_ids: tuple[str, ...] = ()
    circle_ids: tuple[str, ...] = ()
    outline_ids: tuple[str, ...] = ()
    across: bool = False
    zone_id: str = ""
    twin: bool = True
    template: bool = False


class RoundShape(Entity, tag="circle", frozen=True, kw_only=True):
    """A true circle; `across` is the axis that it is square to, where that is known."""

    name: Name
    across: Axis | None = None


class RimMark(Entity, tag="rim", frozen=True, kw_only=True):
    """Points clicked round a circle's rim on a still; `mirrored` means its twin across the centre line."""

    still_id: str
    circle_id: str
    marks: tuple[Mark, ...]
    mirrored: bool = False


class KnownLength(Entity, tag="known length", frozen=True, kw_only=True):
    """A ruler for the whole reel: between two landmarks, or the diameter of a circle."""

    name: Name
    length_mm: Length
    sigma_mm: Length
    link: Link
    a_id: str = ""
    b_id: str = ""
    along: Axis | None = None
    circle_id: str = ""


class Dimension(Entity, tag="dimension", frozen=True, kw_only=True):
    """A size that is wanted, perhaps that of a kit part.

    Between two landmarks (straight or along an axis, divided into `steps`), an angle at `corner_id`, or a
    circle's diameter; with none of these it is read off single stills. `drawn` puts it on the three-view drawing.
    """

    name: Name
    part_id: str = ""
    a_id: str = ""
    b_id: str = ""
    corner_id: str = ""
    circle_id: str = ""
    along: Axis | None = None
    steps: Count = 1
    drawn: bool = False


class Reading(Entity, tag="reading", frozen=True, kw_only=True):
    """A dimension marked on one still; an empty plane means square on."""

    dimension_id: str
    still_id: str
    plane_id: str
    a: Mark
    b: Mark


class Outline(Entity, tag="outline", frozen=True, kw_only=True):
    """A part's outline traced on a squared-up still, and what template to make of it.

    `bends` says for each point whether it is a "corner", the middle of an "arc" or on a "smooth" run. At its `edges`
    (none means all) it meets another panel by `corner`, of a sheet `sheet_mm` thick, and is widened by `allowance_mm`.
    """

    still_id: str
    name: Name
    points: tuple[Mark, ...]
    bends: tuple[NodeKind, ...]
    layer: LineLayer = "cut"
    closed: bool = True
    mirror: bool = False
    allowance_mm: Annotated[float, Meta(ge=-1e4, le=1e4)] = 0.0
    edges: tuple[int, ...] = ()
    corner: EdgeCorner = "as drawn"
    sheet_mm: Amount = 0.0


class Collar(Entity, tag="collar", frozen=True, kw_only=True):
    """A cone or cylinder to be unrolled, in mm of the replica."""

    name: Name
    lower_mm: Amount
    upper_mm: Amount
    height_mm: Amount


class RepeatedParts(Entity, tag="repeated parts", frozen=True, kw_only=True):
    """Like parts clicked round a rim, every other turned round if they `alternate`: on a squared-up still, or in the
    plane of a solved circle on any still.
    """

    still_id: str
    name: Name
    marks: tuple[Mark, ...]
    circle_id: str = ""
    mirrored: bool = False
    alternate: bool = False


class Spot(Entity, tag="spot", frozen=True, kw_only=True):
    """A chip, hit, streak or decal seen on a still, from one end to the other."""

    still_id: str
    name: Name
    a: Mark
    b: Mark


class Feature(Entity, tag="feature", frozen=True, kw_only=True):
    """Something that differs between versions, with the user's own choices for its jobs.

    `dimension_id` is the size it is made to, `other_dimension_ids` further ones; `landmark_id` is where it sits.
    A new part is come by in a `way`; `also` are jobs added by hand. A `late` one was found after work had begun.
    """

    name: Name
    assembly: str
    moulded_on: bool = False
    part_id: str = ""
    dimension_id: str = ""
    material: str = ""
    hours: Amount | None = None
    when: When | None = None
    other_dimension_ids: tuple[str, ...] = ()
    landmark_id: str = ""
    way: Way = ""
    also: tuple[Verb, ...] = ()
    late: bool = False


class FeatureInVersion(Entity, tag="feature in version", frozen=True, kw_only=True):
    """A feature as one version had it; `present` None means no still decides it. `parts` are numbers on the sheet."""

    feature_id: str
    version_id: str
    present: bool | None
    form: str = ""
    place: str = ""
    still_id: str = ""
    parts: Name = ""


AnyEntity = (
    StraightEdge | Outline | Collar | Spot | RepeatedParts
    | Landmark | LandmarkMark | EdgeMark | Tie | FlatSet | SkinFace | RoundShape | RimMark | KnownLength
    | BuildInfo | Version | Still | KitPart | Plane | RulerMark | Dimension | Reading | Feature | FeatureInVersion
    | PowerSupply | Lamp | LightBranch | LightDriver | BranchReading | LightPlan | Surface | ColourPatch | ShelfPaint
    | Stripe | FinishChip | PaintPot | Zone | KeptFinish | Assembly | Evening | LogEntry | ReplicaPhoto
    | ReplicaMark | ReplicaReading | FindingDecision | StockPiece | CutPiece | Cutting | Order | KitRecord
)  # fmt: skip
