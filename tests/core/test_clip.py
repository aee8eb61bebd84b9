"""Frames out of video files written here, whose every line is known."""

from __future__ import annotations

import io
import struct
from fractions import Fraction
from importlib.resources import files

import av
import numpy as np
import pytest

from chalkreel.core.errors import RefusedError, StoppedError
from chalkreel.core.media.clip import Clip, black_bars, one_field
from chalkreel.core.media.frame_index import shown_time
from chalkreel.core.media.scenes import scene_starts


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
    assert (clip.info.width_px, clip.info.height_px, clip.index.seconds(5)) == (96, 64, 0.2)
    for number in (5, 2, 7, 0):
        assert clip.frame(number).pixels.mean() == pytest.approx(40 + 20 * number, abs=2)
    with pytest.raises(RefusedError, match="no frame 9"):
        clip.frame(8)
    assert clip.frame(3).pixels.mean() == pytest.approx(100, abs=2)
    clip.close()


def filmed(levels, container, codec, stamps=None):
    """Noisy frames of given brightness with reordered frames and few key frames; stamps count milliseconds."""
    out = io.BytesIO()
    with av.open(out, "w", format=container) as written_to:
        stream = written_to.add_stream(codec, rate=25, options={"bf": "2", "g": "12"})
        stream.width, stream.height, stream.pix_fmt, stream.bit_rate = 96, 64, "yuv420p", 3_000_000
        for n, level in enumerate(levels):
            noisy = np.random.default_rng(n).normal(level, 12, (64, 96, 3)).clip(0, 255).astype(np.uint8)
            frame = av.VideoFrame.from_ndarray(noisy, format="rgb24")
            if stamps is not None:
                frame.pts, frame.time_base = stamps[n], Fraction(1, 1000)
            written_to.mux(stream.encode(frame))
        written_to.mux(stream.encode())
    return out.getvalue()


@pytest.mark.parametrize(
    ("container", "codec"),
    [("mpeg", "mpeg1video"), ("vob", "mpeg2video"), ("mpegts", "mpeg2video"), ("mpegts", "libx264"),
     ("avi", "mpeg4"), ("matroska", "mpeg2video"), ("mp4", "mpeg4")],
)  # fmt: skip
def test_any_frame_of_any_container_is_found_from_anywhere(container, codec):
    levels = [26 + 4 * n for n in range(50)]
    clip = Clip(filmed(levels, container, codec))
    assert clip.info.frames == 50
    for number in (30, 29, 28, 3, 49, 48, 10, 11, 45, 0, 20, 19):
        clip._kept.clear()
        assert clip.frame(number, take_bars_off=False).pixels.mean() == pytest.approx(levels[number], abs=1.9)


def test_going_back_decodes_no_more_than_going_on(monkeypatch):
    clip, decoded = Clip(filmed([120] * 40, "mp4", "libx264")), []
    advance = clip._advance
    monkeypatch.setattr(clip, "_advance", lambda *args: decoded.append(1) or advance(*args))
    for number in reversed(range(40)):
        clip.frame(number)
    assert len(decoded) <= 45


def test_a_rate_that_varies_is_kept_and_times_may_be_typed():
    stamps = [40 * n for n in range(10)] + [400 + 200 * n for n in range(10)]
    clip = Clip(filmed([100] * 20, "matroska", "ffv1", stamps))
    index = clip.index
    assert clip.frame(12).seconds == pytest.approx(0.8)
    assert [index.number_of(text) for text in ("0:00.8", "0.95 s", "0,12", "frame 3", "0:00:01.4", "F1")] \
        == [12, 12, 3, 2, 15, 0]  # fmt: skip
    for wrong in ("", "half past", "1:30", "frame 21", "frame 0"):
        with pytest.raises(RefusedError, match="frame"):
            index.number_of(wrong)
    assert [shown_time(s) for s in (0.8, 62.5, 3723.456)] == ["0:00.80", "1:02.50", "1:02:03.46"]


def test_a_camera_held_upright_gives_upright_frames():
    pixels = flat(60)
    pixels[:20, :20] = 230
    out = io.BytesIO()
    with av.open(out, "w", format="mov") as container:
        stream = container.add_stream("mpeg4", rate=25)
        stream.width, stream.height, stream.pix_fmt = 96, 64, "yuv420p"
        stream.sample_aspect_ratio = Fraction(4, 3)
        container.mux(stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24")))
        container.mux(stream.encode())
    data = bytearray(out.getvalue())
    # The track's matrix (QuickTime file format, 'tkhd'): x' = -y, y' = x, a quarter turn clockwise.
    at = data.index(b"tkhd") + 44
    data[at : at + 36] = struct.pack(">9i", 0, 1 << 16, 0, -(1 << 16), 0, 0, 0, 0, 1 << 30)
    clip = Clip(bytes(data))
    frame = clip.frame(0, take_bars_off=False)
    assert frame.pixels.shape[:2] == (96, 64)
    assert frame.pixels[8, 56].mean() > 200 and frame.pixels[8, 8].mean() < 90
    assert frame.pixel_aspect == pytest.approx(3 / 4)


def test_cuts_are_found_and_moving_pictures_are_none():
    rng = np.random.default_rng(5)
    wide = rng.integers(0, 255, (3, 9, 40, 3), np.uint8)

    def shot(scene: int, shift: int) -> np.ndarray:
        big = np.kron(wide[scene], np.ones((8, 8, 1), np.uint8))
        return np.ascontiguousarray(big[:64, 2 * shift : 2 * shift + 96])

    # A slow pan in each scene; the second is only six frames long.
    frames = [shot(0, n) for n in range(40)] + [shot(1, n) for n in range(6)] + [shot(2, n) for n in range(30)]
    assert scene_starts(Clip(written(frames))) == (0, 40, 46)
    with pytest.raises(StoppedError):
        scene_starts(Clip(written(frames)), lambda _: False)


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
