"""Bytes of a still to an upright sRGB picture, or a clear refusal."""

from __future__ import annotations

import io
import warnings
from typing import cast

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture, Pixels

FORMATS = ("PNG", "JPEG", "TIFF", "WEBP")
LARGEST_BYTES = 400 * 1024 * 1024
LARGEST_PIXELS = 130_000_000
LONGEST_SIDE = 60_000
SHORTEST_SIDE = 8


class StillRefusedError(RefusedError):
    """The file cannot be taken as a still."""


def decode(data: bytes) -> Picture:
    """Decode PNG, JPEG, TIFF or WebP; EXIF orientation and ICC profile honoured, 16 bits and grey accepted.

    Transparent pixels are laid on mid grey. Pictures of 16 bits with an embedded profile other
    than sRGB are converted at 8 bits, since the colour engine knows no more.

    Raises
    ------
    StillRefusedError
        Not a picture, of another format, cut short, or of absurd size.
    """
    image = _open(data)
    if _is_deep(image, data):
        deep = _decode_deep(data)
        if deep is not None:
            profile = image.info.get("icc_profile")
            if not profile:
                return Picture(_frozen(_turned(deep, image.getexif().get(0x0112, 1))))
            flat = Image.fromarray((deep >> 8).astype(np.uint8))
            flat.info["icc_profile"] = profile
            shallow = _turned(np.asarray(_to_srgb(flat)), image.getexif().get(0x0112, 1))
            return Picture(_frozen(shallow))
    upright = ImageOps.exif_transpose(image)
    upright.info.setdefault("icc_profile", image.info.get("icc_profile"))
    return Picture(_frozen(np.array(_to_srgb(_opaque(upright)))))


def _open(data: bytes) -> Image.Image:
    if len(data) > LARGEST_BYTES:
        raise StillRefusedError("This file is larger than 400 MB. Save the picture smaller and add it again.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
            _check_size(*image.size)
            image.load()
    except (UnidentifiedImageError, Image.DecompressionBombError) as error:
        if isinstance(error, Image.DecompressionBombError):
            raise StillRefusedError(_too_large()) from error
        raise StillRefusedError(
            "This file is not a PNG, JPEG, TIFF or WebP picture. Save it as one of those and add it again."
        ) from error
    except (OSError, SyntaxError, ValueError, MemoryError) as error:
        if isinstance(error, StillRefusedError):
            raise
        raise StillRefusedError(
            "This picture is cut short or damaged. Copy it again from where it came from."
        ) from error
    return image


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
    rgb: npt.NDArray[np.uint16] = raw[:, :, 2::-1].astype(np.uint16)
    if raw.shape[2] == 4:
        alpha = raw[:, :, 3:].astype(np.float64) / 65535
        rgb = (rgb * alpha + 30583 * (1 - alpha)).astype(np.uint16)
    return rgb


def _turned(pixels: Pixels, orientation: int) -> Pixels:
    """Undo an EXIF orientation on an array (TIFF/EXIF tag 274)."""
    turns = {3: 2, 4: 2, 5: 3, 6: 3, 7: 1, 8: 1}.get(orientation, 0)
    turned: Pixels = np.rot90(pixels, turns)
    return np.fliplr(turned) if orientation in (2, 4, 5, 7) else turned


def _opaque(image: Image.Image) -> Image.Image:
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        ground = Image.new("RGBA", image.size, (119, 119, 119, 255))
        ground.alpha_composite(image.convert("RGBA"))
        flat = ground.convert("RGB")
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
            return base.convert("RGB")
    return base.convert("RGB")


def _frozen(pixels: Pixels) -> Pixels:
    solid = cast(Pixels, np.ascontiguousarray(pixels))
    solid.flags.writeable = False
    return solid
