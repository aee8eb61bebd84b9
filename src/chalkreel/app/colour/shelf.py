"""View-model of the Shelf page (no Qt): rows of paints, and every way in and out."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from platformdirs import user_data_path

from chalkreel.answers.colours import Colours, SurfaceRow
from chalkreel.answers.mixes import paint_of
from chalkreel.answers.shelf import masstones
from chalkreel.core.colour.cielab import rgb8_of_lab
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.media.decode import decode
from chalkreel.core.media.picture import Picture
from chalkreel.demo.devices.colour_meter import ColourMeter
from chalkreel.document.atomic import written_over
from chalkreel.document.paint_entities import Drops, ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, card_paint, guessed_paint, readings_to_paints, white_name

KINDS: Final = ("opaque", "clear", "metallic")
LOW_ML: Final = 3.0
METER_TINTS: Final = ((1, 1), (1, 4), (1, 16))
MOST_BYTES: Final = 60_000_000


@dataclass(frozen=True)
class PaintRow:
    """A paint as the table shows it; its swatch and ΔE00 are of the plain masstone."""

    paint: ShelfPaint
    swatch: tuple[int, int, int]
    apart: str
    distance: float
    strength: str

    @property
    def name(self) -> str:
        """The paint's name."""
        return self.paint.name


def rows(
    build: Build, row: SurfaceRow | None, colours: Colours | None, search: str, nearest: bool
) -> tuple[PaintRow, ...]:
    """The paints that match a search, in the shelf's order or nearest to the target first."""
    target = row.mixes.target.aim if row is not None and row.mixes.target is not None else None
    strengths = colours.lessons.strengths if colours is not None else {}
    wanted = search.casefold().split()
    found = []
    for paint, lab, distance in masstones(build, target):
        if all(word in f"{paint.name} {paint.medium} {paint.note}".casefold() for word in wanted):
            apart = f"{distance:.1f}" if target is not None else ""
            factor = strengths.get(paint.name)
            strength = f"{100 * factor:.0f} %" if factor is not None and abs(factor - 1) > 0.01 else ""
            found.append(PaintRow(paint, rgb8_of_lab(lab), apart, distance, strength))
    return tuple(sorted(found, key=lambda r: r.distance)) if nearest and target is not None else tuple(found)


def kind_words(row: PaintRow) -> str:
    """Opaque, clear or metallic."""
    return "metallic" if row.paint.metallic else "clear" if row.paint.clear else "opaque"


def left_words(row: PaintRow) -> str:
    """What is left in the bottle."""
    return "plenty" if row.paint.ml_left is None else f"{row.paint.ml_left:g} ml"


def price_words(row: PaintRow) -> str:
    """What a ml costs, where that is known."""
    return f"{row.paint.price_per_ml:.2f}" if row.paint.price_per_ml else ""


def left_state(row: PaintRow) -> str:
    """A warning when little is left."""
    return "warn" if row.paint.ml_left is not None and row.paint.ml_left < LOW_ML else "plain"


def sources_words(paints: tuple[ShelfPaint, ...]) -> str:
    """By what the paints are known, the surest first."""
    said = {"metered": "metered", "card": "by card", "stripe": "by stripe", "guess": "guessed from a colour"}
    counts = {source: sum(p.source == source for p in paints) for source in said}
    present = [(source, count) for source, count in counts.items() if count]
    if len(present) == 1:
        return f"all {said[present[0][0]]}"
    return ", ".join(f"{count} {said[source]}" for source, count in present)


def low_words(build: Build) -> tuple[str, ...]:
    """Bottles that run low."""
    low = [p for p in build.all(ShelfPaint) if p.ml_left is not None and p.ml_left < LOW_ML]
    return tuple(f"{p.name}: {p.ml_left:g} ml left" for p in low)


def read_name(text: str) -> str:
    """A paint's name."""
    if not text.strip():
        raise RefusedError("Every paint needs a name.")
    return text.strip()


def read_drop(text: str) -> float:
    """The size of a drop in ml."""
    value = parse_number(text.strip().removesuffix("ml"))
    if not 0.005 <= value <= 1.0:
        raise RefusedError("A drop holds 0.005 to 1 ml; count twenty into a measuring cup.")
    return value


def read_left(text: str) -> float | None:
    """What is left in ml; empty or 'plenty' for more than enough."""
    words = text.strip().removesuffix("ml").strip()
    if words in ("", "plenty"):
        return None
    value = parse_number(words)
    if not 0 <= value <= 5000:
        raise RefusedError("A bottle holds 0 to 5000 ml.")
    return value


def read_price(text: str) -> float:
    """Price per ml, in whatever currency the shelf is in."""
    value = parse_number(text.strip())
    if not 0 <= value <= 1000:
        raise RefusedError("A price per ml lies between 0 and 1000.")
    return value


def guess(name: str, colour: str, dries: Dries) -> ShelfPaint:
    """A paint by the colour of its masstone."""
    return guessed_paint(name, lab_of_words(colour), dries)


def metered(name: str, build: Build) -> ShelfPaint:
    """A paint as the stand-in meter reads its masstone and tints."""
    if not name.strip():
        raise RefusedError("Name the paint whose swatches lie under the meter, or choose it in the table.")
    shelf, white = tuple(paint_of(p) for p in build.all(ShelfPaint)), white_name(build)
    if name.strip() not in {p.name for p in shelf} or not white:
        raise RefusedError(
            f"The stand-in only reads paints of the shelf, with its white; “{name.strip()}” is not there."
        )
    from chalkreel.exchange.readings import parse_readings

    meter, name = ColourMeter(len(name)), name.strip()
    swatches: list[tuple[str, Drops]] = [(name, ((name, 1),))]
    if name != white:
        swatches += [(f"{name} {p}:{w}", ((name, p), (white, w))) for p, w in METER_TINTS]
    readings = [parse_readings(meter.file(label, drops, shelf))[0] for label, drops in swatches]
    return readings_to_paints(tuple((r.name, r.reflectance) for r in readings), build)[0]


def paints_from_file(path: Path, build: Build, dries: Dries) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """Paints from a shelf, a palette or list (guesses) or metered readings, and what is to be said of them.

    Raises
    ------
    RefusedError
        The file cannot be read or is none of these.
    """
    from chalkreel.exchange.readings import NotReadingsError, parse_readings
    from chalkreel.exchange.shelf import GPL_HEAD, parse_gpl, parse_shelf_csv

    data = _read(path)
    if data.lstrip(b"\xef\xbb\xbf").startswith(GPL_HEAD.encode()):
        return _guesses(parse_gpl(data), (), dries)
    if b"K380" in data[:4000] and b"S380" in data[:4000]:
        return parse_shelf_csv(data), ()
    try:
        readings = parse_readings(data)
    except NotReadingsError as refusal:
        return _from_list(data, dries, str(refusal))
    told = f"read as {'percents' if readings[0].percent else 'shares of 1'}, as paint that dries {dries.sheen}"
    return readings_to_paints(tuple((r.name, r.reflectance) for r in readings), build, dries), (told,)


def paints_from_words(text: str, dries: Dries) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """Guesses from pasted lines of a name and a colour, and what was left out.

    Raises
    ------
    RefusedError
        None of them is a paint.
    """
    from chalkreel.exchange.paint_list import parse_paint_list

    found = parse_paint_list(text)
    return _guesses(found.colours, found.problems, dries)


def _from_list(data: bytes, dries: Dries, refused: str) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """The last way to read a file: as a list; `refused` says why it is nothing else."""
    from chalkreel.exchange.paint_list import LOOKS

    if b"\x00" in data:
        raise RefusedError(
            f"{refused} What can be read: a shelf saved here, a meter's file, a GPL palette, or {LOOKS}."
        )
    return paints_from_words(data.decode("utf-8-sig", "replace"), dries)


def _guesses(
    colours: tuple[tuple[str, Lab], ...], problems: tuple[str, ...], dries: Dries
) -> tuple[tuple[ShelfPaint, ...], tuple[str, ...]]:
    """Paints of colours; those that no paint can have are left out and named."""
    found, lost = [], list(problems)
    for name, lab in colours:
        try:
            found.append(guessed_paint(name, lab, dries))
        except RefusedError:
            lost.append(f"“{name}”: no painted surface can have this colour")
    if not found:
        raise RefusedError("No painted surface can have these colours: they are too bright or too vivid.")
    return tuple(found), tuple(lost)


def paint_from_card(path: Path, name: str, build: Build, dries: Dries) -> tuple[ShelfPaint, tuple[str, ...]]:
    """A paint from the photograph of its drawdown card, and what is wrong with the photograph."""
    from chalkreel.core.colour.drawdown import read_card

    reading = read_card(read_picture(path))
    return card_paint(name or path.stem, reading, build, dries), reading.problems


def card_written(path: Path, name: str) -> Iterator[object]:
    """Write a drawdown card as PDF; for a worker."""
    from chalkreel.exchange.card import write_card

    try:
        written_over(path, lambda part: write_card(part, name))
    except OSError as error:
        raise RefusedError("The file cannot be written. Choose a folder that is yours.") from error
    yield path


def write_shelf(path: Path, build: Build) -> None:
    """Write the shelf as CSV, or as a GPL palette of masstones."""
    from chalkreel.exchange.shelf import palette_gpl, shelf_csv

    if path.suffix.casefold() == ".gpl":
        colours = [(paint.name, rgb8_of_lab(lab)) for paint, lab, _ in masstones(build, None)]
        text = palette_gpl(build.info.name, colours)
    else:
        text = shelf_csv(build.all(ShelfPaint))
    try:
        written_over(path, lambda part: part.write_text(text, encoding="utf-8"))
    except OSError as error:
        raise RefusedError("The file cannot be written. Choose a folder that is yours.") from error


def library() -> Path:
    """The user's library, which all builds share."""
    return user_data_path("chalkreel", appauthor=False) / "library.sqlite"


def my_paints() -> tuple[ShelfPaint, ...]:
    """The library's paints, with what they were read from.

    Raises
    ------
    RefusedError
        There are none yet, or the library cannot be read.
    """
    from chalkreel.document.library import library_paints

    found = library_paints(library()) or _older_shelf()
    if not found:
        raise RefusedError("Your shelf is empty so far: “My shelf out” puts this build's paints on it.")
    return found


def my_paint_count() -> int:
    """How many paints the library holds; 0 where it cannot be read."""
    from chalkreel.document.library import paint_count

    return paint_count(library()) or len(_older_shelf())


def my_shelf_out(build: Build) -> str:
    """Put the build's paints into the library, where those of other names stay; what was done, in words.

    Raises
    ------
    RefusedError
        The library cannot be written.
    """
    from chalkreel.document.library import keep_paints

    older = {p.name: p for p in _older_shelf()} if not library().exists() else {}
    count = keep_paints(library(), (older | {p.name: p for p in build.all(ShelfPaint)}).values())
    return f"Your shelf now holds {plural(count, 'paint')}; other builds can bring them in."


def off_my_shelf(names: tuple[str, ...]) -> str:
    """Take paints out of the library; what was done, in words.

    Raises
    ------
    RefusedError
        None of them is in it, or it cannot be written.
    """
    from chalkreel.document.library import forget_paints

    count = forget_paints(library(), names) if library().exists() else 0
    if not count:
        raise RefusedError("Choose paints in the table that are on your shelf: none of these is.")
    return f"{plural(count, 'paint')} off your shelf. This build keeps what it has."


def _older_shelf() -> tuple[ShelfPaint, ...]:
    """The shelf as it was kept before there was a library: a table without readings."""
    path = library().with_name("shelf.csv")
    return paints_from_file(path, Build(0, {}), Dries())[0] if path.exists() else ()


def read_picture(path: Path) -> Picture:
    """A photograph of a sheet.

    Raises
    ------
    RefusedError
        The file cannot be read, is too large or is no picture.
    """
    return decode(_read(path))


def _read(path: Path) -> bytes:
    try:
        if path.stat().st_size > MOST_BYTES:
            raise RefusedError("This file is larger than 60 MB.")
        return path.read_bytes()
    except OSError as error:
        raise RefusedError("The file cannot be read. Check that it is there and is yours.") from error
