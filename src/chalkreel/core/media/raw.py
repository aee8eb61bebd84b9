"""Camera raw files: the sensor's counts, made into light by the camera's own white balance and colour matrix.

No tone curve and no automatic brightening: the picture's linear light is in proportion to the light on the sensor, up
to where it clips. The reader is LibRaw, with its standard interpolation of the colour filter.
"""

from __future__ import annotations

import io
import warnings

import numpy as np
import numpy.typing as npt
from PIL import Image, UnidentifiedImageError

from chalkreel.core.errors import RefusedError

TIFF_MARKS = (b"II*\x00", b"MM\x00*")
# TIFF 6.0 and TIFF/EP tags by which a mosaic or a preview is known; one maker puts its mark into the header.
SUBFILE, PHOTOMETRIC, DNG_VERSION, FILTERED = 254, 262, 50706, 32803
MARK_IN_HEADER = b"CR"
# sRGB's own curve (IEC 61966-2-1), so that taking it off gives the sensor's light back.
SRGB_CURVE = (2.4, 12.92)


def is_raw_tiff(data: bytes) -> bool:
    """Whether a TIFF is a camera's raw file, its first picture a mere preview; scans and saved pictures are not."""
    return data.startswith(TIFF_MARKS) and not _is_whole_picture(data) and is_raw(data)


def is_raw(data: bytes) -> bool:
    """Whether a file is one that the reader of raw files knows."""
    import rawpy  # noqa: PLC0415 - only raw files are worth loading it

    try:
        with rawpy.imread(io.BytesIO(data)) as raw:
            return raw.num_colors == 3 and raw.raw_pattern is not None
    except rawpy.LibRawError:
        return False


def _is_whole_picture(data: bytes) -> bool:
    """Whether the first picture in a TIFF is an ordinary one; that in a raw file is a preview, or a filtered mosaic."""
    if data[8:10] == MARK_IN_HEADER:
        return False
    try:
        with warnings.catch_warnings(), Image.open(io.BytesIO(data), formats=["TIFF"]) as image:
            warnings.simplefilter("ignore")
            tags = getattr(image, "tag_v2", {})
            return tags.get(SUBFILE, 0) == 0 and DNG_VERSION not in tags and tags.get(PHOTOMETRIC) != FILTERED
    except (OSError, SyntaxError, ValueError, KeyError, TypeError, UnidentifiedImageError):
        return False


def decode_raw(data: bytes, most_pixels: int) -> npt.NDArray[np.uint16]:
    """Upright pixels (H, W, 3) of 16 bits, sRGB-encoded, of a raw file.

    Raises
    ------
    RefusedError
        Damaged, of a camera that is not known, or of more than `most_pixels`.
    """
    import rawpy  # noqa: PLC0415

    try:
        with rawpy.imread(io.BytesIO(data)) as raw:
            if raw.sizes.width * raw.sizes.height > most_pixels:
                raise RefusedError(
                    f"This raw file has {raw.sizes.width * raw.sizes.height / 1e6:.0f} million pixels, and "
                    f"{most_pixels / 1e6:.0f} million fit. Develop it to a TIFF of 8 bits, or smaller."
                )
            pixels = raw.postprocess(
                use_camera_wb=True, no_auto_bright=True, output_bps=16, gamma=SRGB_CURVE,
                output_color=rawpy.ColorSpace.sRGB, highlight_mode=rawpy.HighlightMode.Clip,
            )  # fmt: skip
    except rawpy.LibRawError as error:
        raise RefusedError(
            "This raw file is damaged, or of a camera that is not known here. Develop it to a TIFF and add that."
        ) from error
    return pixels.view(np.uint16)
