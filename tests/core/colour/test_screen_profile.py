"""Colours through a screen's profile; files that are none are refused."""

import struct

import numpy as np
import pytest
from PIL import ImageCms

from chalkreel.core.colour.screen_profile import ScreenProfile
from chalkreel.core.errors import RefusedError

# Colorants (XYZ relative to D50) of a made-up screen: redder reds and greener greens than sRGB, all adding up to D50.
WIDE = {"r": (0.58, 0.30, 0.02), "g": (0.22, 0.63, 0.07), "b": (0.1642, 0.07, 0.7349)}


def profile(device: bytes = b"mntr", name: str = "wide screen") -> bytes:
    """A matrix profile of version 2.1 with gamma 2.2 (ICC.1:2001-04)."""

    def fixed(*values: float) -> bytes:
        return b"".join(struct.pack(">i", round(65536 * v)) for v in values)

    words = name.encode() + b"\0"
    tags = {
        b"desc": b"desc" + bytes(4) + struct.pack(">I", len(words)) + words + bytes(78),
        b"cprt": b"text" + bytes(4) + b"made up\0",
        b"wtpt": b"XYZ " + bytes(4) + fixed(0.9642, 1.0, 0.8249),
        **{f"{c}XYZ".encode(): b"XYZ " + bytes(4) + fixed(*xyz) for c, xyz in WIDE.items()},
        **{f"{c}TRC".encode(): b"curv" + bytes(4) + struct.pack(">IHH", 1, round(2.2 * 256), 0) for c in WIDE},
    }
    at, table, body = 128 + 4 + 12 * len(tags), b"", b""
    for tag, words_of in tags.items():
        data = words_of + bytes(-len(words_of) % 4)
        table += tag + struct.pack(">II", at + len(body), len(data))
        body += data
    head = struct.pack(">I", at + len(body)) + bytes(4) + bytes((2, 16, 0, 0)) + device + b"RGB XYZ "
    head += bytes(12) + b"acsp" + bytes(28) + fixed(0.9642, 1.0, 0.8249) + bytes(48)
    return head + struct.pack(">I", len(tags)) + table + body


def test_a_wide_screen_is_sent_less_and_white_and_greys_stay() -> None:
    screen = ScreenProfile(profile())
    assert screen.name == "wide screen" and screen.sent((255, 255, 255)) == (255, 255, 255)
    for level in (20, 90, 180):
        grey = screen.sent((level,) * 3)
        assert max(grey) - min(grey) <= 1 and abs(grey[0] - level) < 8
    # sRGB's primaries adapted to D50 (IEC 61966-2-1, Bradford), in this screen's colorants and its gamma.
    for colour, xyz in (((0, 255, 0), (0.3851, 0.7169, 0.0971)), ((255, 0, 0), (0.4361, 0.2225, 0.0139))):
        light = np.linalg.solve(np.array(list(WIDE.values())).T, np.array(xyz))
        assert screen.sent(colour) == pytest.approx(255 * np.clip(light, 0, 1) ** (1 / 2.2), abs=3)


def test_srgb_itself_changes_nothing() -> None:
    screen = ScreenProfile(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    for colour in ((12, 200, 90), (255, 0, 3), (128, 128, 128)):
        assert max(abs(a - b) for a, b in zip(screen.sent(colour), colour, strict=True)) <= 1


def test_what_is_no_screens_profile_is_refused() -> None:
    for data, words in (
        (b"", "no colour profile"),
        (b"\0" * 500, "no colour profile"),
        (profile(b"prtr"), "no profile of"),
    ):
        with pytest.raises(RefusedError, match=words):
            ScreenProfile(data)
