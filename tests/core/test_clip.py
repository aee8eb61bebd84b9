"""Frames out of video files written here, whose every line is known."""

from __future__ import annotations

import io
from importlib.resources import files

import av
import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.clip import Clip, black_bars, one_field


def written(frames: list[np.ndarray], interlaced: bool = False) -> bytes:
    out = io.BytesIO()
    with av.open(out, "w", format="matroska") as container:
        options = {"flags": "+ilme+ildct", "top": "1"} if interlaced else {}
        stream = container.add_stream("mpeg2video" if interlaced else "ffv1", rate=25, options=options)
        stream.height, stream.width = frames[0].shape[:2]
        stream.pix_fmt = "yuv420p" if interlaced else "yuv444p"
        if interlaced:
            stream.bit_rate = 40_000_000
        for pixels in frames:
            frame = av.VideoFrame.from_ndarray(pixels, format="rgb24")
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return out.getvalue()


def flat(level: int, height: int = 64, width: int = 96) -> np.ndarray:
    return np.full((height, width, 3), level, np.uint8)


def test_frames_are_found_by_number_in_any_order():
    clip = Clip(written([flat(40 + 20 * n) for n in range(8)]))
    assert (clip.info.width_px, clip.info.height_px, clip.info.rate) == (96, 64, 25.0)
    for number in (5, 2, 7, 0):
        assert clip.frame(number).pixels.mean() == pytest.approx(40 + 20 * number, abs=2)
    with pytest.raises(RefusedError, match="no frame 9"):
        clip.frame(8)
    assert clip.frame(3).pixels.mean() == pytest.approx(100, abs=2)
    clip.close()


def coloured(matrix: str, height: int, **marks: int) -> bytes:
    """One frame of pure saturated orange, encoded with a matrix and marked with what the file says of itself."""
    out = io.BytesIO()
    with av.open(out, "w", format="matroska") as container:
        stream = container.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 96, height, "yuv444p"
        for name, value in marks.items():
            setattr(stream.codec_context, name, value)
        pixels = np.zeros((height, 96, 3), np.uint8) + np.array([220, 120, 30], np.uint8)
        frame = av.VideoFrame.from_ndarray(pixels, format="rgb24").reformat(format="yuv444p", dst_colorspace=matrix)
        for name, value in marks.items():
            setattr(frame, name, value)
        container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return out.getvalue()


@pytest.mark.parametrize(
    ("matrix", "height", "marks"),
    [("ITU601", 576, {}), ("ITU709", 720, {}), ("ITU709", 576, {"colorspace": 1}), ("ITU601", 720, {"colorspace": 5})],
)
def test_a_frame_keeps_its_colour_whatever_matrix_it_was_stored_with(matrix, height, marks):
    found = Clip(coloured(matrix, height, **marks)).frame(0, take_bars_off=False).pixels
    assert found.reshape(-1, 3).mean(axis=0) == pytest.approx((220, 120, 30), abs=3)


def test_studio_video_is_shown_as_a_studio_screen_would():
    plain = Clip(coloured("ITU601", 576)).frame(0, take_bars_off=False).pixels[5, 5]
    studio = Clip(coloured("ITU601", 576, color_trc=6)).frame(0, take_bars_off=False).pixels[5, 5]
    # (120 / 255) ^ 2.4 = 0.164 of linear light, which is 113 in sRGB.
    assert plain[1] == pytest.approx(120, abs=2) and studio[1] == pytest.approx(113, abs=2)
    with pytest.raises(RefusedError, match="high dynamic range"):
        Clip(coloured("ITU709", 720, color_trc=16)).frame(0)


def test_black_bars_are_taken_off_and_uneven_ones_flagged():
    picture = flat(120)
    picture[:9], picture[-9:] = 4, 4
    even = Clip(written([picture])).frame(0)
    assert (even.bars, even.pixels.shape[:2], even.cropped) == ((0, 9, 0, 9), (46, 96), False)
    picture[:, :14] = 4
    uneven = Clip(written([picture])).frame(0)
    assert uneven.bars == (14, 9, 0, 9)
    assert uneven.cropped
    assert black_bars(flat(10)) == (0, 0, 0, 0)


def test_fields_are_told_apart_at_their_true_height():
    height = 40
    # A ramp seen by both fields, moved between them: lines of each field follow their own ramp.
    rows = np.arange(height) + 0.5
    first, second = 3 * rows, 3 * rows + 60
    woven = np.where(np.arange(height) % 2 == 0, first, second)
    pixels = np.repeat(np.repeat(woven[:, None], 20, axis=1)[..., None], 3, axis=2).astype(np.uint8)
    inner = slice(2, -2)
    assert one_field(pixels, False)[inner, 5, 0].astype(float) == pytest.approx(first[inner], abs=1.1)
    assert one_field(pixels, True)[inner, 5, 0].astype(float) == pytest.approx(second[inner], abs=1.1)


def test_an_interlaced_file_is_recognised():
    woven = flat(60)
    woven[1::2] = 200
    clip = Clip(written([woven] * 3, interlaced=True))
    assert clip.info.interlaced
    assert clip.frame(1).pixels.mean() == pytest.approx(60, abs=12)
    assert clip.frame(1, second_field=True).pixels.mean() == pytest.approx(200, abs=12)


def test_the_demos_clip_holds_thirty_frames_between_bars():
    clip = Clip(files("chalkreel.demo").joinpath("data/clip-bow-pass.mp4").read_bytes())
    assert (clip.info.frames, clip.info.interlaced) == (30, False)
    assert clip.info.pixel_aspect == pytest.approx(16 / 15)
    frame = clip.frame(8)
    assert frame.pixels.shape[:2] == (312, 480)
    assert not frame.cropped


@pytest.mark.parametrize("data", [b"", b"no video at all" * 50, b"\x1aE\xdf\xa3" + b"\0" * 400])
def test_other_files_are_refused(data):
    with pytest.raises(RefusedError, match="video"):
        Clip(data)


def test_a_truncated_file_gives_what_it_has_and_refuses_the_rest():
    whole = written([np.random.default_rng(n).integers(0, 255, (64, 96, 3), np.uint8) for n in range(12)])
    clip = Clip(whole[: len(whole) // 2])
    clip.frame(1)
    with pytest.raises(RefusedError):
        clip.frame(11)
