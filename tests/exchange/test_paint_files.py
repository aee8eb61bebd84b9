"""Readings, shelves, palettes and the drawdown card as files: round trips, and nonsense refused."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from chalkreel.core.colour.cielab import lab_of_xyz
from chalkreel.core.colour.spectra import WAVELENGTHS_NM, xyz_of_reflectance
from chalkreel.core.colour.typed_colour import from_d50
from chalkreel.core.errors import RefusedError
from chalkreel.demo.devices.colour_meter import ColourMeter
from chalkreel.demo.evidence import bench_range
from chalkreel.document.entities import AnyEntity
from chalkreel.document.paint_entities import ShelfPaint
from chalkreel.document.snapshot import Build
from chalkreel.edits.shelving import Dries, guessed_paint, readings_to_paints
from chalkreel.exchange.card import write_card
from chalkreel.exchange.paint_list import parse_paint_list
from chalkreel.exchange.readings import parse_readings
from chalkreel.exchange.shelf import palette_gpl, parse_gpl, parse_shelf_csv, shelf_csv

CGATS = """CGATS.17
ORIGINATOR "a meter"
BEGIN_DATA_FORMAT
SAMPLE_ID\tSAMPLE_NAME {bands}
END_DATA_FORMAT
NUMBER_OF_SETS 2
BEGIN_DATA
1 "pale ochre" {first}
2 "dark ochre" {second}
END_DATA
"""


def cgats(first: list[float], second: list[float], nm: range = range(400, 701, 20)) -> bytes:
    return CGATS.format(
        bands=" ".join(f"SPECTRAL_NM{v}" for v in nm),
        first=" ".join(map(str, first)),
        second=" ".join(map(str, second)),
    ).encode()


def test_a_meters_text_file_is_read_at_its_own_bands() -> None:
    ramp = [0.2 + 0.02 * i for i in range(16)]
    one, two = parse_readings(cgats(ramp, [100 * v / 2 for v in ramp]))[:2]
    assert (one.name, two.name) == ("pale ochre", "dark ochre")
    # The second line is in percent, so the whole table is taken as percent.
    assert two.reflectance[WAVELENGTHS_NM == 420][0] == pytest.approx(0.11, abs=1e-6)
    one = parse_readings(cgats(ramp, ramp))[0]
    assert one.reflectance[WAVELENGTHS_NM == 500][0] == pytest.approx(0.3)
    assert one.reflectance[WAVELENGTHS_NM == 490][0] == pytest.approx(0.29)
    # Beyond what the meter reaches the last value holds.
    assert one.reflectance[0] == pytest.approx(0.2) and one.reflectance[-1] == pytest.approx(0.5)


def test_a_table_of_readings_is_read_too() -> None:
    bands = [str(int(nm)) for nm in WAVELENGTHS_NM]
    text = "name;" + ";".join(bands) + "\nrust;" + ";".join(["0,25"] * 36) + "\n"
    (found,) = parse_readings(text.encode("utf-8-sig"))
    assert found.name == "rust" and found.reflectance == pytest.approx(np.full(36, 0.25))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "no readings"),
        (b"\x00\x01\x02" * 50, "neither"),
        (b"name,a,b\nx,1,2\n", "columns of reflectance"),
        (cgats([0.2] * 15, [0.2] * 16), "cut short"),
        (cgats([0.2] * 15 + ["much"], [0.2] * 16), "no number"),  # type: ignore[list-item]
        (cgats([-3.0] * 16, [0.2] * 16), "no reflectances"),
        (cgats([float("nan")] * 16, [0.2] * 16), "no reflectances"),
        (b"BEGIN_DATA_FORMAT\nEND_DATA_FORMAT\nBEGIN_DATA\n1 2\nEND_DATA\n", "names no columns"),
        (b'BEGIN_DATA_FORMAT\nNM400 "\nEND_DATA_FORMAT\n', "quotation"),
        (cgats([0.2] * 16, [0.2] * 16).replace(b"SPECTRAL_NM420", b"SPECTRAL_NM400"), "twice"),
        (cgats([0.2] * 11, [0.2] * 11, range(500, 701, 20)), "500 to 700 nm only"),
        # A nearly black paint in percent, or a fluorescent one in shares: nobody can tell.
        (cgats([1.8] * 16, [0.9] * 16), "white paper"),
        (cgats([85.0] * 16, [60.0] * 8 + [130.0] + [50.0] * 7), "fluorescent"),
    ],
)
def test_nonsense_is_refused_with_a_sentence(data: bytes, words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        parse_readings(data)


@settings(max_examples=80)
@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(data: bytes) -> None:
    for read in (parse_readings, parse_shelf_csv, parse_gpl, lambda raw: parse_paint_list(raw.decode("latin-1"))):
        try:
            read(data)
        except RefusedError as refusal:
            assert str(refusal).endswith((".", "."))


def test_a_shelf_survives_its_file() -> None:
    paints = [p for p in bench_range() if isinstance(p, ShelfPaint)]
    back = parse_shelf_csv(shelf_csv(paints).encode())
    for one, other in zip(paints, back, strict=True):
        assert (one.name, one.medium, one.sheen, one.ml_left, one.drop_ml) == (
            other.name, other.medium, other.sheen, other.ml_left, other.drop_ml,
        )  # fmt: skip
        assert other.absorption == pytest.approx(one.absorption, rel=1e-4)
        assert other.scattering == pytest.approx(one.scattering, rel=1e-4)
    for spoil, words in (
        (("titanium white", ""), "name"),
        (("matte", "shiny"), "none of"),
        (("0.4444", "-1"), "no paint"),
    ):
        with pytest.raises(RefusedError, match=words):
            parse_shelf_csv(shelf_csv(paints).replace(*spoil).encode())


def test_a_palette_survives_its_file() -> None:
    text = palette_gpl("bench\nrange", [("hull grey", (170, 164, 148)), ("rust  red", (140, 60, 40))])
    (grey, lab), (rust, _) = parse_gpl(text.encode())
    assert (grey, rust) == ("hull grey", "rust red")
    # sRGB 170, 164, 148 by hand: linear 0.402, 0.371, 0.296.
    assert lab[0] == pytest.approx(67.3, abs=0.3) and 7 < lab[2] < 10
    for bad in (b"GIMP Palette\n#\n", b"GIMP Palette\n999 0 0 x\n", b"PNG"):
        with pytest.raises(RefusedError):
            parse_gpl(bad)


def build_with(*paints: AnyEntity) -> Build:
    return Build(1, {p.id: p for p in paints})


def test_readings_become_paints_and_tints_need_their_masstone() -> None:
    paints = [p for p in bench_range() if isinstance(p, ShelfPaint)]
    build, shelf = build_with(*paints), [p for p in paints if p.name in ("titanium white", "yellow ochre")]
    flat = np.full(36, 0.3)
    with pytest.raises(RefusedError, match="masstone"):
        readings_to_paints((("lost ochre 1:9", flat),), build)
    (found,) = readings_to_paints((("new grey", flat), ("new grey 1:4", np.full(36, 0.6))), build)
    assert found.source == "metered" and found.name == "new grey"
    assert len(shelf) == 2


def test_the_stand_in_meter_sends_what_a_real_one_would() -> None:
    from chalkreel.answers.mixes import paint_of

    shelf = tuple(paint_of(p) for p in bench_range() if isinstance(p, ShelfPaint))
    (found,) = parse_readings(ColourMeter().file("test", (("titanium white", 5), ("neutral grey", 5)), shelf))
    lab = lab_of_xyz(xyz_of_reflectance(found.reflectance))
    assert 40 < lab[0] < 85 and abs(lab[1]) < 2


def test_a_guess_says_so() -> None:
    paint = guessed_paint("sand", (70.0, 4.0, 22.0), Dries("enamel", "satin"))
    assert paint.source == "guess" and paint.medium == "enamel" and len(paint.absorption) == 36
    with pytest.raises(RefusedError, match="Name"):
        guessed_paint("  ", (70.0, 4.0, 22.0), Dries())
    with pytest.raises(RefusedError, match="vivid"):
        guessed_paint("neon", (95.0, 90.0, 90.0), Dries())


def test_the_card_is_one_page_with_its_cautions(tmp_path: Path) -> None:
    path = tmp_path / "card.pdf"
    write_card(path, "yellow ochre")
    pages = PdfReader(path).pages
    text = pages[0].extract_text()
    assert len(pages) == 1 and "yellow ochre" in text and "ventilation" in text and "1 drop + 16 white" in text


def test_lists_are_read_as_people_keep_them() -> None:
    found = parse_paint_list(
        "name, colour\n"
        "rust, #8c3c28\n"
        "# my greens\n"
        "olive, drab; 38,5; -4; 22\n"
        "sea green\t45\t-18\t2\tD50\n"
        "\n"
        "neon, 95, 90, 90\n"
        "sand, 70, 4\n"
    )
    colours = dict(found.colours)
    assert list(colours) == ["rust", "olive, drab", "sea green"]
    assert colours["olive, drab"] == (38.5, -4.0, 22.0)
    # sRGB 140, 60, 40 by hand: linear 0.262, 0.0452, 0.0212, Y 0.0896.
    assert colours["rust"][0] == pytest.approx(35.9, abs=0.3)
    # From D50 to D65 lightness stays, and a green turns a little.
    assert colours["sea green"][0] == pytest.approx(45, abs=0.6) and colours["sea green"] != (45.0, -18.0, 2.0)
    assert [p.split(":")[0] for p in found.problems] == ["“neon, 95, 90, 90”", "“sand, 70, 4”"]
    for bad, words in (("", "like “rust"), ("nothing here\n", "like “rust"), ("neon, 95, 90, 90", "vivid")):
        with pytest.raises(RefusedError, match=words):
            parse_paint_list(bad)


def test_a_grey_is_grey_under_any_white_and_colours_agree_with_an_independent_library() -> None:
    assert from_d50((60.0, 0.0, 0.0)) == pytest.approx((60.0, 0.0, 0.0), abs=0.02)
    colour = pytest.importorskip("colour")

    lights = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]
    d50, d65 = (colour.xy_to_XYZ(lights[name]) for name in ("D50", "D65"))
    xyz = colour.Lab_to_XYZ([52.0, 30.0, -22.0], lights["D50"])
    adapted = colour.adaptation.chromatic_adaptation_VonKries(xyz, d50, d65, transform="Bradford")
    wanted = colour.XYZ_to_Lab(adapted, lights["D65"])
    assert from_d50((52.0, 30.0, -22.0)) == pytest.approx(tuple(wanted), abs=0.1)
