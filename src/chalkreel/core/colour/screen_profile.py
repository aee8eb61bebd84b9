"""What a screen must be sent so that it shows a colour: through its ICC profile (ISO 15076-1), if it has one."""

from __future__ import annotations

import io

from PIL import Image, ImageCms

from chalkreel.core.colour.kinds import Swatch
from chalkreel.core.errors import RefusedError


class ScreenProfile:
    """A screen's profile: sRGB goes in, what the screen is sent comes out; white stays white."""

    def __init__(self, data: bytes) -> None:
        """Read a profile.

        Raises
        ------
        RefusedError
            It is none, or not of a screen.
        """
        try:
            profile = ImageCms.ImageCmsProfile(io.BytesIO(data))
            kind = (profile.profile.device_class.strip(), profile.profile.xcolor_space.strip())
            self.name = ImageCms.getProfileDescription(profile).strip()
            if kind != ("mntr", "RGB"):
                raise RefusedError(f"“{self.name}” is no profile of a screen.")
            self._transform = ImageCms.buildTransform(
                ImageCms.createProfile("sRGB"), profile, "RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC
            )
        except (ImageCms.PyCMSError, OSError, TypeError, AttributeError) as error:
            raise RefusedError("This is no colour profile: those of screens end in .icc or .icm.") from error
        self._known: dict[Swatch, Swatch] = {}

    def sent(self, colour: Swatch) -> Swatch:
        """What the screen is sent for an sRGB colour."""
        if colour not in self._known:
            pixel = ImageCms.applyTransform(Image.new("RGB", (1, 1), colour), self._transform)
            assert pixel is not None
            found = pixel.getpixel((0, 0))
            assert isinstance(found, tuple)
            red, green, blue = (int(v) for v in found)
            self._known[colour] = (red, green, blue)
        return self._known[colour]
