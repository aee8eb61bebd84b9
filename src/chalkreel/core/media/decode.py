"""Bytes of a still to an upright sRGB picture, or a clear refusal.

PNG, JPEG, TIFF, WebP and AVIF by Pillow, HEIC by its companion for libheif, camera raw by `raw`.
"""

from __future__ import annotations

import io
import warnings
from typing import cast

import cv2
import numpy as np
import numpy.typing as npt
import pi_heif
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture, Pixels
from chalkreel.core.media.raw import decode_raw, is_raw, is_raw_tiff

pi_heif.register_heif_opener()

FORMATS = ("PNG", "JPEG", "TIFF", "WEBP", "AVIF", "HEIF")
# In HEIC and AVIF: the box that says how colours are coded, and its transfers of high dynamic range (ITU-T H.273).
CODED_COLOURS, HIGH_RANGE = b"colrnclx", (16, 18)
HEAD_BYTES = 65_536
LARGEST_BYTES = 400 * 1024 * 1024
LARGEST_PIXELS = 130_000_000
# Pictures of 16 bits take twice the room, once decoded and once more while they are.
LARGEST_DEEP_PIXELS = 65_000_000
# Rows worked on at once where a whole picture would be copied.
STRIP = 256
LONGEST_SIDE = 60_000
SHORTEST_SIDE = 8


class StillRefusedError(RefusedError):
    """The file cannot be taken as a still."""


def decode(data: bytes) -> Picture:
    """Decode a picture; EXIF orientation and ICC profile honoured, 16 bits and grey accepted.

    Transparent pixels are laid on mid grey. Pictures of 16 bits with an embedded profile other
    than sRGB are converted at 8 bits, since the colour engine knows no more.

    Raises
    ------
    StillRefusedError
        Not a picture, of another format, cut short, or of absurd size.
    """
    if len(data) > LARGEST_BYTES:
        raise StillRefusedError("This file is larger than 400 MB. Save the picture smaller and add it again.")
    if is_raw_tiff(data):
        return _developed(data)
    try:
        image = _open(data)
    except UnidentifiedImageError as error:
        if is_raw(data):
            return _developed(data)
        raise StillRefusedError(
            "This file is no picture that can be read (PNG, JPEG, TIFF, WebP, HEIC, AVIF or camera raw). "
            "Save it as one of those and add it again."
        ) from error
    if _is_deep(image, data):
        if image.width * image.height > LARGEST_DEEP_PIXELS:
            raise StillRefusedError("A picture of 16 bits may have 65 million pixels; save it at 8 bits, or smaller.")
        deep = _decode_deep(data)
        if deep is not None:
            profile = image.info.get("icc_profile")
            if not profile:
                return Picture(_frozen(_turned(deep, image.getexif().get(0x0112, 1))))
            flat = Image.fromarray((deep >> 8).astype(np.uint8))
            flat.info["icc_profile"] = profile
            shallow = _turned(np.asarray(_to_srgb(flat)), image.getexif().get(0x0112, 1))
            return Picture(_frozen(shallow))
    # Each step lets the one before go: a picture of 130 million pixels is half a gigabyte a time.
    image = _upright(image)
    image = _opaque(image)
    image = _to_srgb(image)
    return Picture(_frozen(_pixels_of(image)))


def _developed(data: bytes) -> Picture:
    try:
        pixels = decode_raw(data, LARGEST_DEEP_PIXELS)
    except RefusedError as refusal:
        raise StillRefusedError(str(refusal)) from refusal
    _check_size(pixels.shape[1], pixels.shape[0])
    return Picture(_frozen(pixels))


def _open(data: bytes) -> Image.Image:
    _refuse_high_range(data)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
            _check_size(*image.size)
            image.load()
    except Image.DecompressionBombError as error:
        raise StillRefusedError(_too_large()) from error
    except UnidentifiedImageError:
        raise
    except (OSError, EOFError, SyntaxError, ValueError, RuntimeError, MemoryError) as error:
        if isinstance(error, StillRefusedError):
            raise
        raise StillRefusedError(
            "This picture is cut short or damaged. Copy it again from where it came from."
        ) from error
    return image


def _refuse_high_range(data: bytes) -> None:
    """A picture made for screens of high dynamic range would be read as flat and grey."""
    at = data.find(CODED_COLOURS, 0, HEAD_BYTES) if data[4:8] == b"ftyp" else -1
    if at >= 0:
        start = at + len(CODED_COLOURS) + 2
        if int.from_bytes(data[start : start + 2], "big") in HIGH_RANGE:
            raise StillRefusedError(
                "This picture is in high dynamic range. Export it in standard range (sRGB) and add that."
            )


def _check_size(width: int, height: int) -> None:
    if min(width, height) < SHORTEST_SIDE:
        raise StillRefusedError(f"This picture is only {width} × {height} pixels: too small to measure on.")
    if width * height > LARGEST_PIXELS or max(width, height) > LONGEST_SIDE:
        raise StillRefusedError(f"This picture claims {width} × {height} pixels. {_too_large()}")


def _too_large() -> str:
    return "The limit is 130 million pixels; save it smaller and add it again."


def _is_deep(image: Image.Image, data: bytes) -> bool:
    """Whether the file stores 16 bits a channel, which Pillow alone would cut to 8."""
    if image.mode.startswith("I"):
        return True
    if image.format == "PNG":
        return data[24:25] == b"\x10"
    bits = image.tag_v2.get(258, (8,)) if image.format == "TIFF" and hasattr(image, "tag_v2") else (8,)
    return bool(np.max(bits) == 16)


def _decode_deep(data: bytes) -> Pixels | None:
    raw = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED | cv2.IMREAD_ANYDEPTH)
    if raw is None or raw.dtype != np.uint16:
        return None
    if raw.ndim == 2:
        raw = np.repeat(raw[:, :, None], 3, axis=2)
    rgb: npt.NDArray[np.uint16] = np.ascontiguousarray(raw[:, :, 2::-1])
    if raw.shape[2] == 4:
        for top in range(0, len(raw), STRIP):
            strip, alpha = rgb[top : top + STRIP], raw[top : top + STRIP, :, 3:].astype(np.uint32)
            # Grey of 30,583 is 119 of 255, the ground behind every still.
            strip[:] = (strip * alpha + 30_583 * (65_535 - alpha)) // 65_535
    return rgb


def _turned(pixels: Pixels, orientation: int) -> Pixels:
    """Undo an EXIF orientation on an array (TIFF/EXIF tag 274)."""
    turns = {3: 2, 4: 2, 5: 3, 6: 3, 7: 1, 8: 1}.get(orientation, 0)
    turned: Pixels = np.rot90(pixels, turns)
    return np.fliplr(turned) if orientation in (2, 4, 5, 7) else turned


def _upright(image: Image.Image) -> Image.Image:
    if image.getexif().get(0x0112, 1) == 1:
        return image
    upright = ImageOps.exif_transpose(image)
    upright.info.setdefault("icc_profile", image.info.get("icc_profile"))
    return upright


def _opaque(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        flat = Image.new("RGB", image.size)
        for top in range(0, image.height, STRIP):
            box = (0, top, image.width, min(image.height, top + STRIP))
            strip = image.crop(box).convert("RGBA")
            ground = Image.new("RGBA", strip.size, (119, 119, 119, 255))
            ground.alpha_composite(strip)
            flat.paste(ground.convert("RGB"), box)
        flat.info["icc_profile"] = image.info.get("icc_profile")
        return flat
    return image


def _to_srgb(image: Image.Image) -> Image.Image:
    profile = image.info.get("icc_profile")
    base = image if image.mode in ("RGB", "CMYK", "L", "LAB") else image.convert("RGB")
    if profile:
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            converted = ImageCms.profileToProfile(base, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
            if converted is not None:
                return converted
        except (ImageCms.PyCMSError, OSError):
            # A broken or unfitting profile must not lose the still: it is taken as sRGB.
            return _as_rgb(base)
    return _as_rgb(base)


def _as_rgb(image: Image.Image) -> Image.Image:
    # Converting to the mode that it has would copy it.
    return image if image.mode == "RGB" else image.convert("RGB")


def _pixels_of(image: Image.Image) -> npt.NDArray[np.uint8]:
    """The pixels (H, W, 3) of an RGB image; taken at once they would pass through two more copies."""
    pixels = np.empty((image.height, image.width, 3), np.uint8)
    for top in range(0, image.height, STRIP):
        bottom = min(image.height, top + STRIP)
        pixels[top:bottom] = np.asarray(image.crop((0, top, image.width, bottom)))
    return pixels


def _frozen(pixels: Pixels) -> Pixels:
    solid = cast(Pixels, np.ascontiguousarray(pixels))
    solid.flags.writeable = False
    return solid
