"""What a camera wrote into a photograph: when it was taken, and through what lens.

Reference: CIPA DC-008, *Exchangeable image file format (Exif)*, tags 36867 and 41989.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from datetime import datetime

from PIL import Image

_DETAILS, _TAKEN, _FOCAL_35 = 0x8769, 0x9003, 0xA405
# Small film is 36 × 24 mm; cameras compare pictures by their diagonals.
FILM_DIAGONAL_MM = math.hypot(36.0, 24.0)
SENSIBLE_MM = (8.0, 1200.0)


@dataclass(frozen=True)
class CameraNotes:
    """When (local time) and with what focal length in widths of the upright picture; None where nothing is said."""

    taken_at: datetime | None = None
    focal_widths: float | None = None


def camera_notes(data: bytes, width: int, height: int) -> CameraNotes:
    """What a file says whose upright picture is so many pixels wide and high; nothing where it says nothing."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            details = image.getexif().get_ifd(_DETAILS)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return CameraNotes()
    return CameraNotes(_time(details.get(_TAKEN)), _widths(details.get(_FOCAL_35), width, height))


def _time(written: object) -> datetime | None:
    try:
        return datetime.strptime(str(written), "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None


def _widths(written: object, width: int, height: int) -> float | None:
    if not isinstance(written, (int, float)) or not SENSIBLE_MM[0] <= written <= SENSIBLE_MM[1]:
        return None
    return float(written) / FILM_DIAGONAL_MM * math.hypot(width, height) / width
