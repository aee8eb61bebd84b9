"""Whatever comes in, the core answers with a result or a sentence, never with anything else."""

import contextlib
import io
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from PIL import Image

from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, parse_side_ratio
from chalkreel.core.lengths import parse_length
from chalkreel.core.measure.marks import Mark, Segment
from chalkreel.core.measure.plane import PlaneRuler, SquaredUp, SquareOn, measure_plane
from chalkreel.core.media.decode import StillRefusedError, decode
from chalkreel.core.scale import ScaleChain, edit_link, fit_in_space, parse_ratio
from tests.core.raw_file import raw_file


def sample_file(kind: str) -> bytes:
    pixels = np.random.default_rng(4).integers(0, 255, (48, 64, 3), np.uint8)
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, kind)
    return stream.getvalue()


FILES = {kind: sample_file(kind) for kind in ("PNG", "JPEG", "TIFF", "WEBP", "AVIF")}
FILES["HEIC"] = (Path(__file__).parents[1] / "data/arrow.heic").read_bytes()
FILES["raw"] = raw_file(np.full((32, 48, 3), 0.3))


@settings(max_examples=150, deadline=None)
@given(st.sampled_from(sorted(FILES)), st.lists(st.tuples(st.floats(0, 0.9999), st.integers(0, 255)), max_size=12))
@example("HEIC", [(0.13671875, 0)])
def test_flipped_bytes_give_a_picture_or_a_refusal(kind: str, flips: list[tuple[float, int]]) -> None:
    data = bytearray(FILES[kind])
    for share, value in flips:
        data[int(share * len(data))] = value
    try:
        picture = decode(bytes(data))
    except StillRefusedError as refusal:
        assert str(refusal).strip().endswith(".")
        return
    assert picture.pixels.ndim == 3 and picture.pixels.shape[2] == 3
    assert picture.pixels.dtype in (np.uint8, np.uint16) and not picture.pixels.flags.writeable


@settings(max_examples=80, deadline=None)
@given(st.binary(max_size=400))
def test_random_bytes_are_no_still(data: bytes) -> None:
    with pytest.raises(StillRefusedError):
        decode(data)


@given(st.text(max_size=24))
def test_any_text_is_a_length_or_a_refusal(text: str) -> None:
    for read in (parse_length, parse_number, parse_ratio, parse_side_ratio):
        try:
            assert math.isfinite(read(text))
        except RefusedError as refusal:
            assert str(refusal).endswith(".")


@given(st.text(max_size=12))
def test_a_refused_link_leaves_a_positive_chain(text: str) -> None:
    chain = ScaleChain(18_600.0, 775.0, 387.5)
    with contextlib.suppress(RefusedError):
        chain = edit_link(chain, "replica", text)
    assert chain.replica_mm > 0 and math.isfinite(chain.replica_ratio)


def test_a_space_smaller_than_its_clearance_is_refused() -> None:
    with pytest.raises(RefusedError, match="too small"):
        fit_in_space(ScaleChain(18_600.0, 775.0, 387.5), 5.0)


coordinate = st.floats(-1e5, 1e5)
mark = st.builds(Mark, coordinate, coordinate, st.floats(0.1, 50.0))


@settings(max_examples=120, deadline=None)
@given(st.tuples(mark, mark, mark, mark), st.lists(mark, min_size=4, max_size=4))
def test_any_four_corners_give_finite_errors_or_a_refusal(
    corners: tuple[Mark, Mark, Mark, Mark], ends: list[Mark]
) -> None:
    view = SquaredUp(corners, 200.0, 2.0, 100.0, 1.0)
    ruler = PlaneRuler("r", Segment(ends[0], ends[1]), 50.0, 0.5)
    try:
        found = measure_plane(view, (ruler,), (Segment(ends[2], ends[3]),))
    except RefusedError:
        return
    assert np.all(found.lengths_mm > 0)
    assert np.all(found.sigma_mm > 0)


@settings(max_examples=60, deadline=None)
@given(st.lists(mark, min_size=4, max_size=4), st.floats(0.3, 3.0))
def test_square_on_sizes_scale_with_their_ruler(ends: list[Mark], aspect: float) -> None:
    view = SquareOn(1.0, 2000.0, (640.0, 400.0))
    wanted = (Segment(ends[2], ends[3]),)
    try:
        one = measure_plane(view, (PlaneRuler("r", Segment(ends[0], ends[1]), 50.0, 0.5),), wanted, aspect)
    except RefusedError:
        return
    two = measure_plane(view, (PlaneRuler("r", Segment(ends[0], ends[1]), 100.0, 1.0),), wanted, aspect)
    assert two.lengths_mm[0] == pytest.approx(2 * one.lengths_mm[0])
    assert two.sigma_mm[0] == pytest.approx(2 * one.sigma_mm[0])
