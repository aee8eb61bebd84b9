"""Where the points of one picture lie on another copy of it: larger, cut differently, scanned a little askew.

Reference: Lowe, "Distinctive Image Features from Scale-Invariant Keypoints", 2004 (features and ratio test);
Fischler & Bolles 1981 (RANSAC); Evangelidis & Psarakis 2008 (enhanced
correlation, for the last tenth of a pixel).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from chalkreel.core.arrays import Array
from chalkreel.core.errors import RefusedError
from chalkreel.core.media.picture import Picture

LONGEST_PX = 1400
MOST_FEATURES = 4000
RATIO = 0.75
LEAST_PAIRS = 20
# Of the pictures as compared, in pixels.
INLIER_PX = 1.5
MOST_TURN_DEG = 6.0
# Correlation of all pixels, beyond which two pictures without like features are the same one.
SAME = 0.9


@dataclass(frozen=True)
class PixelMap:
    """x' = a x + b y + c, y' = d x + e y + f, in stored pixels."""

    a: float
    b: float
    c: float
    d: float
    e: float
    f: float

    def __call__(self, x: float, y: float) -> tuple[float, float]:
        """A point on the other picture."""
        return self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f

    @property
    def scales(self) -> tuple[float, float]:
        """By how much a length along x, and one along y, is longer."""
        return float(np.hypot(self.a, self.d)), float(np.hypot(self.b, self.e))


def registered(old: Picture, new: Picture) -> PixelMap:
    """The map from an old picture to another copy of it.

    Raises
    ------
    RefusedError
        The two do not show the same picture, or one is turned or mirrored.
    """
    (first, k), (second, m) = _small(old), _small(new)
    begun = _by_features(first, second)
    if begun is None:
        # Squeezed copies have other features, but most are cut alike: then one fills the other.
        begun = np.array([[second.shape[1] / first.shape[1], 0, 0], [0, second.shape[0] / first.shape[0], 0]])
        found, agreement = _refined(begun, first, second)
        if agreement < SAME:
            raise RefusedError(
                "This is not the same picture: too little of the two matches. Add it as a still of its own."
            )
        return _unscaled(found, k, m)
    return _unscaled(_refined(_checked(begun), first, second)[0], k, m)


def _by_features(first: Array, second: Array) -> Array | None:
    """The map (2, 3) that most like features of two grey pictures follow; None where too few do."""
    pairs = _pairs(first, second)
    if len(pairs) < LEAST_PAIRS:
        return None
    here, there = (np.ascontiguousarray(pairs[:, n]) for n in (0, 1))
    found, inside = cv2.estimateAffine2D(
        here, there, method=cv2.RANSAC, ransacReprojThreshold=INLIER_PX, maxIters=5000, confidence=0.9999
    )
    return np.asarray(found, float) if found is not None and int(inside.sum()) >= LEAST_PAIRS else None


def _small(picture: Picture) -> tuple[Array, float]:
    """A grey picture of 8 bits no longer than needed, and its scale."""
    grey = cv2.cvtColor(picture.display(), cv2.COLOR_RGB2GRAY)
    scale = min(1.0, LONGEST_PX / max(grey.shape))
    if scale < 1:
        grey = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.asarray(grey), scale


def _pairs(first: Array, second: Array) -> Array:
    """Like features (N, 2, 2) of two grey pictures: x, y on each."""
    finder = cv2.SIFT.create(nfeatures=MOST_FEATURES, enable_precise_upscale=True)
    (points, words), (others, other_words) = (finder.detectAndCompute(p, None) for p in (first, second))
    if words is None or other_words is None or len(other_words) < 2:
        return np.zeros((0, 2, 2))
    tried = cv2.BFMatcher(cv2.NORM_L2).knnMatch(words, other_words, k=2)
    kept = [m for m, n in (t for t in tried if len(t) == 2) if m.distance < RATIO * n.distance]
    # A feature's place counts from the first pixel's centre; ours from its corner.
    return np.array([[points[m.queryIdx].pt, others[m.trainIdx].pt] for m in kept]).reshape(-1, 2, 2) + 0.5


def _checked(found: Array) -> Array:
    (a, b, _), (d, e, _) = found
    if a * e - b * d < 0:
        raise RefusedError("This copy is turned left to right. Turn it round first.")
    askew = float(np.degrees(max(abs(np.arctan2(d, a)), abs(np.arctan2(-b, e)))))
    if askew > MOST_TURN_DEG:
        raise RefusedError(f"This copy is turned by about {askew:.0f}°. Turn it upright first.")
    return found


def _refined(found: Array, first: Array, second: Array) -> tuple[Array, float]:
    """The map (2, 3) made finer by all pixels instead of some features, and the correlation that it reaches."""
    # Its maps count from the first pixel's centre; ours from its corner.
    from_centres, from_corners = (np.array([[1, 0, s], [0, 1, s], [0, 0, 1]]) for s in (0.5, -0.5))
    begun = (from_corners @ np.vstack([found, [0, 0, 1]]) @ from_centres)[:2].astype(np.float32)
    until = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60, 1e-6)
    try:
        agreement, better = cv2.findTransformECC(first, second, begun, cv2.MOTION_AFFINE, until)
    except cv2.error:
        return found, 0.0
    refined = from_centres @ np.vstack([better, [0, 0, 1]]) @ from_corners
    return np.asarray(refined[:2]), float(agreement)


def _unscaled(found: Array, k: float, m: float) -> PixelMap:
    (a, b, c), (d, e, f) = found
    return PixelMap(*(float(v) for v in (a * k / m, b * k / m, c / m, d * k / m, e * k / m, f / m)))
