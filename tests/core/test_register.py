"""The same picture copied, cut, squeezed and scanned askew; points are followed to where they truly went."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture
from chalkreel.core.media.register import registered


def scene(seed: int, height: int = 900, width: int = 1400) -> np.ndarray:
    """Blocks and discs of many sizes on a slope of light, a little blurred."""
    rng = np.random.default_rng(seed)
    pixels = np.repeat(np.linspace(60, 170, width)[None, :, None], height, axis=0).repeat(3, axis=2).astype(np.uint8)
    for _ in range(160):
        x, y = int(rng.integers(0, width)), int(rng.integers(0, height))
        size, colour = int(rng.integers(6, 90)), tuple(int(v) for v in rng.integers(0, 255, 3))
        if rng.random() < 0.5:
            cv2.rectangle(pixels, (x, y), (x + size, y + int(size * rng.uniform(0.3, 1))), colour, -1)
        else:
            cv2.circle(pixels, (x, y), size // 2, colour, -1, cv2.LINE_AA)
    return cv2.GaussianBlur(pixels, (0, 0), 1.2)


def warped(pixels: np.ndarray, matrix: np.ndarray, size: tuple[int, int], seed: int = 0) -> Picture:
    """A copy by a map of our pixels (corners count), with grain and another contrast."""
    # OpenCV counts from the first pixel's centre: shift there and back.
    shift, back = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]]), np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])
    whole = back @ np.vstack([matrix, [0, 0, 1]]) @ shift
    moved = cv2.warpAffine(pixels, whole[:2], size, flags=cv2.INTER_AREA).astype(float)
    grain = np.random.default_rng(seed).normal(0, 5, moved.shape)
    return Picture((0.85 * moved + 12 + grain).clip(0, 255).astype(np.uint8))


COPIES = {
    "twice as large": (np.array([[2.0, 0, 0], [0, 2.0, 0]]), (2800, 1800)),
    "half as wide": (np.array([[0.5, 0, 0], [0, 0.9, 0]]), (700, 810)),
    "cut": (np.array([[1.3, 0, -260.0], [0, 1.3, -90.0]]), (1300, 1000)),
    "askew": (np.array([[1.1 * np.cos(0.03), -1.1 * np.sin(0.03), 40], [1.1 * np.sin(0.03), 1.1 * np.cos(0.03), -15]]),
              (1540, 1000)),
}  # fmt: skip


@pytest.mark.parametrize("name", COPIES)
def test_points_are_followed_to_a_copy(name):
    matrix, size = COPIES[name]
    old = scene(1)
    found = registered(Picture(old), warped(old, matrix, size))
    for x, y in ((350, 250), (700, 450), (1000, 600)):
        assert found(x, y) == pytest.approx(tuple(matrix @ [x, y, 1]), abs=0.35)


def test_another_picture_a_turned_and_a_mirrored_one_are_refused():
    old = scene(2)
    with pytest.raises(RefusedError, match="not the same picture"):
        registered(Picture(old), Picture(scene(3)))
    with pytest.raises(RefusedError, match="turned by about 90"):
        registered(Picture(old), Picture(np.ascontiguousarray(np.rot90(old))))
    with pytest.raises(RefusedError):
        registered(Picture(old), Picture(np.ascontiguousarray(old[:, ::-1])))


def test_a_picture_without_features_is_taken_if_it_looks_the_same():
    y, x = np.mgrid[0:300, 0:400]
    soft = (120 + 100 * np.sin(x / 130.0) * np.cos(y / 90.0)).astype(np.uint8)[..., None].repeat(3, axis=2)
    found = registered(Picture(soft), Picture(cv2.resize(soft, (800, 600), interpolation=cv2.INTER_CUBIC)))
    assert found(100, 50) == pytest.approx((200, 100), abs=0.5)
