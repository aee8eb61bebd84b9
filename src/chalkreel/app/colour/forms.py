"""The short form below the card: what a surface's mix may be and aims at."""

from __future__ import annotations

from collections.abc import Callable

from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.zone_areas import area_of
from chalkreel.app.colour import model
from chalkreel.app.colour.pots import drops_from, drops_words
from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.core.colour.published_mix import with_known
from chalkreel.core.colour.recipe import MOST_DROPS, MOST_PAINTS
from chalkreel.core.colour.target import MOST_LIGHTENING
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.materials import SHEENS
from chalkreel.document.entities import Dimension
from chalkreel.document.paint_entities import JOINS, PRIMERS, Drops, Surface, Zone
from chalkreel.edits import painting


def surface_form(session: Session, chosen: Callable[[], SurfaceRow | None]) -> Form:
    """Own colour, lightening, limits and exclusions of the chosen surface."""

    def surface() -> Surface:
        row = chosen()
        found = session.build.get(Surface, row.surface_id) if row is not None else None
        return found or Surface(id="", name="")

    def put(**fields: object) -> None:
        if surface().id:
            session.edit(f"mix of {surface().name}", surface(), drops=(), **fields)

    def coloured(text: str) -> str:
        return with_known(text, model.known_colours(session.answers, surface().id))

    def lay(ground: str) -> None:
        if surface().id:
            session.commit(f"{surface().name} laid", painting.laid_clear(session.build, surface(), ground))

    form = Form(session)
    form.heading(lambda: f"Mix of {surface().name}")
    own = form.text("own colour", lambda: surface().published or model.typed_lab(surface().free_lab),
                    lambda text: put(**model.own_colour(coloured(text), chosen())),
                    lambda text: model.own_colour_understood(coloured(text)))  # fmt: skip
    own.setToolTip(
        "L* a* b*, #rrggbb, or a mix as it was published: 3 #8c3c28 + 1 #f4f1ea.\n"
        "A part may be named after a surface, as of a label whose picture is on the reel: 3 label rust + 1 #f4f1ea."
    )
    form.text(
        "known colour", lambda: model.typed_lab(surface().known_lab), lambda text: put(known_lab=model.lab_from(text))
    )
    form.text("lighten by", lambda: f"{100 * surface().lighten:.0f} %", lambda text: put(lighten=_lighten(text)))
    form.text("at most paints", lambda: str(surface().most_paints),
              lambda text: put(most_paints=_whole(text, MOST_PAINTS)))  # fmt: skip
    form.text("at most drops", lambda: str(surface().most_drops),
              lambda text: put(most_drops=_whole(text, MOST_DROPS)))  # fmt: skip
    form.text("without", lambda: ", ".join(surface().without),
              lambda text: put(without=tuple(w.strip() for w in text.split(",") if w.strip())))  # fmt: skip
    form.choice("stills join", lambda: [(j, j) for j in JOINS], lambda: surface().join, lambda text: put(join=text))
    form.text("tolerance, ΔE00", lambda: f"{surface().tolerance:g}", lambda text: put(tolerance=_tolerance(text)))
    form.choice("laid", lambda: model.grounds(session.build), lambda: surface().clear_over, lay)
    form.check("aim through varnish", lambda: surface().through, lambda on: put(through=on))
    _habits(form, session)
    return form


def _habits(form: Form, session: Session) -> None:
    """How this modeller sprays; the same for all surfaces."""

    def put(field: str, low: float, high: float) -> Callable[[str], object]:
        return lambda text: session.edit("spraying", session.build.info, **{field: _between(text, low, high)})

    form.heading(lambda: "Your spraying")
    form.text(
        "1 ml covers, cm²", lambda: f"{session.build.info.coverage_cm2_per_ml:g}", put("coverage_cm2_per_ml", 5, 1000)
    )
    form.text("lost, %", lambda: f"{session.build.info.loss_percent:g}", put("loss_percent", 0, 90))
    form.text("thinner to 1 part", lambda: f"{session.build.info.thinner_parts:g}", put("thinner_parts", 0, 10))
    form.text("keep, ml", lambda: f"{session.build.info.touch_up_ml:g}", put("touch_up_ml", 0, 100))


def zone_form(session: Session, chosen: Callable[[], Zone | None]) -> Form:
    """What lies under and over the colour of a zone, and how large it is."""

    def zone() -> Zone:
        return chosen() or Zone(id="", name="", assembly="", surface_id="")

    def put(**fields: object) -> None:
        if zone().id:
            session.edit(f"layers of {zone().name}", zone(), **fields)

    def sizes() -> list[tuple[str, str]]:
        return [("", "typed below"), *((d.id, d.name) for d in session.build.all(Dimension))]

    def area() -> str:
        return area_of(zone(), session.answers.areas if session.answers is not None else {}).words(" cm²")

    form = Form(session)
    form.heading(lambda: f"Layers of {zone().name}, {area()}")
    form.choice("primer", lambda: [(p, p) for p in PRIMERS], lambda: zone().primer, lambda text: put(primer=text))
    form.text("coats", lambda: str(zone().coats), lambda text: put(coats=_whole(text, 20)))
    form.choice("last varnish", lambda: [(s, s) for s in SHEENS], lambda: zone().sheen, lambda text: put(sheen=text))
    form.text("wash", lambda: drops_words(zone().wash), lambda text: put(wash=_drops(text, session)))
    form.text("filter", lambda: drops_words(zone().filter_drops), lambda text: put(filter_drops=_drops(text, session)))
    form.choice("length", sizes, lambda: zone().length_id, lambda text: put(length_id=text))
    form.choice("height", sizes, lambda: zone().height_id, lambda text: put(height_id=text))
    form.text("such faces", lambda: str(zone().faces), lambda text: put(faces=_whole(text, 50)))
    form.text("or area, cm²", lambda: f"{zone().area_cm2:g}", lambda text: put(area_cm2=_between(text, 0.1, 100_000)))
    return form


def _drops(text: str, session: Session) -> Drops:
    return drops_from(text, session.build) if text.strip() else ()


def _lighten(text: str) -> float:
    return _between(text.strip().removesuffix("%"), 0, 100 * MOST_LIGHTENING) / 100


def _tolerance(text: str) -> float:
    return _between(text, 0.2, 20)


def _whole(text: str, most: int) -> int:
    value = _between(text, 1, most)
    if value != int(value):
        raise RefusedError("Give a whole number.")
    return int(value)


def _between(text: str, low: float, high: float) -> float:
    value = parse_number(text.strip())
    if not low <= value <= high:
        raise RefusedError(f"This number lies between {low:g} and {high:g}.")
    return value
