import io
import struct
import zlib
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image, ImageCms

from chalkreel.core.media.aspect import likely_shapes
from chalkreel.core.media.decode import StillRefusedError, decode
from chalkreel.core.media.picture import linear
from chalkreel.core.media.pyramid import halvings, thumbnail
from tests.core.raw_file import raw_file

DATA = Path(__file__).parents[1] / "data"

ARROW = np.zeros((40, 60, 3), np.uint8)
ARROW[:10, :15] = (250, 20, 20)  # red in the upper left corner


def encoded(image: Image.Image, kind: str, **options: object) -> bytes:
    stream = io.BytesIO()
    image.save(stream, kind, **options)
    return stream.getvalue()


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "WEBP", "JPEG", "AVIF"])
def test_every_format_arrives_upright_and_in_colour(kind: str) -> None:
    options = {"quality": 100} if kind in ("JPEG", "AVIF") else {"lossless": True} if kind == "WEBP" else {}
    picture = decode(encoded(Image.fromarray(ARROW), kind, **options))
    assert (picture.width, picture.height) == (60, 40)
    assert picture.pixels[4, 4, 0] > 220 and picture.pixels[30, 50, 0] < 30


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_is_undone(orientation: int) -> None:
    upright = Image.fromarray(ARROW)
    inverse = {2: 0, 3: 3, 4: 1, 5: 5, 6: 2, 7: 6, 8: 4}  # Pillow's transpose that makes the stored form
    stored = upright if orientation == 1 else upright.transpose(Image.Transpose(inverse[orientation]))
    exif = Image.Exif()
    exif[0x0112] = orientation
    picture = decode(encoded(stored, "PNG", exif=exif))
    assert np.array_equal(picture.pixels, ARROW)


@pytest.mark.parametrize("orientation", [1, 3, 6, 8])
def test_sixteen_bits_survive_and_turn_upright_too(orientation: int) -> None:
    deep = (ARROW.astype(np.uint16) << 8) + 77
    turns = {1: 0, 3: 2, 6: 1, 8: 3}[orientation]
    ok, data = cv2.imencode(".png", np.ascontiguousarray(np.rot90(deep, turns)[:, :, ::-1]))
    assert ok
    exif = Image.Exif()
    exif[0x0112] = orientation
    body = exif.tobytes().removeprefix(b"Exif\x00\x00")
    chunk = b"eXIf" + body
    raw = data.tobytes()
    with_exif = raw[:33] + struct.pack(">I", len(body)) + chunk + struct.pack(">I", zlib.crc32(chunk)) + raw[33:]
    picture = decode(with_exif)
    assert picture.bits == 16
    assert np.array_equal(picture.pixels, deep)


def test_grey_and_transparent_pictures_are_taken() -> None:
    grey = decode(encoded(Image.new("L", (20, 20), 90), "PNG"))
    assert grey.pixels.shape == (20, 20, 3) and grey.pixels[0, 0].tolist() == [90, 90, 90]
    deep_grey = decode(encoded(Image.fromarray(np.full((20, 20), 40_000, np.uint16)), "PNG"))
    assert deep_grey.bits == 16 and deep_grey.pixels[3, 3].tolist() == [40_000] * 3
    clear = decode(encoded(Image.new("RGBA", (20, 20), (255, 0, 0, 0)), "PNG"))
    assert clear.pixels[0, 0].tolist() == [119, 119, 119]


def test_an_embedded_profile_is_honoured() -> None:
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB"))
    image = ImageCms.profileToProfile(
        Image.new("RGB", (16, 16), (200, 60, 40)), ImageCms.createProfile("sRGB"), lab, outputMode="LAB"
    )
    assert image is not None
    picture = decode(encoded(image, "TIFF", icc_profile=lab.tobytes()))
    assert np.abs(picture.pixels[8, 8].astype(int) - (200, 60, 40)).max() <= 3


def test_a_phones_picture_is_read_and_one_of_high_range_is_not() -> None:
    # Both were encoded once from ARROW without loss; the program itself only reads this format.
    off = np.abs(decode((DATA / "arrow.heic").read_bytes()).pixels.astype(int) - ARROW).max(axis=2)
    # Its colours are stored at half the fineness: next to the border of the red they run.
    assert off[:9, :14].max() <= 2 and off[12:].max() <= 2 and off[:, 18:].max() <= 2
    with pytest.raises(StillRefusedError, match="high dynamic range"):
        decode((DATA / "arrow_high_range.heic").read_bytes())


def test_a_raw_file_gives_the_sensors_light_in_true_colours() -> None:
    light = np.zeros((80, 120, 3))
    light[:40, :60], light[40:, :60], light[:, 60:] = 0.4, 0.2, (0.30, 0.10, 0.05)
    picture = decode(raw_file(light))
    assert (picture.width, picture.height, picture.bits) == (120, 80, 16)
    bright, grey, red = (linear(picture.pixels)[y, x] for y, x in ((20, 30), (60, 30), (60, 90)))
    # Twice the light is twice the number, whatever the exposure; a colour keeps its shares.
    assert bright / grey == pytest.approx([2.0, 2.0, 2.0], rel=0.005)
    assert red / grey == pytest.approx([1.5, 0.5, 0.25], rel=0.01)
    turned = decode(raw_file(light, orientation=6))
    assert (turned.width, turned.height) == (80, 120)
    assert linear(turned.pixels)[30, 60] == pytest.approx(bright, rel=0.01)


def test_a_damaged_raw_file_is_refused_and_a_scan_is_no_raw_file() -> None:
    whole = raw_file(np.full((80, 120, 3), 0.3))
    with pytest.raises(StillRefusedError):
        decode(whole[: len(whole) // 3])
    scan = encoded(Image.fromarray(np.full((40, 60), 30_000, np.uint16)), "TIFF", tiffinfo={271: "Bench", 272: "Flat"})
    assert decode(scan).pixels[5, 5].tolist() == [30_000] * 3


def bomb(width: int, height: int) -> bytes:
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunk = b"IHDR" + head
    start = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk))
    return start + struct.pack(">I", 4) + b"IDAT" + b"\0" * 8


WHOLE = encoded(Image.fromarray(np.random.default_rng(1).integers(0, 255, (200, 300, 3), np.uint8)), "JPEG")


@pytest.mark.parametrize(
    ("data", "says"),
    [(b"", "no picture"), (b"hello, I am a text", "no picture"), (WHOLE[: len(WHOLE) // 2], "cut short"),
     (bomb(100_000, 100_000), "limit is 130 million"), (bomb(3, 90_000), "3 × 90000"),
     (encoded(Image.new("RGB", (4, 4)), "PNG"), "too small"), (encoded(Image.new("P", (50, 50)), "GIF"), "no picture")],
)  # fmt: skip
def test_bad_files_get_a_clear_sentence(data: bytes, says: str) -> None:
    with pytest.raises(StillRefusedError, match=says):
        decode(data)


def test_any_truncation_is_refused_or_decoded_never_worse() -> None:
    png = encoded(Image.fromarray(ARROW), "PNG")
    for cut in range(0, len(png) - 12, 7):
        try:
            assert np.array_equal(decode(png[:cut]).pixels, ARROW)
        except StillRefusedError as refusal:
            assert str(refusal).endswith(".")


def test_linear_light_follows_the_published_curve() -> None:
    # IEC 61966-2-1: 0.5 encoded is 0.21404 linear; the toe is a straight line.
    assert linear(np.array([[[128, 0, 10]]], np.uint8))[0, 0] == pytest.approx(
        [0.21586, 0.0, 10 / 255 / 12.92], abs=1e-5
    )


def test_pyramid_and_thumbnail_keep_shape() -> None:
    pixels = np.zeros((1000, 3000, 3), np.uint8)
    levels = halvings(pixels)
    assert [level.shape[1] for level in levels] == [3000, 1500, 750, 375]
    assert thumbnail(np.zeros((576, 720, 3), np.uint8), 160, 120, 16 / 15).shape == (120, 160, 3)


def test_video_sizes_suggest_their_shapes() -> None:
    assert [s.aspect for s in likely_shapes(720, 576)] == [pytest.approx(16 / 15), pytest.approx(64 / 45)]
    assert likely_shapes(4000, 3000) == ()
