"""Everything that was marked on a reel, as the solver takes it: stills, landmarks, marks, edges, circles, rulers.

Keys are whatever the caller tells things apart by; nothing here says them to a person.
Lengths are mm on one common link (the filmed miniature). Directions called "length", "beam" and "height"
are the world's x, y and z; any other name is a direction of its own that the solver finds.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.axis import Axis
from chalkreel.core.measure.bend import Bend
from chalkreel.core.measure.marks import Mark

Direction = str
# A drawing is taken from so many times its own width away: over a subject as deep as it is wide, a line then changes
# by a thousandth of its length.
FAR = 1000.0


@dataclass(frozen=True)
class View:
    """A still as a camera sees it.

    `lens` is a name: views with the same name share focal length and bend. `focal_px` is a known focal length
    with its relative σ, where there is one, `bend` what straight edges say of the bend. `side` is the side tag;
    "several" says nothing. An `orthographic` one is a drawing: seen from so far that nothing is nearer or farther.
    """

    key: str
    size_px: tuple[int, int]
    pixel_aspect: float = 1.0
    cropped: bool = False
    side: str = "several"
    lens: str = ""
    focal_px: float | None = None
    focal_sigma: float = 0.05
    bend: Bend | None = None
    orthographic: bool = False

    @property
    def known_focal_px(self) -> float | None:
        """The focal length known beforehand, in pixels; a drawing's stands for none at all."""
        width = max(self.size_px[0] * self.pixel_aspect, self.size_px[1])
        return FAR * width if self.orthographic else self.focal_px


@dataclass(frozen=True)
class Landmark:
    """A point. `mirror` is its twin across the mirror plane; its own key says it lies in that plane.

    `place_mm` is where a set plan or the kit says it lies, within `place_sigma_mm`.
    """

    key: str
    mirror: str = ""
    place_mm: tuple[float, float, float] | None = None
    place_sigma_mm: float = 0.5


@dataclass(frozen=True)
class Sighting:
    """A landmark marked on a view."""

    view: str
    landmark: str
    mark: Mark


@dataclass(frozen=True)
class Edge:
    """A straight edge seen on a view, parallel to a direction."""

    view: str
    a: Mark
    b: Mark
    direction: Direction


@dataclass(frozen=True)
class Parallel:
    """The line between two landmarks is parallel to a direction, within an angle (1 σ)."""

    a: str
    b: str
    direction: Direction
    sigma_deg: float = 0.1


@dataclass(frozen=True)
class Flat:
    """Landmarks that lie in one plane, within a distance (1 σ); `across` names the axis that it is square to."""

    key: str
    landmarks: tuple[str, ...]
    sigma_mm: float = 0.2
    across: Axis | None = None


@dataclass(frozen=True)
class Circle:
    """A true circle; `across` names the axis that its plane is square to, None where that is not known."""

    key: str
    across: Axis | None = None


@dataclass(frozen=True)
class Rim:
    """Points clicked on the outline of a circle on a view; `mirrored` means the circle's twin."""

    view: str
    circle: str
    marks: tuple[Mark, ...]
    mirrored: bool = False


@dataclass(frozen=True)
class Ruler:
    """A known distance between two landmarks, or along one axis only."""

    key: str
    a: str
    b: str
    length_mm: float
    sigma_mm: float
    along: Axis | None = None


@dataclass(frozen=True)
class Gauge:
    """A known diameter of a circle."""

    key: str
    circle: str
    diameter_mm: float
    sigma_mm: float


@dataclass(frozen=True)
class Scene:
    """All observations together.

    Raises
    ------
    ValueError
        A key that is not there, a pair whose halves disagree.
    RefusedError
        A ruler of no length.
    """

    views: tuple[View, ...]
    landmarks: tuple[Landmark, ...]
    sightings: tuple[Sighting, ...] = ()
    edges: tuple[Edge, ...] = ()
    parallels: tuple[Parallel, ...] = ()
    flats: tuple[Flat, ...] = ()
    circles: tuple[Circle, ...] = ()
    rims: tuple[Rim, ...] = ()
    rulers: tuple[Ruler, ...] = ()
    gauges: tuple[Gauge, ...] = ()

    @cached_property
    def marks(self) -> Mapping[str, Mapping[str, Array]]:
        """Stored pixels (2,) by view and landmark."""
        found: dict[str, dict[str, Array]] = {view.key: {} for view in self.views}
        for s in self.sightings:
            found[s.view][s.landmark] = np.array([s.mark.x_px, s.mark.y_px])
        return found

    def __post_init__(self) -> None:
        names = {landmark.key: landmark for landmark in self.landmarks}
        views, circles = {view.key for view in self.views}, {circle.key for circle in self.circles}
        used = [s.landmark for s in self.sightings] + [n for f in self.flats for n in f.landmarks]
        used += [n for p in self.parallels for n in (p.a, p.b)] + [n for r in self.rulers for n in (r.a, r.b)]
        seen = [s.view for s in self.sightings] + [e.view for e in self.edges] + [r.view for r in self.rims]
        round_ = [r.circle for r in self.rims] + [g.circle for g in self.gauges]
        lost = (set(used) - set(names)) | (set(seen) - views) | (set(round_) - circles)
        if lost:
            raise ValueError(f"{sorted(lost)[0]!r} is used but not there")
        for landmark in self.landmarks:
            twin = names.get(landmark.mirror)
            if landmark.mirror and (twin is None or twin.mirror != landmark.key):
                raise ValueError(f"{landmark.key!r} and {landmark.mirror!r} are not each other's mirror image")
        claims = [(r.length_mm, r.sigma_mm) for r in self.rulers]
        claims += [(g.diameter_mm, g.sigma_mm) for g in self.gauges]
        if not all(length > 0 and sigma > 0 for length, sigma in claims):
            raise RefusedError("A ruler needs a length and a ± above nothing.")
