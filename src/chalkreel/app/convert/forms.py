"""The short forms on Convert's card."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.core.convert.kinds import CORNERS, FORMS
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number
from chalkreel.core.lengths import format_length, length_or_none, parse_length, understood
from chalkreel.document.convert_entities import (
    CUTTING_ID,
    KIT_ID,
    PIECE_SHAPES,
    SHAPE_SIZES,
    CutPiece,
    Cutting,
    KitRecord,
    StockPiece,
)
from chalkreel.document.entities import BUILD_ID, Dimension, Feature, KitPart, Landmark, Version

if TYPE_CHECKING:
    from chalkreel.app.convert.cuts import CutsPage
    from chalkreel.app.convert.stock import StockPage

SCORES = ("value", "assembly", "accuracy", "quality", "appeal")


def box_form(session: Session, chosen: Callable[[], str]) -> Form:
    """More of the part in hand."""
    form = Form(session)

    def part() -> KitPart:
        return session.build.get(KitPart, chosen()) or KitPart(id="", name="")

    def put(label: str, **fields: object) -> None:
        if part().id:
            session.edit(f"{label} of {part().name}", part(), **fields)

    form.heading(lambda: part().name)
    form.text("How many", lambda: str(part().count), lambda text: put("count", count=_whole(text, 1, 1000)))
    form.text("Colour", lambda: part().colour, lambda text: put("colour", colour=text.strip()))
    form.text("Fit", lambda: part().fit_note, lambda text: put("fit notes", fit_note=text.strip()))
    return form


def kit_form(session: Session) -> Form:
    """What was paid, and the score for the next purchase."""
    form = Form(session)

    def record() -> KitRecord:
        return session.build.get(KitRecord, KIT_ID) or KitRecord(id=KIT_ID)

    def put(label: str, **fields: object) -> None:
        session.edit(label, record(), **fields)

    def score(name: str) -> None:
        def get() -> str:
            value = getattr(record(), name)
            return "" if value is None else str(value)

        form.text(name.capitalize(), get,
                  lambda text: put(name, **{name: _whole(text, 0, 10) if text.strip() else None}))  # fmt: skip

    form.heading(lambda: "The kit, for the next purchase (0 to 10)")
    form.text("Paid", lambda: f"{record().price:g}" if record().price else "",
              lambda text: put("price of the kit", price=parse_number(text) if text.strip() else 0.0))  # fmt: skip
    form.text("Bought at", lambda: record().bought_at, lambda text: put("where bought", bought_at=text.strip()))
    for name in SCORES:
        score(name)
    return form


def version_form(session: Session) -> Form:
    """Which versions are compared."""
    form = Form(session)

    def versions() -> list[tuple[str, str]]:
        return [(v.id, v.name) for v in session.build.all(Version)]

    def put(words: str, field: str, key: str) -> None:
        session.edit(words, session.build.entities[BUILD_ID], **{field: key})

    def name() -> str:
        version = session.build.get(Version, session.build.info.version_id)
        return version.name if version else ""

    def rename(text: str) -> None:
        version = session.build.get(Version, session.build.info.version_id)
        if version is not None and text.strip():
            session.edit("name of a version", version, name=text.strip())

    form.choice("Kit is the", versions, lambda: session.build.info.kit_version_id,
                lambda key: put("Kit is the", "kit_version_id", key))  # fmt: skip
    form.choice("I build the", versions, lambda: session.build.info.version_id,
                lambda key: put("I build the", "version_id", key))  # fmt: skip
    form.text("Its name", name, rename)
    return form


def job_form(session: Session, chosen: Callable[[], str]) -> Form:
    """Where the feature of the job in hand sits, and what size it is made to."""
    form = Form(session)

    def feature() -> Feature:
        return session.build.get(Feature, chosen()) or Feature(id="", name="", assembly="Hull")

    def put(label: str, **fields: object) -> None:
        if feature().id:
            session.edit(f"{label} of {feature().name}", feature(), **fields)

    form.heading(lambda: feature().name)
    form.choice("Sits at", lambda: named(session, Landmark), lambda: feature().landmark_id,
                lambda key: put("place", landmark_id=key))  # fmt: skip
    form.choice("Size from", lambda: named(session, Dimension), lambda: feature().dimension_id,
                lambda key: put("size", dimension_id=key))  # fmt: skip
    return form


def named(session: Session, kind: type[KitPart] | type[Dimension] | type[Landmark]) -> list[tuple[str, str]]:
    """Entities of a kind to choose from, or none of them."""
    return [("", "none"), *((e.id, e.name) for e in session.build.all(kind))]


def cutting_form(session: Session) -> Form:
    """How everything is cut."""
    form = Form(session)

    def told() -> Cutting:
        return session.build.get(Cutting, CUTTING_ID) or Cutting(id=CUTTING_ID)

    def put(label: str, **fields: object) -> None:
        session.edit(label, told(), **fields)

    def unit_words(text: str) -> str:
        return understood(text, session.build.info.unit)

    form.heading(lambda: "How it is cut")
    form.text("Blade takes", lambda: format_length(told().kerf_mm, session.build.info.unit) if told().kerf_mm else "0",
              lambda text: put("kerf", kerf_mm=_kerf(session, text)), unit_words)  # fmt: skip
    form.check("straight through cuts only", lambda: told().straight, lambda on: put("straight cuts", straight=on))
    form.check("look longer for less waste", lambda: told().patient, lambda on: put("patience", patient=on))
    return form


def piece_form(session: Session, page: CutsPage) -> Form:
    """The piece in hand."""
    form = Form(session)

    def piece() -> CutPiece:
        return page.piece or CutPiece(id="", name="")

    def put(label: str, **fields: object) -> None:
        if page.piece is not None:
            page.put(page.piece, label, **fields)

    def sizes() -> str:
        names = SHAPE_SIZES[piece().shape]
        return ", ".join(_size(session, name, mm) for name, mm in zip(names, piece().sizes_mm, strict=False))

    def features() -> list[tuple[str, str]]:
        return [("", "none"), *((f.id, f.name) for f in session.build.all(Feature))]

    shapes = [(s, s) for s in PIECE_SHAPES if s != "template"]
    form.heading(lambda: f"{piece().name}: {', '.join(SHAPE_SIZES[piece().shape]) or 'as its template is drawn'}")
    form.choice("Shape", lambda: [("template", "template")] if piece().shape == "template" else shapes,
                lambda: piece().shape, lambda key: put("shape", shape=key))  # fmt: skip
    form.text("Sizes", sizes, lambda text: put("sizes", sizes_mm=_sizes(session, piece(), text)))
    form.choice("Cut from", lambda: [(f, f) for f in FORMS], lambda: piece().form, lambda key: put("form", form=key))
    form.text("Material", lambda: piece().material, lambda text: put("material", material=text.strip() or "styrene"))
    form.choice(
        "Corners", lambda: [(c, c) for c in CORNERS], lambda: piece().corner, lambda k: put("corners", corner=k)
    )
    form.choice("For", features, lambda: piece().feature_id, lambda key: put("feature", feature_id=key))
    form.check("keep along the grain", lambda: piece().along_grain, lambda on: put("grain", along_grain=on))
    return form


def stock_form(session: Session, page: StockPage) -> Form:
    """More of the stock in hand."""
    form = Form(session)

    def piece() -> StockPiece:
        return page.piece or StockPiece(id="", name="", thick_mm=1.0, wide_mm=1.0, long_mm=1.0)

    def put(label: str, **fields: object) -> None:
        if piece().id:
            session.edit(f"{label} of {piece().name}", piece(), **fields)

    def put_price(text: str) -> None:
        price = parse_number(text) if text.strip() else 0.0
        if not 0 <= price < 1e6:
            raise RefusedError("A price is nothing or more.")
        put("price", price=price)

    form.heading(lambda: piece().name)
    form.check("has a grain", lambda: piece().grained, lambda on: put("grain", grained=on))
    form.check("one good face: never turned over", lambda: piece().one_face, lambda on: put("face", one_face=on))
    form.text("Price of one", lambda: f"{piece().price:g}" if piece().price else "", put_price)
    form.text("Where", lambda: piece().where, lambda text: put("place", where=text.strip()))
    return form


def _size(session: Session, name: str, mm: float) -> str:
    return f"{mm:g}°" if "°" in name else format_length(mm, session.build.info.unit)


def _sizes(session: Session, piece: CutPiece, text: str) -> tuple[float, ...]:
    """The sizes of a shape, parted by commas or ×.

    Raises
    ------
    RefusedError
        Too few or too many, or one that is no size.
    """
    names = SHAPE_SIZES[piece.shape]
    parts = [part for part in text.replace("×", ",").replace(" x ", ",").split(",") if part.strip()]
    if len(parts) != len(names):
        raise RefusedError(
            f"Type {len(names)} sizes, parted by commas: {', '.join(names)}." if names else "It has none."
        )
    return tuple(
        parse_number(part.replace("°", "")) if "°" in name else parse_length(part, session.build.info.unit)
        for part, name in zip(parts, names, strict=True)
    )


def _kerf(session: Session, text: str) -> float:
    kerf = length_or_none(text, session.build.info.unit)
    if kerf > 10:
        raise RefusedError("A cut is between 0 and 10 mm wide.")
    return kerf


def _whole(text: str, least: int, most: int) -> int:
    if not text.strip().isdecimal() or not least <= int(text) <= most:
        raise RefusedError(f"Type a whole number from {least} to {most}.")
    return int(text)
