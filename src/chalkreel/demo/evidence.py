"""The demo's stills with what was clicked on them."""

from __future__ import annotations

import csv
import json
from importlib.resources import files
from typing import Any, Final

from msgspec import structs

from chalkreel.core.measure.marks import Mark
from chalkreel.document.entities import AnyEntity, Plane, Reading, RulerMark, Still
from chalkreel.document.paint_entities import ColourPatch, FinishChip, PaintPot, PotStep, ShelfPaint, Stripe, Surface
from chalkreel.document.store import digest

DATA: Final = files("chalkreel.demo").joinpath("data")

STILLS: Final[tuple[dict[str, Any], ...]] = (
    {
        "id": "still-1",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-1-port-workshop.jpg",
        "title": "Port side on the workshop bench",
        "side": "port",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "tilt_sigma_deg": 1.0,
        "note": "Long lens, tripod, north window. Grey card on the bench.",
    },
    {
        "id": "still-2",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-2-bow-port-workshop.jpg",
        "title": "Bow and port quarter, lamps on",
        "side": "bow",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "note": "Tungsten lamps. The same grey card leans in front.",
    },
    {
        "id": "still-3",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-3-top-workshop.jpg",
        "title": "From the gantry, straight down",
        "side": "top",
        "still_kind": "photo of the miniature",
        "trust": "high",
        "note": "Card lies on the bench, upper right.",
    },
    {
        "id": "still-4",
        "width_px": 720,
        "height_px": 576,
        "file": "still-4-starboard-frame.jpg",
        "title": "Starboard, episode 3",
        "side": "starboard",
        "still_kind": "screen frame",
        "trust": "fair",
        "pixel_aspect": 16 / 15,
        "note": "Graded blue for night. Stored at 720 × 576.",
    },
    {
        "id": "still-5",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-5-special-exhibit.jpg",
        "title": "The Special, exhibit hall",
        "side": "starboard",
        "still_kind": "exhibit",
        "trust": "low",
        "version": "special",
        "note": "Repainted after the Special; not our version.",
    },
    {
        "id": "still-6",
        "width_px": 1200,
        "height_px": 840,
        "file": "still-6-aft-print.jpg",
        "title": "Aft, from a faded print",
        "side": "aft",
        "still_kind": "print",
        "trust": "fair",
        "note": "Print on cream paper, blacks gone brown.",
    },
    {
        "id": "still-7",
        "width_px": 1280,
        "height_px": 800,
        "file": "still-7-wide-starboard.jpg",
        "title": "Close and wide, starboard bow",
        "side": "starboard",
        "still_kind": "photo of the miniature",
        "trust": "fair",
        "note": "Wide lens: straight edges near the rim bend.",
    },
    {
        "id": "still-8",
        "width_px": 1060,
        "height_px": 700,
        "file": "still-8-stern-crop.jpg",
        "title": "Stern, cut from a larger picture",
        "side": "aft",
        "still_kind": "photo of the miniature",
        "trust": "fair",
        "cropped": True,
        "note": "From a book page: the rest of the frame is gone.",
    },
    {
        "id": "still-9",
        "width_px": 480,
        "height_px": 312,
        "file": "still-9-clip-frame.jpg",
        "title": "Bow pass, frame 9 of the clip",
        "side": "bow",
        "still_kind": "screen frame",
        "trust": "fair",
        "pixel_aspect": 16 / 15,
        "note": "Grabbed from clip-bow-pass.mp4, black bars taken off.",
    },
)

# What the modeller knew of the rulers and rectangles, in metres of the story or mm of the miniature.
RULERS: Final = {"set plan": (18_600.0, 100.0, "story"), "road wheel": (21.4, 0.1, "miniature")}
PLANES: Final = {
    "port side": (10_080.0, 50.0, 1_176.0, 15.0),
    "aft deck plate": (5_760.0, 50.0, 5_760.0, 50.0),
    "wheelhouse roof": (1_150.0, 57.5, 1_150.0, 57.5),
}
PRICE_PER_ML: Final = 0.16
STRIPED: Final = ("marsh yellow", "brick", "harbour teal", "slate", "night blue")
ML_LEFT: Final = {"titanium white": 26.0, "yellow ochre": 9.0, "raw sienna": 2.0, "lamp black": 14.0}
SURFACES: Final = {"hull": "Hull grey", "band_series": "Hazard band ochre", "skirt": "Skirt", "deck": "Deck"}
CARD_REFLECTANCE: Final = 0.28


def still_bytes() -> dict[str, bytes]:
    """The shipped pictures by still id."""
    return {str(s["id"]): DATA.joinpath(str(s["file"])).read_bytes() for s in STILLS}


def stills(pictures: dict[str, bytes]) -> list[AnyEntity]:
    """The stills as the modeller entered them."""
    found: list[AnyEntity] = []
    for number, entry in enumerate(STILLS, start=1):
        known = {key: value for key, value in entry.items() if key not in ("file", "version")}
        found.append(
            Still(
                **known,
                number=number,
                blob=digest(pictures[str(entry["id"])]),
                version_id=f"version-{entry.get('version', 'series')}",
            )
        )
    return found


def clicks() -> dict[str, Any]:
    """Everything clicked on the stills."""
    found: dict[str, Any] = json.loads(DATA.joinpath("clicks.json").read_text("ascii"))
    return found


def marks_on_stills() -> list[AnyEntity]:
    """Planes, rulers, dimensions and their readings."""
    data = clicks()
    sigma = float(data["click_sigma_px"])

    def mark(xy: list[float]) -> Mark:
        return Mark(xy[0], xy[1], sigma)

    found: list[AnyEntity] = []
    for row in data["planes"]:
        width, width_sigma, height, height_sigma = PLANES[row["name"]]
        a, b, c, d = (mark(xy) for xy in row["corners"])
        found.append(
            Plane(
                id=_plane_id(row["name"]),
                still_id=row["still"],
                name=row["name"],
                corners=(a, b, c, d),
                width_mm=width,
                width_sigma_mm=width_sigma,
                height_mm=height,
                height_sigma_mm=height_sigma,
                link="story",
            )
        )
    for row in data["rulers"]:
        length, length_sigma, link = RULERS[row["name"]]
        a, b = (mark(xy) for xy in row["marks"])
        found.append(
            RulerMark(
                id=f"ruler-{row['name']}",
                still_id=row["still"],
                plane_id="",
                name=row["name"],
                a=a,
                b=b,
                length_mm=length,
                sigma_mm=length_sigma,
                link="story" if link == "story" else "miniature",
            )
        )
    for number, row in enumerate(data["readings"]):
        a, b = (mark(xy) for xy in row["marks"])
        found.append(
            Reading(
                id=f"reading-{number}",
                dimension_id=f"dim-{row['dimension']}",
                still_id=row["still"],
                plane_id=_plane_id(row["plane"]),
                a=a,
                b=b,
            )
        )
    return found


def _plane_id(name: str) -> str:
    return f"plane-{name}" if name else ""


def patches() -> list[AnyEntity]:
    """Surfaces and the patches sampled for them; card patches are the neutrals."""
    found: list[AnyEntity] = [Surface(id=f"surface-{key}", name=name) for key, name in SURFACES.items()]
    for number, row in enumerate(clicks()["patches"]):
        (x, y), (width, height) = row["centre"], row["size"]
        neutral = row["surface"] == "neutral"
        found.append(
            ColourPatch(
                id=f"patch-{number}",
                still_id=row["still"],
                surface_id="" if neutral else f"surface-{row['surface']}",
                x_px=x - width / 2,
                y_px=y - height / 2,
                width_px=width,
                height_px=height,
                reflectance=CARD_REFLECTANCE if neutral else None,
                facet=row["facet"],
                # The renderer's card stood square to the light.
                to_light=neutral,
            )
        )
    return found


def shelf() -> list[AnyEntity]:
    """The bench range as it stands on this modeller's shelf: prices, and what is left of some bottles."""
    return [
        structs.replace(paint, price_per_ml=PRICE_PER_ML, ml_left=ML_LEFT.get(paint.name))
        for paint in bench_range()
        if isinstance(paint, ShelfPaint)
    ]


def clears() -> list[AnyEntity]:
    """Clears known by one coat over white, and the port lamp's lens, which is laid in them over silver."""
    known = {"source": "guess", "clear": True, "sheen": "gloss", "price_per_ml": PRICE_PER_ML}
    return [
        Surface(
            id="surface-lens", name="Port lamp lens", mode="free", free_lab=(45.0, 49.0, 34.0), clear_over="silver"
        ),
        *(structs.replace(paint, **known) for paint in _paints("clears.csv")),
    ]


def chips() -> list[AnyEntity]:
    """A matte varnish over a black swatch, and a wash as it was wiped off a light one."""
    wash = (("burnt umber", 2), ("lamp black", 1))
    return [
        FinishChip(id="chip-matte", layer="matte varnish", coats=2, before=(25.4, 0.3, 0.2), after=(23.9, 0.3, -0.4)),
        FinishChip(
            id="chip-wash", layer="wash", over="gloss", wash=wash, before=(63.2, 0.4, 9.8), after=(57.9, 1.5, 10.4)
        ),
    ]


def stripes() -> list[AnyEntity]:
    """New bottles that have a row on a sheet, as they lie on `data/stripes-sheet.jpg`; not read yet."""
    return [
        Stripe(id=f"stripe-{row}", name=name, sheet=1, row=row, printed=True)
        for row, name in enumerate(STRIPED, start=1)
    ]


def pots() -> list[AnyEntity]:
    """A first pot of hull grey: its dry swatch came out lighter and greyer than wanted."""
    steps = (
        PotStep("2026-11-21T16:40", (("titanium white", 78), ("yellow ochre", 12), ("neutral grey", 30))),
        PotStep("2026-11-22T11:05", (), (65.3, 1.4, 6.4)),
    )
    return [PaintPot(id="pot-hull", surface_id="surface-hull", label="Hull grey, pot 1", cup_ml=12.0, steps=steps)]


def bench_range() -> list[AnyEntity]:
    """The made-up paints on the modeller's shelf."""
    return [*_paints("bench_range.csv")]


def _paints(name: str) -> list[ShelfPaint]:
    """Paints by their K and S, from a file of `tools/bench_range.py`."""
    rows = list(csv.reader(DATA.joinpath(name).read_text("ascii").splitlines()))[1:]
    return [
        ShelfPaint(
            id=f"paint-{k[0]}",
            name=k[0],
            medium="water acrylic",
            absorption=tuple(float(v) for v in k[2:]),
            scattering=tuple(float(v) for v in s[2:]),
        )
        for k, s in zip(rows[::2], rows[1::2], strict=True)
    ]
